import { many } from "../../model/format";
import { branches, strings } from "../../model/planning";
import type { StageModule } from "../../shell/stage";
import { Strings } from "./Strings";

export const stage: StageModule = {
  key: "strings",
  at: 30,
  name: () => "Strings",
  telling: ({ job }) => {
    const [rows, arms] = [strings(job), branches(job)];
    const units = arms.reduce((sum, b) => sum + b.arms_n.reduce((n, a) => n + a, 0), 0);
    if (rows.length === 0 && units > 0)
      return `${String(arms.length)} branches, ${many(units, "unit")}`;
    const modules = rows.reduce((sum, s) => sum + s.n, units);
    return modules === 0
      ? "no strings yet"
      : `${many(rows.length, "string")}, ${many(modules, "module")}`;
  },
  safety: "Above the DC limit the inverter is damaged the first cold, bright morning.",
  Screen: Strings,
};
