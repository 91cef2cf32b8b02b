/** Places of a plan in words: what a change means to somebody who never saw the file. */

/** Members of lists and maps, by the list's name. */
const MEMBERS: Record<string, string> = {
  strings: "String",
  branches: "Branch",
  inverters: "Inverter",
  faces: "Face",
  roof: "Roof map of face",
  nodes: "",
  ways: "Way",
  circuits: "Circuit",
  devices: "Device",
  parts: "part",
  legs: "leg",
  places: "Place for the inverter",
  obstructions: "Obstruction",
  crossings: "Crossing",
  confirmed: "Taken by habit",
  kept_sheets: "Older data sheet kept",
};

/** Rooms of the file that say nothing by themselves. */
const SILENT = new Set(["site", "plan", "settings"]);

const FIELDS: Record<string, string> = {
  t_min_c: "coldest morning",
  t_max_c: "hottest days",
  cell_rise_hot_c: "rise of the cells",
  cold_method: "method for cold volts",
  dc_enters: "building the DC enters",
  n: "modules in series",
  mppt: "input",
  modules: "modules",
  plus_first: "way round",
  arms_n: "units of each arm",
  breaker_a: "breaker",
  ocpd_a: "breaker or fuse",
  vdrop_dc_pct: "limit of voltage drop, DC",
  vdrop_ac_pct: "limit of voltage drop, AC",
  fill_limit_pct: "limit of fill",
  network_a: "threshold of the network",
  fire_paths: "free paths",
  lead_slack_m: "slack of leads",
  jumpers_m: "stock lengths of jumpers",
  trunk_sections_n: "most sections of trunk cable",
  edition: "edition of the code",
  bus_a: "busbar",
  main_a: "main breaker",
  load_breakers_a: "load breakers",
  load_calc_a: "load calculation",
  pv_at_far_end: "PV breaker at the far end",
  ambient_add_c: "warmer by",
  roof_clearance_mm: "above the roof",
  box_mm: "where the box is",
  via: "ways it takes",
  awg: "size, AWG",
  mm2: "section, mm²",
  terminal_c: "terminals",
  ways_n: "room, ways",
  latitude_deg: "latitude",
  longitude_deg: "longitude",
  yearly_min_c: "yearly minima",
  x_mm: "along the eave",
  y_mm: "up the slope",
};

const UNITS: Record<string, string> = {
  c: "°C",
  m: "m",
  mm: "mm",
  a: "A",
  v: "V",
  w: "W",
  deg: "°",
  pct: "%",
  kg: "kg",
  mm2: "",
  n: "",
};

const ending = (field: string): string => /_([a-z]+)$/.exec(field)?.[1] ?? "";

function fieldName(field: string): string {
  const known = FIELDS[field];
  if (known !== undefined) return known;
  const bare = ending(field) in UNITS ? field.slice(0, field.lastIndexOf("_")) : field;
  return bare.replaceAll("_", " ");
}

/** A path of the plan in words, from the outside in: `String A, modules in series`. */
export function placeWords(path: readonly string[]): string {
  const said: string[] = [];
  for (let i = 0; i < path.length; i++) {
    const part = path[i] ?? "";
    const next = path[i + 1];
    const member = MEMBERS[part];
    // The modules of a map are named one by one; those of a string are one list.
    if (part === "modules" && path[0] === "roof" && next !== undefined) {
      said.push(`module ${next}`);
      i += 1;
    } else if (member !== undefined && next !== undefined) {
      said.push(`${member} ${next}`.trim());
      i += 1;
    } else if (!SILENT.has(part) || next === undefined) said.push(fieldName(part));
  }
  const text = said.join(", ");
  return text.charAt(0).toUpperCase() + text.slice(1);
}

const LONGEST = 60;

/** What stands at a place, in words. */
export function placeValue(path: readonly string[], value: unknown): string {
  if (value === null || value === undefined) return "not there";
  if (typeof value === "boolean") return value ? "yes" : "no";
  if (typeof value === "number") {
    const unit = UNITS[ending(path.at(-1) ?? "")] ?? "";
    const text = String(value).replace("-", "−");
    return unit === "" ? text : unit === "°" ? `${text}°` : `${text} ${unit}`;
  }
  if (Array.isArray(value)) {
    const list = value as unknown[];
    if (list.some((v) => typeof v === "object")) return `${String(list.length)} entries`;
    return shortened(list.length === 0 ? "none" : list.map(String).join(", "));
  }
  if (typeof value === "object") return "there";
  return shortened(String(value as string).replaceAll("_", " "));
}

const shortened = (text: string): string =>
  text.length > LONGEST ? `${text.slice(0, LONGEST)}…` : text;
