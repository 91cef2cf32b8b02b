/** What is round a panel, an inverter or an isolator where it stands. */
import type { Node } from "../../api/client";
import { changeNode, planOf } from "../../model/plan";
import { useBench } from "../../shell/bench";
import { problemAt } from "../../ui/field";
import { NumberField } from "../../ui/NumberField";
import { YesNo } from "../../ui/YesNo";

type Stand = NonNullable<Node["stand"]>;

const ROOM: [field: keyof Stand & `free_${string}`, name: string][] = [
  ["free_depth_mm", "Free depth before"],
  ["free_width_mm", "Free width before"],
  ["free_height_mm", "Free height before"],
];

export function StandForm({ node }: { node: string }) {
  const { draft, editor, canPlan, problems } = useBench();
  const own = planOf(draft.job).nodes[node];
  if (!own || !["panel", "inverter", "isolator"].includes(own.kind)) return null;
  const na = draft.job.school === "na";
  const stand: Partial<Stand> = own.stand ?? {};
  const change = (what: Partial<Stand>) => {
    editor.editJob((j) => {
      const now = planOf(j).nodes[node]?.stand ?? {};
      return changeNode(j, node, { stand: { ...now, ...what } as Stand });
    });
  };
  const at = (field: string) => problemAt(problems, `/job/plan/nodes/${node}/stand/${field}`);
  const yesNo = (label: string, field: "wall_burns" | "backing_board" | "in_sight") => (
    <YesNo
      label={label}
      value={stand[field]}
      disabled={!canPlan}
      onChange={(value) => {
        change({ [field]: value });
      }}
    />
  );
  return (
    <div className="grid grid-cols-4 items-end gap-2 max-md:grid-cols-2">
      {own.kind === "panel" &&
        ROOM.map(([field, name]) => (
          <NumberField
            key={field}
            label={`${name} ${node}`}
            kept="mm"
            as={na ? "in" : undefined}
            value={stand[field] as number | null | undefined}
            readOnly={!canPlan}
            problem={at(field)}
            onChange={(value) => {
              change({ [field]: value });
            }}
          />
        ))}
      {own.kind === "inverter" && (
        <>
          {yesNo(`The wall behind ${node} burns`, "wall_burns")}
          {yesNo(`A board is behind ${node}`, "backing_board")}
        </>
      )}
      {own.kind === "isolator" && (
        <>
          <NumberField
            label={`From ${node} to the inverter`}
            kept="m"
            value={stand.to_inverter_m}
            readOnly={!canPlan}
            problem={at("to_inverter_m")}
            onChange={(to_inverter_m) => {
              change({ to_inverter_m });
            }}
          />
          {yesNo(`${node} is seen from the inverter`, "in_sight")}
        </>
      )}
    </div>
  );
}
