import { expect, test } from "vitest";
import { apply, differences, putAt, setAt, valueAt } from "../src/model/pointer";
import { job } from "./jobs";

test("an edit leaves everything else as it was, and the old document too", () => {
  const before = job();
  const after = setAt(before, "/strings/1/n", 9);
  expect(after.strings?.[1]?.n).toBe(9);
  expect(before.strings?.[1]?.n).toBe(7);
  expect(after.strings?.[0]).toBe(before.strings?.[0]);
  expect(after.site).toBe(before.site);
});

test("edits are put in one after the other, a whole list and a place in it", () => {
  const strings = (job().strings ?? []).slice(0, 2);
  const after = apply(job(), [
    { pointer: "/strings", value: strings as never },
    { pointer: "/strings/0/n", value: 5 as never },
  ]);
  expect(after.strings?.map((s) => s.n)).toEqual([5, 7]);
});

test("a place that is not there yet is made", () => {
  expect(putAt<Record<string, unknown>>({}, "/ratings/voc_v", 39.4)).toEqual({
    ratings: { voc_v: 39.4 },
  });
  expect(valueAt({ mppts: [{ a: 1 }, { a: 2 }] }, "/mppts/1/a")).toBe(2);
  expect(valueAt({ mppts: null }, "/mppts/1/a")).toBeUndefined();
});

test("differences name the deepest place that says it", () => {
  const a = job();
  expect(differences(a, job())).toEqual([]);
  expect(differences(a, setAt(a, "/strings/2/n", 8))).toEqual(["/strings/2/n"]);
  expect(differences({ a: 1, b: [1, 2] }, { a: 1, b: [1] })).toEqual(["/b/1"]);
  expect(differences({ a: null }, { a: { b: 1 } })).toEqual(["/a"]);
});
