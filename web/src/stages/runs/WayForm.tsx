/** One way: its parts, each with its verdict, and what lies in it. */
import { clsx } from "clsx";
import type { Check, Command, Part, Subject } from "../../api/client";
import { amount } from "../../model/format";
import { changePart, changeWay, partAfter, partsOf, planOf } from "../../model/plan";
import { valueOf, worst, worstKey } from "../../model/report";
import { same } from "../../model/subject";
import { useBench } from "../../shell/bench";
import { Carries } from "./Carries";
import { Laying } from "./Laying";
import { PasteLengths } from "./PasteLengths";
import { placeName, PLACES, racewayText, type Place } from "../../text/words";
import { Button } from "../../ui/Button";
import { problemAt } from "../../ui/field";
import { NumberField } from "../../ui/NumberField";
import { Pick } from "../../ui/Pick";
import { Sheet } from "../../ui/Sheet";
import { TakeOut } from "../../ui/TakeOut";
import { Tape } from "../../ui/Tape";
import { Badge, WORDS } from "../../ui/verdict";
import { YesNo } from "../../ui/YesNo";

interface Props {
  way: string;
  /** Whether its parts are shown. */
  open: boolean;
  checks: Check[];
  /** The part that is picked, as `way/part`. */
  picked: string | null;
  command: (command: Command) => void;
  onOpen: () => void;
}

/** The first of these keys that nothing has yet. */
const freeKey = (taken: Record<string, unknown>, stem: string): string => {
  for (let n = 2; ; n++) if (!taken[`${stem}-${String(n)}`]) return `${stem}-${String(n)}`;
};

export function WayForm({ way, open, checks, picked, command, onOpen }: Props) {
  const { view, draft, editor, canPlan, choices } = useBench();
  const { school } = draft.job;
  const plan = planOf(draft.job);
  const own = plan.ways[way];
  if (!own) return null;
  const parts = partsOf(own);
  const drawn = view.report.route.ways.find((w) => w.way === way);
  return (
    <Sheet
      className="mb-3"
      title={
        <span className="flex flex-wrap items-center gap-2">
          <button type="button" className="font-bold" aria-expanded={open} onClick={onOpen}>
            {way} {own.name}
          </button>
          <span className="text-sm font-normal text-ink-2">
            {own.from} to {own.to}
          </span>
          {drawn?.circuits.map((c) =>
            c.string ? (
              <Tape key={c.circuit} tapes={view.report.tapes} letter={c.string} />
            ) : (
              <span key={c.circuit} className="text-xs text-ink-2">
                {c.circuit}
              </span>
            ),
          )}
          <Badge verdict={worst(checks)} />
        </span>
      }
      aside={
        canPlan && (
          <TakeOut
            what={way}
            onClick={() => {
              command({ do: "retire_way", way });
            }}
          />
        )
      }
    >
      {open && (
        <div className="overflow-x-auto">
          <table className="w-full text-sm">
            <thead>
              <tr
                className={clsx(
                  "border-b border-line text-xs text-ink-2 [&>th]:px-2 [&>th]:py-1",
                  "[&>th]:font-normal",
                )}
              >
                <th className="text-left">Part</th>
                <th className="text-left">How it lies</th>
                <th className="text-right">Length</th>
                <th className="text-right">Fill</th>
                <th />
                <th />
              </tr>
            </thead>
            <tbody>
              {parts.map((part, k) => (
                <PartRow
                  key={k}
                  way={way}
                  part={part}
                  k={k}
                  last={k === parts.length - 1}
                  checks={checks}
                  picked={picked}
                  onSplit={() => {
                    command({
                      do: "split_way",
                      way,
                      after: k + 1,
                      node: freeKey(plan.nodes, "BOX"),
                      kind: "junction_box",
                      rest: freeKey(plan.ways, way),
                    });
                  }}
                />
              ))}
            </tbody>
          </table>
          {canPlan && (
            <div className="flex flex-wrap items-end gap-3 p-2">
              <Pick
                label={`${school === "na" ? "Ground" : "Earth"} wire in ${way}`}
                value={own.earth ?? ""}
                options={[
                  ["", "as computed"],
                  ...(school === "na"
                    ? choices.awg.map((s) => [s, `${s} AWG`] as const)
                    : choices.mm2.map((s) => [String(s), `${String(s)} mm²`] as const)),
                ]}
                onChange={(earth) => {
                  editor.editJob((j) => changeWay(j, way, { earth: earth || null }));
                }}
              />
              {school === "na" && parts.some((p) => p.method === "cable" && !p.raceway) && (
                <Pick
                  label={`Ground in the cable of ${way}`}
                  value={own.bundle_earth ?? ""}
                  options={[
                    ["", "as such cables have it"],
                    ...choices.awg.map((s) => [s, `${s} AWG`] as const),
                  ]}
                  onChange={(size) => {
                    editor.editJob((j) => changeWay(j, way, { bundle_earth: size || null }));
                  }}
                />
              )}
              <Button
                onClick={() => {
                  editor.editJob((j) =>
                    changeWay(j, way, { parts: [...parts, partAfter(parts.at(-1))] }),
                  );
                }}
              >
                {`Add a part to ${way}`}
              </Button>
            </div>
          )}
          {canPlan && <Carries way={way} />}
          {canPlan && <PasteLengths way={way} />}
        </div>
      )}
    </Sheet>
  );
}

interface RowProps {
  way: string;
  part: Part;
  k: number;
  last: boolean;
  checks: Check[];
  picked: string | null;
  onSplit: () => void;
}

