/** A panel that is fed (North American school): its bus, its main, its loads. */
import { useState } from "react";
import type { Node } from "../../api/client";
import { changeNode, planOf } from "../../model/plan";
import { useBench } from "../../shell/bench";
import { inputLook, problemAt } from "../../ui/field";
import { NumberField } from "../../ui/NumberField";
import { Pick } from "../../ui/Pick";
import { Sheet } from "../../ui/Sheet";

type Panel = NonNullable<Node["panel"]>;

const NONE: Panel = {
  bus_a: null,
  main_a: null,
  load_breakers_a: [],
  load_calc_a: null,
  pv_at_far_end: null,
};

const FAR_END: readonly (readonly [string, boolean | null])[] = [
  ["not known", null],
  ["yes", true],
  ["no", false],
];

/** Amps out of a line such as `40 30 30, 20`; null where one is no number. */
function parseAmps(text: string): number[] | null {
  const words = text.split(/[\s,;]+/).filter(Boolean);
  const amps = words.map(Number);
  return amps.every((a) => Number.isFinite(a)) ? amps : null;
}

export function PanelForm({ node }: { node: string }) {
  const { draft, editor, canPlan, problems } = useBench();
  const [typed, setTyped] = useState<string | null>(null);
  const panel = planOf(draft.job).nodes[node]?.panel ?? NONE;
  const path = `/job/plan/nodes/${node}/panel`;
  const at = (field: string) => problemAt(problems, `${path}/${field}`);
  const set = (what: Partial<Panel>) => {
    editor.editJob((j) =>
      changeNode(j, node, { panel: { ...(planOf(j).nodes[node]?.panel ?? NONE), ...what } }),
    );
  };
  const loads = typed ?? panel.load_breakers_a.join(" ");
  const wrong = typed !== null && parseAmps(typed) === null;
  const badLoad = problems.find((p) => p.path.startsWith(`${path}/load_breakers_a`));
  const leave = () => {
    if (typed === null) return;
    const amps = parseAmps(typed);
    if (amps === null) return;
    setTyped(null);
    if (amps.join(" ") !== panel.load_breakers_a.join(" ")) set({ load_breakers_a: amps });
  };
  return (
    <Sheet title={`Panel ${node}`}>
      <div className="grid grid-cols-2 gap-3 p-3">
        <NumberField
          label="Busbar rating"
          unit="A"
          value={panel.bus_a}
          readOnly={!canPlan}
          problem={at("bus_a")}
          onChange={(bus_a) => {
            set({ bus_a });
          }}
        />
        <NumberField
          label="Main breaker"
          unit="A"
          value={panel.main_a}
          readOnly={!canPlan}
          problem={at("main_a")}
          onChange={(main_a) => {
            set({ main_a });
          }}
        />
        <label className="col-span-2 text-xs text-ink-2">
          Breakers that feed loads, A; 0 where there are none
          <input
            className={`${inputLook} font-mono`}
            value={loads}
            data-typing={typed !== null}
            readOnly={!canPlan}
            aria-invalid={wrong || badLoad !== undefined}
            onChange={(e) => {
              setTyped(e.target.value);
            }}
            onBlur={leave}
            onKeyDown={(e) => {
              if (e.key === "Enter") leave();
              if (e.key === "Escape") setTyped(null);
            }}
          />
          {(wrong || badLoad) && (
            <span role="alert" className="font-bold text-stop">
              {wrong
                ? "Amps with spaces between them, such as 40 30 20"
                : `${badLoad?.message ?? ""}: ${badLoad?.hint ?? ""}`}
            </span>
          )}
        </label>
        <NumberField
          label="Load calculation"
          unit="A"
          value={panel.load_calc_a}
          readOnly={!canPlan}
          problem={at("load_calc_a")}
          onChange={(load_calc_a) => {
            set({ load_calc_a });
          }}
        />
        <Pick
          label="PV breaker opposite the main"
          value={FAR_END.find(([, is]) => is === (panel.pv_at_far_end ?? null))?.[0] ?? ""}
          disabled={!canPlan}
          options={FAR_END.map(([name]) => [name, name])}
          onChange={(name) => {
            set({ pv_at_far_end: FAR_END.find(([own]) => own === name)?.[1] ?? null });
          }}
        />
      </div>
    </Sheet>
  );
}
