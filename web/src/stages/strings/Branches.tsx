/** Branches of microinverters: units by arm, breaker, phase, home run. */
import { clsx } from "clsx";
import {
  addBranch,
  bothLibraries,
  branches,
  changeBranch,
  removeBranch,
  sheetKey,
  sheetName,
  sheetRef,
} from "../../model/planning";
import { amount } from "../../model/format";
import { lengthWord } from "../../model/shown";
import { changePart, changeWire, circuitFrom, homeRun, legsOf } from "../../model/plan";
import { valueOf, worst } from "../../model/report";
import { useBench } from "../../shell/bench";
import { First, type Missing } from "../../shell/First";
import { Button } from "../../ui/Button";
import { problemAt } from "../../ui/field";
import { NumberField } from "../../ui/NumberField";
import { Pick } from "../../ui/Pick";
import { TakeOut } from "../../ui/TakeOut";
import { Tape } from "../../ui/Tape";
import { Badge, WORDS } from "../../ui/verdict";

export function Branches({
  onPick,
  picked,
}: {
  onPick: (letter: string) => void;
  picked: string | null;
}) {
  const { view, draft, editor, canPlan, company, choices, problems } = useBench();
  const { job } = draft;
  const known = bothLibraries(draft.library, company);
  const na = job.school === "na";
  const faces = job.site.faces.map((f) => [f.id, f.name] as const);
  const modules = known.modules.map((m) => [sheetKey(m), sheetName(m)] as const);
  const micros = (known.micros ?? []).map((m) => [sheetKey(m), sheetName(m)] as const);
  const missing: Missing[] = [
    ...(faces.length === 0 ? [{ what: "a face", at: "site" } as const] : []),
    ...(modules.length === 0 ? [{ what: "a module data sheet", at: "library" } as const] : []),
    ...(micros.length === 0
      ? [{ what: "a microinverter data sheet", at: "library" } as const]
      : []),
  ];
  return (
    <div>
      {branches(job).length > 0 && (
        <div className="overflow-x-auto">
          <table className="w-full text-sm">
            <thead>
              <tr
                className={clsx(
                  "border-b border-line text-xs text-ink-2 [&>th]:px-1 [&>th]:py-1",
                  "[&>th]:text-left [&>th]:font-normal",
                )}
              >
                <th>Branch</th>
                <th>Face</th>
                <th>Module and unit</th>
                <th>Units</th>
                <th>2nd arm</th>
                <th>A</th>
                <th>Phase</th>
                <th>Home run, {lengthWord()}</th>
                <th>{na ? "AWG" : "mm²"}</th>
                <th>Rise</th>
                <th />
              </tr>
            </thead>
            <tbody>
              {branches(job).map((b, i) => {
                const path = `/job/branches/${String(i)}`;
                const change = (what: Partial<typeof b>) => {
                  editor.edit((d) => changeBranch(d, i, what, known));
                };
                const own = view.report.checks.filter(
                  (c) => c.subject.kind === "branch" && c.subject.branch === b.letter,
                );
                const about = { kind: "branch", branch: b.letter } as const;
                const rise = amount(valueOf(view.report, "branch.rise_total_pct", about), "%");
                const arm = (k: number, n: number | null) => {
                  const arms = [...b.arms_n];
                  if (n === null || n < 1) arms.splice(k, 1);
                  else arms[k] = Math.round(n);
                  if (arms.length > 0) change({ arms_n: arms });
                };
                return (
                  <tr
                    key={b.letter}
                    className={clsx(
                      "border-b border-line [&>td]:px-1 [&>td]:py-1",
                      picked === b.letter ? "bg-copper-soft" : "",
                    )}
                  >
                    <td>
                      <button
                        type="button"
                        aria-label={`Working of branch ${b.letter}`}
                        className="grid min-h-8 place-items-center"
                        onClick={() => {
                          onPick(b.letter);
                        }}
                      >
                        <Tape tapes={view.report.tapes} letter={b.letter} />
                      </button>
                    </td>
                    <td className="min-w-24">
                      <Pick
                        compact
                        label={`Face of ${b.letter}`}
                        value={b.face}
                        options={faces}
                        disabled={!canPlan}
                        onChange={(face) => {
                          change({ face });
                        }}
                      />
                    </td>
                    <td className="min-w-30">
                      <Pick
                        compact
                        label={`Module of ${b.letter}`}
                        value={sheetKey(b.module)}
                        options={modules}
                        disabled={!canPlan}
                        onChange={(key) => {
                          const sheet = known.modules.find((m) => sheetKey(m) === key);
                          if (sheet) change({ module: sheetRef(sheet) });
                        }}
                      />
                      <Pick
                        compact
                        label={`Unit of ${b.letter}`}
                        value={sheetKey(b.micro)}
                        options={micros}
                        disabled={!canPlan}
                        onChange={(key) => {
                          const sheet = (known.micros ?? []).find((m) => sheetKey(m) === key);
                          if (sheet) change({ micro: sheetRef(sheet) });
                        }}
                      />
                    </td>
                    {[0, 1].map((k) => (
                      <td key={k} className="w-12 min-w-12">
                        <NumberField
                          compact
                          label={
                            k === 0
                              ? `Units of ${b.letter}`
                              : `Units of the second arm of ${b.letter}`
                          }
                          value={b.arms_n[k]}
                          readOnly={!canPlan}
                          problem={problemAt(problems, `${path}/arms_n/${String(k)}`)}
                          onChange={(n) => {
                            arm(k, n);
                          }}
                        />
                      </td>
                    ))}
                    <td className="min-w-18">
                      <Pick
                        compact
                        label={`Breaker of ${b.letter}`}
                        value={b.breaker_a == null ? "" : String(b.breaker_a)}
                        options={[
                          ["", "open"],
                          ...choices.breakers_a
                            .filter((a) => a <= 63)
                            .map((a) => [String(a), String(a)] as const),
                        ]}
                        disabled={!canPlan}
                        onChange={(a) => {
                          change({ breaker_a: a === "" ? null : Number(a) });
                        }}
                      />
                    </td>
                    <td className="min-w-18">
                      <Pick
                        compact
                        label={`Phase of ${b.letter}`}
                        value={b.phase == null ? "" : String(b.phase)}
                        options={[
                          ["", "–"],
                          ["1", "L1"],
                          ["2", "L2"],
                          ["3", "L3"],
                        ]}
                        disabled={!canPlan}
                        onChange={(p) => {
                          change({ phase: p === "" ? null : Number(p) });
                        }}
                      />
                    </td>
                    <HomeRun letter={b.letter} />
                    <td>
                      <button
                        type="button"
                        aria-label={`Verdict of branch ${b.letter}: ${rise}, ${WORDS[worst(own)]}`}
                        onClick={() => {
                          onPick(b.letter);
                        }}
                      >
                        <Badge verdict={worst(own)}>{rise}</Badge>
                      </button>
                    </td>
                    <td>
                      {canPlan && (
                        <TakeOut
                          what={`branch ${b.letter}`}
                          onClick={() => {
                            editor.edit((d) => removeBranch(d, b.letter, known));
                          }}
                        />
                      )}
                    </td>
                  </tr>
                );
              })}
            </tbody>
          </table>
        </div>
      )}
      {canPlan && (
        <div className="flex flex-wrap items-center gap-3 p-3">
          <Button
            disabled={missing.length > 0}
            onClick={() => {
              editor.edit((d) => addBranch(d, known));
            }}
          >
            Add a branch
          </Button>
          <span className="text-sm text-ink-2">
            {missing.length > 0 ? (
              <First missing={missing} />
            ) : (
              "One arm is fed from its end; a second arm puts the feed in between."
            )}
          </span>
        </div>
      )}
    </div>
  );
}

