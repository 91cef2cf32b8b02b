/** The drop: the way of the current, top to bottom. Each stop shows its worst verdict and one telling figure. */
import { useState } from "react";
import { Link } from "react-router";
import { plain } from "../model/format";
import { branches, inverters, strings } from "../model/planning";
import { valueOf } from "../model/report";
import { lengthText } from "../model/units";
import { stageName, STAGES, type StageKey } from "../text/words";
import type { JobView, Verdict } from "../api/client";
import { Mark } from "../ui/verdict";
import { Brand } from "./Brand";
import { useBench } from "./bench";

const many = (n: number, one: string): string => `${String(n)} ${one}${n === 1 ? "" : "s"}`;

/** One telling figure of a stage, out of the report. */
function telling(view: JobView, key: StageKey): string {
  const { job, report } = view;
  switch (key) {
    case "site": {
      const [low, high] = [valueOf(report, "site.t_min_c", "site"), valueOf(report, "site.t_max_c", "site")];
      return low === null || high === null ? "temperatures open" : `${plain(low, 0)} to ${plain(high, 0)} °C`;
    }
    case "equipment": {
      const models = inverters(job).map(
        (i) => view.library.inverters.find((s) => s.sheet === i.sheet.sheet)?.model ?? i.id,
      );
      const micro = view.library.micros[0]?.model;
      return models.length === 0
        ? (micro ?? "no inverter yet")
        : models.length > 2
          ? many(models.length, "inverter")
          : models.join(", ");
    }
    case "strings": {
      const units = branches(job).reduce((sum, b) => sum + b.arms_n.reduce((n, a) => n + a, 0), 0);
      if (strings(job).length === 0 && units > 0)
        return `${String(branches(job).length)} branches, ${many(units, "unit")}`;
      const modules = strings(job).reduce((sum, s) => sum + s.n, units);
      return modules === 0 ? "no strings yet" : `${many(strings(job).length, "string")}, ${many(modules, "module")}`;
    }
    case "runs":
      return (job.runs ?? []).length === 0 ? "no circuits yet" : lengthText(report.route.length_m, job.school);
    case "test": {
      const letters = new Set(report.readings.filter((r) => !r.superseded).map((r) => r.reading.values.string));
      return `${String(strings(job).filter((s) => letters.has(s.letter)).length)} of ${many(strings(job).length, "string")}`;
    }
    case "handover":
      return `revision ${String(view.revision)}`;
    default:
      return "not built yet";
  }
}

const verdictOf = (view: JobView, key: StageKey): Verdict =>
  key === "handover" ? view.report.verdict : (view.report.stages.find((s) => s.stage === key)?.verdict ?? "unknown");

export function Drop({ stage }: { stage: StageKey }) {
  const { view } = useBench();
  const [open, setOpen] = useState(false);
  const { school } = view.job;
  const n = view.report.counts;
  return (
    <nav
      aria-label="Stages of the job"
      className="flex flex-col bg-slate text-slate-ink max-md:sticky max-md:top-0 max-md:z-20"
    >
      <div className="hidden max-md:flex max-md:items-center max-md:gap-3 max-md:px-3 max-md:py-2">
        <Link to="/jobs" aria-label="All jobs" className="grid h-12 w-8 place-items-center">
          <Brand />
        </Link>
        <button
          type="button"
          aria-expanded={open}
          className="flex min-h-12 grow items-center gap-3 rounded-md border border-slate-ink-2 px-3 text-left text-base font-bold"
          onClick={() => {
            setOpen(!open);
          }}
        >
          <Mark verdict={verdictOf(view, stage)} onSlate /> {stageName(stage, school)}
          <span className="ml-auto text-sm font-normal text-slate-ink-2">{open ? "close" : "stages"}</span>
        </button>
      </div>
      <Link
        to="/jobs"
        title="All jobs"
        className="flex items-center gap-2 px-3 pt-3 pb-2 text-base font-bold max-md:hidden"
      >
        <Brand /> Heliant
      </Link>
      <ol className={`relative grow pl-2 ${open ? "" : "max-md:hidden"}`}>
        <span aria-hidden="true" className="absolute top-5 bottom-5 left-[29px] w-0.5 bg-[#C0703A]" />
        {STAGES.map(({ key, built }) => {
          const current = key === stage;
          const look = current ? "border-l-4 border-copper bg-paper text-ink" : "border-l-4 border-transparent";
          const inside = (
            <>
              {built ? (
                <Mark verdict={verdictOf(view, key)} onSlate />
              ) : (
                <span aria-hidden="true" className="mx-[5px] h-2 w-2 rounded-full border border-slate-ink-2 bg-slate" />
              )}
              <span className="min-w-0">
                <span className="block font-bold">{stageName(key, school)}</span>
                <span className={`block truncate text-xs ${current ? "text-ink-2" : "text-slate-ink-2"}`}>
                  {telling(view, key)}
                </span>
              </span>
            </>
          );
          const shape = `relative flex items-center gap-2.5 rounded-l-lg py-2 pr-1 pl-2.5 text-sm max-md:min-h-12 max-md:text-base ${look}`;
          return (
            <li key={key}>
              {built ? (
                <Link
                  to={`/jobs/${view.id}/${key}`}
                  aria-current={current ? "page" : undefined}
                  className={`${shape} ${current ? "" : "hover:bg-[#243442]"}`}
                  onClick={() => {
                    setOpen(false);
                  }}
                >
                  {inside}
                </Link>
              ) : (
                <div className={`${shape} opacity-70`}>{inside}</div>
              )}
            </li>
          );
        })}
      </ol>
      <p className={`m-3 border-t border-[#3b4a57] pt-2 text-xs ${open ? "" : "max-md:hidden"}`} data-testid="totals">
        <strong className="block text-sm">
          {n.fail} stop · {many(n.warn, "caution")}
        </strong>
        <span className="text-slate-ink-2">
          {many(n.pass, "check")} hold{n.pass === 1 ? "s" : ""} · {n.unknown} open
        </span>
      </p>
    </nav>
  );
}
