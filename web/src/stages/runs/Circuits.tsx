/** The circuits, leg by leg: wire, device, and the ways each goes. */
import { useState } from "react";
import type { Check, Circuit, Command, Leg } from "../../api/client";
import {
  changeCircuit,
  changeWire,
  circuitsOf,
  isDc,
  legsOf,
  planOf,
  protects,
  viaOf,
  type Wire,
} from "../../model/plan";
import { checkKey, worst } from "../../model/report";
import { useBench } from "../../shell/bench";
import { CheckList } from "../../shell/CheckList";
import { CABLES, CIRCUITS } from "../../text/words";
import { inputLook, problemAt } from "../../ui/field";
import { NumberField } from "../../ui/NumberField";
import { Pick } from "../../ui/Pick";
import { Sheet } from "../../ui/Sheet";
import { TakeOut } from "../../ui/TakeOut";
import { Tape } from "../../ui/Tape";
import { Tick } from "../../ui/Tick";
import { Badge, WORDS } from "../../ui/verdict";
import { Budget } from "./Budget";
import { AddCircuit, Ends } from "./Ends";
import { OtherWire } from "./OtherWire";
import { PickWires } from "./PickWires";

interface Props {
  checks: Check[];
  command: (command: Command) => void;
}

/** Circuits up to which all of them stand open. */
const FEW = 12;

const NONE: Check[] = [];

/** What a circuit is wired with, in a word. */
const wiresOf = (legs: Leg[]): string => {
  const sizes = legs.map((l) => {
    const wire = l.wire as Wire | undefined;
    if (wire?.awg != null) return `${wire.awg} AWG`;
    return wire?.mm2 == null ? "wire open" : `${String(wire.mm2)} mm²`;
  });
  return sizes.length === 0 ? "no way yet" : [...new Set(sizes)].join(", ");
};

export function Circuits({ checks, command }: Props) {
  const { draft, canPlan } = useBench();
  const own = new Map<string, Check[]>();
  for (const c of checks)
    if (c.subject.kind === "circuit")
      own.set(c.subject.circuit, [...(own.get(c.subject.circuit) ?? []), c]);
  const circuits = circuitsOf(draft.job);
  const few = circuits.length <= FEW;
  return (
    <Sheet title="Circuits" aside="a leg is one unspliced length" className="mb-3">
      {canPlan && <PickWires />}
      {canPlan && circuits.length > 0 && <Budget />}
      {circuits.map(([key, circuit]) => (
        <OneCircuit
          key={key}
          name={key}
          circuit={circuit}
          few={few}
          checks={own.get(key) ?? NONE}
          command={command}
        />
      ))}
      {canPlan && <AddCircuit command={command} />}
    </Sheet>
  );
}

interface OneProps extends Props {
  name: string;
  circuit: Circuit;
  /** There are few: all of them stand open. */
  few: boolean;
}

function OneCircuit({ name, circuit, few, checks, command }: OneProps) {
  const { view, draft, editor, canPlan, choices, pick } = useBench();
  const [open, setOpen] = useState(false);
  const [more, setMore] = useState(false);
  const [asked, setAsked] = useState(false);
  const plan = planOf(draft.job);
  const dc = isDc(circuit);
  const power = circuit.kind !== "bond" && circuit.kind !== "control";
  const legs = legsOf(circuit);
  // Where an end names the device, its rating stands with the device.
  const atDevice = protects(plan, circuit.from) || protects(plan, circuit.to);
  return (
    <div className="border-b border-line p-3 last:border-b-0">
      <div className="mb-1 flex flex-wrap items-center gap-2">
        {circuit.from.string ? (
          <Tape tapes={view.report.tapes} letter={circuit.from.string} />
        ) : (
          <strong>{name}</strong>
        )}
        <span className="text-sm text-ink-2">
          {CIRCUITS[circuit.kind]}
          {circuit.name && circuit.name !== name ? ` · ${circuit.name}` : ""}
          {circuit.to?.node ? ` · to ${circuit.to.node}` : ""}
        </span>
        <button
          type="button"
          aria-expanded={open}
          aria-label={`Checks of circuit ${name}: ${WORDS[worst(checks)]}`}
          onClick={() => {
            setOpen(!open);
          }}
        >
          <Badge verdict={worst(checks)} />
        </button>
        <span className="grow" />
        {!few && (
          <button
            type="button"
            aria-expanded={asked}
            aria-label={`${asked ? "Close" : wiresOf(legs)}: wire and ways of ${name}`}
            className="text-sm text-copper underline"
            onClick={() => {
              setAsked(!asked);
            }}
          >
            {asked ? "Close" : wiresOf(legs)}
          </button>
        )}
        {canPlan && (
          <TakeOut
            what={`circuit ${name}`}
            onClick={() => {
              command({ do: "retire_circuit", circuit: name });
            }}
          />
        )}
      </div>
      {(few || asked) && (
        <>
          {legs.map((leg, k) => (
            <LegRow
              key={k}
              name={name}
              leg={leg}
              k={k}
              several={legs.length > 1}
              command={command}
            />
          ))}
          {(legs.length === 0 || more) && (
            <Via
              name={name}
              leg={legs.length}
              via={[]}
              label={legs.length === 0 ? name : `${name}, leg ${String(legs.length + 1)}`}
              command={(what) => {
                setMore(false);
                command(what);
              }}
            />
          )}
          <div className="mt-1 flex flex-wrap items-end gap-3">
            <Ends name={name} circuit={circuit} />
            {power && circuit.kind !== "micro_branch" && !atDevice && (
              <Pick
                label={dc ? `Fuse of ${name}` : `Breaker of ${name}`}
                value={String(circuit.ocpd_a ?? "")}
                options={[
                  ["", dc ? "none" : "next standard size"],
                  ...choices.breakers_a.map((a) => [String(a), `${String(a)} A`] as const),
                ]}
                disabled={!canPlan}
                onChange={(v) => {
                  const ocpd_a = v ? Number(v) : null;
                  editor.editJob((j) => changeCircuit(j, name, { ocpd_a }));
                }}
              />
            )}
            {power && !dc && (
              <Tick
                label={`A neutral runs along ${name}`}
                checked={circuit.neutral ?? false}
                disabled={!canPlan}
                onChange={(neutral) => {
                  editor.editJob((j) => changeCircuit(j, name, { neutral }));
                }}
              />
            )}
            {canPlan && legs.length > 0 && !more && (
              <button
                type="button"
                className="pb-2 text-sm text-copper underline"
                onClick={() => {
                  setMore(true);
                }}
              >
                {`Another leg of ${name}`}
              </button>
            )}
          </div>
        </>
      )}
      {power && (few || asked) && legs.length > 0 && <OtherWire circuit={name} />}
      {open && (
        <CheckList
          report={view.report}
          checks={checks}
          onPick={(c) => {
            pick(checkKey(c));
          }}
        />
      )}
    </div>
  );
}

