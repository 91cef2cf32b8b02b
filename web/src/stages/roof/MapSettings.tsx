/** Settings of the map in which practice differs. */
import { useState } from "react";
import type { Job, Problem } from "../../api/client";
import { useBench } from "../../shell/bench";
import { problemAt } from "../../ui/field";
import { NumberField } from "../../ui/NumberField";
import { Pick } from "../../ui/Pick";
import { Sheet } from "../../ui/Sheet";
import { TextField } from "../../ui/TextField";
import { asSaid, asWord } from "./FaceDetails";

type Settings = NonNullable<Job["settings"]>;

/** Lengths as they are typed: 0.5, 1, 2. Or the first word that is none. */
function lengths(text: string): number[] | string {
  const words = text.split(/[;\s]+|,\s+/).filter(Boolean);
  const metres = words.map((word) => Number(word.replace(",", ".")));
  const wrong = metres.findIndex((m) => !Number.isFinite(m) || m <= 0);
  return wrong < 0 ? metres : (words[wrong] ?? "");
}

export function MapSettings() {
  const { draft, editor, canPlan, problems } = useBench();
  const [wrong, setWrong] = useState<Problem | null>(null);
  const settings: Partial<Settings> = draft.job.settings ?? {};
  const change = (what: Partial<Settings>) => {
    editor.editJob((j) => ({ ...j, settings: { ...j.settings, ...what } as Settings }));
  };
  const number = (
    label: string,
    kept: "m" | undefined,
    key: "lead_slack_m" | "trunk_sections_n",
  ) => (
    <NumberField
      label={label}
      kept={kept}
      as={kept}
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
          problem={wrong ?? problemAt(problems, "/job/settings/jumpers_m")}
          onChange={(text) => {
            const read = lengths(text);
            if (typeof read === "string") {
              setWrong({
                path: "/job/settings/jumpers_m",
                message: `“${read}” is no length`,
                hint: "metres, as 0.5 1 2",
              });
              return;
            }
            setWrong(null);
            change({ jumpers_m: read });
          }}
        />
        {number("Sections a trunk runs through (3)", undefined, "trunk_sections_n")}
      </div>
    </Sheet>
  );
}
