/** The roof map as it is drawn: modules of the draft, exits and verdicts of the report. */
import type {
  Area,
  Job,
  Point,
  Report,
  RoofFace,
  RoofHop,
  RoofJoin,
  RoofModule,
  RoofString,
  Verdict,
} from "../api/client";
import { branchesOf, mapOf, middle, modulesOf, stringsOf } from "./roof";
import { subjectKey } from "./subject";

type Judged = Pick<Report, "figures" | "checks">;

/** What joins and the ways from unit to unit came to, by subject. */
function judgedJoins(report: Judged) {
  const paths = new Map<string, number | null>();
  const verdicts = new Map<string, Verdict>();
  for (const { id, subject, value } of report.figures)
    if (id === "join.path_m") paths.set(subjectKey(subject), value as number | null);
  for (const { subject, verdict } of report.checks)
    if (subject.kind === "join") verdicts.set(subjectKey(subject), verdict);
  return { paths, verdicts };
}

/** Where leads and trunk leave a face for another one. */
function crossing(job: Job, face: string, other: string): Point | undefined {
  const own = mapOf(job, face).crossings?.[other]?.from_mm;
  return (own ?? mapOf(job, other).crossings?.[face]?.to_mm) as Point | undefined;
}

type Branch = ReturnType<typeof branchesOf>[number];

/** A branch's ways from unit to unit on a face; one that leaves it ends where it crosses. */
function hopsOf(
  job: Job,
  face: string,
  b: Branch,
  byKey: Map<string, RoofModule>,
  verdicts: Map<string, Verdict>,
): RoofHop[] {
  const keys = b.modules ?? [];
  const faceOf = (key: string) =>
    Object.entries(job.roof ?? {}).find(([, m]) => m.modules?.[key] !== undefined)?.[0] ?? "";
  const fedAt = (b.arms_n.length > 1 && b.arms_n[0]) || 0;
  return keys.slice(1).flatMap((before, i): RoofHop[] => {
    const after = keys[i] ?? "";
    const [a, z] = [byKey.get(after), byKey.get(before)];
    if (i + 1 === fedAt || (!a && !z)) return [];
    const from = a ? middle(a) : crossing(job, face, faceOf(after));
    const to = z ? middle(z) : crossing(job, face, faceOf(before));
    if (!from || !to) return [];
    const subject = subjectKey({ kind: "join", string: b.letter, place: i + 1 });
    const verdict = verdicts.get(subject) ?? "unknown";
    const bridged = b.bridges?.includes(after) === true;
    return [{ place: i + 1, after, from_mm: from, to_mm: to, verdict, bridged }];
  });
}

type Packed = Report["roof"][number];

/**
 * A face as it is drawn: the modules of the draft in the places they have now, with the exits and
 * the verdicts of the report.
 */
export function drawn(
  face: Packed,
  job: Job,
  report: Pick<Report, "figures" | "checks">,
): RoofFace {
  const { poses, ...rest } = face;
  const seats = new Map(
    [...stringsOf(job), ...branchesOf(job)].flatMap((s) =>
      (s.modules ?? []).map((key, i) => [key, { letter: s.letter, place: i + 1 }] as const),
    ),
  );
  const reversed = new Set(stringsOf(job).flatMap((s) => s.reversed ?? []));
  const all = [...stringsOf(job), ...branchesOf(job)];
  const pinned = new Set(all.flatMap((s) => s.pinned ?? []));
  const modules = Object.entries(modulesOf(mapOf(job, face.face))).map(([key, own]): RoofModule => {
    const [landscape, turned] = [own.landscape === true, own.turned === true];
    const lies = poses.find((p) => p.landscape === landscape && p.turned === turned);
    const [w = 0, h = 0] = lies?.size_mm ?? [];
    const exit = (mm: number[] | null | undefined): Point | null =>
      mm ? [own.x_mm + (mm[0] ?? 0), own.y_mm + (mm[1] ?? 0)] : null;
    const seat = seats.get(key);
    return {
      key,
      area_mm: [own.x_mm, own.y_mm, own.x_mm + w, own.y_mm + h],
      plus_mm: exit(lies?.plus_mm),
      minus_mm: exit(lies?.minus_mm),
      landscape,
      turned,
      string: seat?.letter ?? null,
      place: seat?.place ?? null,
      reversed: reversed.has(key),
      pinned: pinned.has(key),
      serial: own.serial ?? null,
    };
  });
  const byKey = new Map(modules.map((m) => [m.key, m]));
  const { paths, verdicts } = judgedJoins(report);
  const strings = face.strings.map((s): RoofString => {
    const own = stringsOf(job).find((o) => o.letter === s.letter);
    const keys = own?.modules ?? [];
    // A string leaves each module by its +, or all by their −; one that is reversed by the other.
    const first = own?.plus_first === true;
    const joins = keys.slice(1).flatMap((key, i): RoofJoin[] => {
      const [a, b] = [byKey.get(keys[i] ?? ""), byKey.get(key)];
      if (!a || !b) return [];
      const subject = subjectKey({ kind: "join", string: s.letter, place: i + 1 });
      return [
        {
          place: i + 1,
          after: a.key,
          before: b.key,
          from_mm: a.reversed === first ? a.plus_mm : a.minus_mm,
          to_mm: b.reversed === first ? b.minus_mm : b.plus_mm,
          verdict: verdicts.get(subject) ?? "unknown",
          path_m: paths.get(subject) ?? null,
          jumper_m: s.jumpers.find((j) => j.place === i + 1)?.m ?? null,
        },
      ];
    });
    return { ...s, on_map_n: keys.length, joins } as RoofString;
  });
  const trunks = branchesOf(job).flatMap((b) => {
    const own = face.trunks?.find((t) => t.letter === b.letter);
    const hops = hopsOf(job, face.face, b, byKey, verdicts);
    if (!own && hops.length === 0) return [];
    const feeds = (own?.feeds ?? []).flatMap(({ place }): [Point, Point][] => {
      const first = byKey.get(b.modules?.[place - 1] ?? "");
      return first && face.box_mm ? [[middle(first), face.box_mm as Point]] : [];
    });
    return [{ letter: b.letter, hops, feeds }];
  });
  return {
    ...rest,
    box_mm: face.box_mm as Point | null,
    extent_mm: face.extent_mm as Area,
    outline_mm: face.outline_mm as RoofFace["outline_mm"],
    modules,
    strings,
    trunks,
    rails: face.rails as RoofFace["rails"],
    obstructions: face.obstructions.map((o) => ({ ...o, area_mm: o.area_mm as Area })),
  };
}
