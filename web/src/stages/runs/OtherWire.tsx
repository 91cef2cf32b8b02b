/** A circuit in thinner and thicker wire: what each drops, loses and costs; a press takes it. */
import { useQuery } from "@tanstack/react-query";
import { clsx } from "clsx";
import { useState } from "react";
import { api } from "../../api/client";
import { amount, plain } from "../../model/format";
import { apply } from "../../model/pointer";
import { useBench } from "../../shell/bench";
import { CutShort } from "../../ui/CutShort";
import { Badge } from "../../ui/verdict";

export function OtherWire({ circuit }: { circuit: string }) {
  const { draft, editor, canPlan } = useBench();
  const [open, setOpen] = useState(false);
  const found = useQuery({
    queryKey: ["wire-options", draft.job, circuit],
    queryFn: () => api.wireOptions(draft.job, draft.library, circuit),
    enabled: open,
  });
  const sign = draft.job.school === "na" ? "AWG" : "mm²";
  const cost = (value: number | null | undefined): string =>
    value == null ? "–" : plain(value, 0);
  return (
    <details
      className="mt-1 text-sm"
      onToggle={(e) => {
        setOpen(e.currentTarget.open);
      }}
    >
      <summary className="min-h-9 cursor-pointer py-1.5 max-md:min-h-12">
        Other wire for {circuit}
      </summary>
      {found.isError && (
        <p role="alert" className="text-stop">
          It cannot be worked out now.
        </p>
      )}
      {found.data?.cut && <CutShort what="thicker wire may not be here." />}
      {found.data?.options.length === 0 && !found.data.cut && (
        <p className="text-ink-2">No size holds yet: something of its way is missing.</p>
      )}
      {found.data && found.data.options.length > 0 && (
        <div className="overflow-x-auto">
          <table
            aria-label={`Other wire for ${circuit}`}
            className={clsx(
              "w-full text-right font-mono whitespace-nowrap",
              "[&_td]:px-1.5 [&_td]:py-1 [&_th]:px-1.5 [&_th]:font-sans [&_th]:font-normal",
            )}
          >
            <thead>
              <tr className="border-b border-line text-xs text-ink-2">
                <th className="text-left">Wire</th>
                <th>Drop</th>
                <th>Lost, full sun</th>
                <th>Clear year</th>
                <th>Conductors</th>
                <th>Cost</th>
                <th>All years</th>
                <th />
                <th />
              </tr>
            </thead>
            <tbody>
              {found.data.options.map((o) => (
                <tr key={o.size} className="border-b border-line">
                  <td className="text-left font-bold whitespace-nowrap">
                    {o.size} {sign}
                    {o.now && <span className="ml-1 font-normal text-ink-2">now</span>}
                    {o.best && <span className="ml-1 font-normal text-holds">cheapest</span>}
                  </td>
                  <td>{o.drop_pct == null ? "–" : amount(o.drop_pct, "%")}</td>
                  <td>{o.loss_w == null ? "–" : amount(o.loss_w, "W")}</td>
                  <td>{o.loss_kwh == null ? "–" : amount(o.loss_kwh, "kWh")}</td>
                  <td>{o.conductor_m == null ? "–" : amount(o.conductor_m, "m")}</td>
                  <td>{cost(o.cost)}</td>
                  <td>{cost(o.years_cost)}</td>
                  <td>
                    <Badge verdict={o.verdict} />
                  </td>
                  <td>
                    {canPlan && !o.now && (
                      <button
                        type="button"
                        className="min-h-8 text-copper underline max-md:min-h-12"
                        onClick={() => {
                          editor.editJob((j) => apply(j, o.edits, draft.job));
                        }}
                      >
                        Use {o.size} {sign}
                      </button>
                    )}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
          <p className="mt-1 text-xs text-ink-2">
            By the prices of this job. A clear year asks for the site’s latitude, and is not had
            where strings of several planes or branches flow together.
          </p>
        </div>
      )}
    </details>
  );
}