function PartRow({ way, part, k, last, checks, picked, onSplit }: RowProps) {
  const { view, draft, editor, canPlan, choices, problems, pick } = useBench();
  const { school } = draft.job;
  const path = `/job/plan/ways/${way}/parts/${String(k)}`;
  const subject: Subject = { kind: "way", way, part: k + 1 };
  const own = checks.filter((c) => same(c.subject, subject));
  const change = (what: Partial<Part>) => {
    editor.editJob((j) => changePart(j, way, k, what));
  };
  const kinds = choices.raceways.flatMap((r) => r.sizes.map((size) => ({ kind: r.kind, size })));
  const names = `${String(k + 1)} of ${way}`;
  const method = part.raceway ? "raceway" : (part.method ?? "raceway");
  const value = part.raceway ? `${part.raceway.kind} ${part.raceway.size}` : method;
  const options = [
    ...kinds.map((r) => [`${r.kind} ${r.size}`, racewayText(r)] as const),
    ["cable", "as a cable"] as const,
    ["free_air", "free air"] as const,
  ];
  const laying = part.raceway != null || part.place === "underground";
  return (
    <>
      <tr
        className={clsx(
          "[&>td]:px-2 [&>td]:py-1",
          laying ? "" : "border-b border-line",
          picked === `${way}/${String(k + 1)}` ? "bg-copper-soft" : "",
        )}
      >
        <td className="min-w-40">
          <div className="flex items-center gap-2">
            <span className="font-bold">{k + 1}</span>
            <Pick
              compact
              label={`Place of part ${names}`}
              value={part.place ?? ""}
              options={[
                ["", "not said"],
                ...Object.keys(PLACES).map((p) => [p, placeName(p as Place, school)] as const),
              ]}
              disabled={!canPlan}
              onChange={(p) => {
                change({ place: p === "" ? null : (p as Place) });
              }}
            />
          </div>
          {part.place === "roof_sun" && school === "na" && (
            <NumberField
              compact
              label={`Above the roof, part ${names}`}
              kept="mm"
              as="in"
              value={part.roof_clearance_mm}
              readOnly={!canPlan}
              problem={problemAt(problems, `${path}/roof_clearance_mm`)}
              onChange={(roof_clearance_mm) => {
                change({ roof_clearance_mm });
              }}
            />
          )}
        </td>
        <td className="min-w-28">
          <Pick
            compact
            label={`Raceway of part ${names}`}
            value={value}
            options={value === "raceway" ? [["raceway", "not picked"], ...options] : options}
            disabled={!canPlan}
            onChange={(v) => {
              const raceway = kinds.find((r) => `${r.kind} ${r.size}` === v);
              change(
                raceway
                  ? { method: "raceway", raceway }
                  : { method: v as NonNullable<Part["method"]>, raceway: null },
              );
            }}
          />
          <More part={part} names={names} change={change} />
        </td>
        <td className="w-32">
          <NumberField
            compact
            label={`Length of part ${names}`}
            kept="m"
            value={part.length_m}
            readOnly={!canPlan}
            problem={problemAt(problems, `${path}/length_m`)}
            onChange={(length_m) => {
              change({ length_m });
            }}
          />
        </td>
        <td className="text-right font-mono whitespace-nowrap">
          {part.raceway ? amount(valueOf(view.report, "raceway.fill_pct", subject), "%") : ""}
        </td>
        <td>
          {own.length > 0 && (
            <button
              type="button"
              aria-label={`Verdict of part ${names}: ${WORDS[worst(own)]}`}
              onClick={() => {
                pick(worstKey(own));
              }}
            >
              <Badge verdict={worst(own)} />
            </button>
          )}
        </td>
        <td className="text-right whitespace-nowrap">
          {canPlan && !last && (
            <button
              type="button"
              className="mr-2 text-copper underline"
              aria-label={`A box behind part ${names}`}
              onClick={onSplit}
            >
              Box behind
            </button>
          )}
          {canPlan && (
            <TakeOut
              what={`part ${names}`}
              onClick={() => {
                editor.editJob((j) => {
                  const parts = partsOf(planOf(j).ways[way] ?? { from: "", to: "" });
                  return changeWay(j, way, { parts: parts.filter((_, i) => i !== k) });
                });
              }}
            />
          )}
        </td>
      </tr>
      {laying && (
        <tr className="border-b border-line">
          <td colSpan={6} className="px-2 pb-2">
            <Laying part={part} names={names} path={path} change={change} />
          </td>
        </tr>
      )}
    </>
  );
}

/** What is asked only where it decides something. */
function More({
  part,
  names,
  change,
}: {
  part: Part;
  names: string;
  change: (what: Partial<Part>) => void;
}) {
  const { view, draft, canPlan } = useBench();
  const { school } = draft.job;
  const asked = (field: string): boolean =>
    view.report.checks.some((c) => (c.missing ?? []).includes(field));
  const hidden = part.place === "cavity" || part.place === "attic";
  return (
    <>
      {school === "iec" && hidden && (
        <YesNo
          compact
          label={`In insulation, part ${names}`}
          value={part.insulated}
          disabled={!canPlan}
          onChange={(insulated) => {
            change({ insulated });
          }}
        />
      )}
      {school === "na" && (part.listed != null || asked("way.parts.listed")) && (
        <YesNo
          compact
          label={`Listed for the place, part ${names}`}
          value={part.listed}
          disabled={!canPlan}
          onChange={(listed) => {
            change({ listed });
          }}
        />
      )}
    </>
  );
}
