/** Serial numbers of the modules on the roof map. */
import Papa from "papaparse";
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
    serial: serials[key] || null,
  }));

/** What a module is called: its string and place, or its key. */
export const nameOf = (m: Pick<RoofModule, "string" | "place" | "key">): string =>
  m.string === null ? m.key : `${m.string}${String(m.place)}`;

const COLUMNS = ["face", "place", "module", "serial"];

/** The serial map as CSV, in walking order. */
export const asCsv = (faces: RoofFace[]): string =>
  Papa.unparse(
    {
      fields: COLUMNS,
      data: faces.flatMap((f) => walked(f).map((m) => [f.name, nameOf(m), m.key, m.serial ?? ""])),
    },
    // A spreadsheet would compute what begins like a formula.
    { escapeFormulae: true },
  );

/** A cell without the apostrophe that an export puts before what begins like a formula. */
const unescaped = (cell: string): string => cell.replace(/^'(?=[=+\-@\t\r])/, "").trim();

/**
 * Serials of a CSV by module: a column `serial`, and one `module` or `place`. Says what is wrong
 * with it, and on which line.
 */
export function fromCsv(text: string, faces: RoofFace[]): Record<string, string> | string {
  const { data, meta } = Papa.parse<Record<string, string>>(text.trim(), {
    header: true,
    skipEmptyLines: true,
    transformHeader: (name) => name.trim().toLowerCase(),
  });
  const has = (name: string) => meta.fields?.includes(name) === true;
  if (!has("serial") || !(has("module") || has("place")))
    return "The first line names the columns: serial, and module or place.";
  const byName = new Map(
    faces.flatMap((f) =>
      f.modules.flatMap((m) => [[m.key, m.key] as const, [nameOf(m), m.key] as const]),
    ),
  );
  const found: Record<string, string> = {};
  for (const [i, row] of data.entries()) {
    const serial = unescaped(row["serial"] ?? "");
    const named = unescaped(row["module"] ?? row["place"] ?? "");
    const key = byName.get(named) ?? byName.get(unescaped(row["place"] ?? ""));
    if (serial === "") continue;
    if (key === undefined) return `Line ${String(i + 2)}: no module ${named} on the map.`;
    found[key] = serial;
  }
  return found;
}

/** A pasted column: one serial a line; of several columns the first. */
export const copied = (text: string): string[] =>
  text
    .split(/\r?\n/)
    .map((line) => line.split(/[\t;,]/)[0]?.trim() ?? "")
    .filter(Boolean);
