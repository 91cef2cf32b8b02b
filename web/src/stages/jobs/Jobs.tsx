/** All jobs with verdict and age; a new one, a copy, a file from elsewhere. */
import { keepPreviousData, useQuery, useQueryClient } from "@tanstack/react-query";
import { lazy, Suspense, useDeferredValue, useEffect, useRef, useState } from "react";
import { api, refusal, type Account, type JobLine, type Refusal } from "../../api/client";
import { PageHead } from "../../shell/PageHead";
import { Button } from "../../ui/Button";
import { Dialog } from "../../ui/Dialog";
import { inputLook } from "../../ui/field";
import { Pager } from "../../ui/Pager";
import type { MenuItem } from "../../ui/MenuList";
import type { SaidLine } from "../../ui/Said";
import { Sheet } from "../../ui/Sheet";
import { DeleteJob } from "./DeleteJob";
import { Filters, ORDERS } from "./Filters";
import { ImportJob } from "./ImportJob";
import { JobRow } from "./JobRow";
import { NewJob } from "./NewJob";
import { NewTemplate } from "./NewTemplate";
import { useWanted } from "./useWanted";

const Said = lazy(async () => ({ default: (await import("../../ui/Said")).Said }));

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
  const [copied, setCopied] = useState<JobLine | null>(null);
  const does = async (what: () => Promise<unknown>) => {
    try {
      await what();
      await queries.invalidateQueries({ queryKey: ["jobs"] });
    } catch (error) {
      setSaid(refusal(error));
    }
  };

  const [done, setDone] = useState<SaidLine | null>(null);
  const move = (job: JobLine, away: boolean) =>
    void does(async () => {
      await api.archiveJob(job.id, away);
      setDone({
        text: `${job.name} is ${away ? "put away" : "taken back"}.`,
        undo: () => {
          move(job, !away);
        },
      });
    });
  const items = (job: JobLine): MenuItem[] => {
    if (!canPlan) return [];
    const put = job.archived_at ? "Take back" : "Put away";
    return [
      {
        label: "Copy",
        run: () =>
          void does(async () => {
            await api.duplicateJob(job.id);
            setDone({ text: `${job.name} is copied.` });
          }),
      },
      {
        label: "Make a template of it",
        run: () => {
          setCopied(job);
        },
      },
      {
        label: put,
        run: () => {
          move(job, !job.archived_at);
        },
      },
      ...(job.archived_at && account.role === "owner"
        ? [
            {
              label: "Delete",
              run: () => {
                setGone(job);
              },
            },
          ]
        : []),
    ];
  };

  return (
    <div className="flex h-full flex-col">
      <PageHead account={account} />
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
            {jobs.data?.all_n === 0 && asked.templates === true && (
              <p className="p-6 text-sm text-ink-2">
                No template yet: one is made of a job, by “More” behind it.
              </p>
            )}
            {jobs.data?.all_n === 0 && asked.archived !== true && asked.templates !== true && (
              <p className="p-6 text-sm text-ink-2">
                No job yet.{" "}
                {account.role === "inspector"
                  ? "Whoever plans a job gives you a seat at it."
                  : canPlan
                    ? "Start with “New job”, or import a job file."
                    : "A designer or the owner starts one."}
              </p>
            )}
            {jobs.data !== undefined && jobs.data.all_n > 0 && jobs.data.found_n === 0 && (
              <p className="p-4 text-sm text-ink-2">No job is as asked for.</p>
            )}
            <ul data-testid="jobs">
              {jobs.data?.jobs.map((job) => (
                <JobRow key={job.id} job={job} now={now} items={items(job)} />
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
      {done && (
        <Suspense fallback={null}>
          <Said
            said={done}
            onDone={() => {
              setDone(null);
            }}
          />
        </Suspense>
      )}
      <Dialog
        title="A template for other jobs"
        open={copied !== null}
        onClose={() => {
          setCopied(null);
        }}
      >
        {copied && (
          <NewTemplate
            job={copied}
            onDone={() => {
              setCopied(null);
              want({ templates: true });
              void queries.invalidateQueries({ queryKey: ["jobs"] });
            }}
          />
        )}
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
