/** The smallest wires that hold, picked by the core: those that are open, or all anew. */
import { useState } from "react";
import { api, refusal, type Wires } from "../../api/client";
import { many } from "../../model/format";
import { circuitsOf, legsOf, type Wire } from "../../model/plan";
import { apply } from "../../model/pointer";
import { fieldTitle } from "../../model/catalogue";
import { useBench } from "../../shell/bench";
import { Button } from "../../ui/Button";
import { CutShort } from "../../ui/CutShort";

const lower = (title: string): string => title.charAt(0).toLowerCase() + title.slice(1);

export function PickWires() {
  const { draft, editor } = useBench();
  const [found, setFound] = useState<Wires | null>(null);
  const [refused, setRefused] = useState<string | null>(null);
  const { job } = draft;
  const power = circuitsOf(job).filter(([, c]) => c.kind !== "bond" && c.kind !== "control");
  const open = power.flatMap(([, c]) =>
    legsOf(c).filter((l) => {
      const wire = l.wire as Wire | undefined;
      return wire?.awg == null && wire?.mm2 == null;
    }),
  );
  if (power.length === 0) return null;
  const ask = (circuits: string[]) => {
    setRefused(null);
    api.wires(job, draft.library, circuits).then(
      (wires) => {
        editor.editJob((j) => apply(j, wires.edits, job));
        setFound(wires);
      },
      (error: unknown) => {
        const { message, errors } = refusal(error);
        setRefused(errors[0] ? `${errors[0].message}: ${errors[0].hint}` : message);
      },
    );
  };
  const sign = job.school === "na" ? "AWG" : "mm²";
  return (
    <div className="border-b border-line p-3">
      <div className="flex flex-wrap items-center gap-3">
        {open.length > 0 && (
          <Button
            main
            onClick={() => {
              ask([]);
            }}
          >
            Pick {many(open.length, "open wire")}
          </Button>
        )}
        <Button
          onClick={() => {
            ask(power.map(([key]) => key));
          }}
        >
          Pick all wires anew
        </Button>
        <span className="text-xs text-ink-2">
          the smallest that holds heat, number, terminals, device and drop
        </span>
      </div>
      {refused !== null && (
        <p role="alert" className="mt-2 text-sm font-bold text-stop">
          {refused}
        </p>
      )}
      {found?.cut && (
        <CutShort what="not all wires here were held against one another. Pick them again." />
      )}
      {found && (
        <ul role="status" aria-label="Wires picked" className="mt-2 text-sm">
          {found.wires.map((w) => {
            const titles = w.because.map((b) => lower(b.title));
            return (
              <li key={`${w.circuit}/${String(w.leg)}`}>
                <strong>
                  {w.circuit}
                  {w.leg > 1 ? `, leg ${String(w.leg)}` : ""}
                </strong>{" "}
                {w.size === null || w.size === undefined
                  ? `stays as it is: ${titles.join(", ")}${
                      w.missing && w.missing.length > 0
                        ? `; missing: ${w.missing.map(fieldTitle).join(", ")}`
                        : ""
                    }`
                  : titles.length === 0
                    ? `${w.size} ${sign}, the smallest there is`
                    : `${w.size} ${sign}; one smaller does not hold ${titles.join(", ")}`}
              </li>
            );
          })}
          {found.wires.length === 0 && <li>There is no wire to pick.</li>}
        </ul>
      )}
    </div>
  );
}
