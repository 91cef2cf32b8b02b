/**
 * Edits of one thing in the plan, and what comes and goes with strings, branches and inverters.
 * What touches several things at once is a command of the core.
 */
import type { Circuit, Device, End, Job, Leg, Node, Part, Plan, PlanWay } from "../api/client";

export type Wire = NonNullable<Leg["wire"]>;
export type Earthed = NonNullable<Node["earthed"]>;
export type Practised = NonNullable<Job["protection"]>;

const EMPTY: Plan = { nodes: {}, ways: {}, circuits: {} };

export const planOf = (job: Job): Plan => job.plan ?? EMPTY;
export const partsOf = (way: PlanWay): Part[] => way.parts ?? [];
export const legsOf = (circuit: Circuit): Leg[] => circuit.legs ?? [];
export const viaOf = (leg: Leg): string[] => leg.via ?? [];

/** Every circuit with its key, in order. */
export const circuitsOf = (job: Job): [string, Circuit][] =>
  Object.entries(planOf(job).circuits).sort(([a], [b]) => a.localeCompare(b));

export const isDc = (circuit: Pick<Circuit, "kind">): boolean =>
  circuit.kind === "pv_string" || circuit.kind === "pv_output";

const withPlan = (job: Job, change: Partial<Plan>): Job => ({
  ...job,
  plan: { ...planOf(job), ...change },
});

export function changeNode(job: Job, key: string, change: Partial<Node>): Job {
  const own = planOf(job).nodes[key];
  return own
    ? withPlan(job, { nodes: { ...planOf(job).nodes, [key]: { ...own, ...change } } })
    : job;
}

/** A job with something changed in how a node is earthed. */
export const changeEarthed = (job: Job, key: string, change: Partial<Earthed>): Job =>
  changeNode(job, key, {
    earthed: { ...(planOf(job).nodes[key]?.earthed ?? {}), ...change } as Earthed,
  });

/** A job with something changed in how it is protected. */
export const changeProtection = (job: Job, change: Partial<Practised>): Job => ({
  ...job,
  protection: { ...(job.protection ?? {}), ...change } as Practised,
});

/** The devices of a node with their keys, in order. */
export const devicesOf = (node: Node): [string, Device][] =>
  Object.entries(node.devices ?? {}).sort(([a], [b]) => a.localeCompare(b));

/** Whether an end names a breaker or a fuse. */
export function protects(plan: Plan, end: End | null | undefined): boolean {
  const device = end?.node && end.device ? plan.nodes[end.node]?.devices?.[end.device] : undefined;
  return device?.what === "breaker" || device?.what === "fuse";
}

export function changeDevice(job: Job, node: string, key: string, change: Partial<Device>): Job {
  const { devices } = planOf(job).nodes[node] ?? {};
  const own = devices?.[key];
  return own
    ? changeNode(job, node, { devices: { ...devices, [key]: { ...own, ...change } } })
    : job;
}

export function changeWay(job: Job, key: string, change: Partial<PlanWay>): Job {
  const own = planOf(job).ways[key];
  return own ? withPlan(job, { ways: { ...planOf(job).ways, [key]: { ...own, ...change } } }) : job;
}

export function changePart(job: Job, way: string, at: number, change: Partial<Part>): Job {
  const own = planOf(job).ways[way];
  if (!own) return job;
  const parts = partsOf(own).map((p, i) => (i === at ? { ...p, ...change } : p));
  return changeWay(job, way, { parts });
}

export function changeCircuit(job: Job, key: string, change: Partial<Circuit>): Job {
  const own = planOf(job).circuits[key];
  if (!own) return job;
  return withPlan(job, { circuits: { ...planOf(job).circuits, [key]: { ...own, ...change } } });
}

export function changeWire(job: Job, circuit: string, leg: number, change: Partial<Wire>): Job {
  const own = planOf(job).circuits[circuit];
  if (!own) return job;
  const legs = legsOf(own).map((l, i) =>
    i === leg ? ({ ...l, wire: { ...l.wire, ...change } } as Leg) : l,
  );
  return changeCircuit(job, circuit, { legs });
}

/** Kinds of circuits in the order of the current. */
const ORDER: Circuit["kind"][] = [
  "pv_string",
  "pv_output",
  "micro_branch",
  "inverter_out",
  "ac_feeder",
  "bond",
  "control",
];

/** Ways in which anything lies, in the order of the current. */
export function usedWays(plan: Plan): string[] {
  const circuits = Object.values(plan.circuits);
  circuits.sort((a, b) => ORDER.indexOf(a.kind) - ORDER.indexOf(b.kind));
  return [...new Set(circuits.flatMap((c) => legsOf(c).flatMap(viaOf)))];
}

