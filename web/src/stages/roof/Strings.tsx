/** Each string as a row, and its joins as sentences: what is drawn above, to be read. */
import { useState } from "react";
import type { Along, Check, RoofString } from "../../api/client";
import { amount } from "../../model/format";
import { checkKey } from "../../model/report";
import { useBench } from "../../shell/bench";
import { Sheet } from "../../ui/Sheet";
import { Tape } from "../../ui/Tape";
import { Stays, Worst } from "./StringEnd";
import { Badge } from "../../ui/verdict";

interface Props {
  checks: Check[];
  rows: { face: string; s: RoofString }[];
  /** Strings that stay as they are when a face is routed. */
  keep: string[];
  onKeep: (letter: string) => void;
  /** Runs a string along its own modules as it is asked; null while that cannot be. */
  onRun: ((letter: string, along: Along) => void) | null;
}

const ALONG: readonly (readonly [Along, string])[] = [
  ["through", "through, row by row"],
  ["out_and_back", "out on one row, back on the next"],
  ["every_second", "every second module out, the others back"],
];

const ofString = (c: Check, letter: string): boolean =>
  (c.subject.kind === "string" || c.subject.kind === "join") && c.subject.string === letter;

export function Strings({ checks, rows, keep, onKeep, onRun }: Props) {
  const { view, canPlan, pick } = useBench();
  const [open, setOpen] = useState<string | null>(null);
  const { report } = view;
  return (
    <Sheet title="Strings on the map" className="mt-3">
      <div className="overflow-x-auto">
        <table className="w-full min-w-[44rem] text-sm">
          <thead>
            <tr className="border-b border-line text-left text-xs text-ink-2">
              <th className="px-3 py-1.5 font-normal">String</th>
              <th className="px-2 font-normal">Face</th>
              <th className="px-2 text-right font-normal">modules</th>
              <th className="px-2 text-right font-normal">jumpers</th>
              <th className="px-2 text-right font-normal">tail + / −</th>
              <th className="px-2 font-normal" />
              {canPlan && <th className="px-2 font-normal">runs</th>}
              {canPlan && <th className="px-2 font-normal">stays</th>}
            </tr>
          </thead>
          <tbody>
            {rows.map(({ face, s }) => {
              const own = checks.filter((c) => ofString(c, s.letter));
              return (
                <tr key={s.letter} className="border-b border-line">
                  <td className="px-3 py-1.5">
                    <button
                      type="button"
                      aria-expanded={open === s.letter}
                      className="flex items-center gap-2 underline max-md:min-h-12"
                      onClick={() => {
                        setOpen(open === s.letter ? null : s.letter);
                      }}
                    >
                      <Tape tapes={report.tapes} letter={s.letter} /> joins
                    </button>
                  </td>
                  <td className="px-2">{face}</td>
                  <td className="px-2 text-right font-mono whitespace-nowrap">
                    {s.on_map_n} of {s.n}
                  </td>
                  <td className="px-2 text-right font-mono whitespace-nowrap">{jumpers(s)}</td>
                  <td className="px-2 text-right font-mono whitespace-nowrap">{tails(s)}</td>
                  <Worst checks={own} />
                  {canPlan && (
                    <td className="px-2">
                      <select
                        aria-label={`How string ${s.letter} runs`}
                        className="max-w-40 rounded border border-line bg-sheet px-1 py-0.5"
                        value=""
                        disabled={onRun === null || s.on_map_n !== s.n}
                        onChange={(e) => {
                          onRun?.(s.letter, e.target.value as Along);
                        }}
                      >
                        <option value="">as drawn</option>
                        {ALONG.map(([along, text]) => (
                          <option key={along} value={along}>
                            {text}
                          </option>
                        ))}
                      </select>
                    </td>
                  )}
                  <Stays
                    name={`String ${s.letter}`}
                    stays={keep.includes(s.letter)}
                    onKeep={() => {
                      onKeep(s.letter);
                    }}
                  />
                </tr>
              );
            })}
          </tbody>
        </table>
      </div>
      {rows
        .filter(({ s }) => s.letter === open)
        .map(({ s }) => (
          <ol key={s.letter} className="grid gap-1 p-3 text-sm" aria-label={`String ${s.letter}`}>
            {s.joins.map((j) => (
              <li key={j.after} className="flex items-center gap-2">
                <button
                  type="button"
                  className="text-left underline"
                  onClick={() => {
                    const check = checks.find(
                      (c) =>
                        c.subject.kind === "join" &&
                        c.subject.string === s.letter &&
                        c.subject.place === j.place,
                    );
                    pick(check ? checkKey(check) : null);
                  }}
                >
                  {`${s.letter}${String(j.place)} to ${s.letter}${String(j.place + 1)}: `}
                  {j.path_m == null ? "path open" : amount(j.path_m, "m")}
                  {j.jumper_m == null ? "" : `, jumper of ${amount(j.jumper_m, "m")}`}
                </button>
                <Badge verdict={j.verdict} />
              </li>
            ))}
          </ol>
        ))}
    </Sheet>
  );
}

function jumpers(s: RoofString): string {
  if (s.jumpers.length === 0) return "0";
  return `${String(s.jumpers.length)} · ${amount(s.jumpers_m, "m")}`;
}

function tails(s: RoofString): string {
  const one = (tail: RoofString["tail_plus"]) => (tail == null ? "open" : amount(tail.wire_m, "m"));
  return `${one(s.tail_plus)} / ${one(s.tail_minus)}`;
}
