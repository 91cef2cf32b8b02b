/** One job: the drop at the left, the work in the middle, the slip at the right. */
import { clsx } from "clsx";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useMemo, useState, Suspense } from "react";
import { Navigate, useNavigate, useParams } from "react-router";
import { api, Away, refusal, Refused, type Account, type JobView } from "../api/client";
import { typing } from "../actions/actions";
import { Editor } from "../model/editor";
import { showFor } from "../model/shown";
import { broughtUp } from "../model/unsaved";
import { BenchContext, useBench, type BenchData } from "./bench";
import { Conflict } from "./Conflict";
import { Drop } from "./Drop";
import { FindOrDo } from "./FindOrDo";
import { KeysHelp } from "./KeysHelp";
import { fetchAll } from "./later";
import { Looking } from "./Looking";
import { Notice } from "./Notice";
import { Pack } from "./Pack";
import { Revisions } from "./LazyRevisions";
import { TopBar } from "./TopBar";
import { Dialog } from "../ui/Dialog";
import { useAddress } from "../ui/useAddress";
import { useWaiting, type Waiting } from "./useWaiting";
import { WaitingReadings } from "./WaitingReadings";
import { useJobActions } from "./useJobActions";
import { WatchBanner } from "./WatchBanner";
import { built, type PlannedStage, type StageModule } from "./stage";
import { useEvents, type Heard } from "./useEvents";

interface Props {
  id: string;
  account: Account;
  stages: readonly (StageModule | PlannedStage)[];
}

export function Workbench({ id, account, stages }: Props) {
  const queries = useQueryClient();
  const job = useQuery({
    queryKey: ["job", id],
    queryFn: async () => {
      const [view, shown] = await Promise.all([
        api.job(id),
        // Without it units are those of the school.
        api.shown().catch(() => undefined),
      ]);
      showFor(view.job.school, shown);
      return { view, said: await broughtUp(view) };
    },
    staleTime: 0,
    gcTime: 0,
    refetchOnWindowFocus: false,
  });
  const signedOut = job.error instanceof Refused && job.error.status === 401;
  useEffect(() => {
    if (signedOut) void queries.invalidateQueries({ queryKey: ["session"] });
  }, [signedOut, queries]);
  if (job.data) return <Open {...job.data} account={account} stages={stages} />;
  if (job.error instanceof Refused) {
    return (
      <Notice text={`${job.error.message}: ${job.error.detail}`}>
        <a className="text-copper underline" href="/jobs">
          All jobs
        </a>
      </Notice>
    );
  }
  return (
    <Notice
      text={
        job.failureReason instanceof Away
          ? `${job.failureReason.message}. It is tried again.`
          : "Opening the job"
      }
    />
  );
}

/** Who adds readings. */
const reads = (role: Account["role"]): boolean => role !== "viewer" && role !== "inspector";

interface OpenProps extends Omit<Props, "id"> {
  view: JobView;
  /** What is to be said on opening. */
  said: string | null;
}

function Open({ view, said, account, stages }: OpenProps) {
  const [editor] = useState(() => new Editor(view, said));
  const waits = useWaiting(view.id, editor);
  const [looked, setLooked] = useState<{ revision: number; editor: Editor } | null>(null);
  const [notFetched, setNotFetched] = useState<string | null>(null);
  const look = useCallback(
    (revision: number | null) => {
      setNotFetched(null);
      if (revision === null) {
        setLooked(null);
        return;
      }
      api
        .revision(view.id, revision)
        .then((then) => {
          setLooked({ revision, editor: new Editor(then, null, true) });
        })
        .catch((error: unknown) => {
          setNotFetched(`Revision ${String(revision)}: ${refusal(error).message}`);
        });
    },
    [view.id],
  );
  const [search, put] = useAddress();
  const company = useQuery({
    queryKey: ["library"],
    queryFn: api.library,
    enabled: account.role !== "inspector",
  });
  const school = view.job.school;
  const choices = useQuery({
    queryKey: ["choices", school],
    queryFn: () => api.choices(school),
    staleTime: Infinity,
  });
  const picked = search.get("slip");
  const pick = useCallback(
    (key: string | null) => {
      put({ slip: key ?? "" });
    },
    [put],
  );
  useEvents(
    useCallback(
      (heard: Heard) => {
        const { what, ...rest } = heard;
        if (what === "pack" || (heard.job !== undefined && heard.job !== view.id)) return;
        void editor.refresh({ ...rest, what });
      },
      [editor, view.id],
    ),
  );
  const bench = useMemo<BenchData | null>(
    () =>
      choices.data
        ? {
            stages,
            editor: looked?.editor ?? editor,
            newest: editor,
            looking: looked?.revision ?? null,
            look,
            account,
            canPlan: looked === null && (account.role === "owner" || account.role === "designer"),
            canRead: looked === null && reads(account.role),
            choices: choices.data,
            company: company.data,
            picked,
            pick,
          }
        : null,
    [stages, editor, looked, look, account, choices.data, company.data, picked, pick],
  );
  if (!bench) return <Notice text="Opening the job" />;
  return (
    <BenchContext value={bench}>
      <Frame notFetched={notFetched} waits={waits} />
    </BenchContext>
  );
}

