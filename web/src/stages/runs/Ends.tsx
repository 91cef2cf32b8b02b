/** Where a circuit begins and ends; a feeder, a bond and the like are put in here. */
import { useState } from "react";
import type { Circuit, Command, End } from "../../api/client";
import { changeCircuit, devicesOf, isDc, planOf } from "../../model/plan";
import { useBench } from "../../shell/bench";
import { CIRCUITS } from "../../text/words";
import { Button } from "../../ui/Button";
import { Pick } from "../../ui/Pick";
import { TextField } from "../../ui/TextField";

/** Every node, and every device in one as `node/device`: no key holds a slash. */
function useNodeEnds(): (readonly [string, string])[] {
  const { draft } = useBench();
  const nodes = Object.entries(planOf(draft.job).nodes).sort(([a], [b]) => a.localeCompare(b));
  return nodes.flatMap(([key, node]) => [
    [key, key] as const,
    ...devicesOf(node).map(([device]) => [`${key}/${device}`, `${key}, at ${device}`] as const),
  ]);
}

const written = (end: End | null | undefined): string =>
  end?.node ? [end.node, ...(end.device ? [end.device] : [])].join("/") : "";

function read(text: string): End {
  const [node, device] = text.split("/");
  return { node: node ?? "", ...(device ? { device } : {}) };
}

export function Ends({ name, circuit }: { name: string; circuit: Circuit }) {
  const { editor, canPlan } = useBench();
  const ends = useNodeEnds();
  return (
    <>
      {circuit.from.node && (
        <Pick
          label={`${name} begins at`}
          value={written(circuit.from)}
          options={ends}
          disabled={!canPlan}
          onChange={(v) => {
            editor.editJob((j) => changeCircuit(j, name, { from: read(v) }));
          }}
        />
      )}
      <Pick
        label={`${name} ends at`}
        value={circuit.to?.inverter ? "" : written(circuit.to)}
        options={isDc(circuit) ? [["", circuit.to?.inverter ?? "its inverter"], ...ends] : ends}
        disabled={!canPlan}
        onChange={(v) => {
          editor.editJob((j) => changeCircuit(j, name, { to: v === "" ? null : read(v) }));
        }}
      />
    </>
  );
}

/** What begins at a node; strings, branches and outputs get their circuits by themselves. */
const KINDS = (["ac_feeder", "pv_output", "bond", "control"] as const).map(
  (k) => [k, CIRCUITS[k]] as const,
);

export function AddCircuit({ command }: { command: (command: Command) => void }) {
  const ends = [["", "pick one"] as const, ...useNodeEnds()];
  const [key, setKey] = useState("");
  const [kind, setKind] = useState<Circuit["kind"]>("ac_feeder");
  const [from, setFrom] = useState("");
  const [to, setTo] = useState("");
  const open = key === "" || from === "" || (to === "" && kind !== "pv_output");
  return (
    <div className="grid grid-cols-5 items-end gap-3 p-3 max-md:grid-cols-2">
      <TextField label="Key of a new circuit" value={key} onChange={setKey} />
      <Pick
        label="What it carries"
        value={kind}
        options={KINDS}
        onChange={(k) => {
          setKind(k as Circuit["kind"]);
        }}
      />
      <Pick label="Circuit begins at" value={from} options={ends} onChange={setFrom} />
      <Pick label="Circuit ends at" value={to} options={ends} onChange={setTo} />
      <Button
        disabled={open}
        onClick={() => {
          command({
            do: "add_circuit",
            circuit: key,
            kind,
            from: read(from),
            to: to === "" ? null : read(to),
          });
          setKey("");
        }}
      >
        Add the circuit
      </Button>
    </div>
  );
}
