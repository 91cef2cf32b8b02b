/** Everything that can be done from find-or-do while a job is open. */
import { useQueryClient } from "@tanstack/react-query";
import { useMemo } from "react";
import { useNavigate } from "react-router";
import { api } from "../api/client";
import type { Action } from "../actions/actions";
import { addFace, addString, bothLibraries, strings } from "../model/planning";
import { setAt } from "../model/pointer";
import { checkKey } from "../model/report";
import { subjectName } from "../model/subject";
import { WORDS } from "../ui/verdict";
import { useBench } from "./bench";
import { built } from "./stage";
import { toggleTheme } from "./useTheme";

export function useJobActions(
  onHelp: () => void,
  onPack: () => void,
  onRevisions: () => void,
): (typed: string) => Action[] {
  const { view, stages: all, draft, editor, canPlan, company, canUndo, canRedo } = useBench();
  const navigate = useNavigate();
  const queries = useQueryClient();
  return useMemo(() => {
    const to = (path: string) => () => {
      void navigate(path);
    };
    const base = `/jobs/${view.id}`;
    const stages: Action[] = all.filter(built).map((s) => ({
      id: `go-${s.key}`,
      label: `Go to ${s.name(view.job.school)}`,
      keys: "[ ]",
      run: to(`${base}/${s.key}`),
    }));
    const plan: Action[] = canPlan
      ? [
          ...(canUndo
            ? [
                {
                  id: "undo",
                  label: "Undo",
                  keys: "Ctrl Z",
                  run: () => {
                    editor.undo();
                  },
                },
              ]
            : []),
          ...(canRedo
            ? [
                {
                  id: "redo",
                  label: "Redo",
                  keys: "Ctrl Shift Z",
                  run: () => {
                    editor.redo();
                  },
                },
              ]
            : []),
          {
            id: "add-string",
            label: "Add a string",
            run: () => {
              editor.edit((d) => addString(d, bothLibraries(d.library, company), undefined));
              void navigate(`${base}/strings`);
            },
          },
          {
            id: "add-face",
            label: "Add a face",
            run: () => {
              editor.editJob(addFace);
              void navigate(`${base}/site`);
            },
          },
        ]
      : [];
    const rest: Action[] = [
      {
        id: "pack",
        label: "Print the pack",
        also: "pdf paper",
        run: onPack,
      },
      {
        id: "revisions",
        label: "Revisions: compare, look, restore",
        also: "history versions earlier undo",
        run: onRevisions,
      },
      {
        id: "export",
        label: "Export the job as a file",
        also: "download json",
        run: () => {
          window.location.assign(`/api${base}/export`);
        },
      },
      { id: "jobs", label: "All jobs", also: "list", run: to("/jobs") },
      {
        id: "library",
        label: "Data sheets",
        also: "library modules inverters import",
        run: to("/library"),
      },
      {
        id: "sums",
        label: "Quick sums",
        also: "calculate wire fill drop breaker",
        run: to("/sums"),
      },
      { id: "theme", label: "Light or dusk", also: "dark theme night", run: toggleTheme },
      { id: "keys", label: "Keys", keys: "?", also: "help keyboard shortcuts", run: onHelp },
      {
        id: "sign-out",
        label: "Sign out",
        run: () => {
          void api.signOut().then(() => {
            queries.clear();
            window.location.assign("/");
          });
        },
      },
    ];
    const checks: Action[] = view.report.checks.map((c) => ({
      id: checkKey(c),
      label: `${subjectName(c.subject)}: ${c.title}`,
      also: `${c.id} ${WORDS[c.verdict]}`,
      run: to(`${base}/${c.stage}?slip=${encodeURIComponent(checkKey(c))}`),
    }));
    /** "A 11" sets a count without leaving the keys. */
    const counted = (typed: string): Action[] => {
      const match = /^\s*([a-z]{1,3})\s+(\d{1,3})\s*$/i.exec(typed);
      const letter = match?.[1]?.toUpperCase();
      const n = Number(match?.[2]);
      const index = strings(draft.job).findIndex((s) => s.letter === letter);
      if (!canPlan || index < 0 || n < 1) return [];
      return [
        {
          id: "count",
          label: `String ${letter ?? ""}: ${String(n)} in series`,
          run: () => {
            editor.editJob((job) => setAt(job, `/strings/${String(index)}/n`, n));
            void navigate(`${base}/strings`);
          },
        },
      ];
    };
    const fixed = [...plan, ...stages, ...rest, ...checks];
    return (typed) => [...counted(typed), ...fixed];
  }, [
    view,
    all,
    draft.job,
    editor,
    canPlan,
    company,
    canUndo,
    canRedo,
    navigate,
    queries,
    onHelp,
    onPack,
    onRevisions,
  ]);
}
