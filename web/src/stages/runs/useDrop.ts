/** What is picked on the drop drawing, and the edits that are made on it. */
import { useState } from "react";
import type { Command, Job, Node } from "../../api/client";
import {
  halved,
  movePart,
  nextPlace,
  nodeKey,
  wayKeyFor,
  freeKey,
  type Picked,
} from "../../model/drop";
import { changeNode, changeWay, legsOf, partAfter, partsOf, planOf } from "../../model/plan";
import { useBench } from "../../shell/bench";
import type { Place } from "../../text/words";

export interface Leading {
  circuit: string;
  /** The ways pressed so far, in order. */
  via: string[];
}

export interface DropEdits {
  leading: Leading | null;
  /** One place up or down. */
  step: (what: Picked, step: 1 | -1) => void;
  move: (what: Picked, place: Place | null) => void;
  connect: (from: string, to: string) => void;
  add: (kind: Node["kind"]) => void;
  boxIn: (what: Extract<Picked, { kind: "part" }>) => void;
  partBehind: (what: Extract<Picked, { kind: "part" }>) => void;
  takeOut: (what: Picked) => void;
  lead: (circuit: string) => void;
  /** A way is pressed while a circuit is led. */
  over: (way: string) => void;
  led: () => void;
  stopLeading: () => void;
  /** What a key does with a thing; true where it means something. */
  onKey: (key: string, what: Picked) => boolean;
}

export function useDrop(
  command: (command: Command, first?: (job: Job) => Job) => void,
  onPick: (what: Picked | null) => void,
): DropEdits {
  const { draft, editor, canPlan } = useBench();
  const { job } = draft;
  const [leading, setLeading] = useState<Leading | null>(null);

  const placeOf = (what: Picked): Place | null | undefined => {
    const plan = planOf(job);
    if (what.kind === "node") return plan.nodes[what.node]?.place;
    if (what.kind === "part")
      return partsOf(plan.ways[what.way] ?? { from: "", to: "" })[what.part - 1]?.place;
    return undefined;
  };
  const move = (what: Picked, place: Place | null) => {
    editor.editJob((j) => {
      if (what.kind === "part") return movePart(j, what.way, what.part, place);
      if (what.kind === "node") return changeNode(j, what.node, { place });
      return j;
    });
  };
  const boxIn = (what: Extract<Picked, { kind: "part" }>) => {
    const plan = planOf(job);
    const node = nodeKey(job, "junction_box");
    command(
      {
        do: "split_way",
        way: what.way,
        after: what.part,
        node,
        kind: "junction_box",
        rest: freeKey(plan.ways, `${what.way}-`),
      },
      (j) => halved(j, what.way, what.part - 1),
    );
    onPick({ kind: "node", node });
  };
  const partBehind = (what: Extract<Picked, { kind: "part" }>) => {
    editor.editJob((j) => {
      const parts = partsOf(planOf(j).ways[what.way] ?? { from: "", to: "" });
      const next = [
        ...parts.slice(0, what.part),
        partAfter(parts[what.part - 1]),
        ...parts.slice(what.part),
      ];
      return changeWay(j, what.way, { parts: next });
    });
    onPick({ ...what, part: what.part + 1 });
  };
  const takeOut = (what: Picked) => {
    if (what.kind === "node") command({ do: "retire_node", node: what.node });
    else if (what.kind === "circuit") command({ do: "retire_circuit", circuit: what.circuit });
    else {
      const parts = partsOf(planOf(job).ways[what.way] ?? { from: "", to: "" });
      // The last part goes with its way.
      if (parts.length > 1)
        editor.editJob((j) =>
          changeWay(j, what.way, { parts: parts.filter((_, i) => i !== what.part - 1) }),
        );
      else command({ do: "retire_way", way: what.way });
    }
    onPick(null);
  };
  const connect = (from: string, to: string) => {
    const way = wayKeyFor(job, from);
    command({ do: "add_way", way, from, to });
    onPick({ kind: "part", way, part: 1 });
  };
  const lead = (circuit: string) => {
    const own = planOf(job).circuits[circuit];
    // A circuit of several legs is led leg by leg.
    if (own && legsOf(own).length <= 1) setLeading({ circuit, via: [] });
  };
  const led = () => {
    if (!leading) return;
    command({ do: "reroute", circuit: leading.circuit, leg: 0, via: leading.via });
    setLeading(null);
  };
  const step = (what: Picked, by: 1 | -1) => {
    const place = nextPlace(placeOf(what), by);
    if (place !== undefined) move(what, place);
  };
  const onKey = (key: string, what: Picked): boolean => {
    if (!canPlan) return false;
    if (key === "Escape" && leading) setLeading(null);
    else if (key === "Shift ArrowUp") step(what, -1);
    else if (key === "Shift ArrowDown") step(what, 1);
    else if (key === "Delete") takeOut(what);
    else if (key === "b" && what.kind === "part") boxIn(what);
    else if (key === "p" && what.kind === "part") partBehind(what);
    else if (key === "j" && what.kind === "node") command({ do: "join_ways", node: what.node });
    else return false;
    return true;
  };
  return {
    leading,
    step,
    move,
    connect,
    add: (kind) => {
      const node = nodeKey(job, kind);
      command({ do: "add_node", node, kind });
      onPick({ kind: "node", node });
    },
    boxIn,
    partBehind,
    takeOut,
    lead,
    over: (way) => {
      setLeading(
        (l) =>
          l && {
            ...l,
            via: l.via.includes(way) ? l.via.filter((w) => w !== way) : [...l.via, way],
          },
      );
    },
    led,
    stopLeading: () => {
      setLeading(null);
    },
    onKey,
  };
}
