/**
 * The jobs that hold an older revision, and what stops in them with the newest one. They are looked
 * at in the background: the list grows while it is waited for.
 */
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import { api, type Consequences, type SheetKind, type Stop } from "../../api/client";
import { amount } from "../../model/format";
import { checkKey } from "../../model/report";
import { subjectName } from "../../model/subject";
import { Pager } from "../../ui/Pager";
import { Sheet } from "../../ui/Sheet";
import { Badge } from "../../ui/verdict";

/** Which check is meant, and how far beyond its limit it is. */
export function stopText({ check, over }: Stop): string {
  const what = `${subjectName(check.subject)}, ${check.title}`;
  if (over == null) return what;
  const limit = `${check.limit?.title ?? "the limit"}, ${amount(check.limit?.value, check.unit)}`;
  return `${what}: ${amount(over, check.unit)} beyond ${limit}`;
}

/** How often it is asked how far it is. */
const ASK_MS = 500;
/** Jobs of one answer. */
const PAGE = 100;

/** What the newest revision of a sheet does, asked for until every job has been looked at. */
export function useConsequences(kind: SheetKind, sheet: string, newest: number, page = 0) {
  return useQuery({
    queryKey: ["consequences", kind, sheet, newest, page],
    queryFn: () => api.consequences(kind, sheet, page),
    placeholderData: (before: Consequences | undefined) => before,
    refetchInterval: ({ state }) =>
      state.data !== undefined && state.data.done_n < state.data.of_n ? ASK_MS : false,
  });
}

/** How many jobs there are of which sort, and how far the looking is. */
export function tally({ of_n, done_n, older_n, stops_n, cautions_n }: Consequences): string {
  const looked = done_n < of_n ? `${String(done_n)} of ${String(of_n)} jobs looked at. ` : "";
  if (older_n === 0 && done_n === of_n) return "No job holds an older revision.";
  if (older_n === 0) return looked.trim();
  const holds = older_n - stops_n - cautions_n;
  return (
    looked +
    `${String(older_n)} ${older_n === 1 ? "holds" : "hold"} an older one: ` +
    `${String(stops_n)} would stop, ${String(cautions_n)} come to a caution, ` +
    `${String(holds)} hold as before.`
  );
}

interface Props {
  kind: SheetKind;
  sheet: string;
  newest: number;
}

export function ConcernedJobs({ kind, sheet, newest }: Props) {
  const [page, setPage] = useState(0);
  const found = useConsequences(kind, sheet, newest, page);
  if (found.data === undefined || found.data.of_n === 0) return null;
  const { jobs, older_n, done_n, of_n } = found.data;
  if (older_n === 0 && done_n === of_n) return null;
  return (
    <Sheet
      title={`Jobs with an older revision than ${String(newest)}`}
      aside="computed in the background, nothing is changed"
    >
      <p role="status" className="px-4 pt-2 text-sm">
        {tally(found.data)}
      </p>
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
      <Pager page={page} size={PAGE} total={older_n} onPage={setPage} order="the worst first" />
    </Sheet>
  );
}
