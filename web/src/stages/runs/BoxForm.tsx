/** What a box measures: room, length along the pull, height under modules. */
import type { Node } from "../../api/client";
import { changeNode, planOf } from "../../model/plan";
import { useBench } from "../../shell/bench";
import { problemAt } from "../../ui/field";
import { NumberField } from "../../ui/NumberField";
import { Pick } from "../../ui/Pick";

type BoxSize = NonNullable<Node["box"]>;

const BOXES: Node["kind"][] = ["roof_box", "pull_box", "junction_box"];

const YES_NO = [
  ["", "not known"],
  ["yes", "yes"],
  ["no", "no"],
] as const;

const word = (is: boolean | null | undefined): string => (is == null ? "" : is ? "yes" : "no");
const said = (v: string): boolean | null => (v === "" ? null : v === "yes");

export function BoxForm({ node }: { node: string }) {
  const { draft, editor, canPlan, problems } = useBench();
  const own = planOf(draft.job).nodes[node];
  if (!own || !BOXES.includes(own.kind)) return null;
  const { school } = draft.job;
  const inches = school === "na" ? "in" : undefined;
  const size: Partial<BoxSize> = own.box ?? {};
  const change = (what: Partial<BoxSize>) => {
    editor.editJob((j) => {
      const now = planOf(j).nodes[node]?.box ?? {};
      return changeNode(j, node, { box: { ...now, ...what } as BoxSize });
    });
  };
  const at = (field: string) => problemAt(problems, `/job/plan/nodes/${node}/box/${field}`);
  return (
    <div className="grid grid-cols-4 items-end gap-2 max-md:grid-cols-2">
      {school === "na" && (
        <>
          <NumberField
            label={`Room of ${node}`}
            unit="in³"
            value={size.volume_in3}
            readOnly={!canPlan}
            problem={at("volume_in3")}
            onChange={(volume_in3) => {
              change({ volume_in3 });
            }}
          />
          <Pick
            label={`Clamps in ${node}`}
            value={word(size.clamps)}
            options={YES_NO}
            disabled={!canPlan}
            onChange={(v) => {
              change({ clamps: said(v) });
            }}
          />
          <NumberField
            label={`Length of ${node}`}
            kept="mm"
            as={inches}
            value={size.length_mm}
            readOnly={!canPlan}
            problem={at("length_mm")}
            onChange={(length_mm) => {
              change({ length_mm });
            }}
          />
          <Pick
            label={`Pulled straight through ${node}`}
            value={word(size.straight)}
            options={YES_NO}
            disabled={!canPlan}
            onChange={(v) => {
              change({ straight: said(v) });
            }}
          />
        </>
      )}
      <NumberField
        label={`Depth of ${node}`}
        kept="mm"
        as={inches}
        value={size.depth_mm}
        readOnly={!canPlan}
        problem={at("depth_mm")}
        onChange={(depth_mm) => {
          change({ depth_mm });
        }}
      />
      <NumberField
        label={`${node} stands on`}
        kept="mm"
        as={inches}
        value={size.stands_on_mm}
        readOnly={!canPlan}
        problem={at("stands_on_mm")}
        onChange={(stands_on_mm) => {
          change({ stands_on_mm });
        }}
      />
    </div>
  );
}
