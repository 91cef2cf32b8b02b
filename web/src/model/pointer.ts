/** Edits of the job by JSON pointer; nothing is changed in place. */
import type { Edit, Job } from "../api/client";

type Node = Record<string, unknown> | unknown[];

function put(node: unknown, path: string[], value: unknown): unknown {
  const [head, ...rest] = path;
  if (head === undefined) return value;
  if (Array.isArray(node)) {
    const copy = [...(node as unknown[])];
    copy[Number(head)] = put(copy[Number(head)], rest, value);
    return copy;
  }
  const object = (node ?? {}) as Record<string, unknown>;
  return { ...object, [head]: put(object[head], rest, value) };
}

/** Any document with one value put in. */
export const putAt = <T>(document: T, pointer: string, value: unknown): T =>
  put(document, pointer.split("/").slice(1), value) as T;

/** The value at a pointer. */
export const valueAt = (document: unknown, pointer: string): unknown =>
  pointer
    .split("/")
    .slice(1)
    .reduce<unknown>(
      (at, key) => (at as Record<string, unknown> | null | undefined)?.[key],
      document,
    );

export const setAt = (job: Job, pointer: string, value: unknown): Job =>
  put(job, pointer.split("/").slice(1), value) as Job;

export const apply = (job: Job, edits: Edit[]): Job =>
  edits.reduce((next, edit) => setAt(next, edit.pointer, edit.value), job);

/** Pointers at which two documents differ, the deepest place that says it. */
export function differences(a: unknown, b: unknown, at = ""): string[] {
  if (Object.is(a, b)) return [];
  if (typeof a !== "object" || typeof b !== "object" || a === null || b === null) return [at];
  const [left, right] = [a as Node, b as Node];
  const keys = new Set([...Object.keys(left), ...Object.keys(right)]);
  return [...keys].flatMap((key) =>
    differences(
      (left as Record<string, unknown>)[key],
      (right as Record<string, unknown>)[key],
      `${at}/${key}`,
    ),
  );
}
