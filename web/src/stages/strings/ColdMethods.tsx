/** The ways to have cold volts, side by side, and why practitioners differ. */
import { Fragment } from "react";
import type { Check, ColdBy, Report } from "../../api/client";
import { amount } from "../../model/format";
import { useBench } from "../../shell/bench";
import { COLD_METHODS } from "../../text/words";
import { Badge } from "../../ui/verdict";

const WHY: Record<ColdBy["method"], string> = {
  coefficient: "the module's own figure: the nearest to what will be read",
  table: "for silicon of any make, in steps; mostly on the safe side",
  factor: "a habit where mornings are mild; says nothing of a cold place",
};

export function ColdMethods({ report, check }: { report: Report; check: Check }) {
  const { draft } = useBench();
  const rows =
    report.string_windows
      .flatMap((w) => w.rows)
      .find((r) => check.subject.kind === "string" && r.letter === check.subject.string)?.cold_by ??
    [];
  if (rows.length < 2) return null;
  const rules = draft.job.site.cold_method;
  return (
    <table
      className="mt-3 w-full border-t border-dashed border-ink-3 text-sm"
      aria-label="Cold volts by each method"
    >
      <tbody>
        {rows.map((r) => (
          <Fragment key={r.method}>
            <tr className={r.method === rules ? "font-bold" : ""}>
              <td className="pt-1">
                {COLD_METHODS[draft.job.school][r.method] ?? r.method}
                {r.method === rules ? ": rules" : ""}
              </td>
              <td className="pt-1 text-right font-mono whitespace-nowrap">
                {amount(r.voc_cold_v, "V")}
              </td>
              <td className="pt-1 pl-2 text-right">
                <Badge verdict={r.verdict}>
                  {r.n_max == null ? undefined : `≤ ${amount(r.n_max, "n")}`}
                </Badge>
              </td>
            </tr>
            <tr className="border-b border-line text-xs text-ink-2">
              <td colSpan={3} className="pb-1">
                × {amount(r.k_cold, "ratio")}; {WHY[r.method]}
              </td>
            </tr>
          </Fragment>
        ))}
      </tbody>
    </table>
  );
}
