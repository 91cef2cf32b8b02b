/** The company's data sheets: find one, read its revisions, enter the next, import and export. */
import { clsx } from "clsx";
import { keepPreviousData, useQuery, useQueryClient } from "@tanstack/react-query";
import { useDeferredValue, useEffect, useState } from "react";
import { Link, useNavigate, useSearchParams } from "react-router";
import { api, type Account, type SheetKind, type SheetLine } from "../../api/client";
import { plain } from "../../model/format";
import { valueAt } from "../../model/pointer";
import { sheetKey } from "../../model/planning";
import { draftName, keepSheetDraft, sheetDraft } from "../../model/sheetDraft";
import { PageHead } from "../../shell/PageHead";
import { Button } from "../../ui/Button";
import { inputLook } from "../../ui/field";
import { Pager } from "../../ui/Pager";
import { Sheet } from "../../ui/Sheet";
import { ConcernedJobs } from "./ConcernedJobs";
import { ImportSheets } from "./ImportSheets";
import { SheetEntry, type Entry } from "./SheetEntry";
import { KINDS } from "./words";

/** The figure that tells sheets of a kind apart at a glance. */
const TELLING: Record<SheetKind, [pointer: string, unit: string]> = {
  module: ["/ratings/pmax_w", "W"],
  inverter: ["/ac_w", "W"],
  optimizer: ["/ratings/in_w_max_w", "W"],
  micro: ["/ac_w", "W"],
  fuse: ["/amps_a", "A"],
  isolator: ["/amps_a", "A"],
  surge: ["/ucpv_v", "V"],
  breaker: ["/amps_a", "A"],
  combiner: ["/inputs_n", "inputs"],
  enclosure: ["/rail_ways_n", "ways a rail"],
};

const telling = (line: SheetLine): string => {
  const [pointer, unit] = TELLING[line.kind];
  const value = valueAt(line.document, pointer);
  return typeof value === "number" ? `${plain(value, 0)} ${unit}` : "";
};

export const lineKey = (l: { kind: string; sheet: string; revision: number }): string =>
  `${l.kind}/${l.sheet}/${String(l.revision)}`;

/** Revisions of one page. */
const PAGE = 100;

/** A sheet as the address names it: kind, key and revision. */
function named(text: string | null): [SheetKind, string, number] | null {
  const [kind, key, revision] = (text ?? "").split("/");
  return kind !== undefined && kind in KINDS && key && revision
    ? [kind as SheetKind, key, Number(revision)]
    : null;
}

const blank = (kind: SheetKind): Entry => ({ kind, from: null, document: KINDS[kind].empty });

