/** What the core says of every figure and unit, as it was when this was built. */
import type { Stage, Unit } from "../api/client";
import catalogue from "../api/catalogue.json";

interface Card {
  title: string;
  stage: Stage;
  na: string;
  iec: string;
  unit: Unit;
}

interface Format {
  sign: string;
  /** Decimals below a hundred, and from there on. */
  decimals: [number, number];
}

export const CARDS = catalogue.cards as Record<string, Card | undefined>;
export const FORMATS = catalogue.formats as unknown as Record<Unit, Format | undefined>;

/** A way to write a unit: kept = typed × factor + offset. */
export interface Spelling {
  unit: Unit;
  /** Lower case; the first is how it is shown. */
  words: string[];
  factor: number;
  offset: number;
  decimals: number;
}

export const SPELLINGS = catalogue.spellings as unknown as Spelling[];

const FIELDS = catalogue.fields as Record<string, string | undefined>;

/** An input that is missing, in words; what stands in no list by the last part of its name. */
export const fieldTitle = (field: string): string =>
  FIELDS[field] ?? (field.split(".").at(-1) ?? field).replaceAll("_", " ");
