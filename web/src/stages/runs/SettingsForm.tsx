/** Limits in which practice differs; empty means the school's own. */
import type { Job, Unit } from "../../api/client";
import { useBench } from "../../shell/bench";
import { problemAt } from "../../ui/field";
import { NumberField } from "../../ui/NumberField";
import { Pick } from "../../ui/Pick";
import { Sheet } from "../../ui/Sheet";

type Settings = NonNullable<Job["settings"]>;

const FIELDS: readonly (readonly [
  Exclude<keyof Settings, "edition" | "fire_paths" | "jumpers_m">,
  string,
  string,
  "both" | "iec",
  Unit?,
])[] = [
  ["vdrop_dc_pct", "Most voltage drop, DC", "%", "both"],
  ["vdrop_ac_pct", "Most voltage drop, AC", "%", "both"],
  ["fill_limit_pct", "Most fill of a conduit", "%", "iec"],
  ["network_a", "Ask the network first above", "A", "iec"],
  ["pull_mu", "Friction of the pull", "", "both"],
  ["pull_length_m", "Longest pull with ease", "m", "both", "m"],
  ["piece_m", "One piece of raceway", "m", "both", "m"],
];

const EDITIONS = ["2023", "2020", "2017"] as const;

export function SettingsForm() {
  const { draft, editor, canPlan, problems } = useBench();
  const settings = draft.job.settings;
  return (
    <Sheet title="Limits of this job" aside="empty: the school’s own">
      <div className="grid grid-cols-2 gap-3 p-3">
        {draft.job.school === "na" && (
          <Pick
            label="Edition of the code"
            value={settings?.edition ?? "2023"}
            options={EDITIONS.map((e) => [e, e])}
            disabled={!canPlan}
            onChange={(edition) => {
              editor.editJob((j) => ({
                ...j,
                settings: { ...(j.settings ?? {}), edition } as Settings,
              }));
            }}
          />
        )}
        {FIELDS.filter(([, , , where]) => where === "both" || draft.job.school === "iec").map(
          ([key, label, unit, , kept]) => (
            <NumberField
              key={key}
              label={label}
              unit={kept ? undefined : unit}
              kept={kept}
              value={settings?.[key]}
              readOnly={!canPlan}
              problem={problemAt(problems, `/job/settings/${key}`)}
              onChange={(value) => {
                editor.editJob((j) => ({
                  ...j,
                  settings: { ...(j.settings ?? {}), [key]: value } as Settings,
                }));
              }}
            />
          ),
        )}
      </div>
    </Sheet>
  );
}