interface LegProps {
  name: string;
  leg: Leg;
  k: number;
  several: boolean;
  command: (command: Command) => void;
}

function LegRow({ name, leg, k, several, command }: LegProps) {
  const { draft, editor, canPlan, choices, problems } = useBench();
  const wire = leg.wire as Wire | undefined;
  const label = several ? `${name}, leg ${String(k + 1)}` : name;
  const set = (what: Partial<Wire>) => {
    editor.editJob((j) => changeWire(j, name, k, what));
  };
  return (
    <div className="grid grid-cols-[1fr_1fr_1fr_1.5fr] items-end gap-3 max-md:grid-cols-1">
      {draft.job.school === "na" ? (
        <>
          <Pick
            label={`Wire of ${label}, AWG`}
            value={wire?.awg ?? ""}
            options={[["", "not picked"], ...choices.awg.map((s) => [s, s] as const)]}
            disabled={!canPlan}
            onChange={(awg) => {
              set({ awg: awg || null });
            }}
          />
          <Pick
            label={`Insulation of ${label}`}
            value={wire?.insulation ?? "THWN-2"}
            options={choices.insulations.map((s) => [s, s] as const)}
            disabled={!canPlan}
            onChange={(v) => {
              set({ insulation: v as Wire["insulation"] });
            }}
          />
        </>
      ) : (
        <>
          <Pick
            label={`Section of ${label}, mm²`}
            value={String(wire?.mm2 ?? "")}
            options={[
              ["", "not picked"],
              ...choices.mm2.map((s) => [String(s), String(s)] as const),
            ]}
            disabled={!canPlan}
            onChange={(v) => {
              set({ mm2: v ? Number(v) : null });
            }}
          />
          <Pick
            label={`Cable of ${label}`}
            value={wire?.cable ?? "solar"}
            options={choices.cables.map((c) => [c, CABLES[c] ?? c] as const)}
            disabled={!canPlan}
            onChange={(v) => {
              set({ cable: v as Wire["cable"] });
            }}
          />
        </>
      )}
      <NumberField
        label={`Measured diameter of ${label}`}
        kept="mm"
        as={draft.job.school === "na" ? "in" : undefined}
        value={wire?.od_mm}
        readOnly={!canPlan}
        problem={problemAt(problems, `/job/plan/circuits/${name}/legs/${String(k)}/wire/od_mm`)}
        onChange={(od_mm) => {
          set({ od_mm });
        }}
      />
      <Via name={name} leg={k} via={viaOf(leg)} label={label} command={command} />
    </div>
  );
}

interface ViaProps {
  name: string;
  leg: number;
  via: string[];
  label: string;
  command: (command: Command) => void;
}

/** The ways of a leg, as a line of keys; leading it another way is a command of the core. */
function Via({ name, leg, via, label, command }: ViaProps) {
  const { canPlan } = useBench();
  const [typed, setTyped] = useState<string | null>(null);
  const leave = () => {
    if (typed === null) return;
    const next = typed
      .split(",")
      .map((w) => w.trim())
      .filter(Boolean);
    setTyped(null);
    if (next.join() !== via.join()) command({ do: "reroute", circuit: name, leg, via: next });
  };
  return (
    <label className="text-xs text-ink-2">
      {`Ways of ${label}, with commas`}
      <input
        className={`${inputLook} font-mono`}
        value={typed ?? via.join(", ")}
        data-typing={typed !== null}
        readOnly={!canPlan}
        onChange={(e) => {
          setTyped(e.target.value);
        }}
        onBlur={leave}
        onKeyDown={(e) => {
          if (e.key === "Enter") leave();
          if (e.key === "Escape") setTyped(null);
        }}
      />
    </label>
  );
}
