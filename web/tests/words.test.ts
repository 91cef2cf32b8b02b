import { expect, test } from "vitest";
import { age, amount, entered, number, plain, round, unitSign } from "../src/model/format";
import { pasted, sampled } from "../src/model/paste";
import { checkKey, moves, unpacked, whatMoved, worst } from "../src/model/report";
import { ofString, same, subjectKey, subjectName } from "../src/model/subject";
import type { Check, JobView, PackedReport, Report, Sum } from "../src/api/client";
import { job } from "./jobs";

test("numbers have thin spaces, a true minus and no minus on nothing", () => {
  expect(plain(11180, 0)).toBe("11\u2009180");
  expect(plain(9999, 0)).toBe("9999");
  expect(plain(-24, 1)).toBe("−24.0");
  expect(plain(-0.004, 2)).toBe("0.00");
  expect(plain(1234567.891, 2)).toBe("1\u2009234\u2009567.89");
});

test("a unit decides the decimals and stands behind", () => {
  expect(number(533.04, "V")).toBe("533.0");
  expect(number(44.42, "V")).toBe("44.42");
  expect(amount(6160, "W")).toBe("6160 W");
  expect(amount(0.871, "ratio")).toBe("0.8710");
  expect(amount(3, "ratio")).toBe("3");
  expect(amount(35.04, "km")).toBe("35.0 km");
  expect(amount(103.14, "cost")).toBe("103");
  expect(unitSign("mm2")).toBe("mm²");
});

test("what cannot be had is open, a word stays a word", () => {
  expect(amount(null, "V")).toBe("open");
  expect(amount(undefined, "A")).toBe("open");
  expect(amount(true, "ratio")).toBe("yes");
  expect(amount("1/2", "ratio")).toBe("1/2");
});

test("a data sheet's value has the decimals it was entered with", () => {
  expect(entered(-0.26, "%/K")).toBe("−0.26 %/°C");
  expect(entered(430, "W")).toBe("430 W");
  expect(round(200.6)).toBe("201");
});

test("age is said in the words of the trade", () => {
  const now = Date.parse("2026-11-25T12:00:00Z");
  const at = (minutes: number) => new Date(now - minutes * 60_000).toISOString();
  expect([0, 5, 120, 60 * 35, 60 * 48].map((m) => age(at(m), now))).toEqual([
    "just now",
    "5 min ago",
    "2 h ago",
    "35 h ago",
    "2 days ago",
  ]);
});

const check = (verdict: Check["verdict"], alternative = false): Check =>
  ({
    id: "string.voc_cold_v",
    figure: "string.voc_cold_v",
    subject: ofString("A"),
    title: "Open-circuit volts, coldest morning",
    stage: "strings",
    verdict,
    unit: "V",
    source: "690.7",
    alternative,
  }) as unknown as Check;

test("the worst verdict counts, missing goes before caution, alternatives do not count", () => {
  expect(worst([])).toBe("pass");
  expect(worst([check("pass"), check("warn"), check("unknown")])).toBe("unknown");
  expect(worst([check("fail"), check("unknown")])).toBe("fail");
  expect(worst([check("warn"), check("fail", true)])).toBe("warn");
});

test("subjects are named as people say them", () => {
  expect(subjectName({ kind: "mppt", inverter: "INV1", input: 2 })).toBe("Input 2 of INV1");
  expect(subjectName({ kind: "way", way: "DC1", part: 3 })).toBe("Way DC1, part 3");
  expect(subjectName({ kind: "circuit", circuit: "A", leg: 2 })).toBe("Circuit A, leg 2");
  expect(subjectName({ kind: "circuit", circuit: "AC1" })).toBe("Circuit AC1");
  expect(subjectName({ kind: "branch", branch: "C" })).toBe("Branch C");
  expect(subjectName({ kind: "module", model: "BM-430", revision: 2 })).toBe("BM-430 rev 2");
  expect(checkKey(check("pass"))).toBe("string.voc_cold_v@string:A");
  expect(same(ofString("A"), { kind: "branch", branch: "A" })).toBe(false);
  expect(subjectKey({ kind: "mppt", inverter: "INV1", input: 2 })).toBe("mppt:INV1/2");
});

