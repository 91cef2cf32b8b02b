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
