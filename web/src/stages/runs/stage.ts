import { planOf } from "../../model/plan";
import { lengthText } from "../../model/units";
import { later } from "../../shell/later";
import type { StageModule } from "../../shell/stage";

export const stage: StageModule = {
  key: "runs",
  at: 50,
  name: () => "Runs",
  telling: ({ job, report }) =>
    Object.keys(planOf(job).circuits).length === 0
      ? "no circuits yet"
      : lengthText(report.route.length_m),
  safety: "DC arcs do not stop by themselves. Prove dead before a raceway or box is opened.",
  Screen: later(async () => (await import("./Runs")).Runs),
};
