import { expect, test } from "vitest";
import type { Edit, Job } from "../src/api/client";
import { apply, differences, keyedPath, putAt, setAt, valueAt } from "../src/model/pointer";
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

test("an edit finds its member by key, and never a neighbour", () => {
  const before = job();
  const fewer = { ...before, strings: (before.strings ?? []).slice(1) };
  const cure = [{ pointer: "/strings/B/n", value: 5 as never }];
  expect(apply(fewer, cure).strings?.map((s) => `${s.letter}${String(s.n)}`)).toEqual(["B5", "C7"]);
  const gone = { ...before, strings: (before.strings ?? []).slice(2) };
  expect(apply(gone, cure)).toEqual(gone);
  // A key that reads as a number is a key first.
  const numbered = { ...before, inverters: [{ id: "1" }, { id: "0" }] as never };
  const named = [{ pointer: "/inverters/0/name", value: "second" as never }];
  expect(apply(numbered, named).inverters?.[1]).toEqual({ id: "0", name: "second" });
  // A way that is taken out by now is not made anew by a cure.
  const size = [{ pointer: "/plan/ways/w9/parts/0/raceway/size", value: "1" as never }];
  expect(apply(before, size)).toBe(before);
});

test("a part is the same part only while its list has not moved", () => {
  const saved = job();
  const size = [{ pointer: "/plan/ways/DC1/parts/1/raceway/size", value: "2" as never }];
  const sizes = (of: typeof saved) =>
    of.plan?.ways["DC1"]?.parts?.map((p) => p.raceway?.size ?? "none");
  const before = sizes(saved) ?? [];
  expect(sizes(apply(saved, size, saved))).toEqual([before[0], "2", before[2]]);
  // The first part is taken out: what was the third is now the second, and is left alone.
  const parts = saved.plan?.ways["DC1"]?.parts ?? [];
  const fewer = setAt(saved, "/plan/ways/DC1/parts", parts.slice(1));
  expect(apply(fewer, size, saved)).toBe(fewer);
  const turned = setAt(saved, "/plan/ways/DC1/parts", [...parts].reverse());
  expect(apply(setAt(turned, "/plan/ways/DC1/parts/1/length_m", 1), size, saved)).not.toEqual(
    apply(saved, size, saved),
  );
  // Another part may have been edited meanwhile.
  const longer = setAt(saved, "/plan/ways/DC1/parts/0/length_m", 40);
  expect(sizes(apply(longer, size, saved))?.[1]).toBe("2");
});

test("a pointer is said by the keys of members, by number from one where they have none", () => {
  expect(keyedPath(job(), "/strings/1/n")).toEqual(["strings", "B", "n"]);
  expect(keyedPath(job(), "/plan/ways/DC1/parts/1/length_m")).toEqual([
    "plan",
    "ways",
    "DC1",
    "parts",
    "2",
    "length_m",
  ]);
  expect(keyedPath(job(), "/strings/40/n")).toEqual(["strings", "41", "n"]);
  expect(keyedPath(job(), "")).toEqual([]);
});

test("edits of one member known by its number do not stand in one another's way", () => {
  const legs = (job: Job) => job.plan?.circuits["A"]?.legs?.[0];
  const edits = [
    { pointer: "/plan/circuits/A/legs/0/wire/awg", value: "10" },
    { pointer: "/plan/circuits/A/legs/0/piece", value: "S1" },
  ] as unknown as Edit[];
  const saved = {
    ...job(),
    plan: { nodes: {}, ways: {}, circuits: { A: { legs: [{ wire: { awg: "8" }, via: ["w"] }] } } },
  } as unknown as Job;
  expect(legs(apply(saved, edits, saved))).toEqual({
    wire: { awg: "10" },
    via: ["w"],
    piece: "S1",
  });
  const other = {
    ...saved,
    plan: { ...saved.plan, circuits: { A: { legs: [{ wire: { awg: "6" }, via: ["w"] }] } } },
  } as unknown as Job;
  expect(apply(other, edits, saved)).toBe(other);
});
