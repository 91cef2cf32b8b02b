import { expect, test } from "vitest";
import { unpacked } from "../src/model/report";
import { asCsv, copied, fromCsv, serialsOf, walked, withSerials } from "../src/model/serials";
import * as roof from "../src/model/roof";
import { drawn } from "../src/model/roofDrawn";
import { apply } from "../src/model/pointer";
import answers from "./data/answers.json";
import { job } from "./jobs";
import type { JobView, PackedReport } from "../src/api/client";

const report = unpacked(
  (answers as unknown as { view: JobView }).view.report as never as PackedReport,
);
const faceOf = (key: string, of = job()) => {
  const packed = report.roof.find((f) => f.face === key);
  if (!packed) throw new Error(`no face ${key}`);
  return drawn(packed, of, report);
};
const string = (of: ReturnType<typeof job>, letter: string) =>
  of.strings?.find((s) => s.letter === letter);

test("a face is drawn with its modules in their places and joins between their leads", () => {
  const face = faceOf("sw");
  expect(face.modules).toHaveLength(14);
  const b1 = face.modules.find((m) => m.string === "B" && m.place === 1);
  // 1134 x 1722 mm at 1200, 4092; + leaves at 816.48, 861.
  expect(b1?.area_mm).toEqual([1200, 4092, 2334, 5814]);
  expect(b1?.plus_mm).toEqual([1200 + 816.48, 4092 + 861]);
  const joins = face.strings.find((s) => s.letter === "B")?.joins ?? [];
  expect(joins.map((j) => j.verdict)).toEqual(["pass", "pass", "pass", "fail", "fail", "pass"]);
  // + of B4 meets + of B5, which lies turned: its + is where its − was.
  const b5 = face.modules.find((m) => m.key === joins[3]?.before);
  expect([b5?.turned, b5?.reversed]).toEqual([true, true]);
  expect(joins[3]?.to_mm).toEqual(b5?.plus_mm);
  expect(joins[0]?.to_mm).toEqual(face.modules.find((m) => m.key === joins[0]?.before)?.minus_mm);
});

test("a module that is turned takes its joins with it, and turned back gives them again", () => {
  const once = roof.turn(job(), "sw", ["sw-009"]);
  expect(once.roof?.["sw"]?.modules?.["sw-009"]?.turned).toBe(true);
  expect(string(once, "B")?.reversed).toEqual(["sw-012", "sw-009"]);
  const twice = roof.turn(once, "sw", ["sw-009"]);
  expect(twice.roof?.["sw"]?.modules?.["sw-009"]?.turned).toBe(false);
  expect(string(twice, "B")?.reversed).toEqual(["sw-012"]);
});

test("a module taken off the map leaves its string and the jumpers of its joins", () => {
  const jumped = apply(job(), [
    { pointer: "/strings/C/jumpers", value: { "sw-002": 0.5, "sw-005": 1 } as never },
  ]);
  const after = roof.takeOff(jumped, "sw", ["sw-003"]);
  expect(Object.keys(after.roof?.["sw"]?.modules ?? {})).toHaveLength(13);
  expect(string(after, "C")?.modules).not.toContain("sw-003");
  // The join behind sw-002 is another one now; that behind sw-005 is as it was.
  expect(string(after, "C")?.jumpers).toEqual({ "sw-005": 1 });
});

test("joins by hand: to the end of a string, out of another, and off again", () => {
  const joined = roof.joinNext(job(), "C", "sw-014");
  expect(string(joined, "C")?.modules?.at(-1)).toBe("sw-014");
  expect(string(joined, "B")?.modules).not.toContain("sw-014");
  expect(string(roof.joinNext(joined, "C", "sw-014"), "C")?.modules).toHaveLength(7);
  expect(string(roof.loosen(job(), "B"), "B")?.modules).toEqual([]);
});

test("a module more gets a key that is free", () => {
  const { job: after, key } = roof.add(job(), "se", { x_mm: 0, y_mm: 0 });
  expect(key).toBe("se-013");
  expect(after.roof?.["se"]?.modules?.[key]).toEqual({ x_mm: 0, y_mm: 0 });
});

test("walking goes to the nearest module ahead", () => {
  const face = faceOf("se");
  expect(roof.beside(face, "se-001", [1, 0])).toBe("se-002");
  expect(roof.beside(face, "se-001", [0, 1])).toBe("se-007");
  expect(roof.beside(face, "se-001", [-1, 0])).toBeUndefined();
});

test("a module that is moved holds on to its neighbours' edges, a gap apart", () => {
  const face = faceOf("se");
  // 40 mm to the left of its place: beside its neighbour it comes back to where it was.
  expect(roof.snapped(face, ["se-006"], [-40, 30], 20)).toEqual([0, 0]);
  // Far from everything it goes where it is put.
  expect(roof.snapped(face, ["se-006"], [700.4, -900.2], 20)).toEqual([700, -900]);
  expect(roof.within(face, [1000, 2000], [3500, 4000])).toEqual(["se-001", "se-002"]);
});

test("serials are walked row by row, there and back", () => {
  const keys = walked(faceOf("se")).map((m) => m.key);
  const numbered = (list: number[]) => list.map((n) => `se-${String(n).padStart(3, "0")}`);
  expect(keys).toEqual(numbered([1, 2, 3, 4, 5, 6, 12, 11, 10, 9, 8, 7]));
});

test("serials are put to their modules and found again", () => {
  const after = withSerials(job(), "se", { "se-001": "BM1", "se-002": "BM2" });
  expect([...serialsOf(after)]).toEqual([
    ["BM1", "se-001"],
    ["BM2", "se-002"],
  ]);
  expect(after.roof?.["sw"]).toEqual(job().roof?.["sw"]);
});

