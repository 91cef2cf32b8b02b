/** A panel that is fed: its bus, its main, its loads, its ways, and where its earth is. */
import { useState } from "react";
import type { Node } from "../../api/client";
import { changeEarthed, changeNode, planOf } from "../../model/plan";
import { useBench } from "../../shell/bench";
import { inputLook, problemAt } from "../../ui/field";
import { NumberField } from "../../ui/NumberField";
import { Pick } from "../../ui/Pick";
import { YesNo } from "../../ui/YesNo";

export type Panel = NonNullable<Node["panel"]>;

export const NO_PANEL = { bus_a: null, main_a: null, load_breakers_a: [] } as unknown as Panel;

/** Amps out of a line such as `40 30 30, 20`; null where one is no number. */
function parseAmps(text: string): number[] | null {
  const words = text.split(/[\s,;]+/).filter(Boolean);
  const amps = words.map(Number);
  return amps.every((a) => Number.isFinite(a)) ? amps : null;
}

export function PanelForm({ node }: { node: string }) {
  const { draft, editor, canPlan, problems, choices } = useBench();
  const [typed, setTyped] = useState<string | null>(null);
  const panel = planOf(draft.job).nodes[node]?.panel ?? NO_PANEL;
  const path = `/job/plan/nodes/${node}/panel`;
  const at = (field: string) => problemAt(problems, `${path}/${field}`);
  const set = (what: Partial<Panel>) => {
    editor.editJob((j) =>
      changeNode(j, node, { panel: { ...(planOf(j).nodes[node]?.panel ?? NO_PANEL), ...what } }),
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
  const na = draft.job.school === "na";
  const tap = panel.supply_side ?? null;
  const setTap = (to: Partial<NonNullable<Panel["supply_side"]>>) => {
    set({ supply_side: { ...(tap ?? { chosen: false }), ...to } as Panel["supply_side"] });
  };
  const number = (
    label: string,
    field: "bus_a" | "main_a" | "load_calc_a" | "ways_n" | "taken_n" | "breaking_ka",
    unit: string,
  ) => (
    <NumberField
      label={label}
      unit={unit}
      value={panel[field]}
      readOnly={!canPlan}
      problem={at(field)}
      onChange={(value) => {
        set({ [field]: value });
      }}
    />
  );
  const electrode = planOf(draft.job).nodes[node]?.earthed?.electrode;
  return (
    <div className="grid grid-cols-3 items-end gap-3 max-md:grid-cols-2">
      {na && number("Busbar rating", "bus_a", "A")}
      {na && number("Main breaker", "main_a", "A")}
      {na && number("Load calculation", "load_calc_a", "A")}
      {na && (
        <label className="col-span-full text-xs text-ink-2">
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
      )}
      {na && (
        <YesNo
          label="PV breaker opposite the main"
          value={panel.pv_at_far_end}
          disabled={!canPlan}
          onChange={(pv_at_far_end) => {
            set({ pv_at_far_end });
          }}
        />
      )}
      {na && (
        <YesNo
          label={`Main of ${node} feeds the middle of the bus`}
          value={panel.centre_fed}
          disabled={!canPlan}
          onChange={(centre_fed) => {
            set({ centre_fed });
          }}
        />
      )}
      {na && panel.centre_fed === true && (
        <YesNo
          label={`PV breaker of ${node} at one end of the bus`}
          value={panel.pv_at_one_end}
          disabled={!canPlan}
          onChange={(pv_at_one_end) => {
            set({ pv_at_one_end });
          }}
        />
      )}
      {number(`Ways of ${node}`, "ways_n", na ? "poles" : "ways")}
      {number(`Ways of ${node} taken by loads`, "taken_n", na ? "poles" : "ways")}
      {number(`${node} breaks, with its main and loads`, "breaking_ka", "kA")}
      <YesNo
        label={`An electrode is connected at ${node}`}
        value={electrode}
        disabled={!canPlan}
        onChange={(to) => {
          editor.editJob((j) => changeEarthed(j, node, { electrode: to }));
        }}
      />
      {na && (
        <YesNo
          label={`PV of ${node} is connected before the main`}
          value={tap?.chosen ?? null}
          disabled={!canPlan}
          onChange={(chosen) => {
            if (chosen === null) set({ supply_side: null });
            else setTap({ chosen });
          }}
        />
      )}
      {na && tap && (
        <>
          <NumberField
            label={`Rating of the service at ${node}`}
            unit="A"
            value={tap.service_a}
            readOnly={!canPlan}
            problem={at("supply_side/service_a")}
            onChange={(service_a) => {
              setTap({ service_a });
            }}
          />
          <Pick
            label={`Wire of the connection before the main of ${node}`}
            value={tap.awg ?? ""}
            disabled={!canPlan}
            options={[
              ["", "not known"],
              ...choices.awg.map((size) => [size, `${size} AWG`] as const),
            ]}
            onChange={(awg) => {
              setTap({ awg: awg === "" ? null : awg });
            }}
          />
          <NumberField
            label={`From the connection to its device at ${node}`}
            kept="m"
            value={tap.to_device_m}
            readOnly={!canPlan}
            problem={at("supply_side/to_device_m")}
            onChange={(to_device_m) => {
              setTap({ to_device_m });
            }}
          />
        </>
      )}
    </div>
  );
}
