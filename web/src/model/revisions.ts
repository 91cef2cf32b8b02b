/** The revisions of a job, those of one sitting together. */
import type { RevisionLine } from "../api/client";

/** Longest pause within a sitting. */
const PAUSE_MS = 15 * 60_000;

/** Revisions that one person saved one after the other, the newest first; a named one is alone. */
export type Sitting = readonly [RevisionLine, ...RevisionLine[]];

export function sittings(lines: readonly RevisionLine[]): Sitting[] {
  const all: [RevisionLine, ...RevisionLine[]][] = [];
  for (const line of lines) {
    const sitting = all.at(-1);
    const after = sitting?.at(-1);
    const together =
      after !== undefined &&
      after.name == null &&
      line.name == null &&
      after.saved_by === line.saved_by &&
      Date.parse(after.saved_at) - Date.parse(line.saved_at) <= PAUSE_MS;
    if (together) sitting?.push(line);
    else all.push([line]);
  }
  return all;
}
