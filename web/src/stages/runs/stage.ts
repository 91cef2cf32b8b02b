import { planOf } from "../../model/plan";
import { lengthText } from "../../model/units";
import type { StageModule } from "../../shell/stage";
import { Runs } from "./Runs";

export const stage: StageModule = {
  key: "runs",
  at: 50,
  name: () => "Runs",
  telling: ({ job, report }) =>
    Object.keys(planOf(job).circuits).length === 0
      ? "no circuits yet"
      : lengthText(report.route.length_m, job.school),
  safety: "DC arcs do not stop by themselves. Prove dead before a raceway or box is opened.",
  Screen: Runs,
};
