/** Practice and supply: what the rules of this stage go by, each acting on the checks beside it. */
import { changeProtection, type Practised } from "../../model/plan";
import { useBench } from "../../shell/bench";
import { problemAt } from "../../ui/field";
import { NumberField } from "../../ui/NumberField";
import { Pick } from "../../ui/Pick";

type Numbers =
  | "flashes_per_km2"
  | "spare_n"
  | "shutdown_inside_v"
  | "shutdown_outside_v"
  | "fault_ka"
  | "ze_ohm"
  | "ra_ohm";

export function Practice() {
  const { draft, editor, canPlan, problems } = useBench();
  const own: Partial<Practised> = draft.job.protection ?? {};
  const na = draft.job.school === "na";
  const set = (to: Partial<Practised>) => {
    editor.editJob((j) => changeProtection(j, to));
  };
  const number = (label: string, field: Numbers, unit: string) => (
    <NumberField
      label={label}
      unit={unit}
      value={own[field]}
      readOnly={!canPlan}
      problem={problemAt(problems, `/job/protection/${field}`)}
      onChange={(value) => {
        set({ [field]: value });
      }}
    />
  );
  const pick = <K extends keyof Practised>(
    label: string,
    field: K,
    options: readonly (readonly [string, string])[],
  ) => (
    <Pick
      label={label}
      value={(own[field] as string | null | undefined) ?? ""}
      disabled={!canPlan}
      options={options}
      onChange={(value) => {
        set({ [field]: value === "" ? null : value } as Partial<Practised>);
      }}
    />
  );
  return (
    <div className="grid grid-cols-3 items-end gap-3 p-3 max-md:grid-cols-1">
      {pick("DC isolators", "isolators", [
        ["", na ? "the school's: one an input" : "the school's: one a string"],
        ["string", "one for each string"],
        ["input", "one for each input"],
      ])}
      {pick("DC surge devices", "surge", [
        ["", "always"],
        ...(na ? [] : [["by_length", "by the length of the cable"] as const]),
      ])}
      {number("Spare inputs of a combiner", "spare_n", "")}
      {number("Fault current of the supply", "fault_ka", "kA")}
      {na && (
        <>
          {pick("Rapid shutdown by", "shutdown", [
            ["", "not said"],
            ["module_electronics", "optimizers or microinverters"],
            ["module_devices", "a device at each module"],
            ["listed_array", "an array listed for it"],
          ])}
          {number("Volts inside the array after 30 s", "shutdown_inside_v", "V")}
          {number("Volts outside the array after 30 s", "shutdown_outside_v", "V")}
        </>
      )}
      {!na && (
        <>
          {own.surge === "by_length" && (
            <>
              {pick("The system stands on", "surge_site", [
                ["", "not said"],
                ["dwelling", "a dwelling"],
                ["field", "a field"],
                ["service", "a building that serves the public"],
              ])}
              {number("Flashes to ground, each km² and year", "flashes_per_km2", "")}
            </>
          )}
          {pick("Earthing of the supply", "earthing", [
            ["", "not said"],
            ["tn", "TN: the network brings the earth"],
            ["tt", "TT: an electrode of its own"],
          ])}
          {own.earthing === "tn" && number("Loop outside, Ze", "ze_ohm", "ohm")}
          {own.earthing === "tt" && number("Electrode, RA", "ra_ohm", "ohm")}
        </>
      )}
    </div>
  );
}
