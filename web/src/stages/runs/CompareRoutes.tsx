/**
 * Routes side by side: what is drawn and what is kept beside it, by what the rules say, cost,
 * hours, drop, heat, and what stays to be seen.
 */
import { useQuery } from "@tanstack/react-query";
import { clsx } from "clsx";
import { useState } from "react";
import { api, type Command, type Plan, type RouteRow } from "../../api/client";
import { RouteStrip } from "../../drawing/RouteStrip";
import { fieldTitle } from "../../model/catalogue";
import { amount, many, plain } from "../../model/format";
import { planOf } from "../../model/plan";
import { useBench } from "../../shell/bench";
import { Lines } from "../../shell/Slip";
import { Button } from "../../ui/Button";
import { Field, inputLook } from "../../ui/field";
import { Folded } from "../../ui/Folded";
import { CutShort } from "../../ui/CutShort";
import { Badge } from "../../ui/verdict";
import { JobPrices } from "./JobPrices";

interface Props {
  command: (command: Command) => void;
}

export function CompareRoutes({ command }: Props) {
  const { draft, editor, canPlan } = useBench();
  const { job } = draft;
  const [open, setOpen] = useState(false);
  const [name, setName] = useState("");
  const [worked, setWorked] = useState<string | null>(null);
  const kept = job.routes ?? [];
  const found = useQuery({
    queryKey: ["routes", job],
    queryFn: () => api.compareRoutes(job, draft.library),
    enabled: open,
    placeholderData: (before) => before,
  });
  if (Object.keys(planOf(job).ways).length === 0) return null;
  const rows = (found.data?.rows ?? []) as RouteRow[];
  const keep = () => {
    command({ do: "keep_route", name: name.trim() });
    setName("");
  };
  const row = rows.find((r) => r.name === worked);
  return (
    <Folded
      title="Routes compared"
      aside={kept.length === 0 ? "one so far" : many(kept.length + 1, "route")}
      open={open}
      onOpen={setOpen}
    >
      {found.isError && (
        <p role="alert" className="p-3 text-sm text-stop">
          They cannot be worked out now.
        </p>
      )}
      {rows.length > 0 && (
        <div className="overflow-x-auto">
          <Table rows={rows} worked={worked} onWorked={setWorked}>
            {(r) =>
              canPlan && !r.drawn ? (
                <>
                  <button
                    type="button"
                    className="min-h-8 text-copper underline max-md:min-h-12"
                    onClick={() => {
                      command({ do: "draw_route", name: r.name });
                    }}
                  >
                    Choose {r.name}
                  </button>
                  <button
                    type="button"
                    className="min-h-8 text-copper underline max-md:min-h-12"
                    onClick={() => {
                      editor.editJob((j) => ({
                        ...j,
                        routes: (j.routes ?? []).filter((k) => k.name !== r.name),
                      }));
                    }}
                  >
                    Take out {r.name}
                  </button>
                </>
              ) : null
            }
          </Table>
        </div>
      )}
      {found.data?.cut && (
        <div className="px-3">
          <CutShort what="kept routes are missing here." />
        </div>
      )}
      {found.data?.recommendation && (
        <p role="status" className="px-3 py-2 text-sm font-bold">
          {found.data.recommendation}
        </p>
      )}
      {row && (
        <div className="grid gap-4 border-t border-line p-3 md:grid-cols-2">
          {row.figures.map((f) => (
            <section key={f.id} aria-label={`${f.title} of ${row.name}`}>
              <h3 className="flex justify-between gap-2 text-sm font-bold">
                {row.name}: {f.title}
                <span className="font-mono">{money(f.value, f.unit)}</span>
              </h3>
              <Lines figure={f} />
              {(f.missing ?? []).length > 0 && (
                <p className="mt-2 text-sm">
                  <strong>Missing:</strong> {(f.missing ?? []).map(fieldTitle).join(", ")}
                </p>
              )}
            </section>
          ))}
        </div>
      )}
      {canPlan && (
        <form
          className="flex flex-wrap items-end gap-3 border-t border-line p-3"
          onSubmit={(e) => {
            e.preventDefault();
            keep();
          }}
        >
          <div className="w-56">
            <Field label="Name of another route">
              {(control) => (
                <input
                  {...control}
                  className={inputLook}
                  maxLength={60}
                  value={name}
                  onChange={(e) => {
                    setName(e.target.value);
                  }}
                />
              )}
            </Field>
          </div>
          <Button type="submit" disabled={name.trim() === ""}>
            Keep this one and draw another
          </Button>
          <span className="text-xs text-ink-2">
            The other begins as a copy; what is drawn now stays as it is.
          </span>
        </form>
      )}
      <JobPrices />
    </Folded>
  );
}

