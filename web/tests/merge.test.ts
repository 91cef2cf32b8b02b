import { expect, test } from "vitest";
import { merged } from "../src/model/merge";
import { withSerials } from "../src/model/serials";
import * as roof from "../src/model/roof";
import { job } from "./jobs";

test("serials scanned on one roof and modules moved on another stand side by side", () => {
  const base = job();
  const mine = withSerials(base, "sw", { "sw-001": "BM-1" });
  const theirs = roof.move(base, "se", ["se-001"], [100, 0]);
  const both = merged(base, mine, theirs);
  expect(both?.roof?.["sw"]?.modules?.["sw-001"]?.serial).toBe("BM-1");
  expect(both?.roof?.["se"]?.modules?.["se-001"]?.x_mm).toBe(1260);
});

test("two serials of one roof are joined, two of one module are not", () => {
  const base = job();
  const mine = withSerials(base, "sw", { "sw-001": "BM-1" });
  const beside = withSerials(base, "sw", { "sw-002": "BM-2" });
  expect(Object.keys(merged(base, mine, beside)?.roof?.["sw"]?.modules ?? {})).toHaveLength(14);
  expect(merged(base, mine, beside)?.roof?.["sw"]?.modules?.["sw-002"]?.serial).toBe("BM-2");
  const same = withSerials(base, "sw", { "sw-001": "BM-9" });
  expect(merged(base, mine, same)).toBeNull();
});

test("what the other took off the map stays off", () => {
  const base = job();
  const mine = withSerials(base, "sw", { "sw-001": "BM-1" });
  const theirs = roof.takeOff(base, "se", ["se-001"]);
  const both = merged(base, mine, theirs);
  expect(both?.roof?.["se"]?.modules?.["se-001"]).toBeUndefined();
  expect(both?.strings?.[0]?.modules).not.toContain("se-001");
});

test("planning elsewhere is joined with work on the roof, but not with other planning", () => {
  const base = job();
  const named = { ...base, notes: "Ladder at the back." };
  const serial = withSerials(base, "sw", { "sw-001": "BM-1" });
  expect(merged(base, named, serial)?.notes).toBe("Ladder at the back.");
  const colder = { ...base, site: { ...base.site, t_min_c: -30 } };
  expect(merged(base, named, colder)).toBeNull();
});

test("what says nothing is no change", () => {
  const base = job();
  const mine = roof.changeFace(base, "sw", { rows: null, gap_mm: null });
  const theirs = withSerials(base, "se", { "se-001": "BM-1" });
  const both = merged(base, mine, theirs);
  expect(both?.roof?.["se"]?.modules?.["se-001"]?.serial).toBe("BM-1");
});
