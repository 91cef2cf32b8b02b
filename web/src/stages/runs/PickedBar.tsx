/** What can be done with what is picked on the drop drawing; each has its key there. */
import { clsx } from "clsx";
import { useState } from "react";
import type { Command, Job, Node } from "../../api/client";
import { legsOf, partsOf, planOf } from "../../model/plan";
import type { Picked } from "../../model/drop";
import { NODES, placeName } from "../../text/words";
import { Button } from "../../ui/Button";
import { Menu } from "../../ui/Menu";
import { Pick } from "../../ui/Pick";
import type { DropEdits } from "./useDrop";

interface Props {
  job: Job;
  picked: Picked | null;
  edits: DropEdits;
  command: (command: Command) => void;
}

const KINDS: Node["kind"][] = [
  "roof_box",
  "junction_box",
  "pull_box",
  "tee",
  "combiner",
  "isolator",
  "enclosure",
  "panel",
  "meter",
];

interface ActProps {
  /** What stands on the button. */
  text: string;
  /** What it is called where that is more. */
  label?: string;
  /** Its key on the drawing. */
  keys?: string;
  disabled?: boolean;
  run: () => void;
}

function Act({ text, label = text, keys, disabled, run }: ActProps) {
  return (
    <Button
      aria-label={label}
      aria-keyshortcuts={keys?.replace(" ↑", "+ArrowUp").replace(" ↓", "+ArrowDown")}
      data-keys={keys}
      className={clsx(
        "max-md:after:hidden",
        keys !== undefined && "after:ml-1 after:font-mono after:text-xs after:font-normal",
        keys !== undefined && "after:text-ink-2 after:content-[attr(data-keys)]",
      )}
      disabled={disabled}
      onClick={run}
    >
      {text}
    </Button>
  );
}

/** What can be set into the drawing. */
export function SetIn({ edits }: { edits: DropEdits }) {
  return (
    <Menu
      label="Set in… a box, a panel or the like"
      items={KINDS.map((kind) => ({
        label: NODES[kind],
        run: () => {
          edits.add(kind);
        },
      }))}
    >
      Set in…
    </Menu>
  );
}

export function PickedBar({ job, picked, edits, command }: Props) {
  return (
    <div
      role="group"
      aria-label="What is picked on the drawing"
      data-testid="picked-bar"
      className="flex flex-wrap items-end gap-2 border-t border-line p-2"
    >
      {edits.leading ? (
        <Leading edits={edits} />
      ) : picked === null ? (
        <span className="self-center text-xs text-ink-2">
          Pick a box or a way; drag it to another place. Arrow keys go along the drawing.
        </span>
      ) : picked.kind === "part" ? (
        <PartBar job={job} picked={picked} edits={edits} />
      ) : picked.kind === "node" ? (
        <NodeBar key={picked.node} job={job} node={picked.node} edits={edits} command={command} />
      ) : (
        <CircuitBar job={job} circuit={picked.circuit} edits={edits} />
      )}
    </div>
  );
}

const Steps = ({ edits, picked }: { edits: DropEdits; picked: Picked }) => (
  <>
    <Act
      text="Up"
      label="Up one place"
      keys="Shift ↑"
      run={() => {
        edits.step(picked, -1);
      }}
    />
    <Act
      text="Down"
      label="Down one place"
      keys="Shift ↓"
      run={() => {
        edits.step(picked, 1);
      }}
    />
  </>
);

function PartBar({
  job,
  picked,
  edits,
}: {
  job: Job;
  picked: Extract<Picked, { kind: "part" }>;
  edits: DropEdits;
}) {
  const way = planOf(job).ways[picked.way];
  const part = way && partsOf(way)[picked.part - 1];
  if (!part) return null;
  return (
    <>
      <strong className="self-center text-sm">
        {picked.way}, part {picked.part} · {placeName(part.place, job.school)}
      </strong>
      <Steps edits={edits} picked={picked} />
      <Act
        text="Box in the middle"
        keys="B"
        run={() => {
          edits.boxIn(picked);
        }}
      />
      <Act
        text="Part behind"
        keys="P"
        run={() => {
          edits.partBehind(picked);
        }}
      />
      <Act
        text="Take out"
        label={`Take out ${picked.way}, part ${String(picked.part)}, from the drawing`}
        keys="Del"
        run={() => {
          edits.takeOut(picked);
        }}
      />
    </>
  );
}

function NodeBar({
  job,
  node,
  edits,
  command,
}: {
  job: Job;
  node: string;
  edits: DropEdits;
  command: (command: Command) => void;
}) {
  const plan = planOf(job);
  const own = plan.nodes[node];
  const [to, setTo] = useState("");
  if (!own) return null;
  const meets = Object.values(plan.ways).filter((w) => w.from === node || w.to === node);
  const others = Object.keys(plan.nodes)
    .filter((k) => k !== node)
    .sort();
  return (
    <>
      <strong className="self-center text-sm">
        {node} · {NODES[own.kind]}
      </strong>
      <Steps edits={edits} picked={{ kind: "node", node }} />
      <Pick
        label={`Way from ${node} to`}
        value={to}
        options={[["", "pick one"], ...others.map((k) => [k, k] as const)]}
        onChange={setTo}
      />
      <Act
        text="Draw the way"
        keys="W"
        disabled={to === ""}
        run={() => {
          edits.connect(node, to);
        }}
      />
      {meets.length === 2 && !own.inverter && (
        <Act
          text="Join its ways"
          keys="J"
          run={() => {
            command({ do: "join_ways", node });
          }}
        />
      )}
      <Act
        text="Take out"
        label={`Take out ${node} from the drawing`}
        keys="Del"
        run={() => {
          edits.takeOut({ kind: "node", node });
        }}
      />
    </>
  );
}

function CircuitBar({ job, circuit, edits }: { job: Job; circuit: string; edits: DropEdits }) {
  const own = planOf(job).circuits[circuit];
  const several = own !== undefined && legsOf(own).length > 1;
  return (
    <>
      <strong className="self-center text-sm">Circuit {circuit}</strong>
      {several ? (
        <span className="self-center text-xs text-ink-2">
          Its legs are led one by one, under Circuits.
        </span>
      ) : (
        <Act
          text="Lead it anew"
          keys="L"
          run={() => {
            edits.lead(circuit);
          }}
        />
      )}
      <Act
        text="Take out"
        label={`Take out circuit ${circuit} from the drawing`}
        keys="Del"
        run={() => {
          edits.takeOut({ kind: "circuit", circuit });
        }}
      />
    </>
  );
}

/** A circuit that is being led: ways are pressed in their order. */
function Leading({ edits }: { edits: DropEdits }) {
  const { leading } = edits;
  if (!leading) return null;
  return (
    <>
      <strong className="self-center text-sm">
        Leading {leading.circuit}: press its ways from where it begins
      </strong>
      <span data-testid="led-over" className="self-center font-mono text-sm">
        {leading.via.length === 0 ? "none yet" : leading.via.join(", ")}
      </span>
      <Button
        main
        disabled={leading.via.length === 0}
        onClick={() => {
          edits.led();
        }}
      >
        Lead it so
      </Button>
      <Act
        text="Leave it"
        keys="Esc"
        run={() => {
          edits.stopLeading();
        }}
      />
    </>
  );
}
