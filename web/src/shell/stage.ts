/** What a stage of the job says of itself: its folder under `stages/` exports one of these. */
import type { Job, JobView, Stage, Verdict } from "../api/client";

export interface StageModule {
  key: string;
  /** Its place on the way of the current: stages stand in this order. */
  at: number;
  name: (school: Job["school"]) => string;
  /** One telling figure, out of the report. */
  telling: (view: JobView) => string;
  /** One line, at the step it belongs to. */
  safety: string;
  /** Looks at the checks of every stage, not at its own only. */
  whole?: boolean;
  Screen: React.ComponentType;
}

/** A stage that is named on the way of the current and not built. */
export type PlannedStage = Pick<StageModule, "key" | "at" | "name">;

export const built = (stage: StageModule | PlannedStage): stage is StageModule => "Screen" in stage;

/** Whether a check belongs to a stage's screen. */
export const covers = (stage: StageModule, of: Stage): boolean =>
  stage.whole === true || of === stage.key;

export const verdictOf = (view: JobView, stage: StageModule): Verdict =>
  stage.whole === true
    ? view.report.verdict
    : (view.report.stages.find((s) => s.stage === stage.key)?.verdict ?? "unknown");
