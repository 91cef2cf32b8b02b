/**
 * Numbers as people type them: `60' 6"`, `60 ft`, `450 mm`, `-11 °F`, a pitch of `4/12`, a decimal
 * comma. What comes out is in the unit that is kept.
 */
import type { Unit } from "../api/client";
import { SPELLINGS, type Spelling } from "./catalogue";
import { shownAs } from "./shown";

export type Typed = { value: number | null } | { wrong: string };

const NUMBER = String.raw`\d+(?:\.\d*)?|\.\d+`;
/** A number, perhaps with a fraction behind it (`6 1/2`), and the word of its unit. */
const TERM = new RegExp(
  String.raw`\s*(?:(\d+)\s*/\s*(\d+)|(${NUMBER})(?:[\s-]+(\d+)\s*/\s*(\d+))?)\s*([^\d\s.,+/-]+)?`,
  "iy",
);

const AS: Partial<Record<Unit, string>> = {
  m: "as 18.3 m, 60 ft, 60' 6\" or 450 mm",
  mm: "as 450 mm, 45 cm or 17 3/4 in",
  degC: "as −12 °C or 10 °F",
  K: "as 20 K or 36 °F",
  deg: "as 18.4° or a pitch of 4/12",
  kg: "as 20 kg or 44 lb",
};

/**
 * Reads what was typed. `sign` is what stands behind the field and may be typed too; what has no
 * unit is `usual`.
 */
export function read(
  text: string,
  kept: Unit | undefined,
  sign = "",
  usual: Spelling | undefined = kept && shownAs(kept),
): Typed {
  const clean = text.trim().replaceAll("−", "-").replaceAll(",", ".");
  if (clean === "") return { value: null };
  const wrong = {
    wrong: kept && AS[kept] ? `“${text}” cannot be read: ${AS[kept]}` : `“${text}” is no number`,
  };
  const minus = /^-/.test(clean);
  const rest = clean.replace(/^[-+]\s*/, "");
  if (kept === "deg") {
    const pitch = /^(\d+(?:\.\d+)?)\s*(?:\/|:|in)\s*(\d+(?:\.\d+)?)$/.exec(rest);
    if (pitch) {
      const [rise, run] = [Number(pitch[1]), Number(pitch[2])];
      if (run === 0) return wrong;
      // As many decimals as a level shows.
      return { value: Number(((Math.atan2(rise, run) * 180) / Math.PI).toFixed(2)) };
    }
  }
  const own = [sign.toLowerCase(), ...(kept === "deg" ? ["°", "deg"] : [])].filter(Boolean);
  let sum = 0;
  let offset = 0;
  let terms = 0;
  let feet = false;
  TERM.lastIndex = 0;
  while (TERM.lastIndex < rest.length) {
    const found = TERM.exec(rest);
    if (!found) return wrong;
    const [, alone, under, whole, top, bottom, unit] = found;
    if (Number(bottom ?? 1) === 0 || Number(under ?? 1) === 0) return wrong;
    const n =
      Number(whole ?? 0) +
      (top ? Number(top) / Number(bottom) : 0) +
      (alone ? Number(alone) / Number(under) : 0);
    const word = unit?.toLowerCase();
    // What stands behind feet without a unit is inches.
    const inches: string | undefined = word === undefined && feet ? "in" : word;
    const spelled: Spelling | undefined =
      inches === undefined
        ? usual
        : SPELLINGS.find((s) => s.unit === kept && s.words.includes(inches));
    if (inches !== undefined && !spelled && !own.includes(inches)) return wrong;
    sum += n * (spelled?.factor ?? 1);
    offset = spelled?.offset ?? 0;
    feet = spelled?.words.includes("ft") ?? false;
    terms += 1;
  }
  // Only lengths are put together of several units.
  if (terms === 0 || (terms > 1 && kept !== "m" && kept !== "mm")) return wrong;
  return { value: tidy((minus ? -sum : sum) + offset) };
}

/** Without what binary fractions add behind the twelfth digit. */
const tidy = (value: number): number => Number(value.toPrecision(12));
