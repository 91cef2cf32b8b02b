/** Settings of the map in which practice differs. */
import type { Job } from "../../api/client";
import { useBench } from "../../shell/bench";
import { problemAt } from "../../ui/field";
import { NumberField } from "../../ui/NumberField";
import { Pick } from "../../ui/Pick";
import { Sheet } from "../../ui/Sheet";
import { TextField } from "../../ui/TextField";
import { asSaid, asWord } from "./FaceDetails";

type Settings = NonNullable<Job["settings"]>;

/** Lengths as they are typed: 0.5, 1, 2. What is no number is left out. */
const lengths = (text: string): number[] =>
  text
    .split(/[;\s]+|,\s+/)
    .map((word) => Number(word.replace(",", ".")))
    .filter((m) => Number.isFinite(m) && m > 0);

export function MapSettings() {
  const { draft, editor, canPlan, problems } = useBench();
  const settings: Partial<Settings> = draft.job.settings ?? {};
  const change = (what: Partial<Settings>) => {
    editor.editJob((j) => ({ ...j, settings: { ...j.settings, ...what } as Settings }));
  };
  const number = (label: string, unit: string, key: "lead_slack_m" | "trunk_sections_n") => (
    <NumberField
      label={label}
      unit={unit}
      value={settings[key]}
      readOnly={!canPlan}
      problem={problemAt(problems, `/job/settings/${key}`)}
      onChange={(value) => {
        change({ [key]: value });
      }}
    />
  );
  return (
    <Sheet title="Settings of the map" aside="empty: as usual" className="mt-3">
      <div className="grid grid-cols-4 gap-3 p-3 max-md:grid-cols-1">
        <Pick
          label="Fire service’s paths kept free"
          value={asWord(settings.fire_paths)}
          options={[
            ["", "not said"],
            ["yes", "asked for"],
            ["no", "not asked for (out-building)"],
          ]}
          disabled={!canPlan}
          onChange={(word) => {
            change({ fire_paths: asSaid(word) });
          }}
        />
        {number("Slack at each join and tail (0.10)", "m", "lead_slack_m")}
        <TextField
          label="Jumpers in stock, m (0.5 1 2 3 5 10)"
          value={(settings.jumpers_m ?? []).join(" ")}
          readOnly={!canPlan}
          problem={problemAt(problems, "/job/settings/jumpers_m")}
          onChange={(text) => {
            change({ jumpers_m: lengths(text) });
          }}
        />
        {number("Sections a trunk runs through (3)", "n", "trunk_sections_n")}
      </div>
    </Sheet>
  );
}