export function Library({ account }: { account: Account }) {
  const queries = useQueryClient();
  const navigate = useNavigate();
  const [search, setSearch] = useSearchParams();
  const [typed, setTyped] = useState("");
  const [page, setPage] = useState(0);
  const wanted = useDeferredValue(typed.trim());
  const lines = useQuery({
    queryKey: ["sheets", wanted, page],
    queryFn: () => api.sheets(wanted, page),
    placeholderData: keepPreviousData,
  });
  const back = search.get("back");
  const wantedKind = search.get("new");
  const [entry, setEntry] = useState<Entry | null>(() =>
    wantedKind !== null && wantedKind in KINDS && sheetDraft() === null
      ? blank(wantedKind as SheetKind)
      : null,
  );
  // A draft is offered, not put over what is entered now.
  const [draft, setDraft] = useState(sheetDraft);
  const [importing, setImporting] = useState(false);
  const canPlan = account.role === "owner" || account.role === "designer";
  const asked = named(search.get("sheet"));
  const history = useQuery({
    queryKey: ["sheets", "of", asked?.[0], asked?.[1]],
    queryFn: () => (asked ? api.sheetHistory(asked[0], asked[1]) : []),
    enabled: asked !== null,
  });
  const revisions = history.data ?? [];
  const chosen = revisions.find((l) => lineKey(l) === search.get("sheet"));
  useEffect(() => {
    document.title = "Data sheets · Heliant";
  }, []);
  const open = (l: SheetLine) => {
    setEntry(null);
    setSearch({ sheet: lineKey(l) }, { replace: true });
  };
  const changed = () => {
    void queries.invalidateQueries({ queryKey: ["sheets"] });
    void queries.invalidateQueries({ queryKey: ["library"] });
    void queries.invalidateQueries({ queryKey: ["watch"] });
    void queries.invalidateQueries({ queryKey: ["consequences"] });
  };
  return (
    <div className="flex h-full flex-col">
      <PageHead account={account} />
      <div
        className={clsx(
          "grid min-h-0 grow grid-cols-[360px_minmax(0,1fr)] max-md:block",
          "max-md:overflow-y-auto",
        )}
      >
        <nav
          aria-label="Data sheets"
          className="flex min-h-0 flex-col border-r border-line bg-sheet"
        >
          <div className="grid gap-2 border-b border-line p-3">
            <h1 className="text-lg font-bold">Data sheets</h1>
            <input
              aria-label="Find a data sheet"
              placeholder="kind, maker, model"
              className={inputLook}
              value={typed}
              onChange={(e) => {
                setTyped(e.target.value);
                setPage(0);
              }}
            />
            {canPlan && (
              <div className="flex flex-wrap gap-2">
                {(Object.keys(KINDS) as SheetKind[]).map((kind) => (
                  <Button
                    key={kind}
                    onClick={() => {
                      setEntry(blank(kind));
                    }}
                  >
                    New {KINDS[kind].one}
                  </Button>
                ))}
                <Button
                  onClick={() => {
                    setImporting(true);
                  }}
                >
                  Import
                </Button>
              </div>
            )}
            <p className="text-xs text-ink-2">
              Export:{" "}
              {(["module", "inverter", "optimizer", "micro"] as const).map((kind) => (
                <a
                  key={kind}
                  className="mr-2 text-copper underline"
                  href={`/api/sheets/${kind}/export`}
                >
                  {KINDS[kind].many} (CSV)
                </a>
              ))}
              <a className="text-copper underline" href="/api/sheets/all/export">
                all (JSON)
              </a>
            </p>
          </div>
          <ul className="min-h-0 grow overflow-y-auto" data-testid="sheet-list">
            {(lines.data?.sheets ?? []).map((l) => {
              const picked = entry === null && lineKey(l) === search.get("sheet");
              return (
                <li key={lineKey(l)} className="border-b border-line">
                  <button
                    type="button"
                    aria-pressed={picked}
                    className={clsx(
                      "flex w-full items-baseline gap-2 px-3 py-1.5 text-left text-sm",
                      "hover:bg-copper-soft max-md:min-h-12",
                      picked ? "bg-copper-soft" : "",
                      l.superseded || l.retired ? "text-ink-3" : "",
                    )}
                    onClick={() => {
                      open(l);
                    }}
                  >
                    <span className="grow">
                      <strong>{l.model}</strong> {l.maker}{" "}
                      <span className="whitespace-nowrap">
                        rev {l.revision}
                        {l.retired ? ", retired" : ""}
                      </span>
                    </span>
                    {l.jobs_n > 0 && (
                      <span className="text-xs whitespace-nowrap">
                        {l.jobs_n} {l.jobs_n === 1 ? "job" : "jobs"}
                      </span>
                    )}
                    <span className="w-16 text-right font-mono text-xs">{telling(l)}</span>
                  </button>
                </li>
              );
            })}
            {lines.data?.found_n === 0 && (
              <li className="p-3 text-sm text-ink-2">No data sheet has these words.</li>
            )}
          </ul>
          <Pager
            page={page}
            size={PAGE}
            total={lines.data?.found_n ?? 0}
            onPage={setPage}
            order="by kind and maker"
          />
        </nav>
        <main className="min-h-0 overflow-y-auto p-4">
          {draft && !entry && canPlan && (
            <div
              role="status"
              data-testid="sheet-draft"
              className={clsx(
                "mb-3 flex flex-wrap items-center gap-3 rounded-lg bg-caution-soft p-3",
                "text-sm",
              )}
            >
              <span className="grow">
                {draftName(draft) || `A ${KINDS[draft.kind].one} data sheet`} is half entered.
              </span>
              <Button
                main
                onClick={() => {
                  setEntry(draft);
                }}
              >
                Go on with it
              </Button>
              <Button
                onClick={() => {
                  keepSheetDraft(null);
                  setDraft(null);
                  if (wantedKind !== null && wantedKind in KINDS)
                    setEntry(blank(wantedKind as SheetKind));
                }}
              >
                Throw it away
              </Button>
            </div>
          )}
          {entry ? (
            <SheetEntry
              key={`${entry.kind}${entry.from ? lineKey(entry.from) : ""}`}
              entry={entry}
              onDone={(kept) => {
                setEntry(null);
                changed();
                if (kept) keepSheetDraft(null);
                setDraft(sheetDraft());
                if (back?.startsWith("/jobs/")) {
                  const chosen = kept
                    ? `?sheet=${encodeURIComponent(`${kept.kind}:${sheetKey(kept)}`)}`
                    : "";
                  void navigate(back + chosen);
                } else if (kept) setSearch({ sheet: lineKey(kept) }, { replace: true });
              }}
            />
          ) : chosen ? (
            <Shown
              line={chosen}
              revisions={revisions}
              canPlan={canPlan}
              onEntry={setEntry}
              onRetire={() => {
                void api.retireSheet(chosen.kind, chosen.sheet, !chosen.retired).then(changed);
              }}
            />
          ) : asked && history.isPending ? null : (
            <p className="text-sm text-ink-2">
              {asked && `There is no data sheet ${asked[1]}, revision ${String(asked[2])}. `}
              Pick a data sheet, or enter one. A revision never changes: what a maker alters becomes
              the next one, and jobs keep what they were planned with until somebody decides.
            </p>
          )}
        </main>
      </div>
      {importing && (
        <ImportSheets
          onClose={() => {
            setImporting(false);
          }}
          onDone={changed}
        />
      )}
    </div>
  );
}

