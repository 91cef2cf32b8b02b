/** What a box measures: room, length along the pull, height under modules. */
import type { Node } from "../../api/client";
import { changeNode, planOf } from "../../model/plan";
import { useBench } from "../../shell/bench";
import { problemAt } from "../../ui/field";
import { NumberField } from "../../ui/NumberField";
import { YesNo } from "../../ui/YesNo";

type BoxSize = NonNullable<Node["box"]>;

const BOXES: Node["kind"][] = ["roof_box", "pull_box", "junction_box"];

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
          <YesNo
            label={`Clamps in ${node}`}
            value={size.clamps}
            disabled={!canPlan}
            onChange={(clamps) => {
              change({ clamps });
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
          <YesNo
            label={`Pulled straight through ${node}`}
            value={size.straight}
            disabled={!canPlan}
            onChange={(straight) => {
              change({ straight });
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
