/**
 * What else there is to say of a face: frames in rows, rails, what is kept free, what stands in the
 * way, where leads cross to another face.
 */
import type { FaceMap, Job } from "../../api/client";
import { lengthWord } from "../../model/shown";
import { changeFace, mapOf } from "../../model/roof";
import { useBench } from "../../shell/bench";
import { Button } from "../../ui/Button";
import { problemAt } from "../../ui/field";
import { NumberField } from "../../ui/NumberField";
import { Pick } from "../../ui/Pick";
import { TakeOut } from "../../ui/TakeOut";
import { TextField } from "../../ui/TextField";
import { Tick } from "../../ui/Tick";

type Rails = NonNullable<FaceMap["rails"]>;
type Rows = NonNullable<FaceMap["rows"]>;
type Obstruction = NonNullable<FaceMap["obstructions"]>[string];
type Crossing = NonNullable<FaceMap["crossings"]>[string];

const SAID = [
  ["", "not said"],
  ["yes", "yes"],
  ["no", "no"],
] as const;

/** Yes, no or not said, as a list has it. */
export const asWord = (said: boolean | null | undefined): string =>
  said == null ? "" : said ? "yes" : "no";
export const asSaid = (word: string): boolean | null => (word === "" ? null : word === "yes");

const grid = "grid grid-cols-[repeat(auto-fill,minmax(8rem,1fr))] items-end gap-2";

/** The first key of a kind that is free. */
const freeKey = (taken: object, stem: string): string => {
  let n = 1;
  while (`${stem}-${String(n)}` in taken) n++;
  return `${stem}-${String(n)}`;
};

export function FaceDetails({ face }: { face: string }) {
  const { draft, editor, canPlan, problems } = useBench();
  const { job } = draft;
  const own = mapOf(job, face);
  const change = (what: Partial<FaceMap>) => {
    editor.editJob((j) => changeFace(j, face, what));
  };
  const at = (field: string) => problemAt(problems, `/job/roof/${face}/${field}`);
  /** Fields of lengths that are kept in metres or millimetres, shown like each other. */
  const lengths =
    (kept: "m" | "mm"): LengthField =>
    (label, path, value, to) => (
      <NumberField
        key={path}
        label={label}
        kept={kept}
        as={lengthWord()}
        readOnly={!canPlan}
        value={value}
        problem={at(path)}
        onChange={to}
      />
    );
  const [length, mm] = [lengths("m"), lengths("mm")];

  return (
    <details className="border-t border-line px-3 py-2 text-sm">
      <summary className="cursor-pointer font-bold">
        Rows, rails, what is kept free, obstructions
      </summary>
      <div className="mt-2 grid gap-3">
        <RowsPart rows={own.rows ?? null} change={change} length={length} />
        <RailsPart rails={own.rails ?? {}} change={change} length={length} />
        <fieldset>
          <legend className="font-bold">Kept free along its sides</legend>
          <p className="text-ink-2">Empty: the roof’s edge, or the paths of the map’s settings.</p>
          <div className={grid}>
            {(["eave_m", "ridge_m", "left_m", "right_m"] as const).map((side) =>
              length(
                { eave_m: "Eave", ridge_m: "Ridge", left_m: "Left", right_m: "Right" }[side],
                `free/${side}`,
                own.free?.[side],
                (value) => {
                  change({ free: { ...own.free, [side]: value } });
                },
              ),
            )}
          </div>
        </fieldset>
        <fieldset>
          <legend className="font-bold">In the way</legend>
          {Object.entries(own.obstructions ?? {}).map(([key, o]) => {
            const put = (what: Partial<Obstruction>) => {
              change({ obstructions: { ...own.obstructions, [key]: { ...o, ...what } } });
            };
            const part = (label: string, field: keyof Obstruction) =>
              mm(label, `obstructions/${key}/${field}`, o[field] as number, (value) => {
                if (value !== null) put({ [field]: value });
              });
            return (
              <div key={key} className={`${grid} mt-1`}>
                <TextField
                  label="Name"
                  value={o.name ?? ""}
                  readOnly={!canPlan}
                  onChange={(name) => {
                    put({ name });
                  }}
                />
                {part("From the left", "x_mm")}
                {part("Up the slope", "y_mm")}
                {part("Width", "width_mm")}
                {part("Height", "height_mm")}
                {part("Clear around it", "clearance_mm")}
                {canPlan && (
                  <TakeOut
                    what={o.name || key}
                    onClick={() => {
                      const rest = { ...own.obstructions };
                      Reflect.deleteProperty(rest, key);
                      change({ obstructions: rest });
                    }}
                  />
                )}
              </div>
            );
          })}
          {canPlan && (
            <Button
              onClick={() => {
                const all = own.obstructions ?? {};
                const one: Obstruction = {
                  name: "vent",
                  x_mm: 1000,
                  y_mm: 1000,
                  width_mm: 300,
                  height_mm: 300,
                  clearance_mm: 100,
                };
                change({ obstructions: { ...all, [freeKey(all, "o")]: one } });
              }}
            >
              Something in the way
            </Button>
          )}
        </fieldset>
        <Crossings face={face} job={job} change={change} mm={mm} length={length} />
        <div className={grid}>
          <NumberField
            label="Gap between modules"
            unit="mm"
            readOnly={!canPlan}
            value={own.gap_mm}
            problem={at("gap_mm")}
            onChange={(value) => {
              change({ gap_mm: value });
            }}
          />
        </div>
      </div>
    </details>
  );
}

