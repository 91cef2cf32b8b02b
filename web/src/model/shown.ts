/**
 * What units are shown: by what somebody chose, else by the company, else by the school. It holds
 * for the job in hand; pages outside a job show what is kept.
 */
import type { Job, Shown, ShownTo, Unit } from "../api/client";
import { SPELLINGS, type Spelling } from "./catalogue";

export const spelling = (unit: Unit, word: string | undefined): Spelling | undefined =>
  SPELLINGS.find((s) => s.unit === unit && s.words[0] === word);

let shown: Partial<Record<Unit, Spelling | undefined>> = {};

/** Shows units as a job of this school is shown to somebody; without a school as they are kept. */
export function showFor(school: Job["school"] | null, to?: ShownTo): void {
  if (school === null) {
    shown = {};
    return;
  }
  const chosen = <K extends keyof Shown>(key: K): Shown[K] => to?.own[key] ?? to?.company[key];
  const feet = (chosen("length") ?? (school === "na" ? "ft" : "m")) === "ft";
  const fahrenheit = chosen("temperature") === "f";
  shown = {
    m: feet ? spelling("m", "ft") : undefined,
    degC: fahrenheit ? spelling("degC", "°f") : undefined,
    K: fahrenheit ? spelling("K", "°f") : undefined,
  };
}

/** How values of a unit are shown; nothing where it is as they are kept. */
export const shownAs = (unit: Unit): Spelling | undefined => shown[unit];

/** The sign of a spelling: degrees in capitals. */
export const signOf = (s: Spelling): string =>
  (s.words[0] ?? "").replace("°f", "°F").replace("°c", "°C");

/** From what is kept to what is shown. */
export const toShown = (value: number, s: Spelling): number => (value - s.offset) / s.factor;

/** The word of lengths as they are shown, for what is kept in other parts of a metre. */
export const lengthWord = (): "ft" | "m" => (shownAs("m") ? "ft" : "m");
