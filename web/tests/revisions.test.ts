import { expect, test } from "vitest";
import type { RevisionLine } from "../src/api/client";
import { sittings } from "../src/model/revisions";
import { placeValue, placeWords } from "../src/text/places";

const line = (revision: number, minute: number, by = "Tomas", name?: string): RevisionLine => ({
  revision,
  saved_at: new Date(Date.UTC(2026, 4, 1, 9, minute)).toISOString(),
  saved_by: by,
  ...(name === undefined ? {} : { name }),
});

test("saves of one person in one go stand together, a named one and a pause stand apart", () => {
  const all = sittings([
    line(7, 80, "Mira"),
    line(6, 60),
    line(5, 52),
    line(4, 50, "Tomas", "as offered"),
    line(3, 49),
    // Sixteen minutes of pause.
    line(2, 33),
    line(1, 18),
  ]);
  expect(all.map((s) => s.map((l) => l.revision))).toEqual([[7], [6, 5], [4], [3], [2, 1]]);
});

test("places are said in words, members by their keys", () => {
  expect(placeWords(["strings", "A", "n"])).toBe("String A, modules in series");
  expect(placeWords(["site", "t_min_c"])).toBe("Coldest morning");
  expect(placeWords(["site", "faces", "se", "tilt_deg"])).toBe("Face se, tilt");
  expect(placeWords(["roof", "se", "modules", "se-001", "x_mm"])).toBe(
    "Roof map of face se, module se-001, along the eave",
  );
  expect(placeWords(["plan", "ways", "DC1", "parts", "2", "length_m"])).toBe(
    "Way DC1, part 2, length",
  );
  expect(placeWords(["plan", "circuits", "A", "legs", "1", "wire", "awg"])).toBe(
    "Circuit A, leg 1, wire, size, AWG",
  );
  expect(placeWords(["inverters", "INV1"])).toBe("Inverter INV1");
});

test("values carry their unit, what is not there says so", () => {
  expect(placeValue(["site", "t_min_c"], -24)).toBe("−24 °C");
  expect(placeValue(["site", "faces", "se", "tilt_deg"], 30)).toBe("30°");
  expect(placeValue(["strings", "A", "n"], 12)).toBe("12");
  expect(placeValue(["plan", "ways", "DC1", "parts", "2", "length_m"], 9.4)).toBe("9.4 m");
  expect(placeValue(["plan", "panel", "pv_at_far_end"], true)).toBe("yes");
  expect(placeValue(["strings", "A", "modules"], ["a", "b"])).toBe("a, b");
  expect(placeValue(["strings", "D"], { letter: "D" })).toBe("there");
  expect(placeValue(["strings", "D"], undefined)).toBe("not there");
  expect(placeValue(["notes"], "x".repeat(80))).toHaveLength(61);
});
