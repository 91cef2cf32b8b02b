/** What if it fails: a fault is put in, and the plan's own devices say what follows. */
import { useState } from "react";
import { api, type Fault, type Subject } from "../../api/client";
import { amount } from "../../model/format";
import { subjectKey, subjectName } from "../../model/subject";
import { Pick } from "../../ui/Pick";
import { Badge } from "../../ui/verdict";
import { OneLineView } from "./OneLineView";
import { useSaved } from "./useSaved";

const KINDS: Record<Fault["kind"], string> = {
  frame_to_pole: "a frame touches a pole",
  string_short: "a string is shorted",
  line_to_case: "a line touches a case",
  lost_neutral: "the grid's neutral is gone in backup",
  surge: "a surge comes down the cable",
  opened_under_load: "it is opened under load",
};

const WORDS: Record<Fault["verdict"], string> = {
  pass: "Cleared",
  warn: "Not cleared, held",
  fail: "Nothing clears it",
  unknown: "Open",
};

const wordOf = (f: Fault): string =>
  f.verdict === "warn" && f.clears ? "Cleared, with a caution" : WORDS[f.verdict];

/** How long, in words: half a second is not written as an hour. */
const time = (s: number): string =>
  s >= 60 ? `${(s / 60).toFixed(0)} min` : `${(s * 1000).toFixed(0)} ms`;

const keyOf = (f: Fault): string => `${f.kind}@${subjectKey(f.at)}`;

export function Faults() {
  const [kind, setKind] = useState<Fault["kind"] | "">("");
  const [chosen, setChosen] = useState<string>("");
  const { data, away } = useSaved("faults", api.faults);
  if (!data)
    return (
      <p role="status" className="p-3 text-sm text-ink-2">
        {away ? "This cannot be had at the moment." : "Looking"}
      </p>
    );
  const kinds = [...new Set(data.map((f) => f.kind))];
  const first = kinds[0];
  if (first === undefined)
    return (
      <p className="p-3 text-sm text-ink-2">
        No fault can be put in yet: plan strings and circuits first.
      </p>
    );
  const shown = kind === "" ? first : kind;
  const places = data.filter((f) => f.kind === shown);
  const fault = places.find((f) => keyOf(f) === chosen) ?? places[0];
  if (!fault) return null;
  const marked: Subject[] = [fault.at, ...(fault.clears ? [fault.clears] : []), ...fault.live];
  return (
    <div className="grid gap-3 p-3">
      <div className="flex flex-wrap items-end gap-2">
        <Pick
          label="What if"
          value={shown}
          options={kinds.map((k) => [k, KINDS[k]])}
          onChange={(k) => {
            setKind(k as Fault["kind"]);
            setChosen("");
          }}
        />
        <Pick
          label="Where"
          value={keyOf(fault)}
          options={places.map((f) => [keyOf(f), subjectName(f.at)])}
          onChange={setChosen}
        />
      </div>
      <article
        className="rounded-lg border border-line p-3 text-sm"
        aria-live="polite"
        data-testid="fault"
      >
        <h3 className="mb-2 flex flex-wrap items-center gap-2 font-bold">
          {subjectName(fault.at)}: {KINDS[fault.kind]}
          <Badge verdict={fault.verdict}>{wordOf(fault)}</Badge>
        </h3>
        <ul className="grid gap-1">
          {fault.lines.map((l) => (
            <li key={l}>{l}</li>
          ))}
        </ul>
        <dl
          className={
            "mt-2 grid grid-cols-[auto_1fr] gap-x-3 border-t border-dashed border-ink-3 pt-2"
          }
        >
          <dt className="text-ink-2">Opens</dt>
          <dd>{fault.clears ? subjectName(fault.clears) : "nothing"}</dd>
          {fault.amps_a != null && (
            <>
              <dt className="text-ink-2">At</dt>
              <dd className="font-mono">{amount(fault.amps_a, "A")}</dd>
            </>
          )}
          {fault.seconds_s != null && (
            <>
              <dt className="text-ink-2">Within</dt>
              <dd className="font-mono">{time(fault.seconds_s)}</dd>
            </>
          )}
          <dt className="text-ink-2">Stays live</dt>
          <dd>{fault.live.length > 0 ? fault.live.map(subjectName).join(", ") : "nothing"}</dd>
        </dl>
      </article>
      <OneLineView marked={marked} />
    </div>
  );
}
