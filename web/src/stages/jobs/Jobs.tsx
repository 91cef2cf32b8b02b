/** All jobs with verdict and age; a new one, a copy, a file from elsewhere. */
import { clsx } from "clsx";
import { keepPreviousData, useQuery, useQueryClient } from "@tanstack/react-query";
import { useDeferredValue, useEffect, useRef, useState } from "react";
import { Link, useNavigate } from "react-router";
import {
  api,
  refusal,
  type Account,
  type Job,
  type JobLine,
  type Refusal,
  type Verdict,
} from "../../api/client";
import { age } from "../../model/format";
import { PageHead } from "../../shell/PageHead";
import { toggleTheme } from "../../shell/useTheme";
import { SCHOOL } from "../../text/words";
import { Button } from "../../ui/Button";
import { Dialog } from "../../ui/Dialog";
import { inputLook } from "../../ui/field";
import { Pager } from "../../ui/Pager";
import { Sheet } from "../../ui/Sheet";
import { Badge } from "../../ui/verdict";
import { DeleteJob } from "./DeleteJob";
import { Filters, ORDERS } from "./Filters";
import { ImportJob } from "./ImportJob";
import { useWanted } from "./useWanted";

/** Jobs of one page. */
const PAGE = 100;

export function Jobs({ account }: { account: Account }) {
  const queries = useQueryClient();
  const { wanted: asked, page, want, setPage } = useWanted();
  // Typed at once; the address follows.
  const [typed, setTyped] = useState(asked.find ?? "");
  const wanted = useDeferredValue(asked);
  const jobs = useQuery({
    queryKey: ["jobs", wanted, page],
    queryFn: () => api.jobs(wanted, page),
    placeholderData: keepPreviousData,
  });
  const [making, setMaking] = useState(false);
  const [said, setSaid] = useState<Refusal | null>(null);
  const [now, setNow] = useState(() => Date.now());
  const find = useRef<HTMLInputElement>(null);
  const canPlan = account.role === "owner" || account.role === "designer";

  useEffect(() => {
    document.title = "Jobs · Heliant";
    const timer = setInterval(() => {
      setNow(Date.now());
    }, 30_000);
    const onKey = (e: KeyboardEvent) => {
      if (e.key === "/" && !(e.target instanceof HTMLInputElement)) {
        e.preventDefault();
        find.current?.focus();
      }
    };
    window.addEventListener("keydown", onKey);
    return () => {
      clearInterval(timer);
      window.removeEventListener("keydown", onKey);
    };
  }, []);

  const [gone, setGone] = useState<JobLine | null>(null);
  const does = async (what: () => Promise<unknown>) => {
    try {
      await what();
      await queries.invalidateQueries({ queryKey: ["jobs"] });
    } catch (error) {
      setSaid(refusal(error));
    }
  };

  return (
    <div className="flex h-full flex-col">
      <PageHead>
        <Link
          to="/me"
          className="grid min-h-9 items-center text-sm text-slate-ink-2 underline max-md:min-h-12"
        >
          {account.name}, {account.role}
        </Link>
        <button
          type="button"
          className="min-h-9 text-sm underline max-md:min-h-12"
          onClick={toggleTheme}
        >
          Light or dusk
        </button>
        <Link to="/sums" className="grid min-h-9 items-center text-sm underline max-md:min-h-12">
          Quick sums
        </Link>
        <Link to="/library" className="grid min-h-9 items-center text-sm underline max-md:min-h-12">
          Data sheets
        </Link>
        {account.role === "owner" && (
          <Link
            to="/people"
            className="grid min-h-9 items-center text-sm underline max-md:min-h-12"
          >
            People
          </Link>
        )}
        <button
          type="button"
          className="min-h-9 text-sm underline max-md:min-h-12"
          onClick={() => {
            void api.signOut().finally(() => {
              queries.clear();
              window.location.assign("/");
            });
          }}
        >
          Sign out
        </button>
      </PageHead>
      <main className="min-h-0 grow overflow-y-auto p-4">
        <div className="mx-auto max-w-5xl">
          <div className="mb-3 flex flex-wrap items-center gap-3">
            <h1 className="text-lg font-bold">Jobs</h1>
            <input
              ref={find}
              aria-label="Find a job"
              placeholder="Find a job   /"
              className={`${inputLook} max-w-60`}
              value={typed}
              onChange={(e) => {
                setTyped(e.target.value);
                want({ find: e.target.value.trim() });
              }}
            />
            <span className="grow" />
            {canPlan && (
              <>
                <ImportJob onSaid={setSaid} />
                <Button
                  main
                  onClick={() => {
                    setMaking(true);
                  }}
                >
                  New job
                </Button>
              </>
            )}
          </div>
          {said && (
            <div role="alert" className="mb-3 rounded-lg bg-stop-soft p-3 text-sm">
              <p className="font-bold text-stop">{said.message}</p>
              <ul className="mt-1 max-h-60 overflow-y-auto">
                {said.errors.map((p, i) => (
                  <li key={i}>
                    <code className="font-mono text-xs">{p.path || "file"}</code> {p.message}
                    {p.hint ? `: ${p.hint}` : ""}
                  </li>
                ))}
              </ul>
              <Button
                className="mt-2"
                onClick={() => {
                  setSaid(null);
                }}
              >
                Close
              </Button>
            </div>
          )}
          <Filters asked={asked} want={want} people={jobs.data?.people ?? []} />
          <Sheet>
            {jobs.isPending && (
              <p role="status" className="p-4 text-sm text-ink-2">
                {jobs.failureCount > 0
                  ? "The server does not answer. It is tried again."
                  : "Opening"}
              </p>
            )}
            {jobs.data?.all_n === 0 && asked.archived === true && (
              <p className="p-6 text-sm text-ink-2">No job was put away.</p>
            )}
            {jobs.data?.all_n === 0 && asked.archived !== true && (
              <p className="p-6 text-sm text-ink-2">
                No job yet.{" "}
                {canPlan
                  ? "Start with “New job”, or import a job file."
                  : "A designer or the owner starts one."}
              </p>
            )}
            {jobs.data !== undefined && jobs.data.all_n > 0 && jobs.data.found_n === 0 && (
              <p className="p-4 text-sm text-ink-2">No job is as asked for.</p>
            )}
            <ul data-testid="jobs">
              {jobs.data?.jobs.map((job) => (
                <li
                  key={job.id}
                  className={clsx(
                    "flex flex-wrap items-center gap-x-4 gap-y-1 border-b border-line",
                    "px-4 py-2.5 last:border-b-0",
                  )}
                >
                  <div className="min-w-40 grow">
                    <Link
                      to={`/jobs/${job.id}/strings`}
                      className={clsx(
                        "text-base font-bold hover:text-copper hover:underline",
                        "max-md:inline-block max-md:py-2",
                      )}
                    >
                      {job.name}
                    </Link>
                    <p className="text-xs text-ink-2">
                      {SCHOOL[job.school as Job["school"]]} · revision {job.revision} ·{" "}
                      {age(job.updated_at, now)} by {job.updated_by}
                      {job.waits && (
                        <span className="ml-2 rounded bg-caution-soft px-1.5 text-caution">
                          a newer data sheet waits for a decision
                        </span>
                      )}
                    </p>
                  </div>
                  <p className="text-right font-mono text-xs text-ink-2">
                    {job.counts.fail} stop · {job.counts.warn} caution · {job.counts.unknown} open
                  </p>
                  <span className="w-20">
                    <Badge verdict={job.verdict as Verdict} />
                  </span>
                  {canPlan && (
                    <Button
                      aria-label={`Copy ${job.name}`}
                      onClick={() => {
                        void does(() => api.duplicateJob(job.id));
                      }}
                    >
                      Copy
                    </Button>
                  )}
                  {canPlan && (
                    <Button
                      aria-label={`${job.archived_at ? "Take back" : "Put away"} ${job.name}`}
                      onClick={() => {
                        void does(() => api.archiveJob(job.id, !job.archived_at));
                      }}
                    >
                      {job.archived_at ? "Take back" : "Put away"}
                    </Button>
                  )}
                  {job.archived_at && account.role === "owner" && (
                    <Button
                      aria-label={`Delete ${job.name}`}
                      onClick={() => {
                        setGone(job);
                      }}
                    >
                      Delete
                    </Button>
                  )}
                </li>
              ))}
            </ul>
            <Pager
              page={page}
              size={PAGE}
              total={jobs.data?.found_n ?? 0}
              onPage={setPage}
              order={ORDERS.find(([key]) => key === (asked.order ?? "touched"))?.[1] ?? ""}
            />
          </Sheet>
        </div>
      </main>
      <Dialog
        title="New job"
        open={making}
        onClose={() => {
          setMaking(false);
        }}
      >
        <NewJob />
      </Dialog>
      <Dialog
        title="Delete a job for good"
        open={gone !== null}
        onClose={() => {
          setGone(null);
        }}
      >
        {gone && (
          <DeleteJob
            job={gone}
            onDone={() => {
              setGone(null);
              void queries.invalidateQueries({ queryKey: ["jobs"] });
            }}
          />
        )}
      </Dialog>
    </div>
  );
}