const money = (value: unknown, unit: string): string =>
  typeof value !== "number"
    ? "open"
    : unit === "cost"
      ? plain(value, 0)
      : amount(value, unit as "h");

interface TableProps {
  rows: RouteRow[];
  worked: string | null;
  onWorked: (name: string | null) => void;
  children: (row: RouteRow) => React.ReactNode;
}

/** Two lines for each route: its figures, and where it goes; what is open says so. */
function Table({ rows, worked, onWorked, children }: TableProps) {
  const { job } = useBench().draft;
  const planned = (r: RouteRow): Plan =>
    r.drawn
      ? planOf(job)
      : ((job.routes ?? []).find((k) => k.name === r.name)?.plan ?? planOf(job));
  return (
    <table
      aria-label="Routes compared"
      className={clsx(
        "w-full text-right text-sm [&_td]:px-3 [&_td]:py-1 [&_th]:px-3 [&_th]:py-1",
        "[&_td]:align-top [&_th]:font-normal",
        // In the hand each figure stands under its name, two beside each other.
        "max-md:text-left max-md:[&_thead]:sr-only max-md:[&_tr]:grid max-md:[&_tr]:grid-cols-2",
        "max-md:[&_td[data-label]]:before:block max-md:[&_td[data-label]]:before:text-xs",
        "max-md:[&_td]:before:content-[attr(data-label)] max-md:[&_td]:before:font-sans",
      )}
    >
      <thead>
        <tr className="border-b border-line text-xs text-ink-2">
          <th className="text-left">Route</th>
          <th>Cost</th>
          <th>With losses</th>
          <th>Drop</th>
          <th>Hottest</th>
          <th>To be seen</th>
        </tr>
      </thead>
      {rows.map((r) => (
        <tbody key={r.name} className={clsx("border-b border-line", r.drawn && "bg-copper-soft")}>
          <tr>
            <td className="text-left max-md:col-span-2">
              <span className="flex flex-wrap items-center gap-2">
                <strong>{r.name}</strong>
                <Badge verdict={r.verdict} />
              </span>
              <span className="text-xs text-ink-2">
                {[r.drawn && "drawn", r.best && "the cheapest that holds"]
                  .filter(Boolean)
                  .join(", ")}
              </span>
            </td>
            <Figure label="Cost" value={r.total_cost} unit="cost">
              {money(r.material_cost, "cost")} and {money(r.work_h, "h")}
            </Figure>
            <Figure label="With losses" value={r.years_cost} unit="cost">
              {r.loss_w == null ? "" : `${amount(r.loss_w, "W")} in full sun`}
            </Figure>
            <td data-label="Drop" className="font-mono whitespace-nowrap">
              DC {money(r.dc_drop_pct, "%")}
              <br />
              AC {money(r.ac_drop_pct, "%")}
            </td>
            <Figure label="Hottest" value={r.hottest_c} unit="degC" />
            <Figure label="To be seen" value={r.visible_m} unit="m">
              of {money(r.length_m, "m")}
            </Figure>
          </tr>
          <tr>
            <td colSpan={6} className="text-left max-md:col-span-2">
              <RouteStrip plan={planned(r)} school={job.school} />
              <span className="text-xs text-ink-2">
                {r.against.length > 0 ? r.against.join(" · ") : "Nothing speaks against it."}
              </span>
              <span className="flex flex-wrap justify-end gap-3">
                <button
                  type="button"
                  aria-expanded={worked === r.name}
                  className="min-h-8 text-copper underline max-md:min-h-12"
                  onClick={() => {
                    onWorked(worked === r.name ? null : r.name);
                  }}
                >
                  Working of {r.name}
                </button>
                {children(r)}
              </span>
            </td>
          </tr>
        </tbody>
      ))}
    </table>
  );
}

interface FigureProps {
  label: string;
  value: number | null | undefined;
  unit: string;
  children?: React.ReactNode;
}

const Figure = ({ label, value, unit, children }: FigureProps) => (
  <td data-label={label} className="whitespace-nowrap">
    <span className={value == null ? "text-ink-3" : "font-mono"}>{money(value, unit)}</span>
    {children !== undefined && <span className="block text-xs text-ink-2">{children}</span>}
  </td>
);
