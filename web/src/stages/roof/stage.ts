import { many } from "../../model/format";
import { later } from "../../shell/later";
import type { StageModule } from "../../shell/stage";

export const stage: StageModule = {
  key: "roof",
  at: 40,
  name: () => "Roof map",
  telling: ({ report }) => {
    const modules = report.roof.reduce((sum, f) => sum + f.modules_n, 0);
    return modules === 0 ? "no map yet" : many(modules, "module");
  },
  safety: "Never part a connector under load. Same make on both halves of every joint.",
  Screen: later(async () => (await import("./Roof")).Roof),
};
