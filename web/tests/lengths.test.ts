import { describe, expect, it } from "vitest";
import { pastedLengths } from "../src/model/lengths";

describe("lengths that are pasted", () => {
  it("reads one a line, whatever stands before it", () => {
    expect(pastedLengths("attic 20 ft\ncavity: 9.5 m\n\ngarage\t60' 6\"")).toEqual({
      // 20 x 0.3048; 60.5 x 0.3048.
      lengths: [6.096, 9.5, 18.4404],
      units: "feet and metres",
    });
    expect(pastedLengths("6.1\n9,4\n4")).toEqual({ lengths: [6.1, 9.4, 4], units: "" });
  });

  it("refuses a bare number among feet and metres, and says which", () => {
    expect(pastedLengths("attic 20 ft\ncavity 31\ngarage 4 m")).toEqual({
      wrong:
        "Line 2, “cavity 31”, has no unit, and others are in feet and metres: " +
        "write ft or m behind each.",
    });
  });

  it("says what is no length, and where", () => {
    const of = (text: string) => JSON.stringify(pastedLengths(text));
    expect(of("attic 20 ft\ncavity long")).toContain("Line 2, “cavity long”: no length");
    expect(of("attic -3 m")).toContain("not below nought");
    expect(of(" ")).toContain("nothing to read");
    expect(of("attic 20 stone")).toContain("no length");
  });
});
