/** Find or do: one line for every stage, check and action. */
import { clsx } from "clsx";
import { useState } from "react";
import { matching, type Action } from "../actions/actions";
import { Dialog } from "../ui/Dialog";
import { inputLook } from "../ui/field";

const SHOWN = 12;

interface Props {
  open: boolean;
  /** What there is for the words typed, unfiltered but for the special forms. */
  actions: (typed: string) => Action[];
  onClose: () => void;
}

export function FindOrDo({ open, actions, onClose }: Props) {
  return (
    <Dialog title="Find or do" open={open} onClose={onClose}>
      <Line actions={actions} onClose={onClose} />
    </Dialog>
  );
}

function Line({ actions, onClose }: Omit<Props, "open">) {
  const [typed, setTyped] = useState("");
  const [at, setAt] = useState(0);
  const all = actions(typed);
  const special = all.filter((a) => a.id === "count");
  const hits = [
    ...special,
    ...matching(
      all.filter((a) => a.id !== "count"),
      special.length > 0 ? "" : typed,
    ),
  ].slice(0, SHOWN);
  const chosen = Math.min(at, hits.length - 1);
  const go = (action: Action | undefined) => {
    if (!action) return;
    onClose();
    action.run();
  };
  return (
    <div>
      <input
        autoFocus
        role="combobox"
        aria-expanded="true"
        aria-controls="find-list"
        aria-activedescendant={hits[chosen] ? `find-${String(chosen)}` : undefined}
        aria-label="Find or do"
        placeholder="a stage, a check, an action, or a count such as “B 8”"
        className={inputLook}
        value={typed}
        onChange={(e) => {
          setTyped(e.target.value);
          setAt(0);
        }}
        onKeyDown={(e) => {
          if (e.key === "ArrowDown" || e.key === "ArrowUp") {
            e.preventDefault();
            setAt(
              (chosen + (e.key === "ArrowDown" ? 1 : hits.length - 1)) % Math.max(1, hits.length),
            );
          } else if (e.key === "Enter") {
            e.preventDefault();
            go(hits[chosen]);
          }
        }}
      />
      <ul id="find-list" role="listbox" aria-label="What was found" className="mt-2">
        {hits.map((a, i) => (
          <li
            key={a.id}
            id={`find-${String(i)}`}
            role="option"
            aria-selected={i === chosen}
            className={clsx(
              "flex cursor-pointer justify-between gap-3 rounded px-2 py-1.5 text-sm",
              "max-md:min-h-12 max-md:text-base",
              i === chosen ? "bg-copper-soft" : "",
            )}
            onPointerMove={() => {
              setAt(i);
            }}
            onClick={() => {
              go(a);
            }}
          >
            {a.label}
            {a.keys && <kbd className="text-xs whitespace-nowrap text-ink-2">{a.keys}</kbd>}
          </li>
        ))}
      </ul>
      {hits.length === 0 && (
        <p role="status" className="mt-2 text-sm text-ink-2">
          Nothing has all of these words.
        </p>
      )}
    </div>
  );
}
