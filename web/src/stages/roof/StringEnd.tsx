/** The end of a row about a string or branch: its worst verdict, and whether it stays. */
import type { Check } from "../../api/client";
import { checkKey, worst } from "../../model/report";
import { useBench } from "../../shell/bench";
import { Badge } from "../../ui/verdict";

export function Worst({ checks }: { checks: Check[] }) {
  const { pick } = useBench();
  const bad = checks.find((c) => c.verdict === worst(checks));
  return (
    <td className="px-2">
      {bad && (
        <button
          type="button"
          onClick={() => {
            pick(checkKey(bad));
          }}
        >
          <Badge verdict={bad.verdict} />
        </button>
      )}
    </td>
  );
}

interface StaysProps {
  /** What it is called: "String A". */
  name: string;
  stays: boolean;
  onKeep: () => void;
}

export function Stays({ name, stays, onKeep }: StaysProps) {
  const { canPlan } = useBench();
  if (!canPlan) return null;
  return (
    <td className="px-2">
      <input
        type="checkbox"
        aria-label={`${name} stays as it is`}
        checked={stays}
        onChange={onKeep}
      />
    </td>
  );
}