/** The circuits a way carries. */
export const carriedBy = (job: Job, way: string): string[] =>
  circuitsOf(job)
    .filter(([, c]) => legsOf(c).some((l) => viaOf(l).includes(way)))
    .map(([key]) => key);

/**
 * What a way carries from now on, of the circuits of one leg or none: those of several legs are led
 * leg by leg. A circuit that comes to it goes over it behind the ways it has.
 */
export function carry(job: Job, way: string, circuits: ReadonlySet<string>): Job {
  return circuitsOf(job).reduce((next, [key, circuit]) => {
    const [leg, ...more] = legsOf(circuit);
    const via = leg ? viaOf(leg) : [];
    if (more.length > 0 || via.includes(way) === circuits.has(key)) return next;
    const led = circuits.has(key) ? [...via, way] : via.filter((w) => w !== way);
    return changeCircuit(next, key, { legs: [{ ...leg, via: led } as Leg] });
  }, job);
}

/** The circuit that begins at a string or a branch. */
export const circuitFrom = (
  job: Job,
  end: { string: string } | { branch: string },
): [string, Circuit] | undefined =>
  circuitsOf(job).find(([, { from }]) =>
    "string" in end ? from.string === end.string : from.branch === end.branch,
  );

const without = (job: Job, gone: (circuit: Circuit) => boolean): Job =>
  withPlan(job, {
    circuits: Object.fromEntries(circuitsOf(job).filter(([, circuit]) => !gone(circuit))),
  });

function added(job: Job, key: string, circuit: Circuit): Job {
  const { circuits } = planOf(job);
  let free = key;
  for (let n = 2; circuits[free]; n++) free = `${key}-${String(n)}`;
  return withPlan(job, { circuits: { ...circuits, [free]: circuit } });
}

/** A new string goes where one of its inverter goes; the first of all is planned under Runs. */
export function stringIn(job: Job, letter: string): Job {
  const own = (job.strings ?? []).find((s) => s.letter === letter);
  const same = new Set(
    (job.strings ?? []).filter((s) => s.inverter === own?.inverter).map((s) => s.letter),
  );
  const like = circuitsOf(job).find(
    ([, c]) => c.kind === "pv_string" && c.from.string != null && same.has(c.from.string),
  );
  return like ? added(job, letter, { ...like[1], from: { string: letter }, name: "" }) : job;
}

export const stringOut = (job: Job, letter: string): Job =>
  without(job, (c) => c.from.string === letter);

/** A new branch comes down beside the last one. */
export function branchIn(job: Job, letter: string): Job {
  const like = circuitsOf(job).findLast(([, c]) => c.kind === "micro_branch");
  return like ? added(job, letter, { ...like[1], from: { branch: letter }, name: "" }) : job;
}

export const branchOut = (job: Job, letter: string): Job =>
  without(job, (c) => c.from.branch === letter);

/** What an inverter fed goes, and its node stands free. */
export function inverterOut(job: Job, id: string): Job {
  const rest = without(job, (c) => c.from.inverter === id || c.to?.inverter === id);
  const nodes = Object.entries(planOf(rest).nodes).map(([key, node]) => [
    key,
    node.inverter === id ? { ...node, inverter: null, kind: "junction_box" as const } : node,
  ]);
  return withPlan(rest, { nodes: Object.fromEntries(nodes) as Plan["nodes"] });
}

/** Whether everything that makes power has its circuit. */
export function planned(job: Job): boolean {
  const begins = Object.values(planOf(job).circuits).map((c) => c.from);
  return (
    (job.strings ?? []).every((s) => begins.some((e) => e.string === s.letter)) &&
    (job.branches ?? []).every((b) => begins.some((e) => e.branch === b.letter)) &&
    (job.inverters ?? []).every((i) => begins.some((e) => e.inverter === i.id))
  );
}

/** A part to be filled in behind another one: its length is open until it is measured. */
export const partAfter = (last: Part | undefined): Part => ({
  place: last?.place ?? null,
  method: last?.method ?? "raceway",
  length_m: null,
  raceway: last?.raceway ?? null,
});

/** The only part of the only way of a circuit, where it has one: what a table can edit. */
export function homeRun(job: Job, circuit: Circuit): { way: string; part: Part } | undefined {
  const [leg, more] = legsOf(circuit);
  const [way, further] = leg ? viaOf(leg) : [];
  const parts = way ? partsOf(planOf(job).ways[way] ?? { from: "", to: "" }) : [];
  const [part, another] = parts;
  return way && part && !more && !further && !another ? { way, part } : undefined;
}
