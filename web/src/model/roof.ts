/** Edits of the roof map: faces, modules as they lie, the order of strings. */
import type { FaceMap, Job, Placed, Point, RoofFace, RoofModule } from "../api/client";

type StringOf = NonNullable<Job["strings"]>[number];
type BranchOf = NonNullable<Job["branches"]>[number];

export const stringsOf = (job: Job): StringOf[] => job.strings ?? [];
export const branchesOf = (job: Job): BranchOf[] => job.branches ?? [];
export const mapOf = (job: Job, face: string): FaceMap => job.roof?.[face] ?? {};
export const modulesOf = (map: FaceMap): Record<string, Placed> => map.modules ?? {};

export const changeFace = (job: Job, face: string, change: Partial<FaceMap>): Job => ({
  ...job,
  roof: { ...job.roof, [face]: { ...mapOf(job, face), ...change } },
});

const withStrings = (job: Job, change: (s: StringOf) => StringOf): Job => ({
  ...job,
  strings: stringsOf(job).map(change),
});

/** Whether the module behind a key is still the one that was there. */
const joinedAsBefore = (before: string[], after: string[]) => (key: string) =>
  after.includes(key) && after[after.indexOf(key) + 1] === before[before.indexOf(key) + 1];

/** Jumpers of joins that are no longer there go with them. */
function ordered(s: StringOf, modules: string[]): StringOf {
  const stays = joinedAsBefore(s.modules ?? [], modules);
  const jumpers = Object.entries(s.jumpers ?? {}).filter(([key]) => stays(key));
  const still = (list: string[] | undefined) => (list ?? []).filter((k) => modules.includes(k));
  const [reversed, pinned] = [still(s.reversed), still(s.pinned)];
  return { ...s, modules, reversed, pinned, jumpers: Object.fromEntries(jumpers) };
}

/** The modules of strings and branches in another order; what hung on a join that is gone goes. */
const withOrder = (job: Job, order: (own: string[], letter: string) => string[]): Job => ({
  ...withStrings(job, (s) => {
    const own = s.modules ?? [];
    const next = order(own, s.letter);
    return next === own ? s : ordered(s, next);
  }),
  ...(job.branches && {
    branches: job.branches.map((b) => {
      const own = b.modules ?? [];
      const next = order(own, b.letter);
      if (next === own) return b;
      const bridges = (b.bridges ?? []).filter(joinedAsBefore(own, next));
      const pinned = (b.pinned ?? []).filter((k) => next.includes(k));
      return { ...b, modules: next, bridges, pinned };
    }),
  }),
});

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

const without = (own: string[], gone: string[]): string[] =>
  own.some((m) => gone.includes(m)) ? own.filter((m) => !gone.includes(m)) : own;

/** Modules off the map, and out of their strings and branches. */
export function takeOff(job: Job, face: string, keys: string[]): Job {
  const modules = Object.entries(modulesOf(mapOf(job, face))).filter(([k]) => !keys.includes(k));
  const rest = changeFace(job, face, { modules: Object.fromEntries(modules) });
  return withOrder(rest, (own) => without(own, keys));
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
 * A module joined behind the last of a string or branch; out of any other. The last one of it is
 * taken out of it again.
 */
export const joinNext = (job: Job, letter: string, key: string): Job =>
  withOrder(job, (own, of) => {
    if (of !== letter) return without(own, [key]);
    if (own.at(-1) === key) return own.slice(0, -1);
    return [...own.filter((m) => m !== key), key];
  });

/** All joins of a string or branch loosened. */
export function loosen(job: Job, letter: string): Job {
  const loose = withOrder(job, (own, of) => (of === letter && own.length > 0 ? [] : own));
  return withStrings(loose, (s) =>
    s.letter === letter ? { ...s, reversed: [], pinned: [], jumpers: {} } : s,
  );
}

/** Modules pinned to their strings and branches; where all are, their pins come off. */
export function pin(job: Job, keys: string[]): Job {
  const all = [...stringsOf(job), ...branchesOf(job)];
  const joined = keys.filter((k) => all.some((s) => s.modules?.includes(k)));
  const off = joined.every((k) => all.some((s) => s.pinned?.includes(k)));
  const put = <S extends { modules?: string[]; pinned?: string[] }>(s: S): S => {
    const own = joined.filter((k) => s.modules?.includes(k));
    if (own.length === 0) return s;
    const rest = (s.pinned ?? []).filter((k) => !own.includes(k));
    return { ...s, pinned: off ? rest : [...rest, ...own] };
  };
  return {
    ...job,
    strings: stringsOf(job).map(put),
    ...(job.branches && { branches: job.branches.map(put) }),
  };
}

/** Modules brought into one line with the first of them: along the eave, or up the slope. */
export function align(job: Job, face: string, keys: string[], along: "row" | "column"): Job {
  const first = modulesOf(mapOf(job, face))[keys[0] ?? ""];
  if (!first) return job;
  return changeModules(job, face, keys, (own) =>
    along === "row" ? { ...own, y_mm: first.y_mm } : { ...own, x_mm: first.x_mm },
  );
}

/** Where a module more would lie: right of the last of the topmost row. */
export function besideLast(face: RoofFace): Placed {
  const last = [...face.modules].sort(
    (a, b) => a.area_mm[1] - b.area_mm[1] || a.area_mm[0] - b.area_mm[0],
  );
  const end = last.at(-1);
  if (!end) return { x_mm: 0, y_mm: 0 };
  return { x_mm: end.area_mm[2] + face.gap_mm, y_mm: end.area_mm[1], landscape: end.landscape };
}

export const middle = ({ area_mm: [l, b, r, t] }: RoofModule): Point => [(l + r) / 2, (b + t) / 2];

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
