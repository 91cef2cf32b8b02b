/** The keys, all of them. */
import { Dialog } from "../ui/Dialog";

const KEYS = [
  ["/", "find or do"],
  ["[ and ]", "stage before, stage after"],
  ["Ctrl Z, Ctrl Shift Z", "undo, redo"],
  ["Tab, Enter", "move on, open the working of a check"],
  ["← and →", "on a string of the window drawing: one module fewer, one more"],
  ["1 to 9", "on a string of the window drawing: its count, typed"],
  ["↑ ↓ Enter", "in the list of ways: look at one, use it; Space marks two for comparing"],
  ["Esc", "leave a field as it was, close what is open"],
  ["?", "this list"],
] as const;

export function KeysHelp({ open, onClose }: { open: boolean; onClose: () => void }) {
  return (
    <Dialog title="Keys" open={open} onClose={onClose}>
      <dl className="grid grid-cols-[auto_1fr] gap-x-4 gap-y-2 text-sm">
        {KEYS.map(([key, does]) => (
          <div key={key} className="contents">
            <dt className="font-mono font-bold whitespace-nowrap">{key}</dt>
            <dd>{does}</dd>
          </div>
        ))}
      </dl>
    </Dialog>
  );
}
