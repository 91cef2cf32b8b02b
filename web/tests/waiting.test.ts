import { afterEach, beforeEach, expect, test, vi } from "vitest";
import { newKey, refuse, sent, subscribe, wait, waiting } from "../src/model/waiting";
import { freshLight } from "../src/stages/test/useReading";

const store = new Map<string, string>();
beforeEach(() => {
  store.clear();
  vi.stubGlobal("localStorage", {
    getItem: (k: string) => store.get(k) ?? null,
    setItem: (k: string, v: string) => store.set(k, v),
    removeItem: (k: string) => store.delete(k),
  });
});
afterEach(() => {
  vi.unstubAllGlobals();
});

const one = (key: string) => ({ key, at: "2026-05-01T09:00:00Z", reading: { string: "A" } });

test("readings wait in the order they were taken, each once, and are told of", () => {
  let told = 0;
  const end = subscribe(() => {
    told += 1;
  });
  wait("j", one("a"));
  wait("j", one("b"));
  wait("j", one("a"));
  expect(waiting("j").map((w) => w.key)).toEqual(["b", "a"]);
  expect(waiting("j")).toBe(waiting("j"));
  refuse("j", "b", "no string C");
  expect(waiting("j").find((w) => w.key === "b")?.refused).toBe("no string C");
  sent("j", "b");
  sent("j", "a");
  expect([waiting("j"), waiting("other"), store.size]).toEqual([[], [], 0]);
  expect(told).toBe(6);
  end();
});

test("what does not parse is nothing that waits", () => {
  store.set("heliant.waiting.j", "{");
  expect(waiting("j")).toEqual([]);
});

test("keys are uuids of the fourth version, and no two are the same", () => {
  const keys = Array.from({ length: 50 }, newKey);
  expect(new Set(keys).size).toBe(50);
  for (const key of keys)
    expect(key).toMatch(/^[0-9a-f]{8}-[0-9a-f]{4}-4[0-9a-f]{3}-[89ab][0-9a-f]{3}-[0-9a-f]{12}$/);
});

test("light is taken from the reading before for ten minutes and no longer", () => {
  const at = "2026-05-01T09:00:00Z";
  store.set("heliant.light.j", JSON.stringify({ at, values: { irradiance_w_m2: 700 } }));
  const later = (minutes: number) => freshLight("j", Date.parse(at) + minutes * 60_000);
  expect(later(10)?.values.irradiance_w_m2).toBe(700);
  expect(later(11)).toBeNull();
  expect(freshLight("other", Date.parse(at))).toBeNull();
});
