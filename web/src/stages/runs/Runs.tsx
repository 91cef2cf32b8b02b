/**
 * Runs: nodes, ways and circuits from the roof to the panel, the cut through each raceway, and what
 * every panel on the way is fed with.
 */
import { useState } from "react";
import { refusal, type Check, type Command } from "../../api/client";
import { api } from "../../api/client";
import { RacewayCut } from "../../drawing/RacewayCut";
import { partKey, RouteMap, wayKey } from "../../drawing/RouteMap";
import { amount, many } from "../../model/format";
import { circuitsOf, planOf, planned } from "../../model/plan";
import { checkKey, worst } from "../../model/report";
import { lengthText } from "../../model/units";
import { useBench } from "../../shell/bench";
import { CheckList } from "../../shell/CheckList";
import { StageFrame, usePicked } from "../../shell/StageFrame";
import { racewayText } from "../../text/words";
import { Button } from "../../ui/Button";
import { Sheet } from "../../ui/Sheet";
import { Circuits } from "./Circuits";
import { Nodes } from "./Nodes";
import { PanelForm } from "./PanelForm";
import { SettingsForm } from "./SettingsForm";
import { WayForm } from "./WayForm";

/** What is no circuit, way or node: checks of these stand at the end. */
const FURTHER = ["site", "panel", "string", "branch", "inverter"];

/** Ways up to which all of them stand open. */
const FEW = 4;

export function Runs() {
  const { view, draft, editor, canPlan, pick } = useBench();
  const [at, setAt] = useState<string | null>(null);
  const [said, setSaid] = useState<string | null>(null);
  const { report } = view;
  const { job } = draft;
  const { school } = job;
  const plan = planOf(job);
  const picked = usePicked("runs");
  const own = report.checks.filter((c) => c.stage === "runs");
  const ofPart = (way: string, part: number): Check[] =>
    own.filter((c) => c.subject.kind === "way" && wayKey(c.subject) === partKey(way, part));
  // What is picked on the drawing, or the way whose slip is open.
  const part = picked?.subject.kind === "way" ? wayKey(picked.subject) : at;
  const cut = report.raceway_cuts.find(
    (c) => c.subject.kind === "way" && wayKey(c.subject) === part,
  );
  const command = (what: Command, from = job) => {
    api.command(from, what).then(
      (done) => {
        // What was entered while the answer was on its way stays: the command is given anew.
        const now = editor.get().draft.job;
        if (now !== from) {
          command(what, now);
          return;
        }
        editor.editJob(() => done.job);
        setSaid(done.changes.length > 0 ? `${done.changes.join("; ")}.` : "Nothing to change.");
      },
      (error: unknown) => {
        const { message, errors } = refusal(error);
        setSaid(errors[0] ? `${errors[0].message}: ${errors[0].hint}` : message);
      },
    );
  };
  const rest = own.filter((c) => FURTHER.includes(c.subject.kind));
  const ways = Object.keys(plan.ways);
  const isOpen = (way: string) => ways.length <= FEW || part?.startsWith(`${way}/`) === true;
  const panels = Object.entries(plan.nodes).filter(([, n]) => n.kind === "panel");
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
          <figure className="mt-2 flex items-center gap-3">
            <RacewayCut cut={cut} tapes={report.tapes} />
            <figcaption className="text-xs text-ink-2">
              {racewayText(cut)}, to scale
              <br />
              {amount(cut.inner_mm, "mm")} inside
              <br />
              {cut.wires.length} wires, {school === "na" ? "ground" : "earth"} counted
              {cut.wires.some((w) => !w.fits) && (
                <strong className="block text-stop">Not all find room.</strong>
              )}
            </figcaption>
          </figure>
        ) : null
      }
    >
      <Sheet
        title="Roof to panel, top to bottom"
        aside={[
          "lines in their tape colours;",
          school === "na" ? "ground" : "earth",
          "is counted in every raceway",
        ].join(" ")}
        className="mb-3"
      >
        <div className="overflow-x-auto [&>svg]:max-md:min-w-[720px]">
          <RouteMap
            report={report}
            school={school}
            picked={part}
            verdictOf={(way, k) => worst(ofPart(way, k))}
            onPick={(way, k) => {
              setAt(partKey(way, k));
              const checks = ofPart(way, k);
              const first = checks.find((c) => c.verdict === worst(checks));
              pick(first ? checkKey(first) : null);
            }}
          />
        </div>
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
      {ways.map((way) => (
        <WayForm
          key={way}
          way={way}
          open={isOpen(way)}
          checks={own.filter((c) => c.subject.kind === "way" && c.subject.way === way)}
          picked={part}
          command={command}
          onOpen={() => {
            pick(null);
            setAt(partKey(way, 1));
          }}
        />
      ))}
      <Circuits checks={own} command={command} />
      <Nodes checks={own} command={command} />
      <div className="grid gap-3 lg:grid-cols-2">
        {school === "na" && panels.map(([key]) => <PanelForm key={key} node={key} />)}
        <SettingsForm />
        <Sheet
          title={school === "na" ? "Panels and the whole" : "The whole"}
          className="lg:col-span-2"
        >
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
