/** Everything that can be done from find-or-do while a job is open. */
import { useQueryClient } from "@tanstack/react-query";
import { useMemo } from "react";
import { useNavigate } from "react-router";
import { api, type Subject } from "../api/client";
import type { Action } from "../actions/actions";
import { addFace, addString, bothLibraries, sheetKey, sheetName, strings } from "../model/planning";
import { amount } from "../model/format";
import { setAt } from "../model/pointer";
import { checkKey, checksOf, worst } from "../model/report";
import { ofString, subjectKey, subjectName } from "../model/subject";
import { WORDS } from "../ui/verdict";
import { useBench } from "./bench";
import { built } from "./stage";
import { toggleTheme } from "./useTheme";

export function useJobActions(
  onHelp: () => void,
  onPack: () => void,
  onRevisions: () => void,
): (typed: string) => Action[] {
  const {
    view,
    stages: all,
    draft,
    editor,
    account,
    canPlan,
    company,
    canUndo,
    canRedo,
  } = useBench();
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
      ...(account.role === "inspector"
        ? []
        : [
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
          ]),
      ...(account.role === "owner"
        ? [{ id: "people", label: "People", also: "accounts roles units", run: to("/people") }]
        : []),
      { id: "me", label: "Your account", also: "password units feet fahrenheit", run: to("/me") },
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
    /** What the report and the library hold: put together when something is first looked for. */
    const held = (): Action[] => {
      const checks: Action[] = view.report.checks.map((c) => ({
        id: checkKey(c),
        label: `${subjectName(c.subject)}: ${c.title}`,
        also: `${c.id} ${WORDS[c.verdict]}`,
        run: to(`${base}/${c.stage}?slip=${encodeURIComponent(checkKey(c))}`),
      }));
      const slipOf = (about: Subject, figure?: string) => {
        const own = checksOf(view.report, about);
        const bad = worst(own);
        return own.find((c) => c.figure === figure) ?? own.find((c) => c.verdict === bad);
      };
      const known = bothLibraries(draft.library, company);
      const listed: Action[] = strings(draft.job).map((s) => {
        const first = slipOf(ofString(s.letter));
        const sheet = known.modules.find((m) => sheetKey(m) === sheetKey(s.module));
        return {
          id: `string-${s.letter}`,
          label: `String ${s.letter}, ${String(s.n)} × ${sheet?.model ?? s.module.sheet}`,
          also: "strings",
          run: to(`${base}/strings${first ? `?slip=${encodeURIComponent(checkKey(first))}` : ""}`),
        };
      });
      const judged = new Set(view.report.checks.map((c) => `${c.figure}|${subjectKey(c.subject)}`));
      const figures: Action[] = view.report.figures
        .filter((f) => !judged.has(`${f.id}|${subjectKey(f.subject)}`))
        .map((f) => {
          const slip = slipOf(f.subject, f.id);
          return {
            id: `figure-${f.id}-${subjectKey(f.subject)}`,
            label: `${subjectName(f.subject)}: ${f.title}, ${amount(f.value, f.unit)}`,
            also: f.id,
            run: to(
              `${base}/${f.stage}${slip ? `?slip=${encodeURIComponent(checkKey(slip))}` : ""}`,
            ),
          };
        });
      const sheets: Action[] = (["module", "inverter", "optimizer", "micro"] as const).flatMap(
        (kind) =>
          (company?.[`${kind}s`] ?? []).map((s) => ({
            id: `sheet-${kind}-${sheetKey(s)}`,
            label: `Data sheet: ${s.maker} ${sheetName(s)}`,
            also: kind,
            run: to(`/library?sheet=${encodeURIComponent(`${kind}/${sheetKey(s)}`)}`),
          })),
      );
      return [...listed, ...checks, ...sheets, ...figures];
    };
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
    let fixed: Action[] | null = null;
    return (typed) => {
      fixed ??= [...plan, ...stages, ...rest, ...held()];
      return [...counted(typed), ...fixed];
    };
  }, [
    view,
    all,
    draft,
    editor,
    account,
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
