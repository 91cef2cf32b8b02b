import { later } from "../../shell/later";
import type { StageModule } from "../../shell/stage";

export const stage: StageModule = {
  key: "handover",
  at: 100,
  name: () => "Hand over",
  telling: (view) => `revision ${String(view.revision)}`,
  safety: "The local code, the authority and a licensed person have the last word.",
  whole: true,
  Screen: later(async () => (await import("./HandOver")).HandOver),
};
