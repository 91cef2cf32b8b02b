import { whole } from "../../model/format";
import { valueOf } from "../../model/report";
import type { StageModule } from "../../shell/stage";
import { Site } from "./Site";

export const stage: StageModule = {
  key: "site",
  at: 10,
  name: () => "Site",
  telling: ({ report }) => {
    const low = valueOf(report, "site.t_min_c", { kind: "site" });
    const high = valueOf(report, "site.t_max_c", { kind: "site" });
    return low === null || high === null
      ? "temperatures open"
      : `${whole(low, "degC").replace(/ .*/, "")} to ${whole(high, "degC")}`;
  },
  safety:
    "A colder morning than entered means more volts than planned: " +
    "take the record, not a mild year.",
  Screen: Site,
};
