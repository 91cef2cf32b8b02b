/**
 * Hand over: what stands, what is open, the pack, the file, and every revision with who and when.
 */
import { clsx } from "clsx";
import type { Verdict } from "../../api/client";
import { moment } from "../../model/format";
import { checkKey } from "../../model/report";
import { subjectName } from "../../model/subject";
import { useBench } from "../../shell/bench";
import { CheckList } from "../../shell/CheckList";
import { Pack } from "../../shell/Pack";
import { Revisions } from "../../shell/LazyRevisions";
import { StageFrame } from "../../shell/StageFrame";
import { linkLook } from "../../ui/Button";
import { GuestList } from "./GuestList";
import { Sheet } from "../../ui/Sheet";
import { Tick } from "../../ui/Tick";
import { Mark, WORDS } from "../../ui/verdict";

const PARTS: [Verdict, string][] = [
  ["pass", "var(--holds)"],
  ["warn", "var(--caution)"],
  ["unknown", "var(--ink-3)"],
  ["fail", "var(--stop)"],
];

export function HandOver() {
  const { view, stages, pick, canPlan } = useBench();
  const { report } = view;
  const open = report.checks.filter((c) => !c.alternative && c.verdict !== "pass");
  return (
    <StageFrame
      stage="handover"
      about={[
        `revision ${String(view.revision)}`,
        `saved ${moment(view.saved_at)} by ${view.saved_by}`,
      ].join(", ")}
    >
      <Sheet title="Where the job stands" aside="checks by stage" className="mb-3">
        <div className="p-3">
          {report.stages.map((s) => {
            const total = s.counts.pass + s.counts.warn + s.counts.unknown + s.counts.fail;
            let x = 0;
            return (
              <div key={s.stage} className="flex items-center gap-3 py-1 text-sm">
                <Mark verdict={s.verdict} />
                <span className="w-24 font-bold">
                  {stages.find((m) => m.key === s.stage)?.name(report.school) ?? s.stage}
                </span>
                <svg
                  viewBox="0 0 100 6"
                  preserveAspectRatio="none"
                  className="h-3 grow"
                  role="img"
                  aria-label={PARTS.map(([v]) => `${String(s.counts[v])} ${WORDS[v]}`).join(", ")}
                >
                  {PARTS.map(([verdict, colour]) => {
                    const width = total === 0 ? 0 : (s.counts[verdict] / total) * 100;
                    const part = (
                      <rect
                        key={verdict}
                        x={x}
                        y="0"
                        width={Math.max(0, width - 0.4)}
                        height="6"
                        fill={colour}
                      />
                    );
                    x += width;
                    return part;
                  })}
                </svg>
                <span
                  className={clsx(
                    "w-72 text-right whitespace-nowrap font-mono text-xs text-ink-2",
                    "max-md:hidden",
                  )}
                >
                  {s.counts.fail} stop · {s.counts.warn} caution · {s.counts.unknown} open ·{" "}
                  {s.counts.pass} hold
                </span>
              </div>
            );
          })}
        </div>
      </Sheet>
      <div className="mb-3 grid gap-3 lg:grid-cols-2">
        <Sheet title="The pack" aside="the job on paper">
          <div className="p-3">
            <Pack />
          </div>
        </Sheet>
        <Sheet title="The job file" aside="open format, to keep or to hand on">
          <div className="grid gap-3 p-3 text-sm">
            <p>Plan, data sheets and readings in one file that any installation reads.</p>
            <div>
              <a
                className={`${linkLook} border-ink bg-sheet`}
                href={`/api/jobs/${view.id}/export`}
                download
              >
                Export the job file
              </a>
            </div>
          </div>
        </Sheet>
      </div>
      <div className="grid gap-3 lg:grid-cols-2">
        <Sheet title="Not holding yet" aside={open.length === 0 ? "nothing" : String(open.length)}>
          <CheckList
            report={report}
            checks={open}
            onPick={(c) => {
              pick(checkKey(c));
            }}
          />
          {open.length === 0 && <p className="p-3 text-sm text-ink-2">Every check holds.</p>}
        </Sheet>
        <Assumptions />
        {canPlan && <GuestList />}
      </div>
      <Sheet title="Revisions" aside="every save, who and when; none is ever lost" className="mt-3">
        <div className="p-3">
          <Revisions />
        </div>
      </Sheet>
    </StageFrame>
  );
}

/** What the figures take by habit: ticked by who looked, with the name. */
function Assumptions() {
  const { view, draft, editor, account, canPlan } = useBench();
  const { assumptions } = view.report;
  const confirmed = draft.job.confirmed ?? [];
  const open = assumptions.filter((a) => a.confirmed_by == null).length;
  return (
    <Sheet title="Taken by habit" aside={open === 0 ? "all looked at" : `${String(open)} open`}>
      <div className="grid gap-1 p-3">
        {assumptions.map((a) => {
          const by = confirmed.find((c) => c.assumption === a.key)?.by;
          const where = a.subjects.map(subjectName);
          return (
            <div key={a.key}>
              <Tick
                label={a.text}
                checked={by !== undefined}
                disabled={!canPlan}
                onChange={(looked) => {
                  const rest = confirmed.filter((c) => c.assumption !== a.key);
                  const own = { assumption: a.key, by: account.name };
                  editor.editJob((j) => ({ ...j, confirmed: looked ? [...rest, own] : rest }));
                }}
              />
              <p className="pl-6 text-xs text-ink-2">
                {by === undefined ? "" : `${by} looked. `}
                {where.length > 4
                  ? `${where.slice(0, 4).join("; ")} and ${String(where.length - 4)} more`
                  : where.join("; ")}
              </p>
            </div>
          );
        })}
        {assumptions.length === 0 && <p className="text-sm text-ink-2">Nothing yet.</p>}
      </div>
    </Sheet>
  );
}