interface FrameProps {
  notFetched: string | null;
  waits: Waiting;
}

function Frame({ notFetched, waits }: FrameProps) {
  const { stages, view, draft, editor, moved } = useBench();
  const { stage: key = "" } = useParams();
  const stage = stages.filter(built).find((s) => s.key === key);
  const navigate = useNavigate();
  const [finding, setFinding] = useState(false);
  const [helping, setHelping] = useState(false);
  const [printing, setPrinting] = useState(false);
  const [revising, setRevising] = useState(false);
  const actions = useJobActions(
    useCallback(() => {
      setHelping(true);
    }, []),
    useCallback(() => {
      setPrinting(true);
    }, []),
    useCallback(() => {
      setRevising(true);
    }, []),
  );
  useEffect(() => {
    void fetchAll();
  }, []);
  useEffect(() => {
    document.title = `${draft.job.name} · Heliant`;
  }, [draft.job.name]);
  useEffect(() => {
    const onKey = (e: KeyboardEvent) => {
      const command = e.ctrlKey || e.metaKey;
      // A field with something half typed keeps its own undo.
      const half = e.target instanceof HTMLElement && e.target.dataset["typing"] === "true";
      if (command && e.key.toLowerCase() === "z" && !half) {
        e.preventDefault();
        if (e.shiftKey) editor.redo();
        else editor.undo();
        return;
      }
      if (command || e.altKey || typing(e) || document.querySelector('[role="dialog"]')) return;
      if (e.key === "/") {
        e.preventDefault();
        setFinding(true);
      } else if (e.key === "?") setHelping(true);
      else if (e.key === "[" || e.key === "]") {
        const open = stages.filter(built);
        const at = open.findIndex((s) => s.key === key);
        const next = open[(at + (e.key === "]" ? 1 : open.length - 1)) % open.length];
        if (next) void navigate(`/jobs/${view.id}/${next.key}`);
      }
    };
    window.addEventListener("keydown", onKey);
    return () => {
      window.removeEventListener("keydown", onKey);
    };
  }, [editor, navigate, stages, key, view.id]);
  if (!stage) return <Navigate to={`/jobs/${view.id}/strings`} replace />;
  return (
    <div
      className={clsx(
        "grid h-full grid-cols-[172px_minmax(0,1fr)] grid-rows-[minmax(0,1fr)]",
        "max-md:block max-md:h-auto",
      )}
    >
      <Drop stage={stage} />
      <div className="flex h-full min-h-0 min-w-0 flex-col max-md:h-auto">
        <TopBar
          onFind={() => {
            setFinding(true);
          }}
          onPack={() => {
            setPrinting(true);
          }}
          onRevisions={() => {
            setRevising(true);
          }}
        />
        <Looking />
        {notFetched && (
          <p role="alert" className="border-b border-stop bg-stop-soft px-4 py-2 text-sm text-stop">
            {notFetched}
          </p>
        )}
        <WaitingReadings job={view.id} waiting={waits} />
        <WatchBanner />
        <div className="min-h-0 grow">
          <Suspense fallback={<Notice text="Opening" />}>
            <stage.Screen />
          </Suspense>
        </div>
      </div>
      <p aria-live="polite" className="sr-only">
        {moved}
      </p>
      <FindOrDo
        open={finding}
        actions={actions}
        onClose={() => {
          setFinding(false);
        }}
      />
      <KeysHelp
        open={helping}
        onClose={() => {
          setHelping(false);
        }}
      />
      <Dialog
        title="The pack"
        open={printing}
        onClose={() => {
          setPrinting(false);
        }}
      >
        <Pack ask />
      </Dialog>
      <Dialog
        title="Revisions"
        wide
        open={revising}
        onClose={() => {
          setRevising(false);
        }}
      >
        <Revisions
          onDone={() => {
            setRevising(false);
          }}
        />
      </Dialog>
      <Conflict />
    </div>
  );
}
