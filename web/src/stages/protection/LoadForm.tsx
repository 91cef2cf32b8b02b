/** The load of a dwelling, appliance by appliance: what the core makes of it is a figure. */
import { useState } from "react";
import type { Node } from "../../api/client";
import { amount } from "../../model/format";
import { changeNode, planOf } from "../../model/plan";
import { valueOf } from "../../model/report";
import { useBench } from "../../shell/bench";
import { Button } from "../../ui/Button";
import { NumberField } from "../../ui/NumberField";
import { TakeOut } from "../../ui/TakeOut";
import { TextField } from "../../ui/TextField";
import { NO_PANEL } from "./PanelForm";

type Loads = NonNullable<NonNullable<Node["panel"]>["loads"]>;

const NO_LOADS = { appliances: [] } as unknown as Loads;

export function LoadForm({ node }: { node: string }) {
  const { view, draft, editor, canPlan } = useBench();
  const [name, setName] = useState("");
  const panel = planOf(draft.job).nodes[node]?.panel;
  const loads = panel?.loads ?? null;
  const calculated = valueOf(view.report, "panel.load_calculated_a", {
    kind: "panel",
    panel: node,
  });
  const set = (to: Partial<Loads>) => {
    editor.editJob((j) => {
      const now = planOf(j).nodes[node]?.panel ?? NO_PANEL;
      return changeNode(j, node, {
        panel: { ...now, loads: { ...(now.loads ?? NO_LOADS), ...to } },
      });
    });
  };
  const own = loads ?? NO_LOADS;
  return (
    <details className="mt-3 text-sm" open={loads !== null}>
      <summary className="cursor-pointer font-bold max-md:min-h-12">
        Load calculation, appliance by appliance
        {calculated !== null && <span className="ml-2 font-mono">{amount(calculated, "A")}</span>}
      </summary>
      <div className="mt-2 grid grid-cols-4 items-end gap-2 max-md:grid-cols-2">
        <NumberField
          label={`Floor of ${node}`}
          unit="m²"
          value={own.floor_m2}
          readOnly={!canPlan}
          onChange={(floor_m2) => {
            set({ floor_m2 });
          }}
        />
        <NumberField
          label={`Small-appliance and laundry circuits of ${node}`}
          value={own.small_circuits_n}
          readOnly={!canPlan}
          onChange={(small_circuits_n) => {
            set({ small_circuits_n });
          }}
        />
        <NumberField
          label={`Cooling of ${node}`}
          unit="VA"
          value={own.cooling_va}
          readOnly={!canPlan}
          onChange={(cooling_va) => {
            set({ cooling_va });
          }}
        />
        <NumberField
          label={`Electric heating of ${node}`}
          unit="VA"
          value={own.heating_va}
          readOnly={!canPlan}
          onChange={(heating_va) => {
            set({ heating_va });
          }}
        />
        {own.appliances.map((a, i) => (
          <div key={`${a.name}/${String(i)}`} className="col-span-2 flex items-end gap-2">
            <NumberField
              label={`${a.name}, nameplate`}
              unit="VA"
              value={a.va}
              readOnly={!canPlan}
              onChange={(va) => {
                set({
                  appliances: own.appliances.map((o, k) => (k === i ? { ...o, va: va ?? 0 } : o)),
                });
              }}
            />
            {canPlan && (
              <TakeOut
                what={a.name}
                onClick={() => {
                  set({ appliances: own.appliances.filter((_, k) => k !== i) });
                }}
              />
            )}
          </div>
        ))}
        {canPlan && (
          <div className="col-span-2 flex items-end gap-2">
            <TextField label={`An appliance on ${node}`} value={name} onChange={setName} />
            <Button
              disabled={name === ""}
              onClick={() => {
                set({ appliances: [...own.appliances, { name, va: 0 }] });
                setName("");
              }}
            >
              Add it
            </Button>
          </div>
        )}
      </div>
    </details>
  );
}
