/** Edits of the roof map: faces, modules as they lie, the order of strings. */
import type {
  Area,
  FaceMap,
  Job,
  Placed,
  Point,
  Report,
  RoofFace,
  RoofJoin,
  RoofModule,
  RoofString,
} from "../api/client";
import { subjectKey } from "./subject";

type StringOf = NonNullable<Job["strings"]>[number];

const stringsOf = (job: Job): StringOf[] => job.strings ?? [];
export const mapOf = (job: Job, face: string): FaceMap => job.roof?.[face] ?? {};
const modulesOf = (map: FaceMap): Record<string, Placed> => map.modules ?? {};

export const changeFace = (job: Job, face: string, change: Partial<FaceMap>): Job => ({
  ...job,
  roof: { ...job.roof, [face]: { ...mapOf(job, face), ...change } },
});

const withStrings = (job: Job, change: (s: StringOf) => StringOf): Job => ({
  ...job,
  strings: stringsOf(job).map(change),
});

/** Jumpers of joins that are no longer there go with them. */
function ordered(s: StringOf, modules: string[]): StringOf {
  const behind = (list: string[], key: string) => list[list.indexOf(key) + 1];
  const before = s.modules ?? [];
  const jumpers = Object.entries(s.jumpers ?? {}).filter(
    ([key]) => modules.includes(key) && behind(modules, key) === behind(before, key),
  );
  const reversed = (s.reversed ?? []).filter((key) => modules.includes(key));
  return { ...s, modules, reversed, jumpers: Object.fromEntries(jumpers) };
}

/** The modules of a face, some of them changed. */
export const changeModules = (
  job: Job,
  face: string,
  keys: string[],
  change: (own: Placed, key: string) => Placed,
): Job =>
  changeFace(job, face, {
    modules: Object.fromEntries(
      Object.entries(modulesOf(mapOf(job, face))).map(([key, own]) => [
        key,
        keys.includes(key) ? change(own, key) : own,
      ]),
    ),
  });

/**
 * Half a turn for each of the modules. Joins stay where they are: the other lead of a turned module
 * comes to lie there, which is a stop until it is turned back or its leads are crossed.
 */
export function turn(job: Job, face: string, keys: string[]): Job {
  const turned = changeModules(job, face, keys, (own) => ({ ...own, turned: !own.turned }));
  return withStrings(turned, (s) => {
    const own = keys.filter((k) => s.modules?.includes(k));
    const before = s.reversed ?? [];
    const reversed = [
      ...before.filter((k) => !own.includes(k)),
      ...own.filter((k) => !before.includes(k)),
    ];
    return own.length === 0 ? s : { ...s, reversed };
  });
}

/** A quarter turn for each of the modules. */
export const tip = (job: Job, face: string, keys: string[]): Job =>
  changeModules(job, face, keys, (own) => ({ ...own, landscape: !own.landscape }));

export const move = (job: Job, face: string, keys: string[], [dx, dy]: Point): Job =>
  changeModules(job, face, keys, (own) => ({
    ...own,
    x_mm: own.x_mm + dx,
    y_mm: own.y_mm + dy,
  }));

/** Modules off the map, and out of their strings. */
export function takeOff(job: Job, face: string, keys: string[]): Job {
  const modules = Object.entries(modulesOf(mapOf(job, face))).filter(([k]) => !keys.includes(k));
  const rest = changeFace(job, face, { modules: Object.fromEntries(modules) });
  return withStrings(rest, (s) =>
    s.modules?.some((m) => keys.includes(m)) === true
      ? ordered(
          s,
          s.modules.filter((m) => !keys.includes(m)),
        )
      : s,
  );
}

/** One module more, under a key that is free in the whole job. */
export function add(job: Job, face: string, placed: Placed): { job: Job; key: string } {
  const taken = new Set(Object.values(job.roof ?? {}).flatMap((m) => Object.keys(modulesOf(m))));
  const named = (n: number) => `${face}-${String(n).padStart(3, "0")}`;
  let n = 1;
  while (taken.has(named(n))) n++;
  const modules = { ...modulesOf(mapOf(job, face)), [named(n)]: placed };
  return { job: changeFace(job, face, { modules }), key: named(n) };
}

