import { expect, test } from "vitest";
import {
  addBranch,
  addFace,
  addInverter,
  addRun,
  addString,
  applyPlan,
  bothLibraries,
  branches,
  changeBranch,
  changeRun,
  changeSegment,
  changeString,
  inverters,
  moveModule,
  nextLetter,
  removeBranch,
  removeInverter,
  removeString,
  runs,
  segments,
  setModule,
  sheetKey,
  strings,
  swapInverter,
} from "../src/model/planning";
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

test("a new string is like the last one, and runs that carried every string carry it", () => {
  const before = draft();
  const after = addString(before, company(), undefined);
  expect(counts(after)).toEqual(["A12", "B7", "C7", "D7"]);
  expect(runs(after.job)[0]?.strings).toEqual(["A", "B", "C", "D"]);
  // A run that carries a part goes on carrying that part.
  const part = { ...before, job: changeRun(before.job, 0, { strings: ["A"] }) };
  expect(runs(addString(part, company(), undefined).job)[0]?.strings).toEqual(["A"]);
});

test("without a face or an inverter there is no string to add", () => {
  const bare = { ...draft(), job: { ...job(), strings: [], inverters: [] } };
  expect(addString(bare, company(), company().modules[0])).toBe(bare);
});

test("a string that is taken out leaves its runs, and the library holds what is used", () => {
  const before = draft();
  const after = removeString(before, "B");
  expect(counts(after)).toEqual(["A12", "C7"]);
  expect(runs(after.job)[0]?.strings).toEqual(["A", "C"]);
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
  const carried = { ...two, job: changeRun(two.job, 1, { inverter: "INV2" }) };
  const gone = removeInverter(carried, "INV2");
  expect(inverters(gone.job).map((i) => i.id)).toEqual(["INV1"]);
  expect(runs(gone.job)[1]?.inverter).toBeNull();
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

test("faces and runs get keys of their own and open lengths", () => {
  const twice = addFace(addFace(job()));
  const ids = twice.site.faces.map((f) => f.id);
  expect(new Set(ids).size).toBe(ids.length);
  const start = { awg: "10", mm2: 6, raceway: null };
  const dc = addRun(job(), "pv_string", start);
  const run = runs(dc).at(-1);
  expect([run?.id, run?.strings, run?.wire?.awg, run?.wire?.mm2]).toEqual([
    "DC2",
    ["A", "B", "C"],
    "10",
    null,
  ]);
  const ac = runs(addRun({ ...job(), school: "iec" }, "inverter_out", start)).at(-1);
  expect([ac?.id, ac?.inverter, ac?.wire?.awg, ac?.wire?.mm2, ac?.wire?.cable]).toEqual([
    "AC2",
    "INV1",
    null,
    6,
    "pvc70",
  ]);
  expect(segments(run ?? ({} as never))[0]?.length_m).toBeNull();
});

test("a segment is changed in its run alone", () => {
  const before = job();
  const after = changeSegment(before, 0, 1, { length_m: 12.5 });
  expect(segments(runs(after)[0] ?? ({} as never))[1]?.length_m).toBe(12.5);
  expect(runs(after)[1]).toBe(runs(before)[1]);
});
