/** Looking things up in a report. */
import type { Check, Counts, Figure, Job, JobView, Report, Subject, Verdict } from "../api/client";

export const same = (a: Subject, b: Subject): boolean => a.kind === b.kind && a.name === b.name;

export const checkKey = (check: Check): string => `${check.id}@${check.subject.kind}:${check.subject.name}`;

export const figureOf = (report: Pick<Report, "figures">, check: Check): Figure | undefined =>
  report.figures.find((f) => f.id === check.figure && same(f.subject, check.subject));

export const valueOf = (report: Report, id: string, subject: string): number | null => {
  const value = report.figures.find((f) => f.id === id && f.subject.name === subject)?.value;
  return typeof value === "number" ? value : null;
};

const ORDER: Verdict[] = ["pass", "warn", "unknown", "fail"];

export const worst = (checks: Check[]): Verdict =>
  checks
    .filter((c) => !c.alternative)
    .reduce<Verdict>((w, c) => (ORDER.indexOf(c.verdict) > ORDER.indexOf(w) ? c.verdict : w), "pass");

export const subjectName = (subject: Subject): string => {
  const words: Partial<Record<Subject["kind"], string>> = {
    site: "Site",
    inverter: `Inverter ${subject.name}`,
    mppt: `Input ${subject.name.split("/")[1] ?? subject.name}`,
    string: `String ${subject.name}`,
    branch: `Branch ${subject.name}`,
    place: `Inverter at ${subject.name}`,
    circuit: `Circuit ${subject.name}`,
    raceway: `Raceway ${subject.name.replace("/", ", segment ")}`,
    panel: "Panel",
    reading: "Reading",
  };
  return words[subject.kind] ?? subject.name;
};

function countWords(before: Counts, after: Counts): string[] {
  const words: [keyof Counts, string][] = [
    ["fail", "stop"],
    ["warn", "caution"],
    ["unknown", "open"],
  ];
  return words.flatMap(([key, word]) => {
    const change = after[key] - before[key];
    if (change === 0) return [];
    return [`${String(Math.abs(change))} ${word} ${change > 0 ? "more" : "fewer"}`];
  });
}

interface Planned {
  job: Job;
  report: Report;
}

/** What an edit moved, string by string and in counts of verdicts: values come from the two reports as they are. */
export function moves(before: Planned, after: Planned): string[] {
  const parts: string[] = [];
  for (const string of after.job.strings ?? []) {
    const old = (before.job.strings ?? []).find((s) => s.letter === string.letter);
    const [a, b] = [before, after].map((v) => valueOf(v.report, "string.voc_cold_v", string.letter));
    const volts = a != null && b != null ? `: ${a.toFixed(0)} to ${b.toFixed(0)} V cold` : "";
    if (!old) parts.push(`${string.letter}: new, ${String(string.n)} modules`);
    else if (old.n !== string.n)
      parts.push(`${string.letter}: ${String(old.n)} to ${String(string.n)} modules${volts}`);
    else if (a?.toFixed(0) !== b?.toFixed(0) && volts) parts.push(`${string.letter}${volts}`);
  }
  for (const old of before.job.strings ?? []) {
    if (!(after.job.strings ?? []).some((s) => s.letter === old.letter)) parts.push(`${old.letter}: taken out`);
  }
  const counts = countWords(before.report.counts, after.report.counts);
  return [...parts, ...(counts.length ? counts : ["no verdict moved"])];
}

/** What a save moved, in one sentence. */
export function whatMoved(before: JobView, after: JobView): string {
  const all = moves(before, after);
  const shown = all.length > 6 ? [...all.slice(0, 5), `${String(all.length - 5)} more`] : all;
  return shown.join(" · ");
}