test("what the catalogue says is put back in, by school; an unknown id stands for itself", () => {
  const packed = {
    school: "iec",
    subjects: [
      {
        subject: ofString("A"),
        figures: [{ id: "string.voc_cold_v", value: 533 }, { id: "no.such_id" }],
        checks: [
          {
            id: "string.voc_cold_v",
            verdict: "pass",
            margin: 67,
            limit: { value: 600, title: "of the inverter" },
          },
        ],
      },
    ],
    raceway_cuts: [
      {
        subject: { kind: "way", way: "w1", part: 1 },
        also: [{ kind: "way", way: "w1", part: 2 }],
        wires: [],
      },
    ],
  } as unknown as PackedReport;
  const { figures, checks, raceway_cuts } = unpacked(packed);
  // At most, where nothing else is said; a cut stands at every part it is of.
  expect(checks[0]?.limit).toEqual({ value: 600, title: "of the inverter", at_most: true });
  expect(raceway_cuts.map((c) => (c.subject.kind === "way" ? c.subject.part : 0))).toEqual([1, 2]);
  expect(figures.map((f) => [f.id, f.unit, f.stage, f.subject])).toEqual([
    ["string.voc_cold_v", "V", "strings", ofString("A")],
    ["no.such_id", "ratio", "site", ofString("A")],
  ]);
  expect(figures[0]?.source).not.toBe(unpacked({ ...packed, school: "na" }).figures[0]?.source);
  expect(figures[1]?.title).toBe("no.such_id");
  expect(checks.map((c) => [c.figure, c.unit, c.title])).toEqual([
    ["string.voc_cold_v", "V", figures[0]?.title],
  ]);
});

const counts = (fail: number, warn: number) => ({ pass: 0, fail, warn, unknown: 0 });

/** A view of the demo job with cold volts of 44.42 V a module. */
function view(ns: Record<string, number>, n: ReturnType<typeof counts>, coldOne = 44.42): JobView {
  const base = job();
  const one = base.strings?.[0];
  if (!one) throw new Error("the demo job has strings");
  const strings = Object.entries(ns).map(([letter, count]) => ({ ...one, letter, n: count }));
  const figures = strings.map((s) => ({
    id: "string.voc_cold_v",
    subject: ofString(s.letter),
    value: s.n * coldOne,
  }));
  return {
    job: { ...base, strings },
    report: { figures, counts: n } as unknown as Report,
  } as JobView;
}

test("what an edit moved is said string by string, then in verdicts", () => {
  const before = view({ A: 12, B: 7 }, counts(0, 1));
  expect(moves(before, view({ A: 13, B: 7 }, counts(0, 0)))).toEqual([
    "A: 12 to 13 modules: 533 to 577 V cold",
    "1 caution fewer",
  ]);
  expect(moves(before, view({ A: 12, B: 7 }, counts(0, 1)))).toEqual(["no verdict moved"]);
  expect(moves(before, view({ A: 12, C: 5 }, counts(2, 1)))).toEqual([
    "C: new, 5 modules",
    "B: taken out",
    "2 stop more",
  ]);
  // A colder morning moves volts and no counts.
  expect(moves(before, view({ A: 12, B: 7 }, counts(0, 1), 45))).toEqual([
    "A: 533 to 540 V cold",
    "B: 311 to 315 V cold",
    "no verdict moved",
  ]);
});

test("many moves are shortened", () => {
  const letters = "ABCDEFGHIJ".split("");
  const all = (n: number) => Object.fromEntries(letters.map((l) => [l, n]));
  const said = whatMoved(view(all(10), counts(0, 0)), view(all(11), counts(0, 0)));
  expect(said.split(" · ")).toHaveLength(6);
  expect(said).toContain("6 more");
});

const sum = {
  name: "x",
  inputs: [
    { key: "module.voc_v", title: "Module Voc", kind: "number", sample: "39.4" },
    { key: "n", title: "Modules in series", kind: "count", sample: "12" },
    { key: "awg", title: "Size", kind: "text", sample: '"10"' },
    { key: "zs_ohm", title: "Loop impedance read", kind: "number", sample: "" },
  ],
} as unknown as Sum;

test("a sum begins with its samples and leaves the others empty", () => {
  expect(sampled(sum)).toEqual({ "module.voc_v": 39.4, n: 12, awg: "10" });
});

test("pasted lines are read by title or key, with units and decimal commas", () => {
  expect(pasted(sum, "Module Voc: 39,7 V\nmodules in series = 11").values).toEqual({
    "module.voc_v": 39.7,
    n: 11,
  });
  expect(pasted(sum, "voc_v 40.1\nn\t9").values).toEqual({ "module.voc_v": 40.1, n: 9 });
});

test("pasted JSON is taken by key; what fits nothing is given back", () => {
  expect(pasted(sum, '{"n": 8, "colour": "red"}')).toEqual({ values: { n: 8 }, left: ["colour"] });
  expect(pasted(sum, "weather fine\n\nn 8")).toEqual({ values: { n: 8 }, left: ["weather fine"] });
  expect(pasted(sum, "[1, 2]").left).toHaveLength(1);
});
