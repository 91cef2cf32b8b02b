/** What is said once a revision is kept: what it changes, and for whom. */
import type { SheetKind } from "../../api/client";
import { Button } from "../../ui/Button";
import { Sheet } from "../../ui/Sheet";
import { Badge } from "../../ui/verdict";
import { Changes } from "./Changes";
import { stopText, tally, useConsequences } from "./ConcernedJobs";

interface Props {
  kind: SheetKind;
  sheet: string;
  revision: number;
  onDone: () => void;
}

export function Kept({ kind, sheet, revision, onDone }: Props) {
  const { data } = useConsequences(kind, sheet, revision);
  const jobs = data?.jobs ?? [];
  return (
    <Sheet title={`Revision ${String(revision)} is kept`}>
      <div className="grid gap-3 p-4 text-sm" data-testid="kept">
        {data && data.changes.length > 0 && <Changes changes={data.changes} />}
        <p role="status">{data ? tally(data) : "Looking which jobs hold an older one."}</p>
        {jobs.map((j) => (
          <div key={j.id} className="flex items-start gap-2">
            <Badge
              verdict={j.stops.length > 0 ? "fail" : j.cautions.length > 0 ? "warn" : "pass"}
            />
            <p>
              <strong>{j.name}</strong> holds revision {j.holds}.{" "}
              {j.stops.length > 0
                ? `It stops: ${j.stops.map(stopText).join("; ")}. `
                : "It holds. "}
              The job itself is as it was: it shows the new revision until somebody decides.
            </p>
          </div>
        ))}
        <div>
          <Button main onClick={onDone}>
            Done
          </Button>
        </div>
      </div>
    </Sheet>
  );
}
