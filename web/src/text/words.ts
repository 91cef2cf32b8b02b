/** The trade's words, by school where they differ. */
import type { Job, Segment } from "../api/client";

type School = Job["school"];

export const SCHOOL: Record<School, string> = { na: "North American", iec: "IEC" };

export const STAGES = [
  { key: "site", name: "Site", built: true },
  { key: "equipment", name: "Equipment", built: true },
  { key: "strings", name: "Strings", built: true },
  { key: "roof", name: "Roof map", built: false },
  { key: "runs", name: "Runs", built: true },
  { key: "protection", name: "Protection", built: false },
  { key: "earth", name: "Earth", built: false },
  { key: "packlist", name: "Pack list", built: false },
  { key: "test", name: "Test", built: true },
  { key: "handover", name: "Hand over", built: true },
] as const;

export type StageKey = (typeof STAGES)[number]["key"];

export const stageName = (key: StageKey, school: School): string =>
  key === "earth" && school === "na" ? "Ground" : (STAGES.find((s) => s.key === key)?.name ?? key);

export const PLACES: Record<Segment["place"], string> = {
  under_modules: "Roof, under modules",
  roof_sun: "Roof, in the sun",
  roof_shade: "Roof, in shade",
  attic: "Attic",
  inside: "Inside",
  cavity: "Wall cavity",
  garage: "Garage or shed",
  outside_wall_sun: "Outside wall, in the sun",
  outside_wall_shade: "Outside wall, in shade",
  sheltered: "Under eave or porch",
  underground: "Underground",
};

export const placeName = (place: Segment["place"], school: School): string =>
  place === "attic" && school === "iec" ? "Loft" : PLACES[place];

export const RACEWAYS: Record<string, string> = {
  emt: "EMT",
  rmc: "RMC",
  imc: "IMC",
  pvc40: "PVC 40",
  pvc80: "PVC 80",
  fmc: "FMC",
  lfmc: "LFMC",
  medium: "medium",
  heavy: "heavy",
};

export const racewayText = (raceway: { kind: string; size: string }): string =>
  `${RACEWAYS[raceway.kind] ?? raceway.kind} ${raceway.size}`;

export const MOUNTINGS = [
  ["", "not said yet"],
  ["flush", "flush with the roof"],
  ["raised", "raised or tilted"],
  ["ground", "ground or pole"],
] as const;

export const BUILDINGS: Record<string, string> = {
  dwelling_1_2: "1- or 2-family dwelling",
  other_roof: "roof of another building",
  building: "on a building",
  ground: "ground mount",
};

export const COLD_METHODS: Record<School, Record<string, string>> = {
  na: { coefficient: "module coefficient", table: "table 690.7(A)" },
  iec: { coefficient: "module coefficient", table: "correction table", factor: "fixed factor 1.15" },
};

export const CABLES: Record<string, string> = { solar: "solar cable", pvc70: "PVC 70 °C", xlpe90: "XLPE 90 °C" };

export const ROLES: Record<string, string> = {
  owner: "owner: all, and who may sign in",
  designer: "designer: plans and reads",
  field: "field: adds readings",
  viewer: "viewer: looks",
};

/** One line, at the step it belongs to. */
export const SAFETY: Partial<Record<StageKey, string>> = {
  site: "A colder morning than entered means more volts than planned: take the record, not a mild year.",
  equipment: "The maker's data sheet of the very module and inverter on site goes before every library.",
  strings: "Above the DC limit the inverter is damaged the first cold, bright morning.",
  runs: "DC arcs do not stop by themselves. Prove dead before a raceway or box is opened.",
  test: "Isolator open, inverter off. Both leads are live in any light: covered probes, one hand where you can.",
  handover: "The local code, the authority and a licensed person have the last word.",
};
