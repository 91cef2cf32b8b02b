/** Narrows the list of jobs and sorts it. */
import type { JobsWanted } from "../../api/client";
import { SCHOOL } from "../../text/words";
import { Pick } from "../../ui/Pick";
import { Tick } from "../../ui/Tick";
import { useNarrow } from "../../ui/useNarrow";
import { WORDS } from "../../ui/verdict";

export const ORDERS = [
  ["touched", "the last touched first"],
  ["name", "by name"],
  ["verdict", "the worst verdict first"],
] as const;

interface Props {
  asked: JobsWanted;
  want: (more: JobsWanted) => void;
  people: readonly string[];
}

export function Filters({ asked, want, people }: Props) {
  const any = ["", "any"] as const;
  // Somebody who is looked for stays in the list of names.
  const names = asked.by && !people.includes(asked.by) ? [asked.by, ...people] : people;
  const narrow = useNarrow();
  const set = Object.keys(asked).filter((key) => key !== "find").length;
  const all = (
    <div
      role="group"
      aria-label="Which jobs"
      className="mb-3 flex flex-wrap items-end gap-x-3 gap-y-1"
    >
      <Pick
        label="Verdict"
        value={asked.verdict ?? ""}
        options={[any, ...(["fail", "unknown", "warn", "pass"] as const).map(named)]}
        onChange={(verdict) => {
          want({ verdict } as JobsWanted);
        }}
      />
      <Pick
        label="School"
        value={asked.school ?? ""}
        options={[any, ["na", SCHOOL.na], ["iec", SCHOOL.iec]]}
        onChange={(school) => {
          want({ school } as JobsWanted);
        }}
      />
      <Pick
        label="Last touched by"
        value={asked.by ?? ""}
        options={[any, ...names.map((n) => [n, n] as const)]}
        onChange={(by) => {
          want({ by });
        }}
      />
      <Pick
        label="Order"
        value={asked.order ?? "touched"}
        options={ORDERS}
        onChange={(order) => {
          want({ order } as JobsWanted);
        }}
      />
      <Tick
        label="a data sheet waits"
        checked={asked.waits === true}
        onChange={(waits) => {
          want({ waits });
        }}
      />
      <Tick
        label="put away"
        checked={asked.archived === true}
        onChange={(archived) => {
          want({ archived, templates: false });
        }}
      />
      <Tick
        label="templates"
        checked={asked.templates === true}
        onChange={(templates) => {
          want({ templates, archived: false });
        }}
      />
    </div>
  );
  if (!narrow) return all;
  // In the hand the list comes first.
  return (
    <details className="mb-3" open={set > 0}>
      <summary className="grid min-h-12 items-center text-base underline">
        Which jobs{set > 0 ? ` (${String(set)} set)` : ""}
      </summary>
      {all}
    </details>
  );
}

const named = (verdict: keyof typeof WORDS) => [verdict, WORDS[verdict]] as const;
