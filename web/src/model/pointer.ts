/**
 * Edits of the job by pointer; nothing is changed in place. In a list, what is no number names the
 * member by its key.
 */
import type { Edit, Job } from "../api/client";

type Node = Record<string, unknown> | unknown[];

/** The place of a member in a list: where the member with this key stands, else its number. */
function placeOf(list: unknown[], name: string): number {
  const own = list.findIndex((member) => {
    const { letter, id } = (member ?? {}) as { letter?: string; id?: string };
    return letter === name || id === name;
  });
  return own < 0 && /^\d+$/.test(name) ? Number(name) : own;
}

function put(node: unknown, path: string[], value: unknown): unknown {
  const [head, ...rest] = path;
  if (head === undefined) return value;
  if (Array.isArray(node)) {
    const copy = [...(node as unknown[])];
    const at = placeOf(copy, head);
    if (at < 0) return node;
    copy[at] = put(copy[at], rest, value);
    return copy;
  }
  const object = (node ?? {}) as Record<string, unknown>;
  return { ...object, [head]: put(object[head], rest, value) };
}

/** Any document with one value put in. */
export const putAt = <T>(document: T, pointer: string, value: unknown): T =>
  put(document, pointer.split("/").slice(1), value) as T;

/** The value at a pointer. */
export const valueAt = (document: unknown, pointer: string): unknown =>
  pointer
    .split("/")
    .slice(1)
    .reduce<unknown>(
      (at, key) => (at as Record<string, unknown> | null | undefined)?.[key],
      document,
    );

export const setAt = (job: Job, pointer: string, value: unknown): Job =>
  put(job, pointer.split("/").slice(1), value) as Job;

const member = (at: unknown, key: string): unknown =>
  Array.isArray(at)
    ? (at as unknown[])[placeOf(at as unknown[], key)]
    : (at as Record<string, unknown> | null | undefined)?.[key];

/**
 * Whether what an edit changes is still there; only the last part of its pointer may be new. A
 * member that is known by its number alone is the same only while its list is as long as it was and
 * the member as it was: else a neighbour could have moved to its place.
 */
function there(job: Job, of: Job, pointer: string): boolean {
  let [now, then]: [unknown, unknown] = [job, of];
  for (const key of pointer.split("/").slice(1, -1)) {
    const [list, before] = [now, then];
    [now, then] = [member(now, key), member(then, key)];
    if (Array.isArray(list) && /^\d+$/.test(key)) {
      const long = Array.isArray(before) ? before.length : 0;
      if (long !== list.length || differences(now, then).length > 0) return false;
    }
  }
  return now !== undefined && now !== null;
}

/**
 * The job with the edits made; one whose place is gone by now changes nothing. `of` is the job the
 * edits were made for, where that may be an older one.
 */
export function apply(job: Job, edits: Edit[], of: Job = job): Job {
  let [next, then] = [job, of];
  for (const { pointer, value } of edits)
    // What an edit changes is changed for the next one on both sides.
    if (there(next, then, pointer))
      [next, then] = [setAt(next, pointer, value), setAt(then, pointer, value)];
  return next;
}

/** The parts of a pointer; members of lists by their keys, else by their number from 1 on. */
export function keyedPath(job: Job, pointer: string): string[] {
  let at: unknown = job;
  return pointer
    .split("/")
    .slice(1)
    .map((part) => {
      const inList = Array.isArray(at) && /^\d+$/.test(part);
      at = member(at, part);
      if (!inList) return part;
      const { letter, id } = (at ?? {}) as { letter?: string; id?: string };
      return letter ?? id ?? String(Number(part) + 1);
    });
}

/** Pointers at which two documents differ, the deepest place that says it. */
export function differences(a: unknown, b: unknown, at = ""): string[] {
  if (Object.is(a, b)) return [];
  if (typeof a !== "object" || typeof b !== "object" || a === null || b === null) return [at];
  const [left, right] = [a as Node, b as Node];
  const keys = new Set([...Object.keys(left), ...Object.keys(right)]);
  return [...keys].flatMap((key) =>
    differences(
      (left as Record<string, unknown>)[key],
      (right as Record<string, unknown>)[key],
      `${at}/${key}`,
    ),
  );
}
