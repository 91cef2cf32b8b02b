/**
 * Every revision of the job, those of one sitting together: named, compared, looked at, restored.
 */
import { clsx } from "clsx";
import { useInfiniteQuery, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, refusal, type Counts, type Problem, type RevisionLine } from "../api/client";
import { many, moment } from "../model/format";
import { sittings, type Sitting } from "../model/revisions";
import { subjectName } from "../model/subject";
import { placeValue, placeWords } from "../text/places";
import { Button } from "../ui/Button";
import { Pick } from "../ui/Pick";
import { TextField } from "../ui/TextField";
import { Mark, WORDS } from "../ui/verdict";
import { useBench } from "./bench";
import { useRestore } from "./useRestore";

/** Revisions the server sends at once. */
const PAGE = 500;

const clock = (iso: string): string =>
  new Date(iso).toLocaleTimeString("en-GB", { hour: "2-digit", minute: "2-digit" });

/** `onDone` closes what the list stands in. */
export function Revisions({ onDone }: { onDone?: () => void }) {
  const { view, newest } = useBench();
  const now = newest.get().view.revision;
  const pages = useInfiniteQuery({
    queryKey: ["revisions", view.id, now],
    queryFn: ({ pageParam }) => api.revisions(view.id, pageParam),
    initialPageParam: undefined as number | undefined,
    getNextPageParam: (last) => (last.length < PAGE ? undefined : last.at(-1)?.revision),
  });
  const all = sittings(pages.data?.pages.flat() ?? []);
  return (
    <div>
      <ol aria-label="Revisions" className="grid max-h-[60vh] overflow-y-auto border-t border-line">
        {all.map((s) => (
          <Together key={s[0].revision} sitting={s} now={now} onDone={onDone} />
        ))}
      </ol>
      {pages.hasNextPage && (
        <Button
          className="mt-2"
          onClick={() => {
            void pages.fetchNextPage();
          }}
        >
          Earlier
        </Button>
      )}
    </div>
  );
}

interface RowProps {
  now: number;
  onDone: (() => void) | undefined;
}

/** A sitting: its newest revision, and the others when they are asked for. */
function Together({ sitting, now, onDone }: RowProps & { sitting: Sitting }) {
  const [open, setOpen] = useState(false);
  const [last, ...before] = sitting;
  const first = before.at(-1);
  return (
    <>
      <Row line={last} now={now} onDone={onDone}>
        {first && (
          <button
            type="button"
            aria-expanded={open}
            className="text-xs text-copper underline max-md:min-h-12"
            onClick={() => {
              setOpen(!open);
            }}
          >
            {open
              ? "fewer"
              : `and ${String(before.length)} before it, from ${clock(first.saved_at)}`}
          </button>
        )}
      </Row>
      {open && before.map((l) => <Row key={l.revision} line={l} now={now} onDone={onDone} inner />)}
    </>
  );
}

type Doing = "compare" | "name" | null;

function Row({
  line,
  now,
  onDone,
  inner = false,
  children,
}: RowProps & { line: RevisionLine; inner?: boolean; children?: React.ReactNode }) {
  const { look, looking, canPlan, account } = useBench();
  // Who is from outside sees one revision and no other to compare it with.
  const compares = account.role !== "inspector";
  const restore = useRestore();
  const [doing, setDoing] = useState<Doing>(null);
  const [problem, setProblem] = useState<string | null>(null);
  const current = line.revision === now;
  const action = (word: string, run: () => void, pressed?: boolean) => (
    <button
      type="button"
      aria-label={`${word} revision ${String(line.revision)}`}
      aria-expanded={pressed}
      className="min-h-8 text-copper underline max-md:min-h-12"
      onClick={run}
    >
      {word}
    </button>
  );
  const toggle = (what: Doing) => () => {
    setDoing(doing === what ? null : what);
  };
  return (
    <li
      className={clsx("border-b border-line px-2 py-1 text-sm", inner && "pl-8")}
      data-testid={`revision-${String(line.revision)}`}
    >
      <div className="flex flex-wrap items-baseline gap-x-3">
        <span className="w-8 text-right font-mono font-bold">{line.revision}</span>
        {line.name && <strong>{line.name}</strong>}
        <span className={line.name ? "text-ink-2" : ""}>{line.saved_by}</span>
        <span className="text-ink-2">{moment(line.saved_at)}</span>
        {children}
        <span className="grow" />
        {current && <span className="text-xs text-ink-2">as it stands</span>}
        {compares &&
          (line.revision > 1 || !current) &&
          action("Compare", toggle("compare"), doing === "compare")}
        {!current &&
          looking !== line.revision &&
          action("Look at", () => {
            look(line.revision);
            onDone?.();
          })}
        {!current &&
          restore &&
          action("Restore", () => {
            setProblem(null);
            restore(line.revision).then(onDone, (error: unknown) => {
              setProblem(refusal(error).message);
            });
          })}
        {canPlan && action("Name", toggle("name"), doing === "name")}
      </div>
      {problem && (
        <p role="alert" className="text-stop">
          {problem}
        </p>
      )}
      {doing === "name" && (
        <Naming
          line={line}
          onDone={() => {
            setDoing(null);
          }}
        />
      )}
      {doing === "compare" && <Comparison revision={line.revision} now={now} />}
    </li>
  );
}

