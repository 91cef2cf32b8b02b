/** The stages of a job: each folder here that is one registers itself by its `stage.ts`. */
import type { PlannedStage, StageModule } from "../shell/stage";

const found = import.meta.glob<{ stage: StageModule }>("./*/stage.ts", { eager: true });

const planned: PlannedStage[] = [{ key: "packlist", at: 80, name: () => "Pack list" }];

export const STAGES: readonly (StageModule | PlannedStage)[] = [
  ...Object.values(found).map((m) => m.stage),
  ...planned,
].sort((a, b) => a.at - b.at);