/**
 * A module joined behind the last of a string; out of any other. The last one of the string is
 * taken out of it again.
 */
export function joinNext(job: Job, letter: string, key: string): Job {
  return withStrings(job, (s) => {
    const own = s.modules ?? [];
    if (s.letter === letter) {
      if (own.at(-1) === key) return ordered(s, own.slice(0, -1));
      return ordered(s, [...own.filter((m) => m !== key), key]);
    }
    return own.includes(key)
      ? ordered(
          s,
          own.filter((m) => m !== key),
        )
      : s;
  });
}

/** All joins of a string loosened. */
export const loosen = (job: Job, letter: string): Job =>
  withStrings(job, (s) =>
    s.letter === letter ? { ...s, modules: [], reversed: [], jumpers: {} } : s,
  );

const middle = ({ area_mm: [l, b, r, t] }: RoofModule): Point => [(l + r) / 2, (b + t) / 2];

/** The nearest module in a direction: straight ahead before to the side. */
export function beside(face: RoofFace, from: string, [dx, dy]: Point): string | undefined {
  const own = face.modules.find((m) => m.key === from);
  if (!own) return face.modules[0]?.key;
  const [x, y] = middle(own);
  let best: { key: string; far: number } | undefined;
  for (const m of face.modules) {
    const [mx, my] = middle(m);
    const ahead = (mx - x) * dx + (my - y) * dy;
    const aside = Math.abs((mx - x) * dy) + Math.abs((my - y) * dx);
    if (m.key === from || ahead < 100) continue;
    const far = ahead + 3 * aside;
    if (!best || far < best.far) best = { key: m.key, far };
  }
  return best?.key;
}

/** How near two edges must come to hold together, mm. */
const SNAP = 80;

/** A move that brings edges of what is moved into line, or a gap beside, what lies still. */
export function snapped(face: RoofFace, keys: string[], [dx, dy]: Point, gap: number): Point {
  const moved = face.modules.filter((m) => keys.includes(m.key));
  const still = face.modules.filter((m) => !keys.includes(m.key));
  const nearest = (low: 0 | 1, by: number) => {
    const high = (low + 2) as 2 | 3;
    let best = by;
    let off = SNAP;
    for (const a of moved) {
      for (const b of still) {
        const shifts = [
          b.area_mm[low] - a.area_mm[low],
          b.area_mm[high] + gap - a.area_mm[low],
          b.area_mm[low] - gap - a.area_mm[high],
        ];
        for (const shift of shifts) {
          if (Math.abs(shift - by) < off) [best, off] = [shift, Math.abs(shift - by)];
        }
      }
    }
    return best;
  };
  return [Math.round(nearest(0, dx)), Math.round(nearest(1, dy))];
}

/** Whether a module's middle lies in a box drawn by hand. */
export function within(face: RoofFace, [x0, y0]: Point, [x1, y1]: Point): string[] {
  const between = (v: number, a: number, b: number) => v >= Math.min(a, b) && v <= Math.max(a, b);
  return face.modules
    .filter((m) => {
      const [x, y] = middle(m);
      return between(x, x0, x1) && between(y, y0, y1);
    })
    .map((m) => m.key);
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
    stringsOf(job).flatMap((s) =>
      (s.modules ?? []).map((key, i) => [key, { s, place: i + 1 }] as const),
    ),
  );
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
      string: seat?.s.letter ?? null,
      place: seat?.place ?? null,
      reversed: seat?.s.reversed?.includes(key) === true,
      serial: own.serial ?? null,
    };
  });
  const byKey = new Map(modules.map((m) => [m.key, m]));
  const isPath = ({ id }: { id: string }) => id === "join.path_m";
  const paths = new Map(
    report.figures.filter(isPath).map((f) => [subjectKey(f.subject), f.value as number | null]),
  );
  const verdicts = new Map(
    report.checks.filter(isPath).map((c) => [subjectKey(c.subject), c.verdict]),
  );
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
  return {
    ...rest,
    box_mm: face.box_mm as Point | null,
    extent_mm: face.extent_mm as Area,
    outline_mm: face.outline_mm as RoofFace["outline_mm"],
    modules,
    strings,
    obstructions: face.obstructions.map((o) => ({ ...o, area_mm: o.area_mm as Area })),
  };
}
