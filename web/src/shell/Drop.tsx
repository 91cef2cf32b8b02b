/**
 * The drop: the way of the current, top to bottom. Each stop shows its worst verdict and one
 * telling figure.
 */
import { clsx } from "clsx";
import { useState } from "react";
import { Link } from "react-router";
import { many } from "../model/format";
import { Mark } from "../ui/verdict";
import { Brand } from "./Brand";
import { useBench } from "./bench";
import { built, verdictOf, type StageModule } from "./stage";

export function Drop({ stage }: { stage: StageModule }) {
  const { view, stages } = useBench();
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
          className={clsx(
            "flex min-h-12 grow items-center gap-3 rounded-md border border-slate-ink-2",
            "px-3 text-left text-base font-bold",
          )}
          onClick={() => {
            setOpen(!open);
          }}
        >
          <Mark verdict={verdictOf(view, stage)} onSlate /> {stage.name(school)}
          <span className="ml-auto text-sm font-normal text-slate-ink-2">
            {open ? "close" : "stages"}
          </span>
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
        <span
          aria-hidden="true"
          className="absolute top-5 bottom-5 left-[29px] w-0.5 bg-[#C0703A]"
        />
        {stages.map((s) => {
          const current = s.key === stage.key;
          const look = current
            ? "border-l-4 border-copper bg-paper text-ink"
            : "border-l-4 border-transparent";
          const inside = (
            <>
              {built(s) ? (
                <Mark verdict={verdictOf(view, s)} onSlate />
              ) : (
                <span
                  aria-hidden="true"
                  className="mx-[5px] h-2 w-2 rounded-full border border-slate-ink-2 bg-slate"
                />
              )}
              <span className="min-w-0">
                <span className="block font-bold">{s.name(school)}</span>
                <span
                  className={clsx(
                    "block truncate text-xs",
                    current ? "text-ink-2" : "text-slate-ink-2",
                  )}
                >
                  {built(s) ? s.telling(view) : "not built yet"}
                </span>
              </span>
            </>
          );
          const shape = clsx(
            "relative flex items-center gap-2.5 rounded-l-lg py-2 pr-1 pl-2.5",
            "text-sm max-md:min-h-12 max-md:text-base",
            look,
          );
          return (
            <li key={s.key}>
              {built(s) ? (
                <Link
                  to={`/jobs/${view.id}/${s.key}`}
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
      <p
        className={`m-3 border-t border-[#3b4a57] pt-2 text-xs ${open ? "" : "max-md:hidden"}`}
        data-testid="totals"
      >
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