type Taken = (value: number | null) => void;
type LengthField = (
  label: string,
  path: string,
  value: number | null | undefined,
  to: Taken,
) => React.ReactNode;
type Change = (what: Partial<FaceMap>) => void;

function RowsPart(props: { rows: Rows | null; change: Change; length: LengthField }) {
  const { rows, change, length } = props;
  const { canPlan } = useBench();
  return (
    <fieldset>
      <legend className="font-bold">Frames in rows</legend>
      <Tick
        label="Frames on the ground or a flat roof, one row behind the other"
        checked={rows !== null}
        disabled={!canPlan}
        onChange={(on) => {
          change({ rows: on ? { n: 2, gap_m: 3 } : null });
        }}
      />
      {rows && (
        <div className={grid}>
          <NumberField
            label="Rows"
            readOnly={!canPlan}
            value={rows.n}
            onChange={(n) => {
              if (n !== null) change({ rows: { ...rows, n: Math.round(n) } });
            }}
          />
          {length("Level gap between rows", "rows/gap_m", rows.gap_m, (gap_m) => {
            if (gap_m !== null) change({ rows: { ...rows, gap_m } });
          })}
          {length("Ground rises from row to row", "rows/step_m", rows.step_m, (step_m) => {
            change({ rows: { ...rows, step_m: step_m ?? 0 } });
          })}
        </div>
      )}
    </fieldset>
  );
}

function RailsPart(props: { rails: Partial<Rails>; change: Change; length: LengthField }) {
  const { rails, change, length } = props;
  const { canPlan } = useBench();
  const put = (what: Partial<Rails>) => {
    change({ rails: { ...rails, ...what } as Rails });
  };
  const bonds = (label: string, field: "splices_bond" | "clamps_bond") => (
    <Pick
      label={label}
      value={asWord(rails[field])}
      options={SAID}
      disabled={!canPlan}
      onChange={(word) => {
        put({ [field]: asSaid(word) });
      }}
    />
  );
  const of = (label: string, field: "span_m" | "cantilever_m" | "piece_m") =>
    length(label, `rails/${field}`, rails[field], (value) => {
      put({ [field]: value });
    });
  return (
    <fieldset>
      <legend className="font-bold">Rails</legend>
      <Tick
        label="They run up the slope"
        checked={rails.up_slope === true}
        disabled={!canPlan}
        onChange={(up_slope) => {
          put({ up_slope });
        }}
      />
      <div className={grid}>
        {of("Between attachments, at most", "span_m")}
        {of("Beyond the last, at most", "cantilever_m")}
        {of("Length of a piece", "piece_m")}
        <NumberField
          label="Weight of a metre"
          unit="kg/m"
          readOnly={!canPlan}
          value={rails.kg_per_m}
          onChange={(kg_per_m) => {
            put({ kg_per_m });
          }}
        />
        {bonds("Splices bond, by their sheet", "splices_bond")}
        {bonds("Clamps bond, by their sheet", "clamps_bond")}
      </div>
    </fieldset>
  );
}

function Crossings(props: {
  face: string;
  job: Job;
  change: Change;
  mm: LengthField;
  length: LengthField;
}) {
  const { face, job, change, mm, length } = props;
  const { canPlan } = useBench();
  const all = mapOf(job, face).crossings ?? {};
  const others = (job.site.faces ?? []).filter(
    (f) => f.id !== face && !(f.id in all) && mapOf(job, f.id).crossings?.[face] === undefined,
  );
  if (Object.keys(all).length + others.length === 0) return null;
  const name = (key: string) => job.site.faces?.find((f) => f.id === key)?.name ?? key;
  return (
    <fieldset>
      <legend className="font-bold">Where leads and trunk cross to another face</legend>
      {Object.entries(all).map(([other, c]) => {
        const put = (what: Partial<Crossing>) => {
          change({ crossings: { ...all, [other]: { ...c, ...what } } });
        };
        const point = (label: string, field: "from_mm" | "to_mm", axis: 0 | 1) =>
          mm(label, `crossings/${other}/${field}/${String(axis)}`, c[field][axis], (value) => {
            const next = [...c[field]];
            next[axis] = value ?? 0;
            put({ [field]: next });
          });
        return (
          <div key={other} className={`${grid} mt-1`}>
            {point("Leaves, from the left", "from_mm", 0)}
            {point("Leaves, up the slope", "from_mm", 1)}
            {point(`Comes to ${name(other)}, from the left`, "to_mm", 0)}
            {point(`Comes to ${name(other)}, up the slope`, "to_mm", 1)}
            {length("Over the gap", `crossings/${other}/over_m`, c.over_m, (over_m) => {
              put({ over_m: over_m ?? 0 });
            })}
            {canPlan && (
              <Button
                onClick={() => {
                  const rest = { ...all };
                  Reflect.deleteProperty(rest, other);
                  change({ crossings: rest });
                }}
              >
                No crossing to {name(other)}
              </Button>
            )}
          </div>
        );
      })}
      {canPlan && (
        <div className="flex flex-wrap gap-2">
          {others.map((f) => (
            <Button
              key={f.id}
              onClick={() => {
                const [eave, slope] = [mapOf(job, face).eave_m, mapOf(job, face).slope_m];
                const from_mm = [((eave ?? 0) * 1000) / 2, (slope ?? 0) * 1000];
                change({ crossings: { ...all, [f.id]: { from_mm, to_mm: [0, 0], over_m: 0 } } });
              }}
            >
              To {f.name}
            </Button>
          ))}
        </div>
      )}
    </fieldset>
  );
}
