/** Trunk cable of each branch: cable, drops, bridges and the pieces to cut. */
import { useState } from "react";
import type { RoofTrunk } from "../../api/client";
import { amount, many } from "../../model/format";
import { branchesOf } from "../../model/roof";
import { checkKey, valueOf } from "../../model/report";
import { useBench } from "../../shell/bench";
import { Sheet } from "../../ui/Sheet";
import { Tape } from "../../ui/Tape";
import { Badge } from "../../ui/verdict";
import { Stays, Worst } from "./StringEnd";

interface Props {
  trunks: RoofTrunk[];
  /** Branches that stay as they are when a face is routed. */
  keep: string[];
  onKeep: (letter: string) => void;
}

export function Trunks({ trunks, keep, onKeep }: Props) {
  const { view, draft, canPlan, pick } = useBench();
  const [open, setOpen] = useState<string | null>(null);
  const { report } = view;
  const figure = (id: string, branch: string) =>
    valueOf(report, id, { kind: "branch", branch }) as number | null;
  const judged = report.checks.filter((c) => c.stage === "roof");
  const reels = valueOf(report, "trunk.reels_n", { kind: "site" });
  const left = valueOf(report, "trunk.left_n", { kind: "site" });
  const aside =
    reels == null
      ? "drops on a reel are not on the unit’s data sheet"
      : `${many(Number(reels), "reel")}, ${many(Number(left), "drop")} left`;
  return (
    <Sheet title="Trunk cable" aside={aside} className="mt-3">
      <div className="overflow-x-auto">
        <table className="w-full min-w-[44rem] text-sm">
          <thead>
            <tr className="border-b border-line text-left text-xs text-ink-2">
              <th className="px-3 py-1.5 font-normal">Branch</th>
              <th className="px-2 text-right font-normal">units</th>
              <th className="px-2 text-right font-normal">drops, lost</th>
              <th className="px-2 text-right font-normal">caps</th>
              <th className="px-2 text-right font-normal">trunk</th>
              <th className="px-2 font-normal">pieces to cut</th>
              <th className="px-2 font-normal">bridges</th>
              <th className="px-2 font-normal" />
              {canPlan && <th className="px-2 font-normal">stays</th>}
            </tr>
          </thead>
          <tbody>
            {trunks.map((t) => {
              const own = judged.filter(
                ({ subject: s }) =>
                  (s.kind === "branch" && s.branch === t.letter) ||
                  (s.kind === "join" && s.string === t.letter),
              );
              const cable = figure("trunk.cable_m", t.letter);
              const lies = branchesOf(draft.job).find((b) => b.letter === t.letter)?.modules ?? [];
              const dash = (n: number | null) => (n == null ? "open" : String(n));
              return (
                <tr key={t.letter} className="border-b border-line">
                  <td className="px-3 py-1.5">
                    <button
                      type="button"
                      aria-expanded={open === t.letter}
                      className="flex items-center gap-2 underline max-md:min-h-12"
                      onClick={() => {
                        setOpen(open === t.letter ? null : t.letter);
                      }}
                    >
                      <Tape tapes={report.tapes} letter={t.letter} /> units
                    </button>
                  </td>
                  <td className="px-2 text-right font-mono whitespace-nowrap">
                    {lies.length} of {t.n}
                  </td>
                  <td className="px-2 text-right font-mono whitespace-nowrap">
                    {dash(figure("trunk.drops_n", t.letter))},{" "}
                    {dash(figure("trunk.lost_n", t.letter))}
                  </td>
                  <td className="px-2 text-right font-mono whitespace-nowrap">
                    {dash(figure("trunk.caps_n", t.letter))}
                  </td>
                  <td className="px-2 text-right font-mono whitespace-nowrap">
                    {cable == null ? "open" : amount(cable, "m")}
                  </td>
                  <td className="px-2">
                    {t.pieces
                      .map((p) => `${many(p.drops_n, "drop")}, ${amount(p.m, "m")}`)
                      .join(" · ")}
                  </td>
                  <td className="px-2">
                    {t.bridges
                      .map((b) => `behind ${t.letter}${String(b.place)}: ${amount(b.m, "m")}`)
                      .join(", ") || "none"}
                  </td>
                  <Worst checks={own} />
                  <Stays
                    name={`Branch ${t.letter}`}
                    stays={keep.includes(t.letter)}
                    onKeep={() => {
                      onKeep(t.letter);
                    }}
                  />
                </tr>
              );
            })}
          </tbody>
        </table>
      </div>
      {open !== null && (
        <ol className="grid gap-1 p-3 text-sm" aria-label={`Branch ${open}`}>
          {judged
            .filter(({ subject: s }) => s.kind === "join" && s.string === open)
            .map((c) => {
              const place = c.subject.kind === "join" ? c.subject.place : 0;
              const path = valueOf(report, "trunk.path_m", c.subject);
              const n = valueOf(report, "trunk.sections_n", c.subject);
              return (
                <li key={place} className="flex items-center gap-2">
                  <button
                    type="button"
                    className="text-left underline"
                    onClick={() => {
                      pick(checkKey(c));
                    }}
                  >
                    {`${open}${String(place)} to ${open}${String(place + 1)}: `}
                    {path == null ? "path open" : amount(Number(path), "m")}
                    {n == null ? "" : `, ${many(Number(n), "section")}`}
                    {c.id === "trunk.bridge_m" ? ", bridged" : ""}
                  </button>
                  <Badge verdict={c.verdict} />
                </li>
              );
            })}
        </ol>
      )}
    </Sheet>
  );
}
