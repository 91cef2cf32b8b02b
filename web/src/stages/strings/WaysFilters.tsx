/** What is asked of the ways: modules on each face, how many strings, what they share. */
import type { WaysAsk } from "../../api/client";
import { NumberField } from "../../ui/NumberField";
import { Tick } from "../../ui/Tick";

export function WaysFilters({
  ask,
  onChange,
  faceName,
}: {
  ask: WaysAsk;
  onChange: (what: Partial<WaysAsk>) => void;
  faceName: (id: string) => string;
}) {
  return (
    <div className="flex flex-wrap items-end gap-x-3 gap-y-1 px-3 py-2">
      {ask.faces.map((f, i) => (
        <div key={f.face} className="w-22">
          <NumberField
            label={`on ${faceName(f.face)}`}
            value={f.modules_n}
            onChange={(n) => {
              const modules_n = Math.max(0, Math.round(n ?? 0));
              onChange({ faces: ask.faces.map((g, k) => (k === i ? { ...g, modules_n } : g)) });
            }}
          />
        </div>
      ))}
      <div className="w-22">
        <NumberField
          label="strings ≤"
          value={ask.home_runs_max}
          onChange={(n) => {
            onChange({ home_runs_max: n });
          }}
        />
      </div>
      <div className="w-22">
        <NumberField
          label="an input ≤"
          value={ask.strings_per_input}
          onChange={(n) => {
            onChange({ strings_per_input: n });
          }}
        />
      </div>
      <Tick
        label="equal"
        checked={ask.equal_strings ?? false}
        onChange={(equal_strings) => {
          onChange({ equal_strings });
        }}
      />
      <Tick
        label="faces apart"
        checked={!(ask.faces_may_mix ?? false)}
        onChange={(apart) => {
          onChange({ faces_may_mix: !apart });
        }}
      />
      <Tick
        label="use all"
        checked={ask.use_all ?? false}
        onChange={(use_all) => {
          onChange({ use_all });
        }}
      />
    </div>
  );
}
