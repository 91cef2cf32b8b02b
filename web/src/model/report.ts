/**
 * A report: put together from what came over the wire and the catalogue, and looking things up in
 * it.
 */
import { CARDS } from "./catalogue";
import { ofString, subjectKey } from "./subject";
import type {
  Check,
  Counts,
  Figure,
  Job,
  PackedLimit,
  PackedReport,
  Report,
  Subject,
  Verdict,
} from "../api/client";

/** Title, stage and source of an id in a school; an id of a newer server stands for itself. */
function saidBy(
  id: string,
  school: Job["school"],
): Pick<Figure, "title" | "stage" | "source" | "unit"> {
  const card = CARDS[id];
  return card
    ? { title: card.title, stage: card.stage, source: card[school], unit: card.unit }
    : { title: id, stage: "site", source: "", unit: "ratio" };
}

const bound = ({ value, title, at_least = false }: PackedLimit): NonNullable<Check["limit"]> => ({
  value,
  title,
  at_most: !at_least,
});

/** Figures and checks of subjects, with what the catalogue says put back in. */
export function spread(
  subjects: PackedReport["subjects"],
  school: Job["school"],
  sources?: PackedReport["sources"],
): Pick<Report, "figures" | "checks"> {
  // An earlier edition of the code has numbers of its own.
  const said = (id: string) => {
    const words = saidBy(id, school);
    return { ...words, source: sources?.[id] ?? words.source };
  };
  const figures: Figure[] = [];
  const checks: Check[] = [];
  const each = subjects.flatMap(({ subject, also = [], figures: own, checks: judged }) =>
    [subject, ...also].map((one) => ({ subject: one, own, judged })),
  );
  for (const { subject, own, judged } of each) {
    for (const f of own) {
      const words = said(f.id);
      figures.push({ ...f, ...words, unit: f.unit ?? words.unit, subject } as Figure);
    }
    for (const c of judged ?? []) {
      const figure = c.figure ?? c.id;
      const measured = c.limit != null || c.margin != null;
      const unit = c.unit ?? (measured ? said(figure).unit : "ratio");
      const { limit: held, ...rest } = c;
      const limit = held ? { limit: bound(held) } : {};
      checks.push({
        ...rest,
        ...said(c.id),
        ...limit,
        verdict: c.verdict ?? "pass",
        unit,
        figure,
        subject,
      });
    }
  }
  return { figures, checks };
}

/** The report with what the catalogue says put back in. */
export const unpacked = ({ subjects, sources, raceway_cuts, ...rest }: PackedReport): Report => ({
  ...rest,
  raceway_cuts: raceway_cuts.flatMap(({ also = [], ...cut }) =>
    [cut.subject, ...also].map((subject) => ({ ...cut, subject })),
  ),
  ...spread(subjects, rest.school, sources),
});

export const checkKey = (check: Check): string => `${check.id}@${subjectKey(check.subject)}`;

/** What a list holds of each subject, put together when it is first asked for. */
function bySubject<T extends { subject: Subject }>(): (list: T[], about: Subject) => T[] {
  const known = new WeakMap<T[], Map<string, T[]>>();
  return (list, about) => {
    let found = known.get(list);
    if (!found) {
      found = new Map();
      for (const one of list) {
        const key = subjectKey(one.subject);
        const own = found.get(key);
        if (own) own.push(one);
        else found.set(key, [one]);
      }
      known.set(list, found);
    }
    return found.get(subjectKey(about)) ?? [];
  };
}

const figuresBy = bySubject<Figure>();
const checksBy = bySubject<Check>();

/** The checks of a subject. */
export const checksOf = (report: Pick<Report, "checks">, subject: Subject): Check[] =>
  checksBy(report.checks, subject);

export const figureOf = (report: Pick<Report, "figures">, check: Check): Figure | undefined =>
  figuresBy(report.figures, check.subject).find((f) => f.id === check.figure);

export const valueOf = (report: Report, id: string, subject: Subject): number | null => {
  const value = figuresBy(report.figures, subject).find((f) => f.id === id)?.value;
  return typeof value === "number" ? value : null;
};

const ORDER: Verdict[] = ["pass", "warn", "unknown", "fail"];

export const worst = (checks: Check[]): Verdict =>
  checks
    .filter((c) => !c.alternative)
    .reduce<Verdict>(
      (w, c) => (ORDER.indexOf(c.verdict) > ORDER.indexOf(w) ? c.verdict : w),
      "pass",
    );

const WORST = "worst@";

/** The key of what is worst among checks: its slip follows where another becomes the worst. */
export function worstKey(own: Check[]): string {
  const some = (of: (c: Check) => string) => [...new Set(own.map(of))].join("~");
  return `${WORST}${some((c) => c.stage)}@${some((c) => subjectKey(c.subject))}`;
}

/** The check of a key: itself, or what is worst now of the subjects it names. */
export function checkOf(report: Pick<Report, "checks">, key: string): Check | undefined {
  if (!key.startsWith(WORST)) return report.checks.find((c) => checkKey(c) === key);
  const [stages = "", ...rest] = key.slice(WORST.length).split("@");
  const among = new Set(rest.join("@").split("~"));
  const stage = new Set(stages.split("~"));
  const own = report.checks.filter(
    (c) => !c.alternative && stage.has(c.stage) && among.has(subjectKey(c.subject)),
  );
  const bad = worst(own);
  return own.find((c) => c.verdict === bad);
}

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

/**
 * What an edit moved, string by string and in counts of verdicts: values come from the two reports
 * as they are.
 */
export function moves(before: Planned, after: Planned): string[] {
  const parts: string[] = [];
  for (const string of after.job.strings ?? []) {
    const old = (before.job.strings ?? []).find((s) => s.letter === string.letter);
    const [a, b] = [before, after].map((v) =>
      valueOf(v.report, "string.voc_cold_v", ofString(string.letter)),
    );
    const volts = a != null && b != null ? `: ${a.toFixed(0)} to ${b.toFixed(0)} V cold` : "";
    if (!old) parts.push(`${string.letter}: new, ${String(string.n)} modules`);
    else if (old.n !== string.n)
      parts.push(`${string.letter}: ${String(old.n)} to ${String(string.n)} modules${volts}`);
    else if (a?.toFixed(0) !== b?.toFixed(0) && volts) parts.push(`${string.letter}${volts}`);
  }
  for (const old of before.job.strings ?? []) {
    if (!(after.job.strings ?? []).some((s) => s.letter === old.letter))
      parts.push(`${old.letter}: taken out`);
  }
  const counts = countWords(before.report.counts, after.report.counts);
  return [...parts, ...(counts.length ? counts : ["no verdict moved"])];
}

/** What a save moved, in one sentence. */
export function whatMoved(before: Planned, after: Planned): string {
  const all = moves(before, after);
  const shown = all.length > 6 ? [...all.slice(0, 5), `${String(all.length - 5)} more`] : all;
  return shown.join(" · ");
}
