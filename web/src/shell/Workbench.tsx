/** One job: the drop at the left, the work in the middle, the slip at the right. */
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useMemo, useState } from "react";
import { Navigate, useNavigate, useParams, useSearchParams } from "react-router";
import { api, Away, Refused, type Account, type JobView } from "../api/client";
import { typing } from "../actions/actions";
import { Editor } from "../model/editor";
import { STAGES, type StageKey } from "../text/words";
import { Equipment } from "../stages/equipment/Equipment";
import { HandOver } from "../stages/handover/HandOver";
import { Runs } from "../stages/runs/Runs";
import { Site } from "../stages/site/Site";
import { Strings } from "../stages/strings/Strings";
import { Test } from "../stages/test/Test";
import { BenchContext, useBench, type BenchData } from "./bench";
import { Conflict } from "./Conflict";
import { Drop } from "./Drop";
import { FindOrDo } from "./FindOrDo";
import { KeysHelp } from "./KeysHelp";
import { Notice } from "./Notice";
import { TopBar } from "./TopBar";
import { useJobActions } from "./useJobActions";
import { WatchBanner } from "./WatchBanner";
import { useEvents, type Heard } from "./useEvents";

const BUILT: Partial<Record<StageKey, () => React.ReactNode>> = {
  site: Site,
  equipment: Equipment,
  strings: Strings,
  runs: Runs,
  test: Test,
  handover: HandOver,
};

export function Workbench({ id, account }: { id: string; account: Account }) {
  const queries = useQueryClient();
  const job = useQuery({
    queryKey: ["job", id],
    queryFn: () => api.job(id),
    staleTime: 0,
    gcTime: 0,
    refetchOnWindowFocus: false,
  });
  const signedOut = job.error instanceof Refused && job.error.status === 401;
  useEffect(() => {
    if (signedOut) void queries.invalidateQueries({ queryKey: ["session"] });
  }, [signedOut, queries]);
  if (job.data) return <Open view={job.data} account={account} />;
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
      text={job.failureReason instanceof Away ? `${job.failureReason.message}. It is tried again.` : "Opening the job"}
    />
  );
}

function Open({ view, account }: { view: JobView; account: Account }) {
  const [editor] = useState(() => new Editor(view));
  const [search, setSearch] = useSearchParams();
  const company = useQuery({ queryKey: ["library"], queryFn: api.library });
  const school = view.job.school;
  const choices = useQuery({ queryKey: ["choices", school], queryFn: () => api.choices(school), staleTime: Infinity });
  const picked = search.get("slip");
  const pick = useCallback(
    (key: string | null) => {
      setSearch(key === null ? {} : { slip: key }, { replace: true });
    },
    [setSearch],
  );
  useEvents(
    useCallback(
      (heard: Heard) => {
        if (heard.job === undefined || heard.job === view.id) void editor.refresh(heard);
      },
      [editor, view.id],
    ),
  );
  const bench = useMemo<BenchData | null>(
    () =>
      choices.data
        ? {
            editor,
            account,
            canPlan: account.role === "owner" || account.role === "designer",
            canRead: account.role !== "viewer",
            choices: choices.data,
            company: company.data,
            picked,
            pick,
          }
        : null,
    [editor, account, choices.data, company.data, picked, pick],
  );
  if (!bench) return <Notice text="Opening the job" />;
  return (
    <BenchContext value={bench}>
      <Frame />
    </BenchContext>
  );
}

function Frame() {
  const { view, draft, editor, moved } = useBench();
  const { stage = "" } = useParams();
  const navigate = useNavigate();
  const [finding, setFinding] = useState(false);
  const [helping, setHelping] = useState(false);
  const actions = useJobActions(
    useCallback(() => {
      setHelping(true);
    }, []),
  );
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
        const built = STAGES.filter((s) => s.built);
        const at = built.findIndex((s) => s.key === stage);
        const next = built[(at + (e.key === "]" ? 1 : built.length - 1)) % built.length];
        if (next) void navigate(`/jobs/${view.id}/${next.key}`);
      }
    };
    window.addEventListener("keydown", onKey);
    return () => {
      window.removeEventListener("keydown", onKey);
    };
  }, [editor, navigate, stage, view.id]);
  const Stage = BUILT[stage as StageKey];
  if (!Stage) return <Navigate to={`/jobs/${view.id}/strings`} replace />;
  return (
    <div className="grid h-full grid-cols-[172px_minmax(0,1fr)] grid-rows-[minmax(0,1fr)] max-md:block max-md:h-auto">
      <Drop stage={stage as StageKey} />
      <div className="flex h-full min-h-0 min-w-0 flex-col max-md:h-auto">
        <TopBar
          onFind={() => {
            setFinding(true);
          }}
        />
        <WatchBanner />
        <div className="min-h-0 grow">
          <Stage />
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
      <Conflict />
    </div>
  );
}
