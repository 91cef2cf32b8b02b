import { clsx } from "clsx";
import type { Check, Report } from "../api/client";
import { amount } from "../model/format";
import { checkKey, figureOf } from "../model/report";
import { subjectName } from "../model/subject";
import { Badge } from "../ui/verdict";
import { aside } from "./Slip";

interface Props {
  checks: Check[];
  report: Report;
  onPick: (check: Check) => void;
  /** They stand in the slip of their subject, which names it and has the margins. */
  inSlip?: boolean;
}

/** Checks as a list; each opens its slip. */
export function CheckList({ checks, report, onPick, inSlip = false }: Props) {
  return (
    <ul>
      {checks.map((check) => {
        const figure = figureOf(report, check);
        return (
          <li
            key={checkKey(check)}
            className={clsx("border-b border-line", !inSlip && "last:border-b-0")}
          >
            <button
              type="button"
              className={clsx(
                "flex w-full items-center gap-2 py-1.5 text-left text-sm",
                !inSlip && "px-3",
                "hover:bg-copper-soft max-md:min-h-12 max-md:text-base",
              )}
              onClick={() => {
                onPick(check);
              }}
            >
              <span className="min-w-0 grow">
                {!inSlip && <span className="text-ink-2">{subjectName(check.subject)} </span>}
                {check.title}
              </span>
              <span className="font-mono whitespace-nowrap">
                {figure && figure.value != null ? amount(figure.value, figure.unit) : ""}
              </span>
              <Badge verdict={check.verdict}>{aside(check)}</Badge>
            </button>
          </li>
        );
      })}
    </ul>
  );
}
