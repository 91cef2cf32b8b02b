/**
 * Serial numbers in walking order: scanned (a scanner is a keyboard that ends with Enter), typed,
 * or a column pasted. What cannot be is said, and what was scanned stays in the field.
 */
import { clsx } from "clsx";
import { useState } from "react";
import { api, type RoofFace } from "../../api/client";
import { copied, nameOf, serialsOf, walked, withSerials } from "../../model/serials";
import { useBench } from "../../shell/bench";
import { Button } from "../../ui/Button";
import { inputLook } from "../../ui/field";
import { Sheet } from "../../ui/Sheet";

interface Props {
  face: RoofFace;
  /** The module that is picked on the map. */
  onPick: (key: string) => void;
}

export function Serials({ face, onPick }: Props) {
  const { view, draft, editor, canPlan } = useBench();
  const order = walked(face);
  const open = order.find((m) => m.serial === null);
  const [at, setAt] = useState<string | null>(null);
  const [typed, setTyped] = useState("");
  const [said, setSaid] = useState<string | null>(null);
  const current = order.find((m) => m.key === at) ?? open ?? order[0];
  if (!current) return null;
  /** Serials that another job has are kept and named: one of the two is wrong. */
  const lookElsewhere = (texts: string[]) => {
    api.serialsElsewhere(view.id, texts).then(
      (found) => {
        const first = found[0];
        if (first) setSaid(`Entered, but ${first.serial} is in ${first.name} already.`);
      },
      () => {
        // With no signal it is looked for when the next one is entered.
      },
    );
  };
  /** Takes serials from the current module on. */
  const take = (texts: string[]) => {
    const from = order.indexOf(current);
    const seats = order.slice(from, from + texts.length);
    if (seats.length < texts.length) {
      setSaid(`${String(texts.length)} serials, ${String(seats.length)} modules from here on.`);
      return;
    }
    const known = serialsOf(draft.job);
    for (const [i, text] of texts.entries()) {
      const seat = seats[i];
      const there = known.get(text);
      const again = texts.indexOf(text) !== i;
      if (again || (there !== undefined && there !== seat?.key)) {
        const where = order.find((m) => m.key === there);
        const place = where ? nameOf(where) : there;
        setSaid(again ? `${text} is there twice.` : `${text} is at ${place ?? ""} already.`);
        return;
      }
    }
    editor.editJob((job) =>
      withSerials(job, face.face, Object.fromEntries(seats.map((m, i) => [m.key, texts[i] ?? ""]))),
    );
    setTyped("");
    setSaid(`${seats.map(nameOf).join(", ")} entered.`);
    setAt(order[from + texts.length]?.key ?? null);
    lookElsewhere(texts);
  };
  const enter = () => {
    const texts = typed.split(/\s+/).filter(Boolean);
    if (texts.length > 1)
      setSaid(`${String(texts.length)} serials in one scan: ${texts.join(" and ")}. Scan one.`);
    else if (texts[0] !== undefined) take([texts[0]]);
  };
  const done = order.filter((m) => m.serial !== null).length;
  return (
    <Sheet
      title={`Serial numbers, ${face.name}`}
      aside={`${String(done)} of ${String(order.length)} entered, in walking order`}
      className="mt-3"
    >
      <div className="p-3 text-base">
        {canPlan && (
          <div className="flex flex-wrap items-end gap-3">
            <label className="grid gap-1 text-sm">
              <span>
                Serial of <strong>{nameOf(current)}</strong>
              </span>
              <input
                aria-label={`Serial number, ${face.name}`}
                autoComplete="off"
                className={`${inputLook} font-mono`}
                value={typed}
                onChange={(e) => {
                  setTyped(e.target.value);
                }}
                onKeyDown={(e) => {
                  if (e.key === "Enter") enter();
                }}
                onPaste={(e) => {
                  const column = copied(e.clipboardData.getData("text"));
                  if (column.length < 2) return;
                  e.preventDefault();
                  take(column);
                }}
              />
            </label>
            <Button onClick={enter}>Enter it</Button>
            {current.serial !== null && (
              <Button
                onClick={() => {
                  editor.editJob((job) => withSerials(job, face.face, { [current.key]: "" }));
                  setTyped("");
                  setSaid(`${nameOf(current)} has no serial any more.`);
                }}
              >
                Clear {nameOf(current)}
              </Button>
            )}
          </div>
        )}
        {said !== null && (
          <p role="status" className="mt-2 text-sm font-bold">
            {said}
          </p>
        )}
        <ol
          className="mt-3 grid grid-cols-3 gap-1 text-sm max-md:grid-cols-2"
          aria-label={`Serial map, ${face.name}`}
        >
          {order.map((m) => (
            <li key={m.key}>
              <button
                type="button"
                className={clsx(
                  "flex w-full gap-2 rounded border border-line px-2 py-1 text-left",
                  "max-md:min-h-12",
                )}
                onClick={() => {
                  setAt(m.key);
                  setTyped(m.serial ?? "");
                  onPick(m.key);
                }}
              >
                <strong className="w-9">{nameOf(m)}</strong>
                <span className="truncate font-mono">{m.serial ?? "open"}</span>
              </button>
            </li>
          ))}
        </ol>
      </div>
    </Sheet>
  );
}
