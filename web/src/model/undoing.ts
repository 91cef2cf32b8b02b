/** What can be undone and done again, in the browser's store as numbers of revisions. */

interface Kept {
  /** The newest revision when this was kept: another one makes it worthless. */
  at: number;
  past: number[];
  future: number[];
}

/** Steps that are kept each way. */
const MOST = 30;

const storeKey = (id: string): string => `heliant.undo.${id}`;

export function keepSteps(id: string, { at, past, future }: Kept): void {
  try {
    const kept: Kept = { at, past: past.slice(-MOST), future: future.slice(-MOST) };
    localStorage.setItem(storeKey(id), JSON.stringify(kept));
  } catch (error) {
    console.warn("the browser's store is full", error);
  }
}

/** What a reload left to undo and redo of a job that stands at a revision. */
export function steps(id: string, at: number): Pick<Kept, "past" | "future"> {
  try {
    const kept = JSON.parse(localStorage.getItem(storeKey(id)) ?? "null") as Kept | null;
    if (kept?.at === at) return kept;
  } catch {
    // Nobody loses more than an undo.
  }
  return { past: [], future: [] };
}
