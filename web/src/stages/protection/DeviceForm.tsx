/** One device: its data sheet, its ratings, what it feeds, how a transformer sits. */
import type { Command, Device, Library } from "../../api/client";
import { changeDevice, circuitsOf, devicesOf, planOf } from "../../model/plan";
import { bothLibraries, withSheets } from "../../model/planning";
import { useBench } from "../../shell/bench";
import { DEVICES } from "../../text/words";
import { problemAt } from "../../ui/field";
import { NumberField } from "../../ui/NumberField";
import { Pick } from "../../ui/Pick";
import { TakeOut } from "../../ui/TakeOut";
import { YesNo } from "../../ui/YesNo";

type What = Device["what"];
type Numbers =
  "amps_a" | "volts_v" | "poles_n" | "breaking_ka" | "trip_times" | "rcd_ma" | "ways_n";

/** What is asked of each kind of device. */
const ASKED: Record<What, Numbers[]> = {
  breaker: ["amps_a", "poles_n", "breaking_ka", "trip_times", "ways_n"],
  fuse: ["amps_a", "volts_v", "breaking_ka", "ways_n"],
  isolator: ["amps_a", "volts_v", "poles_n", "ways_n"],
  surge_device: ["volts_v", "ways_n"],
  rcd: ["amps_a", "rcd_ma", "ways_n"],
  bus: ["amps_a", "ways_n"],
  earth_bar: ["ways_n"],
  meter: ["ways_n"],
  current_transformer: [],
  shutdown_starter: ["ways_n"],
};

const NAMES: Record<Numbers, [name: string, unit: string]> = {
  amps_a: ["Amps of", "A"],
  volts_v: ["Volts of", "V"],
  poles_n: ["Poles of", ""],
  breaking_ka: ["Breaks, of", "kA"],
  trip_times: ["Trips at once from, times, of", "×"],
  rcd_ma: ["Residual current of", "mA"],
  ways_n: ["Width of", "ways"],
};

/** The data sheets of a kind of device. */
function sheetsOf(what: What, all: Library) {
  switch (what) {
    case "breaker":
    case "rcd":
      return all.breakers;
    case "fuse":
      return all.fuses;
    case "isolator":
    case "shutdown_starter":
      return all.isolators;
    case "surge_device":
      return all.surges;
    default:
      return [];
  }
}

interface Props {
  node: string;
  name: string;
  command: (command: Command) => void;
}

