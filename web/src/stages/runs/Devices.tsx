/** The devices in a node: rating, width, and what each feeds toward the grid. */
import { useState } from "react";
import type { Command, Device } from "../../api/client";
import { changeDevice, changeNode, devicesOf, planOf } from "../../model/plan";
import { useBench } from "../../shell/bench";
import { DEVICES } from "../../text/words";
import { Button } from "../../ui/Button";
import { problemAt } from "../../ui/field";
import { NumberField } from "../../ui/NumberField";
import { Pick } from "../../ui/Pick";
import { TakeOut } from "../../ui/TakeOut";
import { TextField } from "../../ui/TextField";

const KINDS = Object.entries(DEVICES);

interface Props {
  node: string;
  command: (command: Command) => void;
}

export function Devices({ node, command }: Props) {
  const { draft, editor, canPlan, problems } = useBench();
  const own = planOf(draft.job).nodes[node];
  const [key, setKey] = useState("");
  const [what, setWhat] = useState<Device["what"]>("breaker");
  if (!own) return null;
  const devices = devicesOf(own);
  const at = (field: string) => problemAt(problems, `/job/plan/nodes/${node}/${field}`);
  return (
    <div className="grid gap-2 bg-paper p-2">
      {devices.map(([name, device]) => {
        const label = `${name} in ${node}`;
        const change = (to: Partial<Device>) => {
          editor.editJob((j) => changeDevice(j, node, name, to));
        };
        return (
          <div
            key={name}
            className="grid grid-cols-[1.5fr_1fr_1fr_1.5fr_auto] items-end gap-2 max-md:grid-cols-2"
          >
            <span className="pb-2 font-bold">
              {name}
              <span className="ml-2 font-normal text-ink-2">{DEVICES[device.what]}</span>
            </span>
            <NumberField
              label={`Amps of ${label}`}
              unit="A"
              value={device.amps_a}
              readOnly={!canPlan}
              problem={at(`devices/${name}/amps_a`)}
              onChange={(amps_a) => {
                change({ amps_a });
              }}
            />
            <NumberField
              label={`Width of ${label}`}
              unit="× 17.5 mm"
              value={device.ways_n}
              readOnly={!canPlan}
              problem={at(`devices/${name}/ways_n`)}
              onChange={(ways_n) => {
                change({ ways_n });
              }}
            />
            <Pick
              label={`${label} feeds`}
              value={device.feeds ?? ""}
              options={[
                ["", "what leaves here"],
                ...devices.filter(([k]) => k !== name).map(([k]) => [k, k] as const),
              ]}
              disabled={!canPlan}
              onChange={(feeds) => {
                change({ feeds: feeds || null });
              }}
            />
            {canPlan && (
              <TakeOut
                what={`device ${label}`}
                onClick={() => {
                  command({ do: "retire_device", node, device: name });
                }}
              />
            )}
          </div>
        );
      })}
      <div className="grid grid-cols-4 items-end gap-2 max-md:grid-cols-2">
        <NumberField
          label={`Room in ${node}`}
          unit="× 17.5 mm"
          value={own.ways_n}
          readOnly={!canPlan}
          problem={at("ways_n")}
          onChange={(ways_n) => {
            editor.editJob((j) => changeNode(j, node, { ways_n }));
          }}
        />
        {canPlan && (
          <>
            <TextField label={`Key of a new device in ${node}`} value={key} onChange={setKey} />
            <Pick
              label="What it is"
              value={what}
              options={KINDS}
              onChange={(k) => {
                setWhat(k as Device["what"]);
              }}
            />
            <Button
              disabled={key === ""}
              onClick={() => {
                command({ do: "add_device", node, device: key, what });
                setKey("");
              }}
            >
              Add the device
            </Button>
          </>
        )}
      </div>
    </div>
  );
}
