/** What job this is, whether it is saved, find-or-do, and the pack. */
import { clsx } from "clsx";
import { SCHOOL } from "../text/words";
import { Button } from "../ui/Button";
import { useBench } from "./bench";
import { Refused } from "./Refused";

function SavingSaid({ onRevisions }: { onRevisions: () => void }) {
  const { saving, view } = useBench();
  const chip = "rounded border px-2 py-0.5 text-xs whitespace-nowrap";
  switch (saving.state) {
    case "saved":
      return (
        <button
          type="button"
          title="Earlier revisions"
          className={`${chip} border-line text-ink-2 hover:bg-copper-soft max-md:min-h-12`}
          onClick={onRevisions}
        >
          Revision {view.revision}, saved
        </button>
      );
    case "saving":
      return <span className={`${chip} border-line text-ink-2`}>Saving</span>;
    case "away":
      return (
        <span className={`${chip} border-caution bg-caution-soft font-bold text-caution`}>
          Not saved: the server is away. Your edit is kept here and tried again
        </span>
      );
    case "refused":
      return <Refused />;
    case "conflict":
      return (
        <span className={`${chip} border-caution bg-caution-soft font-bold text-caution`}>
          Not saved: {saving.theirs.saved_by} saved in between
        </span>
      );
  }
}

interface Props {
  onFind: () => void;
  onPack: () => void;
  onRevisions: () => void;
}

export function TopBar({ onFind, onPack, onRevisions }: Props) {
  const { draft, canPlan, canRead, looking } = useBench();
  return (
    <header
      className={clsx(
        "no-print flex min-h-13 flex-wrap items-center gap-x-3 gap-y-1 border-b",
        "border-line bg-sheet px-4 py-2",
      )}
    >
      <h1 className="truncate text-base font-bold">{draft.job.name}</h1>
      <span className="rounded border border-line px-2 py-0.5 text-xs max-md:hidden">
        {SCHOOL[draft.job.school]}
      </span>
      <span role="status" data-testid="saving">
        <SavingSaid onRevisions={onRevisions} />
      </span>
      {!canPlan && looking === null && (
        <span className="text-xs text-ink-2">
          {canRead ? "you add readings, others plan" : "you look, others plan"}
        </span>
      )}
      <span className="grow" />
      <button
        type="button"
        className={clsx(
          "flex min-h-9 w-44 items-center justify-between rounded-md border",
          "border-ink-3 px-3 text-sm text-ink-2 max-md:min-h-12 max-md:w-auto",
          "max-md:gap-3 max-md:text-base",
        )}
        onClick={onFind}
      >
        Find or do <kbd className="rounded border border-line px-1.5 text-xs">/</kbd>
      </button>
      <Button className="max-md:hidden" onClick={onPack}>
        Print pack
      </Button>
    </header>
  );
}
