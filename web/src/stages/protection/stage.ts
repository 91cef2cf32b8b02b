import { planOf } from "../../model/plan";
import { many } from "../../model/format";
import { later } from "../../shell/later";
import type { StageModule } from "../../shell/stage";

export const stage: StageModule = {
  key: "protection",
  at: 60,
  name: () => "Protection",
  telling: ({ job }) => {
    const nodes = Object.values(planOf(job).nodes);
    const n = nodes.reduce((sum, node) => sum + Object.keys(node.devices ?? {}).length, 0);
    return n === 0 ? "no devices yet" : many(n, "device");
  },
  safety: "A fuse holder is no switch. Open the isolator, lock it, prove dead.",
  Screen: later(async () => (await import("./Protection")).Protection),
};
