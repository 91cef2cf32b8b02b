/**
 * The slip: a check with its working like arithmetic on paper, the limit, the room left, and what
 * would cure it.
 */
import { clsx } from "clsx";
import type { Check, Command, Edit, Figure, Report, TriedCure } from "../api/client";
import { CARDS, fieldTitle } from "../model/catalogue";
import { amount, between, number, plain, unitSign, workedAmount } from "../model/format";
import { figureOf } from "../model/report";
import { same, subjectName } from "../model/subject";
import { Button } from "../ui/Button";
import { Term } from "../ui/Term";
import { Badge } from "../ui/verdict";
import { CutShort } from "../ui/CutShort";
import type { Tried } from "./useCures";
import type { Workings } from "./useWorkings";

const GROUND = {
  fail: "bg-stop-soft",
  warn: "bg-caution-soft",
  unknown: "border border-dashed border-ink-3",
  pass: "",
};

/** The word for a check that is shown and not counted. */
export function aside(check: Check): string | undefined {
  if (!check.alternative) return undefined;
  if (check.subject.kind === "reading") return "Read again";
  return check.verdict === "fail" ? "Not met" : undefined;
}

/** Figures a reading is held against: their working belongs on its slip. */
const BEHIND: Record<string, string[]> = {
  "test.voc_v": ["test.t_cell_c", "test.voc_expected_v"],
  "test.isc_a": ["test.t_cell_c", "test.isc_expected_a"],
};

interface Props {
  /** The figures to look in. */
  report: Pick<Report, "figures">;
  check: Check;
  /** Where the figures themselves bring no working. */
  workings?: Workings;
  /** What would cure it, where that was tried; else what the rule says. */
  tried?: Tried | "trying" | undefined;
  onEdits: ((edits: Edit[]) => void) | null;
  onCommand?: (command: Command) => void;
  children?: React.ReactNode;
}

export function Slip({ report, check, workings, tried, onEdits, onCommand, children }: Props) {
  const figure = figureOf(report, check);
  const worked = (f: Figure): Figure =>
    workings?.figures?.find((w) => w.id === f.id && same(w.subject, f.subject)) ?? f;
  const value = figure?.value;
  const cures = tried === undefined ? (check.cures ?? []) : tried === "trying" ? [] : tried.cures;
  const behind =
    check.subject.kind === "reading"
      ? report.figures.filter(
          (f) => BEHIND[check.id]?.includes(f.id) && same(f.subject, check.subject),
        )
      : [];
  return (
    <article aria-live="polite" data-testid="slip">
      <header className="flex items-start justify-between gap-2">
        <h2 className="font-bold">
          <span className="text-ink-2">{subjectName(check.subject)}</span> {check.title}
        </h2>
        <Badge verdict={check.verdict}>{aside(check)}</Badge>
      </header>
      {typeof value === "number" && figure ? (
        <p className="mt-1 font-mono text-xl leading-tight font-bold">
          {number(value, figure.unit)}{" "}
          <span className="text-base font-normal">{unitSign(figure.unit)}</span>
        </p>
      ) : (
        value !== undefined &&
        value !== null && (
          <p className="mt-1 font-mono text-lg font-bold">{amount(value, "ratio")}</p>
        )
      )}
      {children}
      {behind.map((f) => (
        <section key={f.id}>
          <h3 className="mt-3 flex justify-between gap-2 text-sm font-bold">
            {f.title} <span className="font-mono">{amount(f.value, f.unit)}</span>
          </h3>
          <Lines figure={worked(f)} />
        </section>
      ))}
      {figure && <Lines figure={worked(figure)} />}
      {figure && workings?.away && (
        <p role="status" className="mt-3 text-sm text-ink-2">
          The working cannot be had at the moment.
        </p>
      )}
      {check.limit && (
        <div className="mt-3 border-t border-dashed border-ink-3 pt-2 font-mono text-sm">
          <p className="flex justify-between gap-2">
            <span>
              {check.limit.at_most ? "at most" : "at least"}, {check.limit.title}
            </span>
            <span className="whitespace-nowrap">{amount(check.limit.value, check.unit)}</span>
          </p>
          {check.margin != null && (
            <p className="flex justify-between gap-2 font-bold">
              <Term name="room" text="room left" />
              <span className="text-right whitespace-nowrap">
                {between(check.margin, check.unit)}
                {check.margin_pct != null && (
                  <span className="font-normal"> ({amount(check.margin_pct, "%")})</span>
                )}
              </span>
            </p>
          )}
        </div>
      )}
      <p className="mt-1 text-xs text-ink-3">
        Rests on {check.source} · {check.id}
      </p>
      {(check.reason ?? (check.missing?.length || check.cures?.length)) && (
        <div className={`mt-3 rounded-lg p-3 text-sm ${GROUND[check.verdict]}`}>
          {check.missing && check.missing.length > 0 && (
            <p>
              <strong>Missing:</strong> {check.missing.map(fieldTitle).join(", ")}
            </p>
          )}
          {check.reason && <p>{check.reason}</p>}
          {tried === "trying" && (
            <p role="status" className="mt-2">
              What would cure it is being tried.
            </p>
          )}
          <Cures cures={cures} onEdits={onEdits} onCommand={onCommand} />
          {typeof tried === "object" && tried.cut && <CutShort what="there may be more cures." />}
        </div>
      )}
      {figure?.note && <p className="mt-2 text-xs text-ink-2">{figure.note}</p>}
    </article>
  );
}

