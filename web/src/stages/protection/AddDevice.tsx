/** A device more in a node. */
import { useState } from "react";
import type { Command, Device } from "../../api/client";
import { DEVICES } from "../../text/words";
import { Button } from "../../ui/Button";
import { Pick } from "../../ui/Pick";
import { TextField } from "../../ui/TextField";

const KINDS = Object.entries(DEVICES);

interface Props {
  node: string;
  command: (command: Command) => void;
  onAdded?: (device: string) => void;
}

export function AddDevice({ node, command, onAdded }: Props) {
  const [key, setKey] = useState("");
  const [what, setWhat] = useState<Device["what"]>("breaker");
  return (
    <>
      <div className="w-28">
        <TextField label={`Key of a new device in ${node}`} value={key} onChange={setKey} />
      </div>
      <Pick
        label={`What the new device in ${node} is`}
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
          onAdded?.(key);
          setKey("");
        }}
      >
        Add the device
      </Button>
    </>
  );
}
