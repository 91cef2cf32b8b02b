/** The drop drawing's edits: places in their order, free keys, bends as they are written. */
import { describe, expect, it } from "vitest";
import type { Job, Part } from "../src/api/client";
import { bendsText, freeKey, halved, nextPlace, nodeKey, readBends } from "../src/model/drop";
import { partsOf, planOf } from "../src/model/plan";

const job = (part: Part): Job =>
  ({
    plan: {
      nodes: { RB1: { kind: "roof_box" } },
      ways: { w1: { from: "RB1", to: "X", parts: [part] } },
      circuits: {},
    },
  }) as unknown as Job;

describe("places", () => {
  it("lie one under the other and end at both ends", () => {
    expect(nextPlace("attic", 1)).toBe("inside");
    expect(nextPlace("attic", -1)).toBe("roof_shade");
    expect(nextPlace("under_modules", -1)).toBeUndefined();
    expect(nextPlace("underground", 1)).toBeUndefined();
    expect(nextPlace(null, 1)).toBe("under_modules");
  });
});

describe("keys", () => {
  it("are the first that nothing has", () => {
    expect(freeKey({ A1: 0, A2: 0 }, "A")).toBe("A3");
    expect(nodeKey(job({} as Part), "roof_box")).toBe("RB2");
    expect(nodeKey(job({} as Part), "pull_box")).toBe("PB1");
  });
});

describe("bends", () => {
  const metres = (m: number) => String(m);
  it("are read as they are written", () => {
    expect(readBends("90, 45 @ 3.5; 90°", null)).toEqual({
      value: [
        { deg: 90, kind: "bent", at_m: null },
        { deg: 45, kind: "bent", at_m: 3.5 },
        { deg: 90, kind: "bent", at_m: null },
      ],
    });
    expect(readBends("90 @ 10 ft", null)).toEqual({
      value: [{ deg: 90, kind: "bent", at_m: 3.048 }],
    });
    expect(readBends("none", null)).toEqual({ value: [] });
    expect(readBends(" ", [{ deg: 90 }] as Part["bends"])).toEqual({ value: null });
  });
  it("say what they are where they are not bent on site", () => {
    const read = readBends("90 body @ 2.5, 90 elbow, 45", null);
    expect(read).toEqual({
      value: [
        { deg: 90, kind: "body", at_m: 2.5 },
        { deg: 90, kind: "elbow", at_m: null },
        { deg: 45, kind: "bent", at_m: null },
      ],
    });
    const value = "value" in read ? read.value : null;
    expect(bendsText(value, metres)).toBe("90 body @ 2.5, 90 elbow, 45");
    expect(readBends("90 bodies", null)).toHaveProperty("wrong");
  });

  it("keep what was known of them", () => {
    const before = [{ deg: 90, kind: "elbow", radius_mm: 150 }] as Part["bends"];
    expect(readBends("45 elbow", before)).toEqual({
      value: [{ deg: 45, kind: "elbow", radius_mm: 150, at_m: null }],
    });
  });
  it("say what is no bend", () => {
    for (const wrong of ["ninety", "90 @", "90 @ 2 @ 3", "90,"])
      expect(readBends(wrong, null)).toHaveProperty("wrong");
  });
  it("are written so that they read back", () => {
    const bends = [{ deg: 90 }, { deg: 45, kind: "bent", at_m: 3.5 }] as Part["bends"];
    expect(bendsText(bends, metres)).toBe("90, 45 @ 3.5");
    expect(bendsText([], metres)).toBe("none");
    expect(bendsText(null, metres)).toBe("");
  });
});

describe("a part in two", () => {
  it("shares its length, and measured bends stay where they are", () => {
    const part = {
      place: "attic",
      length_m: 6,
      rise_m: -2,
      bends: [{ deg: 90 }, { deg: 45, kind: "bent", at_m: 5 }],
    } as Part;
    const [a, b] = partsOf(planOf(halved(job(part), "w1", 0)).ways["w1"] ?? { from: "", to: "" });
    expect([a?.length_m, b?.length_m, a?.rise_m, b?.rise_m]).toEqual([3, 3, -1, -1]);
    expect(a?.bends).toEqual([{ deg: 90 }]);
    // 5 m from the beginning are 2 m into the second half.
    expect(b?.bends).toEqual([{ deg: 45, kind: "bent", at_m: 2 }]);
    expect(b?.place).toBe("attic");
  });
  it("is open where the whole was", () => {
    const [a, b] = partsOf(
      planOf(halved(job({ place: "attic" } as Part), "w1", 0)).ways["w1"] ?? { from: "", to: "" },
    );
    expect([a?.length_m, b?.length_m, a?.bends, b?.bends]).toEqual([null, null, null, null]);
  });
});
