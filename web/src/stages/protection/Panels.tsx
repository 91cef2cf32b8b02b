/** Panels: the bus as it is, the ways to bring PV onto it side by side, what is free, the load. */
import type { PanelChoice } from "../../api/client";
import { BoardMap } from "../../drawing/BoardMap";
import { amount } from "../../model/format";
import { planOf } from "../../model/plan";
import { apply } from "../../model/pointer";
import { checkKey, checksOf } from "../../model/report";
import { useBench } from "../../shell/bench";
import { Button } from "../../ui/Button";
import { Badge } from "../../ui/verdict";
import { LoadForm } from "./LoadForm";
import { PanelForm } from "./PanelForm";

const LINK = "text-left underline decoration-line underline-offset-2 hover:decoration-copper";

export function Panels() {
  const { view, draft, picked, pick } = useBench();
  const { boards } = view.report;
  const plan = planOf(draft.job);
  if (boards.length === 0)
    return (
      <p className="p-3 text-sm text-ink-2">
        No panel is planned yet: the circuits end at one under Runs.
      </p>
    );
  return (
    <div className="grid grid-cols-[minmax(0,1fr)] gap-4 p-3">
      {boards.map((b) => {
        const own = plan.nodes[b.node];
        if (!own) return null;
        const circuit = picked?.split("@circuit:")[1] ?? null;
        return (
          <section
            key={b.node}
            className="rounded-lg border border-line p-3"
            data-testid={`panel-${b.node}`}
          >
            <h3 className="mb-2 font-bold">
              {own.name || `Panel ${b.node}`}
              {b.next_n != null && (
                <span className="ml-3 text-sm text-stop">
                  too small: {String(b.next_n)} ways are the next size
                </span>
              )}
            </h3>
            <div className="flex flex-wrap items-start gap-4">
              <BoardMap
                board={b}
                picked={circuit}
                onPick={(key) => {
                  const first = checksOf(view.report, { kind: "circuit", circuit: key })[0];
                  if (first) pick(checkKey(first));
                }}
              />
              {b.choices.length > 0 && <Choices node={b.node} choices={b.choices} />}
            </div>
            <div className="mt-3 border-t border-line pt-3">
              <PanelForm node={b.node} />
              {draft.job.school === "na" && <LoadForm node={b.node} />}
            </div>
          </section>
        );
      })}
    </div>
  );
}

/** The rules side by side: figure, limit, verdict, and what each takes. */
function Choices({ node, choices }: { node: string; choices: PanelChoice[] }) {
  const { view, editor, canPlan, pick } = useBench();
  const checks = checksOf(view.report, { kind: "panel", panel: node });
  return (
    <div className="min-w-0 max-w-full grow overflow-x-auto">
      <table className="w-full text-sm" aria-label={`Ways to bring PV onto ${node}`}>
        <thead>
          <tr className="text-left text-xs text-ink-2">
            <th className="py-1 pr-2 font-normal">Way</th>
            <th className="px-2 text-right font-normal">Comes to</th>
            <th className="px-2 text-right font-normal">May be</th>
            <th className="px-2 text-right font-normal">Cost</th>
            <th className="px-2 text-right font-normal">Hours</th>
            <th className="px-2 font-normal">Verdict</th>
          </tr>
        </thead>
        <tbody>
          {choices.map((c) => {
            const check = checks.find((k) => k.id === c.id);
            return (
              <tr key={c.id} className="border-t border-line align-baseline">
                <td className="py-1 pr-2">
                  <button
                    type="button"
                    className={LINK}
                    onClick={() => {
                      if (check) pick(checkKey(check));
                    }}
                  >
                    {c.title}
                  </button>
                  {c.built && <span className="ml-1 text-xs font-bold">as it stands</span>}
                  {c.outage && (
                    <span className="block text-xs text-ink-2">the utility switches off</span>
                  )}
                </td>
                <td className="px-2 text-right font-mono whitespace-nowrap">
                  {c.figure_a == null ? "" : amount(c.figure_a, "A")}
                </td>
                <td className="px-2 text-right font-mono whitespace-nowrap">
                  {c.limit_a != null && amount(c.limit_a, "A")}
                  {c.least_a != null && `at least ${amount(c.least_a, "A")}`}
                </td>
                <td className="px-2 text-right font-mono">
                  {(c.cost ?? 0) > 0 ? (c.cost ?? 0).toFixed(0) : "–"}
                </td>
                <td className="px-2 text-right font-mono">
                  {(c.hours ?? 0) > 0 ? (c.hours ?? 0).toFixed(1) : "–"}
                </td>
                <td className="px-2">
                  <Badge verdict={c.verdict}>{c.verdict === "fail" ? "Not met" : undefined}</Badge>
                  {canPlan && (c.edits ?? []).length > 0 && c.verdict !== "unknown" && (
                    <Button
                      className="ml-2"
                      onClick={() => {
                        editor.editJob((job) => apply(job, c.edits ?? [], view.job));
                      }}
                    >
                      {doing(c)}
                    </Button>
                  )}
                </td>
              </tr>
            );
          })}
        </tbody>
      </table>
    </div>
  );
}

const doing = (c: PanelChoice): string => {
  const [edit] = c.edits ?? [];
  return edit?.pointer.endsWith("/main_a") === true
    ? `Make the main ${String(edit.value)} A`
    : "Move it to the far end";
};