/** Length and wire of a branch's home run, where it is one piece; else they are under Runs. */
function HomeRun({ letter }: { letter: string }) {
  const { draft, editor, canPlan, choices, problems } = useBench();
  const { job } = draft;
  const na = job.school === "na";
  const [key, circuit] = circuitFrom(job, { branch: letter }) ?? [];
  const whole = circuit && homeRun(job, circuit);
  if (!key || !circuit || !whole) {
    return (
      <td colSpan={2} className="text-xs text-ink-2">
        under Runs
      </td>
    );
  }
  const wire = legsOf(circuit)[0]?.wire;
  return (
    <>
      <td className="w-16 min-w-16">
        <NumberField
          compact
          label={`Home run of ${letter}`}
          value={whole.part.length_m}
          kept="m"
          unit=""
          readOnly={!canPlan}
          problem={problemAt(problems, `/job/plan/ways/${whole.way}/parts/0/length_m`)}
          onChange={(length_m) => {
            editor.editJob((j) => changePart(j, whole.way, 0, { length_m }));
          }}
        />
      </td>
      <td className="min-w-18">
        <Pick
          compact
          label={`Wire of ${letter}`}
          value={na ? (wire?.awg ?? "") : wire?.mm2 == null ? "" : String(wire.mm2)}
          options={[
            ["", "open"],
            ...(na
              ? choices.awg.slice(0, 8).map((a) => [a, a] as const)
              : choices.mm2.map((m) => [String(m), String(m)] as const)),
          ]}
          disabled={!canPlan}
          onChange={(w) => {
            const size = na ? { awg: w || null } : { mm2: w === "" ? null : Number(w) };
            editor.editJob((j) => changeWire(j, key, 0, size));
          }}
        />
      </td>
    </>
  );
}
