/**
 * Runs: the way through the house, the cut through each raceway, wires, and the panel they end in.
 */
import { useState } from "react";
import type { Check, Leg, Verdict } from "../../api/client";
import { RacewayCut } from "../../drawing/RacewayCut";
import { legKey, racewayKey, RouteMap } from "../../drawing/RouteMap";
import { amount, many } from "../../model/format";
import { addRun, runs, type StartSizes } from "../../model/planning";
import { checkKey, worst } from "../../model/report";
import { lengthText } from "../../model/units";
import { useBench } from "../../shell/bench";
import { CheckList } from "../../shell/CheckList";
import { StageFrame, usePicked } from "../../shell/StageFrame";
import { racewayText } from "../../text/words";
import { Button } from "../../ui/Button";
import { Sheet } from "../../ui/Sheet";
import { PanelForm } from "./PanelForm";
import { RunForm } from "./RunForm";
import { SettingsForm } from "./SettingsForm";

export function Runs() {
  const { view, draft, editor, canPlan, choices, pick } = useBench();
  const [at, setAt] = useState<string | null>(null);
  const { report } = view;
  const { job } = draft;
  const { school } = job;
  const picked = usePicked("runs");
  const own = report.checks.filter((c) => c.stage === "runs");
  const ofLeg = (leg: Leg): Check[] =>
    own.filter((c) => c.subject.kind === "raceway" && racewayKey(c.subject) === legKey(leg));
  const verdictOf = (leg: Leg): Verdict => worst(ofLeg(leg));
  // What is picked on the drawing, or the raceway whose slip is open.
  const leg = picked?.subject.kind === "raceway" ? racewayKey(picked.subject) : at;
  const cut = report.raceway_cuts.find(
    (c) => c.subject.kind === "raceway" && racewayKey(c.subject) === leg,
  );
  const kinds =
    school === "na" ? choices.raceways.find((r) => r.kind === "emt") : choices.raceways[0];
  const start: StartSizes = {
    awg: "10",
    mm2: choices.mm2.find((s) => s >= 4),
    raceway: kinds ? { kind: kinds.kind, size: kinds.sizes[1] ?? kinds.sizes[0] ?? "" } : null,
  };
  const checksOf = (id: string): Check[] =>
    own.filter(
      (c) => (c.subject.kind === "circuit" || c.subject.kind === "raceway") && c.subject.run === id,
    );
  const rest = own.filter((c) => c.subject.kind === "site" || c.subject.kind === "panel");
  return (
    <StageFrame
      stage="runs"
      about={[
        "roof to panel",
        many(runs(job).length, "circuit"),
        `${lengthText(report.route.length_m, school)} in all`,
      ].join(" · ")}
      inSlip={(check) =>
        cut && check.subject.kind === "raceway" ? (
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
            route={report.route}
            report={report}
            school={school}
            picked={leg}
            verdictOf={verdictOf}
            onPick={(l) => {
              setAt(legKey(l));
              const checks = ofLeg(l);
              const first = checks.find((c) => c.verdict === worst(checks)) ?? checksOf(l.run)[0];
              if (first) pick(checkKey(first));
            }}
          />
        </div>
      </Sheet>
      {runs(job).map((run, index) => (
        <RunForm key={run.id} run={run} index={index} checks={checksOf(run.id)} picked={leg} />
      ))}
      {canPlan && (
        <div className="mb-3 flex gap-2">
          {(["pv_string", "inverter_out"] as const).map((kind) => (
            <Button
              key={kind}
              main={!runs(job).some((r) => r.kind === kind)}
              onClick={() => {
                editor.editJob((j) => addRun(j, kind, start));
              }}
            >
              {kind === "pv_string" ? "Add a DC run" : "Add an AC run"}
            </Button>
          ))}
        </div>
      )}
      <div className="grid gap-3 lg:grid-cols-2">
        {school === "na" && <PanelForm />}
        <SettingsForm />
        <Sheet
          title={school === "na" ? "Panel and the whole" : "The whole"}
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
