import { expect, test } from "vitest";
import {
  addBranch,
  addFace,
  removeFace,
  addInverter,
  addString,
  applyPlan,
  bothLibraries,
  branches,
  changeBranch,
  changeString,
  inverters,
  moveModule,
  nextLetter,
  removeBranch,
  removeInverter,
  removeString,
  setModule,
  sheetKey,
  strings,
  swapInverter,
} from "../src/model/planning";
import {
  changeCircuit,
  changeNode,
  changePart,
  changeWay,
  changeWire,
  circuitFrom,
  circuitsOf,
  homeRun,
  isDc,
  legsOf,
  partAfter,
  partsOf,
  planned,
  planOf,
  viaOf,
} from "../src/model/plan";
import { company, draft, job } from "./jobs";

const counts = (d: { job: ReturnType<typeof job> }) =>
  strings(d.job).map((s) => `${s.letter}${String(s.n)}`);

test("letters go from A to Z and on, and none is given twice, to a branch neither", () => {
  const empty = { ...job(), strings: [], branches: [] };
  expect(nextLetter(empty)).toBe("A");
  const one = job().strings?.[0];
  if (!one) throw new Error("the demo job has strings");
  const many = Array.from({ length: 26 }, (_, i) => ({
    ...one,
    letter: String.fromCharCode(65 + i),
  }));
  expect(nextLetter({ ...empty, strings: many })).toBe("AA");
  expect(nextLetter({ ...empty, strings: many.filter((s) => s.letter !== "C") })).toBe("C");
  const pinyon = job("pinyon-street");
  expect(nextLetter(pinyon)).toBe("D");
});

const keys = (j: ReturnType<typeof job>) => circuitsOf(j).map(([key]) => key);

test("a new string is like the last one, and goes where the others of its inverter go", () => {
  const after = addString(draft(), company(), undefined);
  expect(counts(after)).toEqual(["A12", "B7", "C7", "D7"]);
  const [key, circuit] = circuitFrom(after.job, { string: "D" }) ?? [];
  expect(key).toBe("D");
  expect(circuit && legsOf(circuit).map(viaOf)).toEqual([["DC1"]]);
  // The first of all has nothing to go by: it is planned under Runs.
  const bare = draft();
  const empty = { ...bare, job: { ...bare.job, plan: { nodes: {}, ways: {}, circuits: {} } } };
  const alone = addString(empty, company(), undefined);
  expect(keys(alone.job)).toEqual([]);
  expect([planned(alone.job), planned(after.job)]).toEqual([false, true]);
});

test("without a face or an inverter there is no string to add", () => {
  const bare = { ...draft(), job: { ...job(), strings: [], inverters: [] } };
  expect(addString(bare, company(), company().modules[0])).toBe(bare);
});

test("a string that is taken out takes its circuit, and the library holds what is used", () => {
  const before = draft();
  const after = removeString(before, "B");
  expect(counts(after)).toEqual(["A12", "C7"]);
  expect(keys(after.job)).toEqual(["A", "AC1", "C"]);
  const none = ["A", "B", "C"].reduce((d, l) => removeString(d, l), before);
  expect(none.library.modules).toEqual([]);
  expect(none.library.inverters).toHaveLength(1);
});

test("a data sheet comes into the job with the string that uses it, and goes with the last", () => {
  const known = bothLibraries(draft().library, company());
  const ox = known.modules.find((m) => m.sheet === "oxbow-ox-395");
  if (!ox) throw new Error("the demo library has it");
  const one = changeString(
    draft(),
    0,
    { module: { sheet: ox.sheet, revision: ox.revision } },
    known,
  );
  expect(one.library.modules.map(sheetKey).sort()).toEqual([
    "brightmoor-bm-430/2",
    "oxbow-ox-395/1",
  ]);
  const all = setModule(one, known, ox);
  expect(all.library.modules.map(sheetKey)).toEqual(["oxbow-ox-395/1"]);
});

test("the job's own copy of a data sheet goes before the company's", () => {
  const own = draft().library;
  const module = own.modules[0];
  if (!module) throw new Error("the demo job has one");
  const changed = { ...own, modules: [{ ...module, ratings: { ...module.ratings, voc_v: 40 } }] };
  const both = bothLibraries(changed, company());
  expect(
    both.modules.filter((m) => sheetKey(m) === sheetKey(module)).map((m) => m.ratings.voc_v),
  ).toEqual([40]);
  expect(bothLibraries(own, undefined).modules).toEqual(own.modules);
});

test("a module moves from one string to another, but never the last, nor to itself", () => {
  expect(counts(moveModule(draft(), 0, 1))).toEqual(["A11", "B8", "C7"]);
  const before = draft();
  expect(moveModule(before, 1, 1)).toBe(before);
  expect(moveModule(before, 0, 9)).toBe(before);
  const single = changeString(before, 0, { n: 1 }, company());
  expect(moveModule(single, 0, 1)).toBe(single);
});

test("inverters are added, swapped and taken out with what hangs on them", () => {
  const known = bothLibraries(draft().library, company());
  const big = known.inverters.find((i) => i.sheet === "stellan-s12-3t");
  if (!big) throw new Error("the demo library has it");
  const two = addInverter(draft(), known, big);
  expect(inverters(two.job).map((i) => i.id)).toEqual(["INV1", "INV2"]);
  expect(two.library.inverters).toHaveLength(2);
  const swapped = swapInverter(two, known, "INV1", big);
  expect(swapped.library.inverters.map((i) => i.sheet)).toEqual(["stellan-s12-3t"]);
  const gone = removeInverter(two, "INV2");
  expect(inverters(gone.job).map((i) => i.id)).toEqual(["INV1"]);
  expect(keys(gone.job)).toEqual(keys(two.job));
  const none = removeInverter(two, "INV1").job;
  expect(keys(none)).toEqual(["A", "B", "C"]);
  expect(planOf(none).nodes.INV1).toMatchObject({ inverter: null, kind: "junction_box" });
});

