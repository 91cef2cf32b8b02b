/** Why the last edit is not saved: every entry by its name, and the way to it. */
import { clsx } from "clsx";
import { useState } from "react";
import { useNavigate } from "react-router";
import { keyedPath } from "../model/pointer";
import { placeWords } from "../text/places";
import { Button } from "../ui/Button";
import { Dialog } from "../ui/Dialog";
import { useBench } from "./bench";

/** The stage on whose screen a room of the job is entered. */
const STAGES: Record<string, string> = {
  site: "site",
  places: "site",
  inverters: "equipment",
  strings: "strings",
  branches: "strings",
  roof: "roof",
  plan: "runs",
  settings: "runs",
  confirmed: "handover",
};

/** How long a field may take to show, in looks of a frame each. */
const LOOKS = 60;

/** Puts the focus on the first field that is not right, as soon as it stands there. */
function toField(looks = LOOKS): void {
  const field = document.querySelector<HTMLElement>('main [aria-invalid="true"]');
  if (field) {
    field.scrollIntoView({ block: "center" });
    field.focus();
  } else if (looks > 0) {
    requestAnimationFrame(() => {
      toField(looks - 1);
    });
  }
}

export function Refused() {
  const { saving, draft, view, editor, canUndo } = useBench();
  const [open, setOpen] = useState(false);
  const navigate = useNavigate();
  if (saving.state !== "refused") return null;
  const entries = saving.errors.map((problem) => {
    const path = keyedPath(draft.job, problem.path.replace(/^\/job(?=\/|$)/, ""));
    return { problem, path, stage: STAGES[path[0] ?? ""] };
  });
  const first = entries[0];
  const name = first ? placeWords(first.path) || "the job" : saving.message;
  return (
    <>
      <button
        type="button"
        className={clsx(
          "rounded border border-stop bg-stop-soft px-2 py-0.5 text-xs font-bold",
          "text-stop max-md:min-h-12",
        )}
        onClick={() => {
          setOpen(true);
        }}
      >
        Not saved: {name}
        {entries.length > 1 ? ` and ${String(entries.length - 1)} more` : ""}
      </button>
      <Dialog
        title="Not saved"
        open={open}
        onClose={() => {
          setOpen(false);
        }}
      >
        <p className="mb-2 text-sm">
          {entries.length === 0
            ? saving.message
            : "What you typed stays as it is until these are right:"}
        </p>
        <ul className="mb-3 grid gap-2 text-sm">
          {entries.map(({ problem, path, stage }) => (
            <li key={problem.path + problem.message} className="border-b border-line pb-2">
              <strong>{placeWords(path) || "The job"}</strong>: {problem.message}
              {problem.hint ? `; ${problem.hint}` : ""}{" "}
              {stage && (
                <button
                  type="button"
                  className="min-h-8 text-copper underline max-md:min-h-12"
                  onClick={() => {
                    setOpen(false);
                    void navigate(`/jobs/${view.id}/${stage}`);
                    // After the dialog has given the focus back.
                    setTimeout(toField, 100);
                  }}
                >
                  Go to it
                </button>
              )}
            </li>
          ))}
        </ul>
        {canUndo && (
          <Button
            onClick={() => {
              setOpen(false);
              editor.undo();
            }}
          >
            Take the last edit back
          </Button>
        )}
      </Dialog>
    </>
  );
}