function Naming({ line, onDone }: { line: RevisionLine; onDone: () => void }) {
  const { view } = useBench();
  const queries = useQueryClient();
  const [problem, setProblem] = useState<Problem | null>(null);
  return (
    <div className="max-w-md py-2">
      <TextField
        label={`Name of revision ${String(line.revision)}`}
        value={line.name ?? ""}
        problem={problem ?? undefined}
        onChange={(name) => {
          setProblem(null);
          api
            .nameRevision(view.id, line.revision, name)
            .then(async () => {
              await queries.invalidateQueries({ queryKey: ["revisions", view.id] });
              onDone();
            })
            .catch((error: unknown) => {
              const { errors, message } = refusal(error);
              setProblem(errors[0] ?? { path: "", message, hint: "" });
            });
        }}
      />
    </div>
  );
}

const counted = (n: Counts): string =>
  `${String(n.fail)} stop, ${String(n.warn)} caution, ${String(n.unknown)} open`;

/** What is otherwise between a revision and the newest, or the one before it. */
function Comparison({ revision, now }: { revision: number; now: number }) {
  const { view } = useBench();
  const choices = [
    ...(revision < now ? ([["newest", `revision ${String(now)}, as it stands`]] as const) : []),
    ...(revision > 1 ? ([["before", `revision ${String(revision - 1)}, before it`]] as const) : []),
  ];
  const [other, setOther] = useState<string>(choices[0]?.[0] ?? "before");
  const [from, to] = other === "newest" ? [revision, now] : [revision - 1, revision];
  const compared = useQuery({
    queryKey: ["compare", view.id, from, to],
    queryFn: () => api.compareRevisions(view.id, from, to),
  });
  const { data } = compared;
  return (
    <div className="grid gap-2 py-2" data-testid="comparison">
      <div className="max-w-xs">
        <Pick label="Compared with" value={other} options={choices} onChange={setOther} />
      </div>
      {compared.error && <p className="text-stop">{refusal(compared.error).message}</p>}
      {data && (
        <>
          <table className="w-full">
            <thead>
              <tr className="border-b border-line text-left text-xs text-ink-2">
                <th className="py-1 font-normal">{many(data.plan_n, "place")} of the plan</th>
                <th className="py-1 text-right font-normal">Revision {from}</th>
                <th className="py-1 text-right font-normal">Revision {to}</th>
              </tr>
            </thead>
            <tbody>
              {data.plan.map((c) => (
                <tr key={c.path.join("/")} className="border-b border-line align-baseline">
                  <td className="py-0.5">{placeWords(c.path)}</td>
                  <td className="py-0.5 text-right font-mono">{placeValue(c.path, c.from)}</td>
                  <td className="py-0.5 text-right font-mono">{placeValue(c.path, c.to)}</td>
                </tr>
              ))}
            </tbody>
          </table>
          {data.plan_n > data.plan.length && (
            <p className="text-xs">and {data.plan_n - data.plan.length} more places</p>
          )}
          <p className="text-xs text-ink-2">
            {data.verdicts_n === 0
              ? "No verdict moved."
              : `${many(data.verdicts_n, "verdict")} moved.`}{" "}
            {counted(data.before)} before; {counted(data.after)} after.
          </p>
          <ul>
            {data.verdicts.map((v) => (
              <li
                key={`${v.id}${JSON.stringify(v.subject)}`}
                className="flex items-baseline gap-2 border-b border-line py-0.5"
              >
                {v.to ? <Mark verdict={v.to} /> : <span className="w-4" />}
                <span className="grow">
                  {subjectName(v.subject)}: {v.title}
                </span>
                <span className="whitespace-nowrap text-ink-2">
                  {v.from ? WORDS[v.from] : "not there"} → {v.to ? WORDS[v.to] : "not there"}
                </span>
              </li>
            ))}
          </ul>
          {data.verdicts_n > data.verdicts.length && (
            <p className="text-xs">and {data.verdicts_n - data.verdicts.length} more</p>
          )}
        </>
      )}
    </div>
  );
}
