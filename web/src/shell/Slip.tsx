/** The slip: a check with its working like arithmetic on paper, the limit, the room left, and what would cure it. */
import type { Check, Edit, Report } from "../api/client";
import { amount, number, unitSign } from "../model/format";
import { figureOf, subjectName } from "../model/report";
import { Button } from "../ui/parts";
import { Badge } from "../ui/verdict";

const GROUND = {
  fail: "bg-stop-soft",
  warn: "bg-caution-soft",
  unknown: "border border-dashed border-ink-3",
  pass: "",
};

interface Props {
  report: Report;
  check: Check;
  onEdits: ((edits: Edit[]) => void) | null;
  children?: React.ReactNode;
}

export function Slip({ report, check, onEdits, children }: Props) {
  const figure = figureOf(report, check);
  const value = figure?.value;
  return (
    <article aria-live="polite" data-testid="slip">
      <header className="flex items-start justify-between gap-2">
        <h2 className="font-bold">
          <span className="text-ink-2">{subjectName(check.subject)}</span> {check.title}
        </h2>
        <Badge verdict={check.verdict}>{check.alternative && check.verdict === "fail" ? "Not met" : undefined}</Badge>
      </header>
      {typeof value === "number" && figure ? (
        <p className="mt-1 font-mono text-xl leading-tight font-bold">
          {number(value, figure.unit)} <span className="text-base font-normal">{unitSign(figure.unit)}</span>
        </p>
      ) : (
        value !== undefined &&
        value !== null && <p className="mt-1 font-mono text-lg font-bold">{amount(value, "ratio")}</p>
      )}
      {children}
      {figure && figure.working.length > 0 && (
        <ol className="mt-3 border-t border-dashed border-ink-3 pt-2 text-sm">
          {figure.working.map((line, i) => (
            <li key={i} className={line.numbers ? "mb-1 border-t border-ink pt-0.5" : ""}>
              <div className="flex justify-between gap-3 font-mono">
                <span className={line.numbers ? "font-bold" : ""}>{line.label}</span>
                <span className={`text-right whitespace-nowrap ${line.numbers ? "font-bold" : ""}`}>
                  {amount(line.value, line.unit)}
                </span>
              </div>
              {line.numbers && <div className="font-mono text-xs break-words text-ink-2">{line.numbers}</div>}
              {line.source && <div className="text-xs text-ink-3">{line.source}</div>}
            </li>
          ))}
        </ol>
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
              <span>room left</span>
              <span className="text-right whitespace-nowrap">
                {amount(check.margin, check.unit)}
                {check.margin_pct != null && <span className="font-normal"> ({amount(check.margin_pct, "%")})</span>}
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
              <strong>Missing:</strong> {check.missing.join(", ")}
            </p>
          )}
          {check.reason && <p>{check.reason}</p>}
          {check.cures && check.cures.length > 0 && <p className="mt-2 font-bold">What would cure it</p>}
          {check.cures?.map((cure) => (
            <div key={cure.text} className="mt-1">
              <p>{cure.text}</p>
              {onEdits && cure.edits && cure.edits.length > 0 && (
                <Button
                  main
                  className="mt-2"
                  onClick={() => {
                    onEdits(cure.edits ?? []);
                  }}
                >
                  Do it: {cure.edits.map((e) => String(e.value)).join(", ")}
                </Button>
              )}
            </div>
          ))}
        </div>
      )}
      {figure?.note && <p className="mt-2 text-xs text-ink-2">{figure.note}</p>}
    </article>
  );
}

interface ListProps {
  checks: Check[];
  report: Report;
  onPick: (check: Check) => void;
}

/** Checks as a list; each opens its slip. */
export function CheckList({ checks, report, onPick }: ListProps) {
  return (
    <ul>
      {checks.map((check) => {
        const figure = figureOf(report, check);
        return (
          <li
            key={`${check.id}${check.subject.kind}${check.subject.name}`}
            className="border-b border-line last:border-b-0"
          >
            <button
              type="button"
              className="flex w-full items-center gap-2 px-3 py-1.5 text-left text-sm hover:bg-copper-soft max-md:min-h-12 max-md:text-base"
              onClick={() => {
                onPick(check);
              }}
            >
              <span className="min-w-0 grow">
                <span className="text-ink-2">{subjectName(check.subject)}</span> {check.title}
              </span>
              <span className="font-mono whitespace-nowrap">
                {figure && figure.value != null ? amount(figure.value, figure.unit) : ""}
              </span>
              <Badge verdict={check.verdict}>
                {check.alternative && check.verdict === "fail" ? "Not met" : undefined}
              </Badge>
            </button>
          </li>
        );
      })}
    </ul>
  );
}
