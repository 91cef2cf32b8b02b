/** One run: its wire, its device, its segments, each with its verdict. */
import { clsx } from "clsx";
import type { Check, Run, Segment, Subject } from "../../api/client";
import {
  changeRun,
  changeSegment,
  inverters,
  newSegment,
  runs,
  segments,
  strings,
  type Wire,
} from "../../model/planning";
import { checkKey, valueOf, worst } from "../../model/report";
import { amount } from "../../model/format";
import { same } from "../../model/subject";
import { lengthFactor, lengthUnit } from "../../model/units";
import { useBench } from "../../shell/bench";
import { CheckList } from "../../shell/CheckList";
import { CABLES, placeName, PLACES, racewayText } from "../../text/words";
import { Button } from "../../ui/Button";
import { problemAt } from "../../ui/field";
import { NumberField } from "../../ui/NumberField";
import { Pick } from "../../ui/Pick";
import { Sheet } from "../../ui/Sheet";
import { TakeOut } from "../../ui/TakeOut";
import { Tape } from "../../ui/Tape";
import { TextField } from "../../ui/TextField";
import { Badge } from "../../ui/verdict";

interface Props {
  run: Run;
  index: number;
  checks: Check[];
  /** The raceway that is picked, as `run/segment`. */
  picked: string | null;
}

export function RunForm({ run, index, checks, picked }: Props) {
  const { view, draft, editor, canPlan, choices, problems, pick } = useBench();
  const { job } = draft;
  const { school } = job;
  const dc = run.kind === "pv_string" || run.kind === "pv_output";
  const path = `/job/runs/${String(index)}`;
  const wire = run.wire as Wire;
  const change = (what: Partial<Run>) => {
    editor.editJob((j) => changeRun(j, index, what));
  };
  const setWire = (what: Partial<Wire>) => {
    change({ wire: { ...wire, ...what } });
  };
  const circuits = checks.filter((c) => c.subject.kind === "circuit");
  return (
    <Sheet
      className="mb-3"
      title={
        <span className="flex items-center gap-2">
          {run.id} {run.name} <Badge verdict={worst(checks)} />
        </span>
      }
      aside={
        canPlan && (
          <TakeOut
            what={run.id}
            onClick={() => {
              editor.editJob((j) => ({ ...j, runs: runs(j).filter((_, i) => i !== index) }));
            }}
          />
        )
      }
    >
      <div className="grid grid-cols-4 items-end gap-3 p-3 max-md:grid-cols-2">
        <TextField
          label="Name"
          value={run.name}
          readOnly={!canPlan}
          problem={problemAt(problems, `${path}/name`)}
          onChange={(name) => {
            change({ name });
          }}
        />
        {school === "na" ? (
          <>
            <Pick
              label="Wire, AWG"
              value={wire.awg ?? ""}
              options={[["", "not picked"], ...choices.awg.map((s) => [s, s] as const)]}
              disabled={!canPlan}
              onChange={(awg) => {
                setWire({ awg: awg || null });
              }}
            />
            <Pick
              label="Insulation"
              value={wire.insulation}
              options={choices.insulations.map((s) => [s, s] as const)}
              disabled={!canPlan}
              onChange={(v) => {
                setWire({ insulation: v as Wire["insulation"] });
              }}
            />
          </>
        ) : (
          <>
            <Pick
              label="Section, mm²"
              value={String(wire.mm2 ?? "")}
              options={[
                ["", "not picked"],
                ...choices.mm2.map((s) => [String(s), String(s)] as const),
              ]}
              disabled={!canPlan}
              onChange={(v) => {
                setWire({ mm2: v ? Number(v) : null });
              }}
            />
            <Pick
              label="Cable"
              value={wire.cable}
              options={choices.cables.map((c) => [c, CABLES[c] ?? c] as const)}
              disabled={!canPlan}
              onChange={(v) => {
                setWire({ cable: v as Wire["cable"] });
              }}
            />
          </>
        )}
        <Pick
          label={dc ? "Fuse" : "Breaker"}
          value={String(run.ocpd_a ?? "")}
          options={[
            ["", dc ? "none" : "next standard size"],
            ...choices.breakers_a.map((a) => [String(a), `${String(a)} A`] as const),
          ]}
          disabled={!canPlan}
          onChange={(v) => {
            change({ ocpd_a: v ? Number(v) : null });
          }}
        />
        {dc ? (
          <fieldset className="col-span-4 max-md:col-span-2">
            <legend className="text-xs text-ink-2">Carries</legend>
            <div className="flex flex-wrap gap-x-4">
              {strings(job).map((s) => (
                <label
                  key={s.letter}
                  className="inline-flex min-h-8 items-center gap-1.5 text-sm max-md:min-h-12"
                >
                  <input
                    type="checkbox"
                    disabled={!canPlan}
                    checked={(run.strings ?? []).includes(s.letter)}
                    onChange={(e) => {
                      const on = run.strings ?? [];
                      change({
                        strings: e.target.checked
                          ? [...on, s.letter]
                          : on.filter((l) => l !== s.letter),
                      });
                    }}
                  />
                  <Tape tapes={view.report.tapes} letter={s.letter} />
                </label>
              ))}
              {strings(job).length === 0 && (
                <span className="text-sm text-ink-2">no string yet</span>
              )}
            </div>
          </fieldset>
        ) : (
          <>
            <Pick
              label="Output of"
              value={run.inverter ?? ""}
              options={[["", "not picked"], ...inverters(job).map((i) => [i.id, i.id] as const)]}
              disabled={!canPlan}
              onChange={(v) => {
                change({ inverter: v || null });
              }}
            />
            <label className="inline-flex min-h-9 items-center gap-2 text-sm max-md:min-h-12">
              <input
                type="checkbox"
                disabled={!canPlan}
                checked={run.neutral ?? false}
                onChange={(e) => {
                  change({ neutral: e.target.checked });
                }}
              />
              A neutral runs along
            </label>
          </>
        )}
      </div>
      <div className="overflow-x-auto border-t border-line">
        <table className="w-full text-sm">
          <thead>
            <tr
              className={clsx(
                "border-b border-line text-xs text-ink-2 [&>th]:px-2 [&>th]:py-1",
                "[&>th]:font-normal",
              )}
            >
              <th className="text-left">Segment</th>
              <th className="text-left">Raceway</th>
              <th className="text-right">Length</th>
              <th className="text-right">Fill</th>
              <th />
              <th />
            </tr>
          </thead>
          <tbody>
            {segments(run).map((segment, k) => (
              <SegmentRow
                key={k}
                run={run}
                index={index}
                segment={segment}
                k={k}
                checks={checks}
                picked={picked}
              />
            ))}
          </tbody>
        </table>
        {canPlan && (
          <div className="p-2">
            <Button
              onClick={() => {
                const last = segments(run).at(-1);
                change({
                  segments: [...segments(run), newSegment(last?.place ?? "inside", last?.raceway)],
                });
              }}
            >
              Add a segment
            </Button>
          </div>
        )}
      </div>
      <div className="border-t border-line">
        <CheckList
          report={view.report}
          checks={circuits}
          onPick={(c) => {
            pick(checkKey(c));
          }}
        />
      </div>
    </Sheet>
  );
}

