/** What a way carries: all, none, or some; circuits of several legs stay as they are led. */
import { expect, test } from "vitest";
import type { Job } from "../src/api/client";
import { carriedBy, carry } from "../src/model/plan";

const job = {
  plan: {
    nodes: {},
    ways: { w1: {}, w2: {} },
    circuits: {
      A: { kind: "pv_string", legs: [{ via: ["w1"], wire: { awg: "10" } }] },
      B: { kind: "pv_string", legs: [] },
      C: { kind: "pv_string", legs: [{ via: ["w1"] }, { via: ["w2"] }] },
    },
  },
} as unknown as Job;

const via = (of: Job, circuit: string) =>
  of.plan?.circuits?.[circuit]?.legs?.map((leg) => leg.via) ?? [];

test("all come to a way behind those they have, and keep their wire", () => {
  const all = carry(job, "w2", new Set(["A", "B", "C"]));
  expect([via(all, "A"), via(all, "B"), via(all, "C")]).toEqual([
    [["w1", "w2"]],
    [["w2"]],
    [["w1"], ["w2"]],
  ]);
  expect(all.plan?.circuits?.["A"]?.legs?.[0]?.wire).toEqual({ awg: "10" });
  expect(carriedBy(all, "w2")).toEqual(["A", "B", "C"]);
});

test("none leave it, but those that are led leg by leg", () => {
  const none = carry(job, "w1", new Set());
  expect(carriedBy(none, "w1")).toEqual(["C"]);
  expect(via(none, "A")).toEqual([[]]);
});

test("what is as it was is the same job", () => {
  expect(carry(job, "w1", new Set(["A", "C"]))).toBe(job);
});
