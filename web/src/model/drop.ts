/**
 * The drop drawing's edits of one thing: places from the roof down, keys nobody has yet, bends as
 * they are written.
 */
import type { Job, Node, Part } from "../api/client";
import { PLACES, type Place } from "../text/words";
import { changePart, changeWay, partsOf, planOf } from "./plan";
import { read } from "./typed";

/** What is picked on the drawing. */
export type Picked =
  | { kind: "part"; way: string; part: number }
  | { kind: "node"; node: string }
  | { kind: "circuit"; circuit: string };

export type Bend = NonNullable<NonNullable<Part["bends"]>[number]>;

/** Places as they lie one under the other. */
export const DOWN = Object.keys(PLACES) as Place[];

/** The place above (−1) or below (1); from nowhere the first or the last. */
export function nextPlace(from: Place | null | undefined, step: 1 | -1): Place | undefined {
  if (from == null) return step > 0 ? DOWN[0] : DOWN.at(-1);
  return DOWN[DOWN.indexOf(from) + step];
}

const STEMS: Record<Node["kind"], string> = {
  array: "ARR",
  roof_box: "RB",
  pull_box: "PB",
  junction_box: "JB",
  tee: "T",
  combiner: "CB",
  isolator: "ISO",
  enclosure: "ENC",
  inverter: "INV",
  panel: "P",
  meter: "M",
  electrode: "E",
};

/** The first key of a stem with a number that nothing has yet. */
export function freeKey(taken: Record<string, unknown>, stem: string): string {
  for (let n = 1; ; n++) if (!(stem + String(n) in taken)) return stem + String(n);
}

export const nodeKey = (job: Job, kind: Node["kind"]): string =>
  freeKey(planOf(job).nodes, STEMS[kind]);

/** The key of a way: after what it leaves, so that labels read down the drawing. */
export const wayKeyFor = (job: Job, from: string): string => freeKey(planOf(job).ways, `${from}-`);

/** A part in two halves, so that something can stand between them. */
export function halved(job: Job, way: string, k: number): Job {
  const own = planOf(job).ways[way];
  const part = own && partsOf(own)[k];
  if (!own || !part) return job;
  const half = (of: number | null | undefined): number | null =>
    of == null ? null : Number((of / 2).toPrecision(12));
  const length = half(part.length_m);
  // Bends that were measured stay where they are; the others stay with the first half.
  const [before, behind]: Bend[][] = [[], []];
  for (const bend of part.bends ?? []) {
    if (bend.at_m != null && length !== null && bend.at_m > length)
      behind?.push({ ...bend, at_m: Number((bend.at_m - length).toPrecision(12)) });
    else before?.push(bend);
  }
  const shared = { length_m: length, rise_m: half(part.rise_m) };
  const parts = partsOf(own).flatMap((p, i) =>
    i === k
      ? [
          { ...p, ...shared, bends: p.bends ? (before ?? []) : null },
          { ...p, ...shared, bends: p.bends ? (behind ?? []) : null },
        ]
      : [p],
  );
  return changeWay(job, way, { parts: parts as Part[] });
}

/** Where a part lies from now on. */
export const movePart = (job: Job, way: string, part: number, place: Place | null): Job =>
  changePart(job, way, part - 1, { place });

/** Bends as they are written: `90, 45 elbow @ 3.5, 90 body`; nothing where nobody said any. */
export function bendsText(bends: Part["bends"], shown: (m: number) => string): string {
  if (bends == null) return "";
  if (bends.length === 0) return "none";
  return bends
    .map((b) =>
      [
        String(b.deg),
        ...(b.kind === "elbow" || b.kind === "body" ? [b.kind] : []),
        ...(b.at_m == null ? [] : [`@ ${shown(b.at_m)}`]),
      ].join(" "),
    )
    .join(", ");
}

/**
 * Reads bends: angles with commas between, each perhaps with `elbow` or `body`, and with `@` and
 * how far from the beginning it is; `none` where there are none. What the bends were before keeps
 * its radius.
 */
export function readBends(
  text: string,
  before: Part["bends"],
): { value: Part["bends"] } | { wrong: string } {
  const clean = text.trim();
  if (clean === "") return { value: null };
  if (/^(none|no|0)$/i.test(clean)) return { value: [] };
  const bends: Bend[] = [];
  for (const [i, one] of clean.split(/[,;]\s*/).entries()) {
    const [angle = "", where, ...more] = one.split("@").map((t) => t.trim());
    const [, plain = "", kind] = /^(.*?)\s*(elbow|body|bent)?$/i.exec(angle) ?? [];
    const deg = read(plain.replace(/°$/, ""), undefined);
    const at = where === undefined ? { value: null } : read(where, "m");
    const astray = "wrong" in at || (where !== undefined && at.value === null);
    if ("wrong" in deg || deg.value === null || more.length > 0 || astray)
      return { wrong: `“${one.trim()}” is no bend: as 90, 45 @ 3.5, 90 body, or none` };
    const old = before?.[i];
    bends.push({
      ...(old ?? {}),
      deg: deg.value,
      kind: (kind?.toLowerCase() ?? "bent") as Bend["kind"],
      at_m: at.value,
    } as Bend);
  }
  return { value: bends };
}
