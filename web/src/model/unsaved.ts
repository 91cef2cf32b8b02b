/** Edits that are not saved yet, in the browser's store: a closed or crashed tab loses nothing. */
import { api, Away, type Job, type JobView, type Library } from "../api/client";

export interface Draft {
  job: Job;
  library: Library;
}

interface Kept {
  /** Version of the format the draft is of. */
  version: number;
  /** The revision the edit started from. */
  base: number;
  draft: Draft;
}

/** The format's version when drafts did not carry one yet. */
const UNNUMBERED = 2;

const storeKey = (id: string): string => `heliant.unsaved.${id}`;
const asideKey = (id: string): string => `heliant.unreadable.${id}`;

/** What a closed or crashed tab left behind unsaved. */
export function unsaved(id: string): Kept | null {
  const text = localStorage.getItem(storeKey(id));
  if (text === null) return null;
  try {
    return { version: UNNUMBERED, ...(JSON.parse(text) as Omit<Kept, "version">) };
  } catch {
    return null;
  }
}

/** Keeps an unsaved edit. Where the browser's store is full the edit still lives in this tab. */
export function keep({ id, version, revision }: JobView, draft: Draft): void {
  try {
    const kept: Kept = { version, base: revision, draft };
    localStorage.setItem(storeKey(id), JSON.stringify(kept));
  } catch (error) {
    console.warn("the browser's store is full", error);
  }
}

export function forget(id: string): void {
  localStorage.removeItem(storeKey(id));
}

/**
 * Brings an unsaved edit of another version of the format up to the one the server has now, before
 * anything reads it. What cannot be read is put aside, not thrown away; the sentence that says so
 * is returned.
 */
export async function broughtUp(view: JobView): Promise<string | null> {
  const kept = unsaved(view.id);
  if (kept === null || kept.version === view.version) return null;
  try {
    const { job, library } = await api.migrate(kept.version, kept.draft);
    const now: Kept = { version: view.version, base: kept.base, draft: { job, library } };
    localStorage.setItem(storeKey(view.id), JSON.stringify(now));
    return null;
  } catch (error) {
    if (error instanceof Away || !(error instanceof Error)) throw error;
    // Taken away first: a full store has room for it again.
    forget(view.id);
    localStorage.setItem(asideKey(view.id), JSON.stringify(kept));
    return (
      `An edit that was not saved could not be read (${error.message}). ` +
      "It is kept aside in this browser."
    );
  }
}
