/**
 * Runs: nodes, ways and circuits from the roof to the panel, the cut through each raceway, and what
 * every panel on the way is fed with.
 */
import { useState } from "react";
import type { Check, Circuit } from "../../api/client";
import { partKey, RouteMap, wayKey } from "../../drawing/RouteMap";
import { many } from "../../model/format";
import type { Picked } from "../../model/drop";
import { circuitsOf, legsOf, planOf, planned, viaOf } from "../../model/plan";
import { checkKey, checksOf, worst } from "../../model/report";
import { lengthText } from "../../model/units";
import { useBench } from "../../shell/bench";
import { CheckList } from "../../shell/CheckList";
import { StageFrame, usePicked } from "../../shell/StageFrame";
import { useCommand } from "../../shell/useCommand";
import { Button } from "../../ui/Button";
import { Sheet } from "../../ui/Sheet";
import { Tick } from "../../ui/Tick";
import { useNarrow } from "../../ui/useNarrow";
import { CircuitChips } from "./CircuitChips";
import { Circuits } from "./Circuits";
import { CompareRoutes } from "./CompareRoutes";
import { CutThrough } from "./CutThrough";
import { Nodes } from "./Nodes";
import { PickedBar, SetIn } from "./PickedBar";
import { RouteList } from "./RouteList";
import { SettingsForm } from "./SettingsForm";
import { Stock } from "./Stock";
import { useDrop } from "./useDrop";
import { WayForm } from "./WayForm";

/** What is no circuit, way or node: checks of these stand at the end. */
const FURTHER = ["site", "string", "branch", "inverter"];

const NOTHING = { legs: [] } as unknown as Circuit;

/** Ways up to which all of them stand open. */
const FEW = 4;

