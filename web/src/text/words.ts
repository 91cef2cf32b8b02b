/** The trade's words, by school where they differ. */
import type { Circuit, Device, Job, Node, Part } from "../api/client";

type School = Job["school"];

export const SCHOOL: Record<School, string> = { na: "North American", iec: "IEC" };

export type Place = NonNullable<Part["place"]>;

export const PLACES: Record<Place, string> = {
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

export const placeName = (place: Place | null | undefined, school: School): string =>
  place == null ? "Place not said" : place === "attic" && school === "iec" ? "Loft" : PLACES[place];

export const NODES: Record<Node["kind"], string> = {
  array: "Array",
  roof_box: "Roof box",
  pull_box: "Pull box",
  junction_box: "Junction box",
  tee: "Tee",
  combiner: "Combiner",
  isolator: "Isolator",
  enclosure: "Enclosure",
  inverter: "Inverter",
  panel: "Panel",
  meter: "Meter",
  electrode: "Earth electrode",
};

export const DEVICES: Record<Device["what"], string> = {
  breaker: "Breaker",
  fuse: "Fuse",
  isolator: "Isolator",
  surge_device: "Surge device",
  rcd: "Residual-current device",
  bus: "Busbar",
  earth_bar: "Earth bar",
  meter: "Meter",
  current_transformer: "Current transformer",
  shutdown_starter: "Starter of the rapid shutdown",
};

export const CIRCUITS: Record<Circuit["kind"], string> = {
  pv_string: "String",
  pv_output: "Combined strings",
  inverter_out: "Inverter output",
  micro_branch: "Branch",
  ac_feeder: "Feeder",
  bond: "Bonding conductor",
  control: "Communication",
};

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
  iec: {
    coefficient: "module coefficient",
    table: "correction table",
    factor: "fixed factor 1.15",
  },
};

export const CABLES: Record<string, string> = {
  solar: "solar cable",
  pvc70: "PVC 70 °C",
  xlpe90: "XLPE 90 °C",
};

export const ROLES: Record<string, string> = {
  owner: "owner: all, and who may sign in",
  designer: "designer: plans and reads",
  field: "field: adds readings",
  viewer: "viewer: looks at every job",
  inspector: "inspector: looks at the jobs given",
};
