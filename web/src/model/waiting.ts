/**
 * Readings that wait for a signal, in the browser's store. Each has a key of its own and the time
 * it was taken, so that it is added once however often it is sent.
 */
import type { Reading } from "../api/client";

export interface WaitingReading {
  key: string;
  /** When it was taken. */
  at: string;
  reading: Reading;
  /** Why the server did not take it. */
  refused?: string;
}

/** A key of its own; made by hand, since the short way is closed to pages without https. */
export function newKey(): string {
  const bytes = crypto.getRandomValues(new Uint8Array(16));
  bytes[6] = ((bytes[6] ?? 0) & 0x0f) | 0x40;
  bytes[8] = ((bytes[8] ?? 0) & 0x3f) | 0x80;
  const hex = [...bytes].map((b) => b.toString(16).padStart(2, "0")).join("");
  return hex.replace(/^(.{8})(.{4})(.{4})(.{4})(.{12})$/, "$1-$2-$3-$4-$5");
}

const storeKey = (job: string): string => `heliant.waiting.${job}`;
const listeners = new Set<() => void>();
const seen = new Map<string, { text: string; list: readonly WaitingReading[] }>();
const NONE: readonly WaitingReading[] = [];

/** What waits of a job; the same list as long as nothing changed. */
export function waiting(job: string): readonly WaitingReading[] {
  const text = localStorage.getItem(storeKey(job));
  if (text === null) return NONE;
  const known = seen.get(job);
  if (known?.text === text) return known.list;
  let list = NONE;
  try {
    list = JSON.parse(text) as WaitingReading[];
  } catch {
    // What does not parse was not written by us.
  }
  seen.set(job, { text, list });
  return list;
}

function put(job: string, list: readonly WaitingReading[]): void {
  if (list.length === 0) localStorage.removeItem(storeKey(job));
  else localStorage.setItem(storeKey(job), JSON.stringify(list));
  for (const listener of listeners) listener();
}

export const subscribe = (listener: () => void): (() => void) => {
  listeners.add(listener);
  return () => listeners.delete(listener);
};

/** Lets a reading wait; throws where the browser's store is full: it is not taken then. */
export function wait(job: string, entry: WaitingReading): void {
  put(job, [...waiting(job).filter((w) => w.key !== entry.key), entry]);
}

export function sent(job: string, key: string): void {
  put(
    job,
    waiting(job).filter((w) => w.key !== key),
  );
}

export function refuse(job: string, key: string, why: string): void {
  put(
    job,
    waiting(job).map((w) => (w.key === key ? { ...w, refused: why } : w)),
  );
}
