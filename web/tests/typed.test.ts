/** Numbers as people type them; expected values by hand. */
import { afterEach, expect, test } from "vitest";
import { amount, between, workedAmount } from "../src/model/format";
import { showFor } from "../src/model/shown";
import { read } from "../src/model/typed";

afterEach(() => {
  showFor(null);
});

const value = (text: string, kept?: Parameters<typeof read>[1], sign?: string): number | null => {
  const found = read(text, kept, sign);
  if ("wrong" in found) throw new Error(found.wrong);
  return found.value;
};

test.each([
  // 60 ft 6 in = 726 in × 0.0254
  ["60' 6\"", "m", 18.4404],
  ["60 ft 6 in", "m", 18.4404],
  ["60' 6", "m", 18.4404],
  ["60 ft", "m", 18.288],
  ["450 mm", "m", 0.45],
  ["45,5 cm", "m", 0.455],
  ["18.3", "m", 18.3],
  ["-3 ft", "m", -0.9144],
  // 17.75 in × 25.4
  ["17 3/4 in", "mm", 450.85],
  ['3/4"', "mm", 19.05],
  ["1 m", "mm", 1000],
  // (10 − 32) × 5/9
  ["10 °F", "degC", -12.2222222222],
  ["−24", "degC", -24],
  ["-24 C", "degC", -24],
  ["36 f", "K", 20],
  // atan 4/12 = 18.4349°
  ["4/12", "deg", 18.43],
  ["6:12", "deg", 26.57],
  ["0/12", "deg", 0],
  ["22,5°", "deg", 22.5],
  ["100 lb", "kg", 45.359237],
] as const)("%s of %s is %d", (text, kept, wanted) => {
  expect(value(text, kept)).toBeCloseTo(wanted, 9);
});

test("a field's own sign may be typed, and nothing is nothing", () => {
  expect([value("258 V", undefined, "V"), value("  "), value("1e0".slice(0, 1))]).toEqual([
    258,
    null,
    1,
  ]);
});

test.each([
  ["60 lb", "m"],
  ["10 V", "degC"],
  ["4/0", "deg"],
  ["12 F 3 C", "degC"],
  ["six", "m"],
  ["6'' '", "kg"],
  ["1/0 in", "mm"],
  ["--5", "m"],
] as const)("%s is none of %s", (text, kept) => {
  expect(read(text, kept)).toHaveProperty("wrong");
});

test("what has no unit is what is shown; feet in the North American school", () => {
  showFor("na");
  expect(value("10", "m")).toBeCloseTo(3.048, 9);
  expect(amount(3.048, "m")).toBe("10.0 ft");
  expect(workedAmount(3.048, "m")).toBe("3.05 m");
  showFor("na", { own: {}, company: { length: "m" } });
  expect(amount(3.048, "m")).toBe("3.05 m");
  showFor("na", { own: { length: "ft" }, company: { length: "m" } });
  expect(value("10", "m")).toBeCloseTo(3.048, 9);
});

test("a difference of temperatures has no nought to shift", () => {
  showFor("iec", { own: { temperature: "f" }, company: {} });
  // 20 °C is 68 °F; a room of 20 K is 36 °F.
  expect([amount(20, "degC"), between(20, "degC")]).toEqual(["68.0 °F", "36.0 °F"]);
  showFor("iec");
  expect(between(20, "degC")).toBe("20.0 °C");
});
