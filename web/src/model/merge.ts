/**
 * Two edits of one job put together, where they touch different things: two people on two roofs,
 * one scanning serial numbers while the other moves modules.
 */
import type { Job } from "../api/client";
import { differences } from "./pointer";

type Tree = Record<string, unknown>;

const isTree = (value: unknown): value is Tree =>
  typeof value === "object" && value !== null && !Array.isArray(value);

/** Without what says nothing: absent, null and empty are one. */
function plain(value: unknown): unknown {
  if (Array.isArray(value)) return value.length === 0 ? undefined : value.map(plain);
  if (!isTree(value)) return value ?? undefined;
  const said = Object.entries(value)
    .map(([key, own]) => [key, plain(own)] as const)
    .filter(([, own]) => own !== undefined);
  return said.length === 0 ? undefined : Object.fromEntries(said);
}

const same = (a: unknown, b: unknown): boolean => differences(plain(a), plain(b)).length === 0;

/** What neither changed, or one of them did, at every leaf; undefined marks what both changed. */
function joined(base: unknown, mine: unknown, theirs: unknown): { value: unknown } | undefined {
  if (same(mine, base) || same(mine, theirs)) return { value: theirs };
  if (same(theirs, base)) return { value: mine };
  if (!isTree(base) || !isTree(mine) || !isTree(theirs)) return undefined;
  const whole: Tree = {};
  for (const key of new Set([...Object.keys(theirs), ...Object.keys(mine)])) {
    const part = joined(base[key], mine[key], theirs[key]);
    if (!part) return undefined;
    if (part.value !== undefined) whole[key] = part.value;
  }
  return { value: whole };
}

/**
 * Both edits in one job; null where they touch the same thing, or neither keeps to the roof map:
 * what was planned elsewhere is for a person to weigh.
 */
export function merged(base: Job, mine: Job, theirs: Job): Job | null {
  const onRoof = (job: Job) =>
    differences(plain(base), plain(job)).every((pointer) => pointer.startsWith("/roof"));
  if (!onRoof(mine) && !onRoof(theirs)) return null;
  return (joined(base, mine, theirs)?.value as Job | undefined) ?? null;
}