test("edits of the core bring the data sheets they name", () => {
  const known = bothLibraries(draft().library, company());
  const after = applyPlan(
    draft(),
    [{ pointer: "/inverters/0/sheet", value: { sheet: "stellan-s8-2", revision: 3 } as never }],
    known,
  );
  expect(after.library.inverters.map(sheetKey)).toEqual(["stellan-s8-2/3"]);
});

test("branches are added like the last, on the next phase, and hold their data sheets", () => {
  const known = bothLibraries(draft("pinyon-street").library, company());
  const before = draft("pinyon-street");
  const phased = changeBranch(before, 2, { phase: 3 }, known);
  const after = addBranch(phased, known);
  const added = branches(after.job).at(-1);
  expect([added?.letter, added?.arms_n, added?.phase]).toEqual(["D", [5, 5], 1]);
  expect(after.library.micros).toHaveLength(1);
  const none = ["A", "B", "C", "D"].reduce((d, l) => removeBranch(d, l, known), after);
  expect([
    branches(none.job).length,
    none.library.micros.length,
    none.library.modules.length,
  ]).toEqual([0, 0, 0]);
});

test("a string's optimizer comes into the library with it", () => {
  const known = bothLibraries(draft().library, company());
  const optimizer = known.optimizers[0];
  if (!optimizer) throw new Error("the demo library has one");
  const after = changeString(
    draft(),
    0,
    { optimizer: { sheet: optimizer.sheet, revision: 1 } },
    known,
  );
  expect(after.library.optimizers).toHaveLength(1);
  expect(changeString(after, 0, { optimizer: null }, known).library.optimizers).toHaveLength(0);
});

test("faces get keys of their own", () => {
  const twice = addFace(addFace(job()));
  const ids = twice.site.faces.map((f) => f.id);
  expect(new Set(ids).size).toBe(ids.length);
});

test("a part, a wire, a node and a circuit are changed by themselves", () => {
  const before = job();
  const after = changePart(before, "DC1", 1, { length_m: 12.5 });
  const parts = (j: ReturnType<typeof job>, way: string) =>
    partsOf(planOf(j).ways[way] ?? { from: "", to: "" });
  expect(parts(after, "DC1").map((p) => p.length_m)).toEqual([6.1, 12.5, 4]);
  expect(planOf(after).ways.AC1).toBe(planOf(before).ways.AC1);
  const thick = changeWire(before, "B", 0, { awg: "6" });
  const wires = circuitsOf(thick).map(([key, c]) => `${key} ${legsOf(c)[0]?.wire?.awg ?? ""}`);
  expect(wires).toEqual(["A 8", "AC1 8", "B 6", "C 8"]);
  expect(planOf(changeNode(before, "MP", { place: "garage" })).nodes.MP?.place).toBe("garage");
  const fused = changeCircuit(before, "A", { ocpd_a: 20 });
  expect(planOf(fused).circuits.A?.ocpd_a).toBe(20);
  // What is not there changes nothing.
  expect(changePart(before, "w9", 0, {})).toBe(before);
  expect(changeWay(before, "w9", {})).toBe(before);
  expect(changeNode(before, "w9", {})).toBe(before);
  expect(changeWire(before, "w9", 0, {})).toBe(before);
  expect(changeCircuit(before, "w9", {})).toBe(before);
});

test("a new part lies like the last one, its length open", () => {
  const last = partsOf(planOf(job()).ways.DC1 ?? { from: "", to: "" }).at(-1);
  expect(partAfter(last)).toMatchObject({ place: "garage", length_m: null });
  expect(partAfter(undefined)).toMatchObject({ place: null, method: "raceway", raceway: null });
});

test("a branch comes with its home run and goes with it", () => {
  const before = draft("pinyon-street");
  const more = addBranch(before, company());
  const [key, circuit] = circuitFrom(more.job, { branch: "D" }) ?? [];
  expect([key, circuit && isDc(circuit)]).toEqual(["D", false]);
  expect(circuit && homeRun(more.job, circuit)?.way).toBe("C");
  const fewer = removeBranch(more, "D", company());
  expect(keys(fewer.job)).toEqual(keys(before.job));
  // Two parts are no single piece a table could edit.
  const way = planOf(more.job).ways.C ?? { from: "", to: "" };
  const longer = changeWay(more.job, "C", { parts: [...partsOf(way), partAfter(undefined)] });
  expect(circuit && homeRun(longer, circuit)).toBeUndefined();
});

test("a face that is taken out takes its map and its modules with it", () => {
  const lent = {
    ...job(),
    strings: (job().strings ?? []).map((s) =>
      s.letter === "B" ? { ...s, modules: [...(s.modules ?? []).slice(1), "se-001"] } : s,
    ),
  };
  const after = removeFace(lent, "se");
  expect(after.site.faces.map((f) => f.id)).toEqual(["sw"]);
  expect(Object.keys(after.roof ?? {})).toEqual(["sw"]);
  // A module of it that another face's string had borrowed is gone from there.
  expect(after.strings?.find((s) => s.letter === "B")?.modules).not.toContain("se-001");
  expect(removeFace(addFace(job()), "face1").roof).toEqual(job().roof);
});
