/** The inputs of a quick sum: what they begin with, and what is pasted for them. */
import type { Sum } from "../api/client";

export type Values = Record<string, unknown>;

export const sampled = (sum: Sum): Values =>
  Object.fromEntries(
    sum.inputs.flatMap((i) =>
      i.sample === "" || i.sample === '""' ? [] : [[i.key, JSON.parse(i.sample) as unknown]],
    ),
  );

/**
 * Lines such as `voc 39.4` or `Module Voc: 39,4 V`, or JSON, as they are pasted; what fits no input
 * is given back.
 */
export function pasted(sum: Sum, text: string): { values: Values; left: string[] } {
  try {
    const json = JSON.parse(text) as unknown;
    if (typeof json === "object" && json !== null && !Array.isArray(json)) {
      const known = Object.entries(json).filter(([k]) => sum.inputs.some((i) => i.key === k));
      const other = Object.keys(json).filter((k) => !sum.inputs.some((i) => i.key === k));
      return { values: Object.fromEntries(known), left: other };
    }
  } catch {
    // Not JSON: lines.
  }
  const values: Values = {};
  const left: string[] = [];
  const plain = (s: string) => s.toLowerCase().replace(/[^a-z0-9]/g, "");
  for (const line of text.split(/\r?\n/).filter((l) => l.trim() !== "")) {
    const match = /^(.*?)[\s:=]+(-?−?[\d.,]+|[A-Za-z][\w-]*)\s*(?:[^\d\s]*)\s*$/.exec(line.trim());
    const title = plain(match?.[1] ?? "");
    const input = sum.inputs.find(
      (i) =>
        title !== "" &&
        [plain(i.title), plain(i.key), plain(i.key.split(".").at(-1) ?? "")].includes(title),
    );
    if (!input || match?.[2] === undefined) {
      left.push(line.trim());
      continue;
    }
    const raw = match[2].replace("−", "-").replace(",", ".");
    values[input.key] = input.kind === "number" || input.kind === "count" ? Number(raw) : match[2];
  }
  return { values, left };
}
