/** A data sheet that is half entered stays in this browser until it is kept or thrown away. */
import type { SheetKind, SheetLine } from "../api/client";

export interface SheetDraft {
  kind: SheetKind;
  /** The revision it follows; none for a new sheet. */
  from: SheetLine | null;
  document: Record<string, unknown>;
  /** The document it is entered from. */
  named: string;
}

const KEY = "heliant.sheet";

export function sheetDraft(): SheetDraft | null {
  try {
    return JSON.parse(localStorage.getItem(KEY) ?? "null") as SheetDraft | null;
  } catch {
    // What does not parse was not written by us.
    return null;
  }
}

export function keepSheetDraft(draft: SheetDraft | null): void {
  if (draft === null) localStorage.removeItem(KEY);
  else localStorage.setItem(KEY, JSON.stringify(draft));
}

/** What it is called so far. */
export const draftName = ({ document }: SheetDraft): string =>
  [document["maker"], document["model"]].filter((t) => typeof t === "string" && t).join(" ");
