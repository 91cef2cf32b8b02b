/**
 * An action is label, shortcut and effect in one object: the button, the key and find-or-do are the
 * same thing.
 */
export interface Action {
  id: string;
  label: string;
  /** As shown, e.g. `Ctrl Z`. */
  keys?: string;
  /** Other words somebody might look for. */
  also?: string;
  run: () => void;
}

/** Actions that hold all the words typed, those that begin with them first. */
export function matching(actions: Action[], typed: string): Action[] {
  const words = typed.toLowerCase().split(/\s+/).filter(Boolean);
  const hay = (a: Action) => `${a.label} ${a.also ?? ""}`.toLowerCase();
  const hits = actions.filter((a) => words.every((w) => hay(a).includes(w)));
  const first = words[0] ?? "";
  return hits.sort((a, b) => Number(hay(b).startsWith(first)) - Number(hay(a).startsWith(first)));
}

/** Whether a key press belongs to a field that is being typed in. */
export function typing(event: KeyboardEvent): boolean {
  const target = event.target;
  if (!(target instanceof HTMLElement)) return false;
  if (target instanceof HTMLSelectElement) return true;
  return (
    target instanceof HTMLInputElement ||
    target instanceof HTMLTextAreaElement ||
    target.isContentEditable
  );
}