export function DeviceForm({ node, name, command }: Props) {
  const { draft, editor, canPlan, company, problems } = useBench();
  const own = planOf(draft.job).nodes[node]?.devices?.[name];
  const holder = planOf(draft.job).nodes[node];
  if (!own || !holder) return null;
  const label = `${name} in ${node}`;
  const at = (field: string) =>
    problemAt(problems, `/job/plan/nodes/${node}/devices/${name}/${field}`);
  const change = (to: Partial<Device>) => {
    editor.editJob((j) => changeDevice(j, node, name, to));
  };
  const all = bothLibraries(draft.library, company);
  const sheets = sheetsOf(own.what, all);
  const used = own.sheet ? `${own.sheet.sheet}/${String(own.sheet.revision)}` : "";
  const of = sheets.find((s) => `${s.sheet}/${String(s.revision)}` === used);
  const printed = of as unknown as Partial<Record<string, number | null>> | undefined;
  const sheetField = (field: Numbers) =>
    field === "volts_v" && "ucpv_v" in (of ?? {}) ? "ucpv_v" : field;
  const ct = own.ct ?? null;
  const turn = (to: Partial<NonNullable<Device["ct"]>>) => {
    change({ ct: { ...(ct ?? {}), ...to } as NonNullable<Device["ct"]> });
  };
  return (
    <div
      className="mt-3 grid grid-cols-4 items-end gap-2 bg-paper p-2 max-md:grid-cols-2"
      data-testid={`device-${node}-${name}`}
    >
      <p className="col-span-full text-sm">
        <strong className="font-mono">{name}</strong> {DEVICES[own.what]}
      </p>
      {sheets.length > 0 && (
        <Pick
          label={`Data sheet of ${label}`}
          value={used}
          disabled={!canPlan}
          options={[
            ["", "none"],
            ...sheets.map(
              (s) => [`${s.sheet}/${String(s.revision)}`, `${s.maker} ${s.model}`] as const,
            ),
          ]}
          onChange={(k) => {
            const s = sheets.find((o) => `${o.sheet}/${String(o.revision)}` === k);
            // What it is rated for comes from the sheet from now on; the amps are the plan's.
            const rated: Partial<Device> = s
              ? {
                  sheet: { sheet: s.sheet, revision: s.revision },
                  volts_v: null,
                  poles_n: null,
                  breaking_ka: null,
                  trip_times: null,
                  ways_n: null,
                  ...("amps_a" in s ? { amps_a: s.amps_a ?? null } : {}),
                }
              : { sheet: null };
            editor.edit((d) => withSheets(changeDevice(d.job, node, name, rated), all));
          }}
        />
      )}
      {ASKED[own.what].map((field) => {
        const [word, unit] = NAMES[field];
        const given = printed?.[sheetField(field)];
        const says = own[field] == null && given != null ? `, sheet says ${String(given)}` : "";
        return (
          <NumberField
            key={field}
            label={`${word} ${label}${says}`}
            unit={unit}
            value={own[field]}
            readOnly={!canPlan}
            problem={at(field)}
            onChange={(value) => {
              change({ [field]: value });
            }}
          />
        );
      })}
      {own.what === "rcd" && (
        <Pick
          label={`Type of ${label}`}
          value={own.rcd ?? ""}
          disabled={!canPlan}
          options={[
            ["", "not known"],
            ["ac", "AC"],
            ["a", "A"],
            ["f", "F"],
            ["b", "B"],
          ]}
          onChange={(rcd) => {
            change({ rcd: rcd === "" ? null : (rcd as NonNullable<Device["rcd"]>) });
          }}
        />
      )}
      {(own.what === "isolator" || own.what === "breaker") && (
        <>
          <YesNo
            label={`${label} can be locked open`}
            value={own.lockable}
            disabled={!canPlan}
            onChange={(lockable) => {
              change({ lockable });
            }}
          />
          <YesNo
            label={`${label} is seen open`}
            value={own.visible}
            disabled={!canPlan}
            onChange={(visible) => {
              change({ visible });
            }}
          />
        </>
      )}
      {own.what === "current_transformer" && (
        <>
          <Pick
            label={`${label} measures`}
            value={ct?.measures ?? ""}
            disabled={!canPlan}
            options={[
              ["", "not known"],
              ["grid", "what comes from the grid"],
              ["production", "what is made"],
            ]}
            onChange={(m) => {
              turn({ measures: m === "" ? null : (m as "grid" | "production") });
            }}
          />
          <Pick
            label={`${label} is around`}
            value={ct?.around ?? ""}
            disabled={!canPlan}
            options={[
              ["", "the conductors toward the grid"],
              ...circuitsOf(draft.job).map(([k]) => [k, `circuit ${k}`] as const),
            ]}
            onChange={(around) => {
              turn({ around: around === "" ? null : around });
            }}
          />
          <YesNo
            label={`Arrow of ${label} toward the grid`}
            value={ct?.toward_grid}
            disabled={!canPlan}
            onChange={(toward_grid) => {
              turn({ toward_grid });
            }}
          />
          <YesNo
            label={`The meter of ${label} wants it toward the grid`}
            value={ct?.wanted_toward_grid}
            disabled={!canPlan}
            onChange={(wanted_toward_grid) => {
              turn({ wanted_toward_grid });
            }}
          />
          <NumberField
            label={`Printed on ${label}`}
            unit="A"
            value={ct?.primary_a}
            readOnly={!canPlan}
            onChange={(primary_a) => {
              turn({ primary_a });
            }}
          />
          <NumberField
            label={`Entered in the meter for ${label}`}
            unit="A"
            value={ct?.entered_a}
            readOnly={!canPlan}
            onChange={(entered_a) => {
              turn({ entered_a });
            }}
          />
        </>
      )}
      <Pick
        label={`${label} feeds`}
        value={own.feeds ?? ""}
        options={[
          ["", "what leaves here"],
          ...devicesOf(holder)
            .filter(([k]) => k !== name)
            .map(([k]) => [k, k] as const),
        ]}
        disabled={!canPlan}
        onChange={(feeds) => {
          change({ feeds: feeds || null });
        }}
      />
      {canPlan && (
        <TakeOut
          what={`device ${label}`}
          onClick={() => {
            command({ do: "retire_device", node, device: name });
          }}
        />
      )}
    </div>
  );
}
