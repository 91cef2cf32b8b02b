/** Serial numbers of the modules on the roof map. */
import type { Job, RoofFace, RoofModule } from "../api/client";
import { changeModules } from "./roof";

/** Rows whose lower edges are closer than this are one, mm. */
const ROW = 200;

/** The modules of a face as one walks along them: the row at the eave first, then back above it. */
export function walked(face: RoofFace): RoofModule[] {
  const rows: RoofModule[][] = [];
  for (const m of [...face.modules].sort((a, b) => a.area_mm[1] - b.area_mm[1])) {
    const row = rows.at(-1);
    if (row?.[0] && m.area_mm[1] - row[0].area_mm[1] < ROW) row.push(m);
    else rows.push([m]);
  }
  return rows.flatMap((row, i) => {
    const along = [...row].sort((a, b) => a.area_mm[0] - b.area_mm[0]);
    return i % 2 === 0 ? along : along.reverse();
  });
}

/** Every serial of the job, with the module that bears it. */
export const serialsOf = (job: Job): Map<string, string> =>
  new Map(
    Object.values(job.roof ?? {}).flatMap((map) =>
      Object.entries(map.modules ?? {}).flatMap(([key, m]) =>
        m.serial == null ? [] : [[m.serial, key] as const],
      ),
    ),
  );

/** The job with serials put to modules of a face. */
export const withSerials = (job: Job, face: string, serials: Record<string, string>): Job =>
  changeModules(job, face, Object.keys(serials), (own, key) => ({
    ...own,
    serial: serials[key] ?? null,
  }));

/** A pasted column: one serial a line; of several columns the first. */
export const copied = (text: string): string[] =>
  text
    .split(/\r?\n/)
    .map((line) => line.split(/[\t;,]/)[0]?.trim() ?? "")
    .filter(Boolean);
