/** What a way carries: all circuits, none, or each by itself. */
import { useState } from "react";
import { carriedBy, carry, circuitsOf, legsOf, planOf } from "../../model/plan";
import { useBench } from "../../shell/bench";
import { Button } from "../../ui/Button";
import { Tick } from "../../ui/Tick";

export function Carries({ way }: { way: string }) {
  const { draft, editor } = useBench();
  const [open, setOpen] = useState(false);
  const { job } = draft;
  const carried = new Set(carriedBy(job, way));
  const all = circuitsOf(job);
  if (planOf(job).ways[way] === undefined || all.length < 2) return null;
  const put = (circuits: ReadonlySet<string>) => {
    editor.editJob((j) => carry(j, way, circuits));
  };
  return (
    <details
      className="border-t border-line px-2 py-1 text-sm"
      onToggle={(e) => {
        setOpen(e.currentTarget.open);
      }}
    >
      <summary className="min-h-9 cursor-pointer py-1.5 max-md:min-h-12">
        Carries {carried.size} of {all.length} circuits
      </summary>
      {open && (
        <div className="flex flex-wrap items-center gap-x-4 gap-y-1 pb-2">
          <Button
            aria-label={`${way} carries all`}
            onClick={() => {
              put(new Set(all.map(([key]) => key)));
            }}
          >
            All
          </Button>
          <Button
            aria-label={`${way} carries none`}
            onClick={() => {
              put(new Set());
            }}
          >
            None
          </Button>
          {all.map(([key, circuit]) => (
            <Tick
              key={key}
              label={key}
              checked={carried.has(key)}
              // One of several legs is led leg by leg, under Circuits.
              disabled={legsOf(circuit).length > 1}
              onChange={(on) => {
                const next = new Set(carried);
                if (on) next.add(key);
                else next.delete(key);
                put(next);
              }}
            />
          ))}
        </div>
      )}
    </details>
  );
}
