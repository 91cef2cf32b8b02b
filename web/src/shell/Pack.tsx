/**
 * The pack: asked for, set by the press in the background, opened when it is ready. What is said of
 * it on the way is what the press says.
 */
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { clsx } from "clsx";
import { useCallback, useEffect, useRef, useState } from "react";
import { api, Refused, type PackView } from "../api/client";
import { Button, linkLook } from "../ui/Button";
import { useBench } from "./bench";
import { useEvents, type Heard } from "./useEvents";

const PHASES: Record<string, string> = {
  computing: "Working out every figure",
  setting: "Setting its pages",
  writing: "Writing the file",
};

const holds = (revision: number): string =>
  "Verdicts, schedules, maps, readings and the working of every figure, " +
  `of revision ${String(revision)}.`;

const seconds = (s: number): string => `${String(Math.round(s))} s`;

/** What is being done for a pack that is not there yet. */
export function waitingFor({ state, press, ahead_n, phase, since_s, last_s }: PackView): string {
  if (press.state === "building") {
    const { done_n, of_n } = press;
    return (
      `The press is being built, about 4 minutes the first time: ${String(done_n)} of ` +
      `${String(of_n)} packages are done. The pack is set right after.`
    );
  }
  if (press.state === "missing")
    return "The press is not there: the log of the start says why. The pack waits for it.";
  if (state === "queued")
    return ahead_n === 0 ? "It is next." : `It waits: ${String(ahead_n)} before it.`;
  const [doing = "", n, of] = phase.split(" ");
  const which = n && of ? `, document ${n} of ${of}` : "";
  const done = `${PHASES[doing] ?? "Setting"}${which}, ${seconds(since_s ?? 0)} so far`;
  return last_s == null ? `${done}.` : `${done}. The last one of this job took ${seconds(last_s)}.`;
}

/** How often it is asked how far a pack is, besides what the live updates say. */
const ASK_MS = 1500;

export function Pack({ ask = false }: { ask?: boolean }) {
  const { view, account } = useBench();
  const queries = useQueryClient();
  const [said, setSaid] = useState<string | null>(null);
  const key = ["pack", view.id];
  const found = useQuery({
    queryKey: [...key, view.revision, view.report.readings_n],
    queryFn: () => api.pack(view.id),
    refetchInterval: ({ state }) =>
      ["queued", "setting"].includes(state.data?.state ?? "") ? ASK_MS : false,
  });
  const again = useCallback(
    () => queries.invalidateQueries({ queryKey: ["pack", view.id] }),
    [queries, view.id],
  );
  useEvents(
    useCallback(
      (heard: Heard) => {
        if (heard.what === "pack" && heard.job === view.id) void again();
      },
      [again, view.id],
    ),
  );
  const doing = async (what: () => Promise<unknown>) => {
    setSaid(null);
    try {
      await what();
    } catch (error) {
      setSaid(error instanceof Refused ? error.detail : "The server does not answer.");
    }
    await again();
  };
  const asked = useRef(false);
  useEffect(() => {
    if (!ask || asked.current) return;
    asked.current = true;
    void doing(() => api.askPack(view.id));
  });
  const pack = found.data;
  const waits = pack?.state === "queued" || pack?.state === "setting";
  return (
    <div className="grid gap-3 text-sm" data-testid="pack">
      <p role="status">
        {pack === undefined
          ? "Looking"
          : pack.state === "ready"
            ? `The pack of revision ${String(pack.revision)} is ready.`
            : waits
              ? waitingFor(pack)
              : pack.state === "failed"
                ? pack.problem
                : holds(pack.revision)}
      </p>
      {waits && part(pack) !== null && (
        <div className="h-1.5 overflow-hidden rounded bg-line" aria-hidden>
          <div
            className="h-full rounded bg-copper transition-[width]"
            style={{ width: `${String((part(pack) ?? 0) * 100)}%` }}
          />
        </div>
      )}
      {said && (
        <p role="alert" className="text-stop">
          {said}
        </p>
      )}
      <div className="flex flex-wrap gap-2">
        {pack?.state === "ready" && (
          <a
            className={clsx(linkLook, "border-copper bg-copper text-on-copper")}
            href={`/api/jobs/${view.id}/pack.pdf`}
            target="_blank"
            rel="noreferrer"
          >
            Open the pack (PDF)
          </a>
        )}
        {pack?.state === "ready" &&
          Array.from({ length: pack.appendices_n }, (_, i) => i + 1).map((n) => (
            <a
              key={n}
              className={clsx(linkLook, "border-ink bg-sheet")}
              href={`/api/jobs/${view.id}/pack.pdf?appendix=${String(n)}`}
              target="_blank"
              rel="noreferrer"
            >
              Appendix {n}: checks and workings
            </a>
          ))}
        {(pack?.state === "none" || pack?.state === "failed") && (
          <Button main onClick={() => void doing(() => api.askPack(view.id))}>
            {pack.state === "failed" ? "Set it again" : "Set the pack"}
          </Button>
        )}
        {waits && (
          <Button onClick={() => void doing(() => api.cancelPack(view.id))}>Cancel it</Button>
        )}
        {account.role === "owner" && pack?.state === "queued" && pack.ahead_n > 0 && (
          <Button onClick={() => void doing(() => api.putPackFirst(view.id))}>
            Put it before the others
          </Button>
        )}
      </div>
    </div>
  );
}

/**
 * How far a pack is, 0 to 1: the press's packages, or the time of the last one of the job; null
 * where there is nothing to go by.
 */
function part({ press, since_s, last_s }: PackView): number | null {
  if (press.state === "building") return press.of_n === 0 ? 0 : press.done_n / press.of_n;
  if (since_s == null || last_s == null) return null;
  // It may take longer than the last one: the end is only reached when it is ready.
  return since_s < last_s ? (since_s / last_s) * 0.9 : 0.95;
}