interface CuresProps {
  cures: TriedCure[];
  onEdits: ((edits: Edit[]) => void) | null;
  onCommand: ((command: Command) => void) | undefined;
}

/** What would mend a check; cautions that come with it are named. */
function Cures({ cures, onEdits, onCommand }: CuresProps) {
  if (cures.length === 0) return null;
  return (
    <>
      <p className="mt-2 font-bold">What would cure it</p>
      {cures.map((cure) => (
        <div key={cure.text} className="mt-1">
          <p>
            {cure.text}
            {cure.cost != null && ` It takes ${plain(cure.cost, 0)} by the prices of the job.`}
          </p>
          {(cure.cautions ?? []).length > 0 && (
            <p className="text-caution">
              With it comes caution:{" "}
              {cure.cautions?.map((c) => `${subjectName(c.subject)}, ${c.title}`).join("; ")}
            </p>
          )}
          {onEdits && cure.edits && cure.edits.length > 0 && (
            <Button
              main
              className="mt-2"
              onClick={() => {
                onEdits(cure.edits ?? []);
              }}
            >
              {doing(cure.edits)}
            </Button>
          )}
          {onEdits && onCommand && cure.command && (
            <Button
              main
              className="mt-2"
              onClick={() => {
                if (cure.command) onCommand(cure.command);
              }}
            >
              {cure.command.do === "change_over"
                ? "Change over"
                : cure.command.do === "pull_box"
                  ? "Set the pull box"
                  : cure.command.do === "set_disconnect"
                    ? "Set the disconnect"
                    : "Do it"}
            </Button>
          )}
        </div>
      ))}
    </>
  );
}

/** How a figure came about, line by line. */
export function Lines({ figure }: { figure: Figure }) {
  const lines = figure.working ?? [];
  if (lines.length === 0) return null;
  return (
    <ol className="mt-3 border-t border-dashed border-ink-3 pt-2 text-sm">
      {lines.map((line, i) => (
        <li key={i} className={line.numbers ? "mb-1 border-t border-ink pt-0.5" : ""}>
          <div className="flex justify-between gap-3 font-mono">
            <span className={line.numbers ? "font-bold" : ""}>{line.label}</span>
            <span
              className={clsx(
                "text-right",
                typeof line.value !== "string" && "whitespace-nowrap",
                line.numbers && "font-bold",
              )}
            >
              {workedAmount(line.value, line.unit)}
            </span>
          </div>
          {line.numbers && (
            <div className="font-mono text-xs break-words text-ink-2">{line.numbers}</div>
          )}
          {line.source && (
            <div className="text-xs text-ink-3">{CARDS[line.source]?.title ?? line.source}</div>
          )}
        </li>
      ))}
    </ol>
  );
}

/** What the button of a cure does, in words. */
function doing(edits: Edit[]): string {
  const [edit] = edits;
  const sets = (end: string) => edits.some((e) => e.pointer.endsWith(end));
  if (sets("/turned")) return "Turn it";
  if (sets("/reversed")) return "Cross its leads";
  if (sets("/jumpers")) return "Add the jumper";
  if (sets("/modules")) return "Take them off";
  if (sets("/bridges")) return "Bridge it";
  if (!edit || edits.length > 1) return "Do it";
  const value = String(edit.value);
  if (edit.pointer.endsWith("/rows/gap_m")) return `Make the gap ${value} m`;
  if (/^\/strings\/[^/]+\/n$/.test(edit.pointer)) return `Make it ${value} in series`;
  if (edit.pointer.endsWith("/raceway/size")) return `Use size ${value}`;
  if (edit.pointer.endsWith("/wire/awg")) return `Use ${value} AWG`;
  if (edit.pointer.endsWith("/wire/mm2")) return `Use ${value} mm²`;
  return `Do it: ${value}`;
}
