/**
 * The ways to wire the job, ranked: chosen by key or hand, compared, filtered; what fails and by
 * how much.
 */
import { clsx } from "clsx";
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import {
  api,
  Refused,
  unlessRefused,
  type Note,
  type Report,
  type Way,
  type Ways,
  type WaysAsk,
} from "../../api/client";
import { StringWindow } from "../../drawing/StringWindow";
import { fieldTitle } from "../../model/catalogue";
import { amount } from "../../model/format";
import { applyPlan, bothLibraries, strings } from "../../model/planning";
import { useBench } from "../../shell/bench";
import { Button } from "../../ui/Button";
import { WaysFilters } from "./WaysFilters";
import { Term } from "../../ui/Term";
import { Badge } from "../../ui/verdict";

interface Props {
  /** The way that is looked at: the window shows it before it is chosen. */
  onLook: (way: Way | null) => void;
}

/** Inputs with what they take: "12 SE" and "7 + 7 SW". */
function inputs(way: Way, faceName: (id: string) => string): { input: string; text: string }[] {
  const all = new Map<string, string[]>();
  const alone = way.uses.every((u) => u.inverter === way.uses[0]?.inverter);
  for (const u of way.uses) {
    const key = alone ? `input ${String(u.mppt)}` : `${u.inverter} input ${String(u.mppt)}`;
    const counts = Array.from({ length: u.p }, () => String(u.n));
    const text = `${counts.join(" + ")} ${faceName(u.face)}`;
    all.set(key, [...(all.get(key) ?? []), text]);
  }
  return [...all].map(([input, texts]) => ({ input, text: texts.join(", ") }));
}

/** One note in a few words: what, where, how far beyond. */
function noteText(n: Note): string {
  const [inverter = "", input] = n.subject.split("/");
  const where =
    input === undefined ? "" : `, ${inverter === "INV1" ? "" : `${inverter} `}input ${input}`;
  if (n.missing?.length)
    return `${n.title}${where}: ${n.missing.map(fieldTitle).join(", ")} missing`;
  if (n.over == null) return `${n.title}${where}`;
  const beyond = `${n.limit_title ?? "the limit"} ${amount(n.limit, n.unit)}`;
  return `${n.title}${where}: ${amount(n.over, n.unit)} beyond ${beyond}`;
}

const verdictOf = (w: Way) =>
  w.fails_n > 0
    ? ("fail" as const)
    : w.notes.some((n) => n.verdict === "unknown")
      ? ("unknown" as const)
      : w.warns_n > 0
        ? ("warn" as const)
        : ("pass" as const);

