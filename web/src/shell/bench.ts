/** What the stages of one job share: the job in hand, who holds it, what may be offered. */
import { createContext, useContext, useSyncExternalStore } from "react";
import type { Account, Choices, Library, Problem } from "../api/client";
import type { Editor, Snapshot } from "../model/editor";
import type { PlannedStage, StageModule } from "./stage";

export interface BenchData {
  /** Every stage, in the order of the work. */
  stages: readonly (StageModule | PlannedStage)[];
  editor: Editor;
  /** The job as it stands; `editor` is another where an earlier revision is looked at. */
  newest: Editor;
  /** The earlier revision that is looked at. */
  looking: number | null;
  /** Looks at an earlier revision, or at the job as it stands again. */
  look: (revision: number | null) => void;
  account: Account;
  canPlan: boolean;
  canRead: boolean;
  choices: Choices;
  /** The company's data sheets. */
  company: Library | undefined;
  /** The picked check, by key. */
  picked: string | null;
  pick: (key: string | null) => void;
}

export const BenchContext = createContext<BenchData | null>(null);

export interface Bench extends BenchData, Snapshot {
  problems: Problem[];
}

export function useBench(): Bench {
  const bench = useContext(BenchContext);
  if (!bench) throw new Error("no bench around this component");
  const snapshot = useSyncExternalStore(bench.editor.subscribe, bench.editor.get);
  return {
    ...bench,
    ...snapshot,
    problems: snapshot.saving.state === "refused" ? snapshot.saving.errors : [],
  };
}
