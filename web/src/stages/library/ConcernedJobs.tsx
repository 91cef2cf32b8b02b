/** The jobs that hold an older revision, and what stops in them with the newest one. */
import { useQuery } from "@tanstack/react-query";
import { Link } from "react-router";
import { api, type SheetKind, type Stop } from "../../api/client";
import { amount } from "../../model/format";
import { checkKey } from "../../model/report";
import { subjectName } from "../../model/subject";
import { Sheet } from "../../ui/Sheet";
import { Badge } from "../../ui/verdict";

/** Which check is meant, and how far beyond its limit it is. */
export function stopText({ check, over }: Stop): string {
  const what = `${subjectName(check.subject)}, ${check.title}`;
  if (over == null) return what;
  const limit = `${check.limit?.title ?? "the limit"}, ${amount(check.limit?.value, check.unit)}`;
  return `${what}: ${amount(over, check.unit)} beyond ${limit}`;
}

export function ConcernedJobs({
  kind,
  sheet,
  newest,
}: {
  kind: SheetKind;
  sheet: string;
  newest: number;
}) {
  const found = useQuery({
    queryKey: ["consequences", kind, sheet, newest],
    queryFn: () => api.consequences(kind, sheet),
  });
  const jobs = found.data?.jobs ?? [];
  if (jobs.length === 0) return null;
  return (
    <Sheet
      title={`Jobs with an older revision than ${String(newest)}`}
      aside="computed now, nothing is changed"
    >
      <ul className="px-4 py-2 text-sm" data-testid="concerned">
        {jobs.map((j) => (
          <li key={j.id} className="border-b border-line py-1.5">
            <div className="flex items-center gap-2">
              <Link className="grow font-bold text-copper underline" to={`/jobs/${j.id}/strings`}>
                {j.name}
              </Link>
              <span className="text-xs text-ink-2">holds rev {j.holds}</span>
              <Badge
                verdict={j.stops.length > 0 ? "fail" : j.cautions.length > 0 ? "warn" : "pass"}
              />
            </div>
            {[...j.stops, ...j.cautions].map((s) => (
              <p key={checkKey(s.check)} className="text-xs">
                {stopText(s)}
              </p>
            ))}
            {j.stops.length + j.cautions.length === 0 && (
              <p className="text-xs text-ink-2">Everything holds as before.</p>
            )}
            {j.kept != null && (
              <p className="text-xs text-ink-2">The older one is kept: {j.kept}</p>
            )}
          </li>
        ))}
      </ul>
    </Sheet>
  );
}