test("a pasted column gives one serial a line, the first of several columns", () => {
  expect(copied("BM1\r\nBM2\n\n BM3 \n")).toEqual(["BM1", "BM2", "BM3"]);
  expect(copied("BM1\t430\nBM2;431\nBM3, 432")).toEqual(["BM1", "BM2", "BM3"]);
  expect(copied("")).toEqual([]);
});

/** Kestrel Lane with a branch over the south-west face: A1 to A4 fed in their middle. */
const branched = (modules: string[], bridges: string[] = []) => ({
  ...job(),
  strings: [],
  branches: [
    {
      letter: "Z",
      face: "sw",
      module: { sheet: "m", revision: 1 },
      micro: { sheet: "u", revision: 1 },
      arms_n: [2, 2],
      breaker_a: 20,
      modules,
      bridges,
    },
  ],
});
const branch = (of: ReturnType<typeof job>) => of.branches?.[0];

test("units leave their branch with their module, and bridges with their gap", () => {
  const of = branched(["sw-001", "sw-002", "sw-003", "sw-004"], ["sw-001", "sw-003"]);
  const after = roof.takeOff(of, "sw", ["sw-002"]);
  expect(branch(after)?.modules).toEqual(["sw-001", "sw-003", "sw-004"]);
  // Behind sw-001 lies another unit now; behind sw-003 the same as before.
  expect(branch(after)?.bridges).toEqual(["sw-003"]);
  const joined = roof.joinNext(after, "Z", "sw-009");
  expect(branch(joined)?.modules?.at(-1)).toBe("sw-009");
  expect(branch(roof.joinNext(joined, "Z", "sw-009"))?.modules?.at(-1)).toBe("sw-004");
  expect(branch(roof.loosen(joined, "Z"))?.modules).toEqual([]);
});

test("a trunk is drawn from middle to middle, not over its feed, and as far as it crosses", () => {
  const crossing = { from_mm: [300, 6800], to_mm: [0, 0], over_m: 1 };
  const of = roof.changeFace(branched(["sw-001", "sw-002", "sw-003", "se-001"], ["sw-003"]), "sw", {
    crossings: { se: crossing },
  });
  const face = faceOf("sw", of);
  const [trunk] = face.trunks;
  expect(trunk?.hops.map((h) => [h.place, h.bridged])).toEqual([
    [1, false],
    [3, true],
  ]);
  // 1134 x 1722 mm at 1200, 2350 and 1154 mm on.
  expect(trunk?.hops[0]?.from_mm).toEqual([1200 + 567, 2350 + 861]);
  expect(trunk?.hops[0]?.to_mm).toEqual([2354 + 567, 2350 + 861]);
  expect(trunk?.hops[1]?.to_mm).toEqual([300, 6800]);
  expect(faceOf("se", of).trunks[0]?.hops.map((h) => h.from_mm)).toEqual([[0, 0]]);
  expect(face.modules.find((m) => m.key === "sw-002")?.string).toBe("Z");
});

test("what is pinned leaves its string unpinned", () => {
  const pinned = roof.pin(job(), ["sw-001", "sw-008"]);
  expect([string(pinned, "B")?.pinned, string(pinned, "C")?.pinned]).toEqual([
    ["sw-008"],
    ["sw-001"],
  ]);
  expect(faceOf("sw", pinned).modules.filter((m) => m.pinned)).toHaveLength(2);
  expect(string(roof.joinNext(pinned, "B", "sw-001"), "C")?.pinned).toEqual([]);
  expect(string(roof.loosen(pinned, "B"), "B")?.pinned).toEqual([]);
  const branchwise = roof.pin(branched(["sw-001", "sw-002"]), ["sw-002"]);
  expect(branch(branchwise)?.pinned).toEqual(["sw-002"]);
  expect(branch(roof.takeOff(branchwise, "sw", ["sw-002"]))?.pinned).toEqual([]);
});

test("modules are brought into line with the first that was picked", () => {
  const moved = roof.move(job(), "sw", ["sw-002"], [30, 40]);
  const row = roof.align(moved, "sw", ["sw-001", "sw-002"], "row").roof?.["sw"]?.modules;
  expect([row?.["sw-002"]?.x_mm, row?.["sw-002"]?.y_mm]).toEqual([2384, 2350]);
  const column = roof.align(moved, "sw", ["sw-001", "sw-002"], "column").roof?.["sw"]?.modules;
  expect([column?.["sw-002"]?.x_mm, column?.["sw-002"]?.y_mm]).toEqual([1200, 2390]);
  // One more lies a gap right of the last of the upper row: 8124 + 1134 + 20.
  expect(roof.besideLast(faceOf("sw"))).toMatchObject({ x_mm: 9278, y_mm: 4092 });
});

test("the serial map goes out as CSV and comes in again", () => {
  const of = withSerials(job(), "sw", { "sw-001": "BM,1", "sw-002": "BM-2" });
  const faces = [faceOf("se", of), faceOf("sw", of)];
  const csv = asCsv(faces);
  expect(csv.split("\r\n")[0]).toBe("face,place,module,serial");
  expect(csv).toContain('south-west,C1,sw-001,"BM,1"');
  expect(fromCsv(csv, faces)).toEqual({ "sw-001": "BM,1", "sw-002": "BM-2" });
  expect(fromCsv("Place;Serial\nC3;BM-3", faces)).toEqual({ "sw-003": "BM-3" });
  expect(fromCsv("place,number\nC3,BM-3", faces)).toContain("names the columns");
  expect(fromCsv("place,serial\nC3,BM-3\nX9,BM-4", faces)).toBe("Line 3: no module X9 on the map.");
  const cleared = withSerials(of, "sw", { "sw-001": "" });
  expect(cleared.roof?.["sw"]?.modules?.["sw-001"]?.serial).toBeNull();
});