interface RowProps extends Props {
  segment: Segment;
  k: number;
}

function SegmentRow({ run, index, segment, k, checks, picked }: RowProps) {
  const { view, draft, editor, canPlan, choices, problems, pick } = useBench();
  const { school } = draft.job;
  const key = `${run.id}/${String(k + 1)}`;
  const path = `/job/runs/${String(index)}/segments/${String(k)}`;
  const raceway: Subject = { kind: "raceway", run: run.id, segment: k + 1 };
  const own = checks.filter((c) => same(c.subject, raceway));
  const change = (what: Partial<Segment>) => {
    editor.editJob((j) => changeSegment(j, index, k, what));
  };
  const kinds = choices.raceways.flatMap((r) => r.sizes.map((size) => ({ kind: r.kind, size })));
  const names = `${String(k + 1)} of ${run.id}`;
  const method = segment.raceway ? "raceway" : (segment.method ?? "raceway");
  const value = segment.raceway ? `${segment.raceway.kind} ${segment.raceway.size}` : method;
  const options = [
    ...kinds.map((r) => [`${r.kind} ${r.size}`, racewayText(r)] as const),
    ["cable", "as a cable"] as const,
    ["free_air", "free air"] as const,
  ];
  return (
    <tr
      className={clsx(
        "border-b border-line [&>td]:px-2 [&>td]:py-1",
        picked === key ? "bg-copper-soft" : "",
      )}
    >
      <td className="min-w-40">
        <div className="flex items-center gap-2">
          <span className="font-bold">{k + 1}</span>
          <Pick
            compact
            label={`Place of segment ${names}`}
            value={segment.place}
            options={Object.keys(PLACES).map(
              (p) => [p, placeName(p as Segment["place"], school)] as const,
            )}
            disabled={!canPlan}
            onChange={(p) => {
              change({ place: p as Segment["place"] });
            }}
          />
        </div>
      </td>
      <td className="min-w-28">
        <Pick
          compact
          label={`Raceway of segment ${names}`}
          value={value}
          options={value === "raceway" ? [["raceway", "not picked"], ...options] : options}
          disabled={!canPlan}
          onChange={(v) => {
            const raceway = kinds.find((r) => `${r.kind} ${r.size}` === v);
            change(
              raceway
                ? { method: "raceway", raceway }
                : { method: v as NonNullable<Segment["method"]>, raceway: null },
            );
          }}
        />
      </td>
      <td className="w-32">
        <NumberField
          compact
          label={`Length of segment ${names}`}
          unit={lengthUnit(school)}
          factor={lengthFactor(school)}
          value={segment.length_m}
          readOnly={!canPlan}
          problem={problemAt(problems, `${path}/length_m`)}
          onChange={(length_m) => {
            change({ length_m });
          }}
        />
      </td>
      <td className="text-right font-mono whitespace-nowrap">
        {segment.raceway ? amount(valueOf(view.report, "raceway.fill_pct", raceway), "%") : ""}
      </td>
      <td>
        {own.length > 0 && (
          <button
            type="button"
            aria-label={`Verdict of segment ${names}`}
            onClick={() => {
              const bad = worst(own);
              const first = own.find((c) => c.verdict === bad);
              if (first) pick(checkKey(first));
            }}
          >
            <Badge verdict={worst(own)} />
          </button>
        )}
      </td>
      <td className="text-right">
        {canPlan && (
          <TakeOut
            what={`segment ${names}`}
            onClick={() => {
              editor.editJob((j) =>
                changeRun(j, index, { segments: segments(run).filter((_, i) => i !== k) }),
              );
            }}
          />
        )}
      </td>
    </tr>
  );
}
