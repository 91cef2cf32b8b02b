/**
 * A newer data sheet than the job's: what it stops, the repairs by what they cost on site, and the
 * decision.
 */
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, type Repair, type Watch } from "../api/client";
import { amount, plain } from "../model/format";
import { applyPlan, bothLibraries } from "../model/planning";
import { Changes } from "../stages/library/Changes";
import { stopText } from "../stages/library/ConcernedJobs";
import { Button } from "../ui/Button";
import { Dialog } from "../ui/Dialog";
import { inputLook } from "../ui/field";
import { CutShort } from "../ui/CutShort";
import { Badge } from "../ui/verdict";
import { checkKey } from "../model/report";
import { useBench } from "./bench";

const signed = (n: number, unit: string): string =>
  `${n > 0 ? "+" : "−"}${plain(Math.abs(n), unit === "m" ? 1 : 0)} ${unit}`;

/** What a repair adds or takes away, each with its sign; what stays is left out. */
function costs(r: Repair): string[] {
  const c = r.cost;
  const lines: [number, string][] = [
    [c.cable_pairs_n, Math.abs(c.cable_pairs_n) === 1 ? "cable pair" : "cable pairs"],
    [c.cable_m, "m"],
    [c.isolators_n, Math.abs(c.isolators_n) === 1 ? "isolator" : "isolators"],
    [c.spds_n, Math.abs(c.spds_n) === 1 ? "surge device" : "surge devices"],
    [c.ways_n, "enclosure ways"],
    [c.connectors_n, "connectors"],
    [c.modules_n, Math.abs(c.modules_n) === 1 ? "module" : "modules"],
    [c.inverters_n, Math.abs(c.inverters_n) === 1 ? "inverter exchanged" : "inverters exchanged"],
  ];
  const parts = lines
    .filter(([n]) => Math.abs(n) > 1e-9)
    .map(([n, unit]) => (unit === "m" ? `${signed(n, "m")} of cable` : signed(n, unit)));
  if (c.modules_lifted_n > 0) parts.push(`${String(c.modules_lifted_n)} modules lifted`);
  if (c.raceway_m > 0) parts.push(`${amount(c.raceway_m, "m")} of raceway replaced`);
  return parts;
}

const hours = (minutes: number): string =>
  minutes < 90 ? `${plain(minutes, 0)} min` : `${plain(minutes / 60, 1)} h`;

export function WatchBanner() {
  const { view, account } = useBench();
  const found = useQuery({
    queryKey: ["watch", view.id, view.revision],
    queryFn: () => api.watch(view.id),
    enabled: account.role !== "inspector",
    placeholderData: (old: Watch[] | undefined) => old,
  });
  const [open, setOpen] = useState<string | null>(null);
  const news = (found.data ?? []).filter((w) => w.kept == null);
  const chosen = news.find((w) => w.sheet === open);
  if (news.length === 0) return null;
  return (
    <div
      className="no-print border-b border-caution bg-caution-soft px-4 py-1.5 text-sm text-caution"
      data-testid="watch"
    >
      {news.map((w) => (
        <p key={w.kind + w.sheet} className="flex items-center gap-x-3 gap-y-1 max-md:flex-wrap">
          <Badge verdict={w.stops.length > 0 ? "fail" : "warn"} />
          <span className="min-w-0 grow">
            <strong>
              {w.name}: revision {w.to} of the data sheet is out, this job holds {w.from}.
            </strong>{" "}
            {w.stops.length > 0
              ? `With it: ${w.stops.map(stopText).join("; ")}.`
              : "Everything would still hold."}
          </span>
          <Button
            onClick={() => {
              setOpen(w.sheet);
            }}
          >
            Decide
          </Button>
        </p>
      ))}
      {chosen && (
        <Decide
          watch={chosen}
          onClose={() => {
            setOpen(null);
          }}
        />
      )}
    </div>
  );
}