function Shown({
  line,
  revisions,
  canPlan,
  onEntry,
  onRetire,
}: {
  line: SheetLine;
  revisions: SheetLine[];
  canPlan: boolean;
  onEntry: (entry: Entry) => void;
  onRetire: () => void;
}) {
  const fields = useQuery({
    queryKey: ["fields", line.kind],
    queryFn: () => api.sheetFields(line.kind),
    staleTime: Infinity,
  });
  const newest = revisions.reduce((a, b) => (b.revision > a.revision ? b : a), line);
  const before = revisions.find((l) => l.revision === line.revision - 1);
  const mppts = (valueAt(line.document, "/mppts") as unknown[] | undefined)?.length ?? 0;
  const rows = (fields.data ?? [])
    .filter((f) => !["sheet", "revision", "maker", "model", "demo"].includes(f.key))
    .flatMap((f) =>
      f.key.includes("*")
        ? Array.from({ length: mppts }, (_, k) => ({
            title: `${f.title}, MPPT ${String(k + 1)}`,
            pointer: `/${f.key.replace("*", String(k)).replaceAll(".", "/")}`,
            unit: f.unit,
          }))
        : [{ title: f.title, pointer: `/${f.key.replaceAll(".", "/")}`, unit: f.unit }],
    );
  const text = (value: unknown): string =>
    value === null || value === undefined
      ? "not given"
      : typeof value === "boolean"
        ? value
          ? "yes"
          : "no"
        : String(value as string | number)
            .replace("-", "−")
            .replace("_", " ");
  return (
    <article data-testid="sheet">
      <div className="mb-3 flex flex-wrap items-baseline gap-3">
        <h2 className="text-lg font-bold">{line.model}</h2>
        <span className="text-sm text-ink-2">
          {line.maker}, {KINDS[line.kind].one}
        </span>
        {line.demo && (
          <span className="rounded bg-caution-soft px-2 text-xs text-caution">
            demo: a real job needs the maker’s own data sheet
          </span>
        )}
        <span className="grow" />
        {canPlan && (
          <>
            <Button
              main
              onClick={() => {
                onEntry({
                  kind: line.kind,
                  from: newest,
                  document: { ...newest.document, revision: newest.revision + 1 },
                });
              }}
            >
              Enter revision {newest.revision + 1}
            </Button>
            <Button
              onClick={() => {
                onEntry({
                  kind: line.kind,
                  from: null,
                  document: {
                    ...line.document,
                    sheet: "",
                    model: `${line.model} copy`,
                    revision: 1,
                  },
                });
              }}
            >
              Duplicate
            </Button>
            <Button onClick={onRetire}>{line.retired ? "Offer again" : "Retire"}</Button>
          </>
        )}
      </div>
      <div className="grid gap-3 lg:grid-cols-2">
        <Sheet
          title={`Revision ${String(line.revision)}`}
          aside={before ? "copper: changed from the one before" : ""}
        >
          <dl className="px-4 py-2 text-sm">
            {rows.map((r) => {
              const value = valueAt(line.document, r.pointer);
              const moved =
                before !== undefined &&
                (valueAt(before.document, r.pointer) ?? null) !== (value ?? null);
              return (
                <div
                  key={r.pointer}
                  className="flex justify-between gap-3 border-b border-line py-0.5"
                >
                  <dt className="text-ink-2">{r.title}</dt>
                  <dd
                    className={clsx(
                      "font-mono whitespace-nowrap",
                      moved ? "font-bold text-copper" : value == null ? "text-ink-3" : "",
                    )}
                  >
                    {moved && `${text(valueAt(before.document, r.pointer))} → `}
                    {text(value)} {value == null || r.unit === "n" ? "" : r.unit}
                  </dd>
                </div>
              );
            })}
          </dl>
        </Sheet>
        <div className="grid content-start gap-3">
          <Sheet title="Revisions" aside="none ever changes">
            <ul className="px-4 py-2 text-sm">
              {revisions.map((l) => (
                <li key={l.revision} className="border-b border-line py-1">
                  <Link
                    className={l.revision === line.revision ? "font-bold" : "text-copper underline"}
                    to={`/library?sheet=${encodeURIComponent(lineKey(l))}`}
                  >
                    rev {l.revision}
                  </Link>{" "}
                  {l.from_document || "no document named"}
                  <span className="block text-xs text-ink-2">
                    {l.entered_by || "unknown"}, {new Date(l.entered_at).toLocaleDateString()}
                    {l.jobs_n > 0
                      ? ` · in ${String(l.jobs_n)} ${l.jobs_n === 1 ? "job" : "jobs"}`
                      : ""}
                  </span>
                </li>
              ))}
            </ul>
          </Sheet>
          <ConcernedJobs kind={line.kind} sheet={line.sheet} newest={newest.revision} />
        </div>
      </div>
    </article>
  );
}
