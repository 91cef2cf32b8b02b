/** Lengths at the edge: metres inside, feet where the school measures in feet. */
import type { Job } from "../api/client";
import { FEET, plain } from "./format";

export const lengthUnit = (school: Job["school"]): string => (school === "na" ? "ft" : "m");

/** From what is shown to what is kept. */
export const lengthFactor = (school: Job["school"]): number => (school === "na" ? FEET : 1);

export const lengthText = (metres: number, school: Job["school"]): string =>
  `${plain(metres / lengthFactor(school), school === "na" ? 0 : 1)} ${lengthUnit(school)}`;
