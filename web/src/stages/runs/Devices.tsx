/** The devices in a node, as Protection edits them, and its room. */
import type { Command } from "../../api/client";
import { changeNode, devicesOf, planOf } from "../../model/plan";
import { useBench } from "../../shell/bench";
import { problemAt } from "../../ui/field";
import { NumberField } from "../../ui/NumberField";
import { AddDevice } from "../protection/AddDevice";
import { DeviceForm } from "../protection/DeviceForm";

interface Props {
  node: string;
  command: (command: Command) => void;
}

export function Devices({ node, command }: Props) {
  const { draft, editor, canPlan, problems } = useBench();
  const own = planOf(draft.job).nodes[node];
  if (!own) return null;
  return (
    <div className="grid gap-2 bg-paper p-2">
      {devicesOf(own).map(([name]) => (
        <DeviceForm key={name} node={node} name={name} command={command} />
      ))}
      <div className="flex flex-wrap items-end gap-2">
        <div className="w-28">
          <NumberField
            label={`Room in ${node}`}
            unit="× 17.5 mm"
            value={own.ways_n}
            readOnly={!canPlan}
            problem={problemAt(problems, `/job/plan/nodes/${node}/ways_n`)}
            onChange={(ways_n) => {
              editor.editJob((j) => changeNode(j, node, { ways_n }));
            }}
          />
        </div>
        {canPlan && <AddDevice node={node} command={command} />}
      </div>
    </div>
  );
}
