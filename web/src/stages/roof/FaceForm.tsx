/** A face's measured sizes, how it is filled, and what is asked of its routing. */
import { useState } from "react";
import type { Fill, RoofFace } from "../../api/client";
import { amount } from "../../model/format";
import { changeFace, mapOf } from "../../model/roof";
import { useBench } from "../../shell/bench";
import { Button } from "../../ui/Button";
import { problemAt } from "../../ui/field";
import { NumberField } from "../../ui/NumberField";
import { Pick } from "../../ui/Pick";

type Lay = NonNullable<Fill["lay"]>;

const LAYS: readonly (readonly [Lay, string])[] = [
  ["portrait", "portrait"],
  ["landscape", "landscape"],
  ["both", "half and half"],
];

interface Props {
  face: string;
  drawn: RoofFace | undefined;
  busy: boolean;
  onFill: (fill: Fill) => void;
  onRoute: () => void;
  onBetter: () => void;
  /** One module more, put on by hand. */
  onAdd: () => void;
}

export function FaceForm({ face, drawn, busy, onFill, onRoute, onBetter, onAdd }: Props) {
  const { draft, editor, canPlan, problems } = useBench();
  const { job } = draft;
  const own = mapOf(job, face);
  const [lay, setLay] = useState<Lay>("portrait");
  const at = (field: string) => problemAt(problems, `/job/roof/${face}/${field}`);
  const strings = (job.strings ?? []).filter((s) => s.face === face);
  const units = (job.branches ?? []).filter((b) => b.face === face);
  // Before there is a map a branch lies on its own face whole.
  const planned =
    drawn?.planned_n ??
    strings.reduce((sum, s) => sum + s.n, 0) +
      units.reduce((sum, b) => sum + b.arms_n.reduce((n, a) => n + a, 0), 0);
  const laid = drawn?.modules.length ?? 0;
  const lie = [
    ...strings.map((s) => s.modules?.length === s.n),
    ...units.map((b) => b.modules?.length === b.arms_n.reduce((n, a) => n + a, 0)),
  ];
  const whole = lie.length > 0 && lie.every(Boolean);
  const size = (label: string, field: "eave_m" | "ridge_m" | "slope_m") => (
    <NumberField
      label={label}
      kept="m"
      readOnly={!canPlan}
      value={own[field]}
      problem={at(field)}
      onChange={(value) => {
        editor.editJob((j) => changeFace(j, face, { [field]: value }));
      }}
    />
  );
  return (
    <div className="border-t border-line p-3">
      <div className="grid grid-cols-3 gap-2">
        {size("Width at the eave", "eave_m")}
        {size("Width at the ridge", "ridge_m")}
        {size("Length up the slope", "slope_m")}
      </div>
      {canPlan && (
        <div className="mt-3 flex flex-wrap items-end gap-2">
          <Pick
            label="Modules"
            value={lay}
            options={LAYS}
            onChange={(value) => {
              setLay(value as Lay);
            }}
          />
          <Button
            main={laid === 0}
            disabled={busy || own.eave_m == null || own.slope_m == null}
            onClick={() => {
              onFill({ face, lay, most_n: planned > 0 ? planned : null });
            }}
          >
            {planned > 0 ? `Lay ${String(planned)}` : "Fill the face"}
          </Button>
          {planned > 0 && (
            <Button
              disabled={busy || own.eave_m == null || own.slope_m == null}
              onClick={() => {
                onFill({ face, lay, most_n: null });
              }}
            >
              All that fit
            </Button>
          )}
          {laid > 0 && own.box_mm == null && (
            <Button
              main
              onClick={() => {
                const low = drawn?.modules.reduce((y, m) => Math.min(y, m.area_mm[1]), 1e9);
                const left = drawn?.modules.reduce((x, m) => Math.min(x, m.area_mm[0]), 1e9);
                const box: [number, number] = [(left ?? 0) + 300, (low ?? 0) - 250];
                editor.editJob((j) => changeFace(j, face, { box_mm: box }));
              }}
            >
              Put the box on the map
            </Button>
          )}
          {laid > 0 && strings.length + units.length > 0 && (
            <Button main={own.box_mm != null} disabled={busy} onClick={onRoute}>
              Route all <kbd className="text-xs">R</kbd>
            </Button>
          )}
          {whole && (
            <Button disabled={busy} onClick={onBetter}>
              Search on
            </Button>
          )}
          {laid > 0 && <Button onClick={onAdd}>A module more</Button>}
        </div>
      )}
      {drawn?.better_box && canPlan && (
        <p className="mt-2 text-sm">
          As the strings run, the box would take {amount(drawn.better_box.less_m, "m")} of wire less
          elsewhere.{" "}
          <button
            type="button"
            className="font-bold text-copper underline"
            onClick={() => {
              const box_mm = drawn.better_box?.at_mm.map(Math.round);
              editor.editJob((j) => changeFace(j, face, { box_mm }));
            }}
          >
            Move the box there
          </button>
        </p>
      )}
    </div>
  );
}
