/** Somebody saved in between: both versions side by side, one stays, none is lost. */
import { differences } from "../model/pointer";
import { Button } from "../ui/Button";
import { Dialog } from "../ui/Dialog";
import { useBench } from "./bench";

const SHOWN = 12;

function at(node: unknown, pointer: string): string {
  const value = pointer
    .split("/")
    .slice(1)
    .reduce<unknown>((n, key) => (n as Record<string, unknown> | null | undefined)?.[key], node);
  return value === undefined || value === null
    ? "—"
    : typeof value === "object"
      ? "…"
      : String(value as string | number | boolean);
}

export function Conflict() {
  const { saving, draft, editor } = useBench();
  if (saving.state !== "conflict") return null;
  const { theirs } = saving;
  const places = differences(draft.job, theirs.job);
  return (
    <Dialog title={`${theirs.saved_by} saved in between`} open onClose={() => undefined}>
      <p className="mb-2 text-sm">
        Revision {theirs.revision} was saved while you worked. Both versions are kept; choose which
        one stands now.
      </p>
      <table className="mb-4 w-full text-sm">
        <thead>
          <tr className="border-b border-line text-left text-xs text-ink-2">
            <th className="py-1 font-normal">Place</th>
            <th className="py-1 text-right font-normal">Yours</th>
            <th className="py-1 text-right font-normal">Theirs</th>
          </tr>
        </thead>
        <tbody>
          {places.slice(0, SHOWN).map((p) => (
            <tr key={p} className="border-b border-line">
              <td className="py-1">{p.slice(1)}</td>
              <td className="py-1 text-right font-mono">{at(draft.job, p)}</td>
              <td className="py-1 text-right font-mono">{at(theirs.job, p)}</td>
            </tr>
          ))}
        </tbody>
      </table>
      {places.length > SHOWN && (
        <p className="mb-3 text-xs">and {places.length - SHOWN} more places</p>
      )}
      {places.length === 0 && <p className="mb-3 text-sm">The two say the same.</p>}
      <div className="flex flex-wrap gap-2">
        <Button
          main
          onClick={() => {
            editor.keepMine();
          }}
        >
          Keep mine as revision {theirs.revision + 1}
        </Button>
        <Button
          onClick={() => {
            editor.takeTheirs();
          }}
        >
          Take theirs
        </Button>
      </div>
      <p className="mt-2 text-xs text-ink-2">
        Theirs stays in the list of revisions; yours can be had back by undo.
      </p>
    </Dialog>
  );
}