export function WaysPanel({ onLook }: Props) {
  const { draft, company, editor, canPlan, saving } = useBench();
  const { job } = draft;
  const [asked, setAsked] = useState<WaysAsk | null>(null);
  const [at, setAt] = useState(0);
  const [side, setSide] = useState<number[]>([]);
  // A question keeps what was asked, but its modules of each face follow the job until they are
  // typed over.
  const answer = useQuery({
    queryKey: ["ways", job, draft.library, asked],
    queryFn: () => api.ways(job, draft.library, asked),
    enabled: saving.state !== "refused",
    placeholderData: keepPreviousData,
    retry: unlessRefused,
    staleTime: Infinity,
  });
  const faceName = (id: string) => job.site.faces.find((f) => f.id === id)?.name ?? id;
  const known = bothLibraries(draft.library, company);
  const ways = answer.data;
  if (answer.error instanceof Refused) {
    return (
      <div className="p-3 text-sm" role="alert">
        {answer.error.errors.map((p) => (
          <p key={p.path + p.message}>
            {p.message}
            {p.hint ? `: ${p.hint}` : ""}.
          </p>
        ))}
      </div>
    );
  }
  if (!ways) return <p className="p-3 text-sm text-ink-2">Looking for ways</p>;
  const ask = ways.ask;
  const change = (what: Partial<WaysAsk>) => {
    setAsked({ ...ask, ...what });
    setAt(0);
    setSide([]);
    onLook(null);
  };
  const choose = (way: Way) => {
    if (!canPlan) return;
    onLook(null);
    setSide([]);
    editor.edit((d) => applyPlan(d, way.edits, known));
  };
  const look = (i: number) => {
    const way = ways.ways[i];
    if (!way) return;
    setAt(i);
    onLook(way.current ? null : way);
  };
  const mark = (i: number) => {
    setSide((s) => (s.includes(i) ? s.filter((k) => k !== i) : [...s, i].slice(-2)));
  };
  const onKey = (e: React.KeyboardEvent<HTMLElement>, i: number) => {
    const rows = e.currentTarget.closest("tbody")?.querySelectorAll<HTMLElement>("tr[tabindex]");
    const go = (to: number) => {
      e.preventDefault();
      rows?.[Math.max(0, Math.min(ways.ways.length - 1, to))]?.focus();
    };
    if (e.key === "ArrowDown") go(i + 1);
    else if (e.key === "ArrowUp") go(i - 1);
    else if (e.key === "Home") go(0);
    else if (e.key === "End") go(ways.ways.length - 1);
    else if (e.key === "Escape") onLook(null);
    else if (e.key === " ") {
      e.preventDefault();
      mark(i);
    } else if (e.key === "Enter") {
      e.preventDefault();
      const way = ways.ways[i];
      if (way) choose(way);
    }
  };
  return (
    <div>
      <WaysFilters ask={ask} onChange={change} faceName={faceName} />
      <p className="border-t border-line px-3 py-2 text-sm" aria-live="polite">
        <strong>{counted(ways)}</strong> {ways.why}
        {ways.searched_part && <span className="block text-caution">{ways.searched_part}</span>}
      </p>
      {ways.ways.length > 0 && (
        <div className="overflow-x-auto">
          <table className="w-full text-sm" aria-label="Ways to wire it">
            <thead>
              <tr
                className={clsx(
                  "border-y border-line text-xs text-ink-2 [&>th]:px-2 [&>th]:py-1",
                  "[&>th]:text-right [&>th]:font-normal",
                )}
              >
                <th />
                <th className="!text-left">Inputs</th>
                <th>
                  <Term name="uneven" text="Uneven" />
                </th>
                <th>Strings</th>
                <th>
                  <Term name="room" text="Room" />
                </th>
                <th>Left off</th>
                <th className="!text-left">Verdict</th>
              </tr>
            </thead>
            <tbody>
              {ways.ways.map((way, i) => (
                <tr
                  key={`${JSON.stringify(way.uses)}`}
                  tabIndex={i === at ? 0 : -1}
                  aria-selected={way.current}
                  data-testid={`way-${String(i + 1)}`}
                  className={clsx(
                    "border-b border-line align-top [&>td]:px-2 [&>td]:py-1.5",
                    "[&>td]:text-right",
                    way.current ? "bg-copper-soft" : "",
                  )}
                  onFocus={(e) => {
                    if (e.target === e.currentTarget) look(i);
                  }}
                  onKeyDown={(e) => {
                    if (e.target === e.currentTarget) onKey(e, i);
                  }}
                  onDoubleClick={() => {
                    choose(way);
                  }}
                >
                  <td>
                    <input
                      type="checkbox"
                      className="size-4 accent-[var(--copper)]"
                      tabIndex={-1}
                      aria-label={`Compare way ${String(i + 1)}`}
                      checked={side.includes(i)}
                      onChange={() => {
                        mark(i);
                      }}
                    />
                  </td>
                  <td className="!text-left">
                    <span className="mr-2 font-mono text-xs text-ink-2">{i + 1}</span>
                    {inputs(way, faceName).map((u) => (
                      <span key={u.input} className="mr-3 inline-block whitespace-nowrap">
                        <span className="text-xs text-ink-2">{u.input}:</span>{" "}
                        <strong>{u.text}</strong>
                      </span>
                    ))}
                  </td>
                  <td className="font-mono whitespace-nowrap">{amount(way.unbalance_w, "W")}</td>
                  <td className="font-mono">{way.strings_n}</td>
                  <td className="font-mono whitespace-nowrap">{amount(way.margin_pct, "%")}</td>
                  <td className="font-mono">{way.unused_n}</td>
                  <td className="!text-left">
                    {way.current ? (
                      <span className="text-xs font-bold">as it is</span>
                    ) : (
                      canPlan && (
                        <button
                          type="button"
                          tabIndex={-1}
                          className="mr-2 text-xs font-bold text-copper underline"
                          aria-label={`Use way ${String(i + 1)}`}
                          onClick={() => {
                            choose(way);
                          }}
                        >
                          Use it
                        </button>
                      )
                    )}{" "}
                    <span title={way.notes.map(noteText).join("\n")}>
                      <Badge verdict={verdictOf(way)}>
                        {way.warns_n > 0
                          ? `${String(way.warns_n)} caution${way.warns_n === 1 ? "" : "s"}`
                          : undefined}
                      </Badge>
                    </span>
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      )}
      <p className="no-print px-3 py-2 text-xs text-ink-2">
        ↑ ↓ look at a way in the window above · Enter use it · Space mark for comparing, two at a
        time
      </p>
      {side.length === 2 && (
        <Compare
          ways={side.map((i) => ways.ways[i]).filter((w) => w !== undefined)}
          names={side.map((i) => `Way ${String(i + 1)}`)}
          faceName={faceName}
        />
      )}
      <Misses ways={ways} faceName={faceName} onUse={choose} canPlan={canPlan} />
      {strings(job).length === 0 && (
        <p className="px-3 pb-3 text-sm text-ink-2">Say above how many modules lie on each face.</p>
      )}
    </div>
  );
}

function counted(ways: Ways): string {
  const n = ways.feasible_n;
  const listed = ways.ways.length;
  if (listed === 0) return "No way without a failure.";
  const many =
    n == null
      ? `${String(listed)} ways`
      : `${n < 1e6 ? String(n) : n.toExponential(1)} ${n === 1 ? "way fits" : "ways fit"}`;
  const bound = n != null && !ways.feasible_exact ? "At most " : "";
  return `${bound}${many}${n != null && n > listed ? `, the best ${String(listed)} listed` : ""}.`;
}

function Compare({
  ways,
  names,
  faceName,
}: {
  ways: Way[];
  names: string[];
  faceName: (id: string) => string;
}) {
  const { draft, company } = useBench();
  const known = bothLibraries(draft.library, company);
  const reports = useQuery({
    queryKey: ["compare", draft.job, ways.map((w) => w.edits)],
    queryFn: () =>
      Promise.all(
        ways.map((w) => {
          const plan = applyPlan(draft, w.edits, known);
          return api.tryPlan(plan.job, plan.library);
        }),
      ),
    staleTime: Infinity,
  });
  const lines: [string, (w: Way) => string][] = [
    [
      "Inputs",
      (w) =>
        inputs(w, faceName)
          .map((u) => `${u.input}: ${u.text}`)
          .join("; "),
    ],
    ["Fullest less emptiest input", (w) => amount(w.unbalance_w, "W")],
    ["Strings: home runs, connectors", (w) => `${String(w.strings_n)}, ${String(4 * w.strings_n)}`],
    ["Smallest room to a limit", (w) => amount(w.margin_pct, "%")],
    ["Modules left off", (w) => String(w.unused_n)],
    ["Module watts", (w) => amount(w.power_w, "W")],
    ["Cautions", (w) => String(w.warns_n)],
  ];
  return (
    <section aria-label="Side by side" className="border-t border-line p-3">
      <h3 className="mb-2 text-sm font-bold">Side by side</h3>
      <table className="w-full text-sm">
        <thead>
          <tr className="text-left text-xs text-ink-2">
            <th className="w-1/5 font-normal" />
            {names.map((n) => (
              <th key={n}>{n}</th>
            ))}
          </tr>
        </thead>
        <tbody>
          {lines.map(([title, of]) => {
            const cells = ways.map(of);
            return (
              <tr key={title} className="border-t border-line align-top">
                <th className="py-1 pr-2 text-left text-xs font-normal text-ink-2">{title}</th>
                {cells.map((c, i) => (
                  <td
                    key={names[i]}
                    className={`py-1 pr-3 ${cells[0] === cells[1] ? "text-ink-2" : "font-bold"}`}
                  >
                    {c}
                  </td>
                ))}
              </tr>
            );
          })}
        </tbody>
      </table>
      <div className="mt-2 grid grid-cols-2 gap-3 text-xs text-ink-2">
        {ways.map((w, i) => (
          <ul key={names[i]} className="list-disc pl-4">
            {w.notes.map((n) => (
              <li key={n.id + n.subject}>{noteText(n)}</li>
            ))}
          </ul>
        ))}
      </div>
      {reports.data && (
        <div className="mt-2 grid grid-cols-2 gap-3">
          {reports.data.map((r: Report, i) => (
            <div key={names[i]}>
              {r.string_windows.map((w) => (
                <StringWindow
                  key={w.inverter}
                  window={w}
                  tapes={r.tapes}
                  picked={null}
                  onPick={() => undefined}
                  onStep={null}
                />
              ))}
            </div>
          ))}
        </div>
      )}
    </section>
  );
}

/** What fails and by how much, the nearest miss, and what would make it fit. */
function Misses({
  ways,
  faceName,
  onUse,
  canPlan,
}: {
  ways: Ways;
  faceName: (id: string) => string;
  onUse: (way: Way) => void;
  canPlan: boolean;
}) {
  const line = (way: Way) => (
    <>
      <strong>
        {inputs(way, faceName)
          .map((u) => `${u.input}: ${u.text}`)
          .join("; ")}
      </strong>
      <span className="block text-xs text-ink-2">
        {way.notes
          .filter((n) => n.verdict === "fail")
          .map(noteText)
          .join(" · ")}
      </span>
    </>
  );
  return (
    <>
      {ways.nearest && (
        <section className="border-t border-line p-3 text-sm" aria-label="Nearest miss">
          <h3 className="font-bold">Nearest miss with every module</h3>
          {line(ways.nearest)}
        </section>
      )}
      {ways.remedies.length > 0 && (
        <section className="border-t border-line p-3 text-sm" aria-label="What would make it fit">
          <h3 className="mb-1 font-bold">What would make it fit</h3>
          <ul>
            {ways.remedies.map((r) => (
              <li key={r.text} className="flex items-center gap-3 border-b border-line py-1">
                <span className="grow">
                  {r.text}{" "}
                  <span className="text-xs text-ink-2">
                    {inputs(r.way, faceName)
                      .map((u) => `${u.input}: ${u.text}`)
                      .join("; ")}
                  </span>
                </span>
                {canPlan && (
                  <Button
                    onClick={() => {
                      onUse(r.way);
                    }}
                  >
                    Use it
                  </Button>
                )}
              </li>
            ))}
          </ul>
        </section>
      )}
      {ways.failing.length > 0 && (
        <details className="border-t border-line p-3 text-sm">
          <summary className="cursor-pointer font-bold">
            {ways.failing.length} ways that fail, the most even first
          </summary>
          <ul>
            {ways.failing.map((w) => (
              <li
                key={JSON.stringify(w.uses)}
                className="flex items-start gap-2 border-b border-line py-1"
              >
                <span className="grow">{line(w)}</span>
                <Badge verdict="fail" />
              </li>
            ))}
          </ul>
        </details>
      )}
    </>
  );
}