function NewJob() {
  const navigate = useNavigate();
  const [name, setName] = useState("");
  const [school, setSchool] = useState<Job["school"]>("na");
  const [said, setSaid] = useState<string | null>(null);
  const make = async () => {
    try {
      const made = await api.createJob(name, school);
      void navigate(`/jobs/${made.id}/site`);
    } catch (error) {
      const r = refusal(error);
      setSaid(
        r.errors[0] ? `The name ${r.errors[0].message}: ${r.errors[0].hint ?? ""}` : r.message,
      );
    }
  };
  return (
    <form
      onSubmit={(e) => {
        e.preventDefault();
        void make();
      }}
    >
      <label className="mb-3 block text-sm">
        Name
        <input
          className={inputLook}
          autoFocus
          value={name}
          aria-invalid={said !== null}
          onChange={(e) => {
            setName(e.target.value);
          }}
        />
      </label>
      <fieldset className="mb-3">
        <legend className="text-sm">
          School of practice; it decides units, tables and wording, and stays
        </legend>
        {(["na", "iec"] as const).map((s) => (
          <label key={s} className="mr-6 inline-flex min-h-10 items-center gap-2 text-sm">
            <input
              type="radio"
              name="school"
              checked={school === s}
              onChange={() => {
                setSchool(s);
              }}
            />
            {s === "na" ? "North American: AWG, feet, NEC style" : "IEC: mm², metres"}
          </label>
        ))}
      </fieldset>
      {said && (
        <p role="alert" className="mb-3 text-sm font-bold text-stop">
          {said}
        </p>
      )}
      <Button main type="submit">
        Start the job
      </Button>
    </form>
  );
}
