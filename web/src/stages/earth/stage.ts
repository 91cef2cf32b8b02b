import { later } from "../../shell/later";
import type { StageModule } from "../../shell/stage";

export const stage: StageModule = {
  key: "earth",
  at: 70,
  name: (school) => (school === "na" ? "Ground" : "Earth"),
  telling: ({ report }) => {
    const metal = report.bonding.parts.filter((p) => p.metal);
    const held = metal.filter((p) => p.verdict === "pass").length;
    return metal.length === 0
      ? "no parts yet"
      : `${String(held)} of ${String(metal.length)} parts bonded`;
  },
  safety: "One fault puts mains volts on a frame somebody will touch. Bond before DC is joined.",
  Screen: later(async () => (await import("./Earth")).Earth),
};
