/** The nodes: what stands where, and what is put in or taken out. */
import { Fragment, useState } from "react";
import type { Check, Command, Node } from "../../api/client";
import { many } from "../../model/format";
import { changeNode, devicesOf, planOf } from "../../model/plan";
import { worst, worstKey } from "../../model/report";
import { useBench } from "../../shell/bench";
import { NODES, placeName, PLACES, type Place } from "../../text/words";
import { Button } from "../../ui/Button";
import { Pick } from "../../ui/Pick";
import { Sheet } from "../../ui/Sheet";
import { TakeOut } from "../../ui/TakeOut";
import { TextField } from "../../ui/TextField";
import { Badge, WORDS } from "../../ui/verdict";
import { BoxForm } from "./BoxForm";
import { Devices } from "./Devices";
import { StandForm } from "./StandForm";

const KINDS = Object.entries(NODES);

interface Props {
  checks: Check[];
  command: (command: Command) => void;
}

export function Nodes({ checks, command }: Props) {
  const { draft, editor, canPlan, pick } = useBench();
  const [open, setOpen] = useState<string | null>(null);
  const { job } = draft;
  const plan = planOf(job);
  const nodes = Object.entries(plan.nodes).sort(([a], [b]) => a.localeCompare(b));
  return (
    <Sheet title="Boxes, inverters, panels" className="mb-3">
      <div className="overflow-x-auto">
        <table className="w-full text-sm">
          <tbody>
            {nodes.map(([key, node]) => {
              const meets = Object.values(plan.ways).filter((w) => w.from === key || w.to === key);
              const own = checks.filter((c) => c.subject.kind === "node" && c.subject.node === key);
              const count = devicesOf(node).length;
              const said = count === 0 ? "Devices" : many(count, "device");
              return (
                <Fragment key={key}>
                  <tr className="border-b border-line [&>td]:px-2 [&>td]:py-1">
                    <td className="font-bold whitespace-nowrap">{key}</td>
                    <td className="min-w-32">
                      <Pick
                        compact
                        lean
                        label={`Kind of ${key}`}
                        value={node.kind}
                        options={KINDS}
                        disabled={!canPlan || node.kind === "inverter"}
                        onChange={(kind) => {
                          editor.editJob((j) => changeNode(j, key, { kind: kind as Node["kind"] }));
                        }}
                      />
                    </td>
                    <td className="min-w-40">
                      <Pick
                        compact
                        lean
                        label={`Place of ${key}`}
                        value={node.place ?? ""}
                        options={[
                          ["", "where its ways end"],
                          ...Object.keys(PLACES).map(
                            (p) => [p, placeName(p as Place, job.school)] as const,
                          ),
                        ]}
                        disabled={!canPlan}
                        onChange={(p) => {
                          const place = p === "" ? null : (p as Place);
                          editor.editJob((j) => changeNode(j, key, { place }));
                        }}
                      />
                    </td>
                    <td className="whitespace-nowrap">
                      <button
                        type="button"
                        className="mr-2 text-copper underline"
                        aria-expanded={open === key}
                        aria-label={`${said} in ${key}`}
                        onClick={() => {
                          setOpen(open === key ? null : key);
                        }}
                      >
                        {said}
                      </button>
                      {own.length > 0 && (
                        <button
                          type="button"
                          aria-label={`Verdict of ${key}: ${WORDS[worst(own)]}`}
                          onClick={() => {
                            pick(worstKey(own));
                          }}
                        >
                          <Badge verdict={worst(own)} />
                        </button>
                      )}
                    </td>
                    <td className="text-right whitespace-nowrap">
                      {canPlan && meets.length === 2 && !node.inverter && (
                        <button
                          type="button"
                          className="mr-2 text-copper underline"
                          aria-label={`Join the ways at ${key}`}
                          onClick={() => {
                            command({ do: "join_ways", node: key });
                          }}
                        >
                          Join
                        </button>
                      )}
                      {canPlan && (
                        <TakeOut
                          what={`node ${key}`}
                          onClick={() => {
                            command({ do: "retire_node", node: key });
                          }}
                        />
                      )}
                    </td>
                  </tr>
                  {open === key && (
                    <tr className="border-b border-line">
                      <td colSpan={5}>
                        <div className="bg-paper px-2 pt-2">
                          <BoxForm node={key} />
                          <StandForm node={key} />
                        </div>
                        <Devices node={key} command={command} />
                      </td>
                    </tr>
                  )}
                </Fragment>
              );
            })}
          </tbody>
        </table>
      </div>
      {canPlan && <Adding command={command} nodes={nodes.map(([key]) => key)} />}
    </Sheet>
  );
}

/** A new node, or a new way between two. */
function Adding({ command, nodes }: { command: (command: Command) => void; nodes: string[] }) {
  const [key, setKey] = useState("");
  const [kind, setKind] = useState<Node["kind"]>("junction_box");
  const [way, setWay] = useState("");
  const [from, setFrom] = useState("");
  const [to, setTo] = useState("");
  const ends = [["", "pick one"], ...nodes.map((n) => [n, n] as const)] as [string, string][];
  return (
    <div className="grid grid-cols-4 items-end gap-3 p-3 max-md:grid-cols-2">
      <TextField label="Key of a new node" value={key} onChange={setKey} />
      <Pick
        label="What stands there"
        value={kind}
        options={KINDS}
        onChange={(k) => {
          setKind(k as Node["kind"]);
        }}
      />
      <Button
        disabled={key === ""}
        onClick={() => {
          command({ do: "add_node", node: key, kind });
          setKey("");
        }}
      >
        Add the node
      </Button>
      <span />
      <TextField label="Key of a new way" value={way} onChange={setWay} />
      <Pick label="It begins at" value={from} options={ends} onChange={setFrom} />
      <Pick label="It ends at" value={to} options={ends} onChange={setTo} />
      <Button
        disabled={way === "" || from === "" || to === ""}
        onClick={() => {
          command({ do: "add_way", way, from, to });
          setWay("");
        }}
      >
        Add the way
      </Button>
    </div>
  );
}
