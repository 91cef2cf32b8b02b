/** Labels of a drawing lie beside or above each other, never over each other. */
import { expect, test } from "vitest";
import { apart, lines, widthOf } from "../src/drawing/labels";

test("labels that would touch stand on lines of their own", () => {
  const placed = lines(
    [
      { text: "limit 600", x: 300, ends: true },
      { text: "tracking from 90", x: 60 },
      { text: "full power 180 to 480", x: 110 },
      { text: "far off", x: 400 },
    ],
    10,
    500,
  );
  expect(placed.map((p) => p.line)).toEqual([0, 0, 1, 0]);
  // On each line every label ends before the next begins.
  for (const line of [0, 1]) {
    const spans = placed
      .filter((p) => p.line === line)
      .map((p) => {
        const width = widthOf(p.text, 10);
        return p.ends ? [p.x - width, p.x] : [p.x, p.x + width];
      })
      .sort(([a = 0], [b = 0]) => a - b);
    spans.slice(1).forEach(([from = 0], i) => {
      expect(from).toBeGreaterThan(spans[i]?.[1] ?? Infinity);
    });
  }
});

test("a label that would run over the edge is drawn in", () => {
  const [one] = lines([{ text: "full power", x: 495 }], 10, 500);
  expect((one?.x ?? 0) + widthOf("full power", 10)).toBeLessThanOrEqual(500);
});

test("two texts on a line move apart, and off the names at the left", () => {
  const safe = { text: "safe 10", x: 101 };
  const [first, second] = apart(safe, { text: "14", x: 104 }, 10, 100);
  expect(first - widthOf("safe 10", 10) / 2).toBeGreaterThanOrEqual(100);
  expect(second - widthOf("14", 10) / 2).toBeGreaterThan(first + widthOf("safe 10", 10) / 2);
  // What has room stays where it is.
  expect(apart({ text: "201", x: 200 }, { text: "311", x: 300 }, 10, 100)).toEqual([200, 300]);
});
