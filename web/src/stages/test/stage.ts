import { many } from "../../model/format";
import { strings } from "../../model/planning";
import type { StageModule } from "../../shell/stage";
import { Test } from "./Test";

export const stage: StageModule = {
  key: "test",
  at: 90,
  name: () => "Test",
  telling: ({ job, report }) => {
    const read = new Set(
      report.readings.filter((r) => !r.superseded).map((r) => r.reading.values.string),
    );
    const done = strings(job).filter((s) => read.has(s.letter)).length;
    return `${String(done)} of ${many(strings(job).length, "string")}`;
  },
  safety:
    "Isolator open, inverter off. Both leads are live in any light: " +
    "covered probes, one hand where you can.",
  Screen: Test,
};
