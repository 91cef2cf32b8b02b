/** Lengths as they are pasted from a list: one a line, what stands before a length is its name. */
import { read } from "./typed";

export type Pasted = { lengths: number[]; units: string } | { wrong: string };

/** A length at the end of a line, with its unit where it has one. */
const AT_END =
  /^(.*?)[\s:;,\t]*(-?−?\d[\d.,/\s]*(?:(?:ft|feet|foot|m|mm|cm|in|'|′|"|″)[\s\d./"″in]*)?)$/i;

const UNIT = /ft|feet|foot|'|′/i;
const METRIC = /(?:^|[\d\s])(?:m|mm|cm)$/i;
const INCHES = /(?:in|"|″)$/i;

/**
 * Reads a pasted list. Lines all have a unit, or none has one: a bare number among feet and metres
 * could be either, and is refused with its line.
 */
export function pastedLengths(text: string): Pasted {
  const lines = text
    .split(/\r?\n/)
    .map((line, i) => ({ n: i + 1, text: line.trim() }))
    .filter((l) => l.text !== "");
  if (lines.length === 0) return { wrong: "There is nothing to read: one length a line." };
  const lengths: number[] = [];
  const bare: { n: number; text: string }[] = [];
  const units = new Set<string>();
  for (const line of lines) {
    const typed = AT_END.exec(line.text)?.[2]?.trim();
    const found = typed === undefined ? undefined : read(typed, "m");
    if (typed === undefined || !found || "wrong" in found || found.value === null)
      return {
        wrong: `Line ${String(line.n)}, “${line.text}”: no length; as attic 20 ft or 6.1 m`,
      };
    if (found.value < 0)
      return { wrong: `Line ${String(line.n)}, “${line.text}”: a length is not below nought` };
    if (UNIT.test(typed)) units.add("feet");
    else if (METRIC.test(typed)) units.add("metres");
    else if (INCHES.test(typed)) units.add("inches");
    else bare.push(line);
    lengths.push(found.value);
  }
  const [first] = bare;
  if (first && units.size > 0)
    return {
      wrong:
        `Line ${String(first.n)}, “${first.text}”, has no unit, and others are in ` +
        `${[...units].join(" and ")}: write ft or m behind each.`,
    };
  return { lengths, units: [...units].join(" and ") };
}
