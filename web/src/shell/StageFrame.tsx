/** A stage: its title, the work, and the slip of what is picked. */
import { clsx } from "clsx";
import { planOf } from "../model/plan";
import { apply, differences } from "../model/pointer";
import { checkKey, checkOf, worst } from "../model/report";
import { same } from "../model/subject";
import type { Check } from "../api/client";
import { useBench } from "./bench";
import { CheckList } from "./CheckList";
import { Slip } from "./Slip";
import { built, covers, type StageModule } from "./stage";
import { useCures } from "./useCures";
import { useCommand } from "./useCommand";
import { useWorkings } from "./useWorkings";

interface Props {
  stage: string;
  /** One line beside the title. */
  about: string;
  /** Something else than the picked check. */
  slip?: React.ReactNode;
  /** Something to stand in the slip between the figure and its working. */
  inSlip?: (check: Check) => React.ReactNode;
  children: React.ReactNode;
}

function useStage(key: string): StageModule {
  const found = useBench().stages.find((s) => s.key === key);
  if (!found || !built(found)) throw new Error(`no stage ${key}`);
  return found;
}

/** The check whose slip is shown: the picked one, else the worst of the stage. */
export function usePicked(stage: string): Check | undefined {
  const { view, picked } = useBench();
  const module = useStage(stage);
  const own = view.report.checks.filter((c) => covers(module, c.stage));
  const chosen = picked === null ? undefined : checkOf(view.report, picked);
  const bad = worst(own);
  return chosen ?? own.find((c) => c.verdict === bad && !c.alternative);
}

/** What the figures of this subject take by habit, and who looked. */
function TakenByHabit({ check }: { check: Check }) {
  const { view } = useBench();
  const own = view.report.assumptions.filter((a) => a.subjects.some((s) => same(s, check.subject)));
  if (own.length === 0) return null;
  return (
    <section className="mt-4 text-sm" data-testid="assumed">
      <h3 className="mb-1 font-bold">Taken by habit</h3>
      <ul className="list-disc pl-4">
        {own.map((a) => (
          <li key={a.key}>
            {a.text}{" "}
            <span className="text-ink-2">
              {a.confirmed_by == null ? "Nobody looked yet." : `${a.confirmed_by} looked.`}
            </span>
          </li>
        ))}
      </ul>
    </section>
  );
}

export function StageFrame({ stage, about, slip, inSlip, children }: Props) {
  const { view, editor, canPlan, moved, canUndo, pick } = useBench();
  const [command, said] = useCommand();
  const { name, safety } = useStage(stage);
  const check = usePicked(stage);
  const workings = useWorkings(slip === undefined ? check : undefined);
  const tried = useCures(slip === undefined ? check : undefined);
  const also = check
    ? view.report.checks.filter(
        (c) => c !== check && c.stage === check.stage && same(c.subject, check.subject),
      )
    : [];
  return (
    <div
      className={clsx(
        "paper-flow grid h-full grid-cols-[minmax(0,1fr)_306px] grid-rows-[minmax(0,1fr)]",
        "max-lg:block max-lg:overflow-y-auto max-md:h-auto max-md:overflow-visible",
      )}
    >
      <main className="min-w-0 overflow-y-auto p-4 max-lg:overflow-visible max-md:p-3">
        <div className="mb-3 flex flex-wrap items-baseline gap-x-3">
          <h2 className="text-lg font-bold">{name(view.job.school)}</h2>
          <p className="text-sm text-ink-2">{about}</p>
          {moved && (
            <p className="ml-auto rounded bg-copper-soft px-2 py-1 text-xs" data-testid="moved">
              {moved}
              {canUndo && canPlan && (
                <button
                  type="button"
                  className="ml-2 font-bold text-copper underline max-md:min-h-12"
                  onClick={() => {
                    editor.undo();
                  }}
                >
                  Undo
                </button>
              )}
            </p>
          )}
        </div>
        <p className="mb-3 border-l-4 border-copper pl-2 text-sm">{safety}</p>
        {children}
      </main>
      <aside
        aria-label="Slip"
        className={clsx(
          "overflow-y-auto border-l border-line bg-sheet p-4 max-lg:overflow-visible",
          "max-lg:border-t max-lg:border-l-0",
        )}
      >
        {slip ??
          (check ? (
            <>
              <Slip
                report={view.report}
                check={check}
                workings={workings}
                tried={tried}
                onEdits={
                  canPlan
                    ? (edits) => {
                        editor.editJob((job) => apply(job, edits, view.job));
                      }
                    : null
                }
                onCommand={(what) => {
                  // A part is known by its number alone: of a way that has changed since, it may be
                  // another by now.
                  const [now, then] = [editor.get().draft.job, view.job].map((j) =>
                    "way" in what ? planOf(j).ways[what.way] : null,
                  );
                  if (differences(now, then).length === 0) command(what);
                }}
              >
                {inSlip?.(check)}
                {said !== null && (
                  <p role="status" className="mt-2 text-sm">
                    {said}
                  </p>
                )}
              </Slip>
              <TakenByHabit check={check} />
              {also.length > 0 && (
                <section className="mt-4">
                  <h3 className="mb-1 text-sm font-bold">Also here</h3>
                  <CheckList
                    inSlip
                    checks={also}
                    report={view.report}
                    onPick={(c) => {
                      pick(checkKey(c));
                    }}
                  />
                </section>
              )}
            </>
          ) : (
            <p className="text-sm text-ink-2">Nothing is judged here yet.</p>
          ))}
      </aside>
    </div>
  );
}