export function Runs() {
  const { view, draft, canPlan, pick } = useBench();
  const [at, setAt] = useState<Picked | null>(null);
  const [allPlaces, setAllPlaces] = useState(false);
  const narrow = useNarrow();
  const [command, said] = useCommand();
  const { report } = view;
  const { job } = draft;
  const { school } = job;
  const plan = planOf(job);
  const picked = usePicked("runs");
  const own = report.checks.filter((c) => c.stage === "runs");
  const ofPart = (way: string, part: number): Check[] =>
    checksOf(report, { kind: "way", way, part }).filter((c) => c.stage === "runs");
  const ofWay = new Map<string, Check[]>();
  for (const c of own)
    if (c.subject.kind === "way")
      ofWay.set(c.subject.way, [...(ofWay.get(c.subject.way) ?? []), c]);
  // What is picked on the drawing, or the way or box whose slip is open.
  const subject = picked?.subject;
  const thing: Picked | null =
    subject?.kind === "way"
      ? { kind: "part", way: subject.way, part: subject.part }
      : subject?.kind === "node"
        ? { kind: "node", node: subject.node }
        : at;
  const part = thing?.kind === "part" ? partKey(thing.way, thing.part) : null;
  const cut = report.raceway_cuts.find(
    (c) => c.subject.kind === "way" && wayKey(c.subject) === part,
  );
  const ofThing = (what: Picked): Check[] =>
    what.kind === "part"
      ? ofPart(what.way, what.part)
      : own.filter((c) =>
          what.kind === "node"
            ? c.subject.kind === "node" && c.subject.node === what.node
            : c.subject.kind === "circuit" && c.subject.circuit === what.circuit,
        );
  const show = (what: Picked | null) => {
    setAt(what);
    const checks = what ? ofThing(what) : [];
    const first = checks.find((c) => c.verdict === worst(checks));
    pick(first ? checkKey(first) : null);
  };
  const edits = useDrop(command, show);
  const press = (what: Picked) => {
    if (edits.leading && what.kind === "part") edits.over(what.way);
    else show(what);
  };
  const led = edits.leading?.via ?? null;
  const circuit = edits.leading?.circuit ?? (thing?.kind === "circuit" ? thing.circuit : null);
  const ownWays = new Set(
    circuit === null ? [] : legsOf(plan.circuits[circuit] ?? NOTHING).flatMap(viaOf),
  );
  const bar = canPlan ? (
    <PickedBar job={job} picked={thing} edits={edits} command={command} />
  ) : null;
  const drawn = {
    report,
    school,
    picked: thing,
    leading: led,
    verdictOf: (way: string, k: number) => worst(ofPart(way, k)),
    onPick: press,
  };
  const rest = own.filter((c) => FURTHER.includes(c.subject.kind));
  const ways = Object.keys(plan.ways);
  const isOpen = (way: string) => ways.length <= FEW || part?.startsWith(`${way}/`) === true;
  return (
    <StageFrame
      stage="runs"
      about={[
        "roof to panel",
        many(circuitsOf(job).length, "circuit"),
        `${lengthText(report.route.length_m)} in all`,
      ].join(" · ")}
      inSlip={(check) =>
        cut && check.subject.kind === "way" ? (
          <CutThrough
            key={wayKey(check.subject)}
            cut={cut}
            way={check.subject.way}
            part={check.subject.part}
            command={command}
          />
        ) : null
      }
    >
      <Sheet
        title="Roof to panel, top to bottom"
        aside={
          <span className="flex flex-wrap items-center gap-3">
            {!narrow && <Tick label="All places" checked={allPlaces} onChange={setAllPlaces} />}
            {canPlan && <SetIn edits={edits} />}
          </span>
        }
        className="mb-3"
      >
        {narrow ? (
          <RouteList {...drawn}>{bar}</RouteList>
        ) : (
          <>
            <div className="overflow-x-auto">
              <RouteMap
                {...drawn}
                allPlaces={allPlaces}
                canPlan={canPlan}
                faint={circuit !== null && led === null ? (way) => !ownWays.has(way) : undefined}
                onMove={edits.move}
                onConnect={edits.connect}
                onKey={(key, what) => {
                  if (key === "w" && what.kind === "node" && canPlan) {
                    show(what);
                    requestAnimationFrame(() => {
                      document
                        .querySelector<HTMLSelectElement>("[data-testid='picked-bar'] select")
                        ?.focus();
                    });
                    return true;
                  }
                  return edits.onKey(key, what);
                }}
              />
            </div>
            {bar}
          </>
        )}
        <CircuitChips
          picked={circuit}
          onPick={(key) => {
            show({ kind: "circuit", circuit: key });
          }}
          onKey={(key, name) => edits.onKey(key, { kind: "circuit", circuit: name })}
          onLead={edits.lead}
        />
      </Sheet>
      {canPlan && !planned(job) && (
        <div className="mb-3 flex flex-wrap items-center gap-3">
          <Button
            main
            onClick={() => {
              command({ do: "settle" });
            }}
          >
            Plan the circuits
          </Button>
          <span className="text-sm text-ink-2">
            Every string, branch and output gets its circuit, its lengths open.
          </span>
        </div>
      )}
      {said !== null && (
        <p role="status" className="mb-3 text-sm">
          {said}
        </p>
      )}
      <CompareRoutes command={command} />
      {ways.map((way) => (
        <WayForm
          key={way}
          way={way}
          open={isOpen(way)}
          checks={ofWay.get(way) ?? []}
          picked={part}
          command={command}
          onOpen={() => {
            pick(null);
            setAt({ kind: "part", way, part: 1 });
          }}
        />
      ))}
      <Circuits checks={own} command={command} />
      <Nodes checks={own} command={command} />
      <Stock />
      <div className="grid gap-3 lg:grid-cols-2">
        <SettingsForm />
        <Sheet title="The whole">
          <CheckList
            report={report}
            checks={rest}
            onPick={(c) => {
              pick(checkKey(c));
            }}
          />
          {rest.length === 0 && (
            <p className="p-3 text-sm text-ink-2">Nothing more to check here.</p>
          )}
        </Sheet>
      </div>
    </StageFrame>
  );
}
