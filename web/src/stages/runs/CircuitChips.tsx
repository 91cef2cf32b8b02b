/** The circuits in their tapes: one that is pressed shows its ways on the drawing. */
import { clsx } from "clsx";
import { circuitsOf } from "../../model/plan";
import { useBench } from "../../shell/bench";
import { Tape } from "../../ui/Tape";

/** What a dragged circuit is carried as. */
export const CIRCUIT_DRAGGED = "application/x-heliant-circuit";

interface Props {
  picked: string | null;
  onPick: (circuit: string) => void;
  onKey: (key: string, circuit: string) => boolean;
  onLead: (circuit: string) => void;
}

export function CircuitChips({ picked, onPick, onKey, onLead }: Props) {
  const { view, draft, canPlan } = useBench();
  const circuits = circuitsOf(draft.job);
  if (circuits.length === 0) return null;
  return (
    <div
      role="group"
      aria-label="Circuits on the drawing"
      className={clsx(
        "flex max-h-28 flex-wrap items-center gap-1 overflow-y-auto",
        "border-t border-line p-2",
      )}
    >
      {circuits.map(([key, circuit]) => (
        <button
          key={key}
          type="button"
          aria-pressed={picked === key}
          draggable={canPlan}
          onDragStart={(e) => {
            e.dataTransfer.setData(CIRCUIT_DRAGGED, key);
            e.dataTransfer.effectAllowed = "copy";
          }}
          aria-label={`Ways of circuit ${key}`}
          className={clsx(
            "grid min-h-8 min-w-8 place-items-center rounded border-2 px-1 max-md:min-h-12",
            picked === key ? "border-copper" : "border-line",
          )}
          onClick={() => {
            onPick(key);
          }}
          onKeyDown={(e) => {
            if (e.key === "l" && canPlan) onLead(key);
            else if (!onKey(e.key, key)) return;
            e.preventDefault();
          }}
        >
          {circuit.from.string ? (
            <Tape tapes={view.report.tapes} letter={circuit.from.string} />
          ) : (
            <span className="text-xs font-bold">{key}</span>
          )}
        </button>
      ))}
    </div>
  );
}