function Decide({ watch: w, onClose }: { watch: Watch; onClose: () => void }) {
  const { draft, editor, canPlan } = useBench();
  const [reason, setReason] = useState("");
  // The newer sheet may have been entered elsewhere a moment ago: what is taken must be at hand.
  const library = useQuery({
    queryKey: ["library"],
    queryFn: api.library,
    refetchOnMount: "always",
  });
  const known = bothLibraries(draft.library, library.isFetching ? undefined : library.data);
  const take = (edits: Watch["accept"]) => {
    editor.edit((d) => applyPlan(d, edits, known));
    onClose();
  };
  return (
    <Dialog
      title={`${w.name}: revision ${String(w.from)} or ${String(w.to)}`}
      open
      onClose={onClose}
      wide
    >
      <div className="grid gap-3 text-sm" data-testid="decide">
        <Changes changes={w.changes} />
        {[...w.stops, ...w.cautions].map((s) => (
          <p key={checkKey(s.check)} className="flex items-start gap-2">
            <Badge verdict={s.check.verdict} />
            <span>{stopText(s)}</span>
          </p>
        ))}
        {w.cut && <CutShort what="there may be more repairs." />}
        {w.repairs.length > 0 && (
          <section aria-label="Repairs">
            <h3 className="mb-1 font-bold">Repairs, the cheapest on site first</h3>
            <ul>
              {w.repairs.map((r, i) => (
                <li
                  key={r.text}
                  className="flex items-start gap-3 border-b border-line py-2"
                  data-testid={`repair-${String(i + 1)}`}
                >
                  <div className="min-w-0 grow">
                    <p className="font-bold">{r.text}</p>
                    <p>{costs(r).join(", ")}</p>
                    {r.opens.length > 0 && (
                      <p className="text-xs text-ink-2">Opened again: {r.opens.join("; ")}.</p>
                    )}
                    {r.also.map((s) => (
                      <p key={checkKey(s.check)} className="text-xs text-ink-2">
                        Mended with it: {stopText(s)}
                      </p>
                    ))}
                    {r.cautions.map((s) => (
                      <p key={checkKey(s.check)} className="text-xs text-caution">
                        Caution that comes with it: {stopText(s)}
                      </p>
                    ))}
                  </div>
                  <span className="shrink-0 text-right font-mono whitespace-nowrap">
                    {hours(r.cost.minutes)}
                    <span className="block text-xs text-ink-2">
                      {r.cost.power_w < 0
                        ? `${plain(-r.cost.power_w, 0)} W given up`
                        : "no watts given up"}
                    </span>
                  </span>
                  {canPlan && (
                    <Button
                      main={i === 0}
                      className="shrink-0 whitespace-nowrap"
                      disabled={library.isFetching}
                      onClick={() => {
                        take(r.edits);
                      }}
                    >
                      Do this
                    </Button>
                  )}
                </li>
              ))}
            </ul>
            <p className="mt-1 text-xs text-ink-2">
              Time by the times of this job. The order weighs watts given up in. Parallel connectors
              are never opened under load; the string is dead only when it is proven dead.
            </p>
          </section>
        )}
        {w.stops.length > 0 && w.repairs.length === 0 && !w.cut && (
          <p>
            No repair of the strings mends it: another plan is needed, or the older revision if it
            is what hangs on the wall.
          </p>
        )}
        {canPlan && (
          <>
            <div>
              <Button
                disabled={library.isFetching}
                onClick={() => {
                  take(w.accept);
                }}
              >
                Take revision {w.to} as it is{w.stops.length > 0 ? ", with its stops" : ""}
              </Button>
            </div>
            <div className="flex items-end gap-2">
              <label className="grow text-xs text-ink-2">
                Keep revision {w.from}, because
                <input
                  className={inputLook}
                  value={reason}
                  maxLength={400}
                  placeholder="the unit on site is of the older hardware, label photographed"
                  onChange={(e) => {
                    setReason(e.target.value);
                  }}
                />
              </label>
              <Button
                disabled={reason.trim() === ""}
                onClick={() => {
                  editor.editJob((job) => ({
                    ...job,
                    kept_sheets: [
                      ...(job.kept_sheets ?? []),
                      {
                        kind: w.kind,
                        sheet: w.sheet,
                        revision: w.from,
                        newer: w.to,
                        reason: reason.trim(),
                      },
                    ],
                  }));
                  onClose();
                }}
              >
                Keep {w.from}
              </Button>
            </div>
          </>
        )}
      </div>
    </Dialog>
  );
}
