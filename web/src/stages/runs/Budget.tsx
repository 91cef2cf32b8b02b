/** One budget of voltage drop from modules to panel, shared over DC and AC by what it costs. */
import { useQuery } from "@tanstack/react-query";
import { clsx } from "clsx";
import { useState } from "react";
import { api } from "../../api/client";
import { amount, plain } from "../../model/format";
import { apply } from "../../model/pointer";
import { useBench } from "../../shell/bench";
import { CutShort } from "../../ui/CutShort";
import { NumberField } from "../../ui/NumberField";

/** What a budget begins with, %: what both schools’ limits come to together. */
const USUAL: Record<string, number> = { na: 4, iec: 5 };

export function Budget() {
  const { draft, editor, canPlan } = useBench();
  const { job, library } = draft;
  const [open, setOpen] = useState(false);
  const [pct, setPct] = useState<number | null>(USUAL[job.school] ?? 4);
  const inRange = pct !== null && pct >= 0.2 && pct <= 20;
  const found = useQuery({
    queryKey: ["budget", job, pct],
    queryFn: () => api.shareBudget(job, library, pct ?? 0),
    enabled: open && inRange,
    placeholderData: (before) => before,
    retry: false,
  });
  const sign = job.school === "na" ? "AWG" : "mm²";
  return (
    <details
      className="border-b border-line px-3 text-sm"
      onToggle={(e) => {
        setOpen(e.currentTarget.open);
      }}
    >
      <summary className="min-h-9 cursor-pointer py-1.5 max-md:min-h-12">
        Share one budget of drop over DC and AC
      </summary>
      <div className="w-44">
        <NumberField
          label="From modules to panel"
          unit="%"
          value={pct}
          problem={inRange ? undefined : { path: "", message: "no budget", hint: "0.2 to 20 %" }}
          onChange={setPct}
        />
      </div>
      {found.isError && (
        <p role="alert" className="text-stop">
          It cannot be worked out now.
        </p>
      )}
      {found.data?.cut && (
        <CutShort what="the shares with little DC are here, others may cost less." />
      )}
      {found.data && inRange && (
        <table
          aria-label="Budget shared"
          className={clsx(
            "my-2 w-full text-right font-mono",
            "[&_td]:px-1.5 [&_td]:py-1 [&_th]:px-1.5 [&_th]:font-sans [&_th]:font-normal",
          )}
        >
          <thead>
            <tr className="border-b border-line text-xs text-ink-2">
              <th>DC up to</th>
              <th>AC up to</th>
              <th>Comes to</th>
              <th className="text-left">Wires</th>
              <th>Conductors cost</th>
              <th />
            </tr>
          </thead>
          <tbody>
            {found.data.shares.map((s) => (
              <tr key={s.dc_pct} className="border-b border-line">
                <td>{amount(s.dc_pct, "%")}</td>
                <td>{amount(s.ac_pct, "%")}</td>
                <td>{s.drop_pct == null ? "–" : amount(s.drop_pct, "%")}</td>
                <td className="text-left">
                  {s.without.length > 0
                    ? `none for ${s.without.join(", ")}`
                    : `${s.sizes.join(", ")} ${sign}`}
                </td>
                <td className="whitespace-nowrap">
                  {s.cost == null ? "–" : plain(s.cost, 0)}
                  {s.best && <span className="ml-1 font-sans text-holds">cheapest</span>}
                </td>
                <td>
                  {canPlan && s.cost != null && (
                    <button
                      type="button"
                      className="min-h-8 font-sans text-copper underline max-md:min-h-12"
                      onClick={() => {
                        editor.editJob((j) => apply(j, s.edits, job));
                      }}
                    >
                      Share it {amount(s.dc_pct, "%")} to {amount(s.ac_pct, "%")}
                    </button>
                  )}
                </td>
              </tr>
            ))}
            {found.data.shares.length === 0 && (
              <tr>
                <td colSpan={6} className="text-left font-sans text-ink-2">
                  There is no wire to share it over.
                </td>
              </tr>
            )}
          </tbody>
        </table>
      )}
    </details>
  );
}
