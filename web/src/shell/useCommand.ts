/** Edits of the plan that the core makes: given anew where something was entered meanwhile. */
import { useState } from "react";
import { api, refusal, type Command, type Job } from "../api/client";
import { useBench } from "./bench";

export type GiveCommand = (command: Command, first?: (job: Job) => Job) => void;

/** The command, and what the last one came to, in words. */
export function useCommand(): [GiveCommand, string | null] {
  const { editor } = useBench();
  const [said, setSaid] = useState<string | null>(null);
  const command: GiveCommand = (what, first = (j) => j) => {
    const from = editor.get().draft.job;
    api.command(first(from), what).then(
      (done) => {
        // What was entered while the answer was on its way stays: the command is given anew.
        if (editor.get().draft.job !== from) {
          command(what, first);
          return;
        }
        editor.editJob(() => done.job);
        setSaid(done.changes.length > 0 ? `${done.changes.join("; ")}.` : "Nothing to change.");
      },
      (error: unknown) => {
        const { message, errors } = refusal(error);
        setSaid(errors[0] ? `${errors[0].message}: ${errors[0].hint}` : message);
      },
    );
  };
  return [command, said];
}
