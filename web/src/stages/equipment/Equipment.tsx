/** Equipment: what hangs on what, the library to pick from, the data sheet as a slip. */
import { clsx } from "clsx";
import { useState } from "react";
import { Link } from "react-router";
import { EquipmentPlan } from "../../drawing/EquipmentPlan";
import { amount, entered } from "../../model/format";
import {
  addInverter,
  addString,
  bothLibraries,
  inverters,
  outdated,
  removeInverter,
  sheetKey,
  sheetName,
  strings,
  swapInverter,
  setModule,
} from "../../model/planning";
import { checkKey } from "../../model/report";
import { useBench } from "../../shell/bench";
import { CheckList } from "../../shell/CheckList";
import { StageFrame } from "../../shell/StageFrame";
import { Button } from "../../ui/Button";
import { inputLook } from "../../ui/field";
import { Sheet } from "../../ui/Sheet";
import { Term } from "../../ui/Term";
import { useAddress } from "../../ui/useAddress";
import type { InverterSheet, ModuleSheet } from "../../api/client";
import { inverterRows, moduleRows, type Row } from "./sheetRows";

type Chosen = { kind: "module"; sheet: ModuleSheet } | { kind: "inverter"; sheet: InverterSheet };

export function Equipment() {
  const { view, draft, company, canPlan, pick, picked } = useBench();
  // In the address: whoever comes back from entering a data sheet finds it chosen.
  const [search, put] = useAddress();
  const key = search.get("sheet");
  const setKey = (chosen: string) => {
    put({ sheet: chosen, slip: "" });
  };
  const [typed, setTyped] = useState("");
  const { job } = draft;
  const known = bothLibraries(draft.library, company);
  const all: Chosen[] = [
    ...known.modules.map((sheet) => ({ kind: "module" as const, sheet })),
    ...known.inverters.map((sheet) => ({ kind: "inverter" as const, sheet })),
  ];
  const words = typed.toLowerCase().split(/\s+/).filter(Boolean);
  const shown = all.filter(({ sheet }) =>
    words.every((w) =>
      `${sheet.maker} ${sheet.model} rev ${String(sheet.revision)}`.toLowerCase().includes(w),
    ),
  );
  const used = ({ kind, sheet }: Chosen): number =>
    kind === "module"
      ? strings(job).filter((s) => sheetKey(s.module) === sheetKey(sheet)).length
      : inverters(job).filter((i) => sheetKey(i.sheet) === sheetKey(sheet)).length;
  const chosen =
    key === null ? undefined : all.find((c) => `${c.kind}:${sheetKey(c.sheet)}` === key);
  return (
    <StageFrame
      stage="equipment"
      about={[
        `${String(known.modules.length)} module and`,
        `${String(known.inverters.length)} inverter data sheets at hand`,
      ].join(" ")}
      slip={
        chosen && picked === null ? <DataSheet chosen={chosen} used={used(chosen)} /> : undefined
      }
    >
      <Sheet title="What hangs on what" aside="strings, inputs, inverters" className="mb-3">
        <div className="overflow-x-auto p-2 [&>svg]:max-md:min-w-[700px]">
          <EquipmentPlan
            draft={draft}
            report={view.report}
            onPick={(id) => {
              const ref = inverters(job).find((i) => i.id === id)?.sheet;
              if (ref) setKey(`inverter:${sheetKey(ref)}`);
            }}
          />
        </div>
      </Sheet>
      <Sheet
        title="Data sheets"
        aside={
          <input
            aria-label="Find a data sheet"
            placeholder="maker, model"
            className={`${inputLook} max-w-48`}
            value={typed}
            onChange={(e) => {
              setTyped(e.target.value);
            }}
          />
        }
        className="mb-3"
      >
        {canPlan && (
          <p className="flex flex-wrap gap-x-4 border-b border-line px-3 py-1 text-sm">
            {(["module", "inverter"] as const).map((kind) => (
              <Link
                key={kind}
                className="grid min-h-9 items-center text-copper underline max-md:min-h-12"
                to={`/library?new=${kind}&back=${encodeURIComponent(`/jobs/${view.id}/equipment`)}`}
              >
                Enter a new {kind}
              </Link>
            ))}
          </p>
        )}
        <ul>
          {shown.map((c, i) => {
            const k = `${c.kind}:${sheetKey(c.sheet)}`;
            const n = used(c);
            const older = outdated(c.sheet, c.kind === "module" ? known.modules : known.inverters);
            return (
              <li key={k} className="border-b border-line last:border-b-0">
                {c.kind !== shown[i - 1]?.kind && (
                  <h3 className="bg-paper px-3 py-1 text-xs font-bold text-ink-2">
                    {c.kind === "module" ? "Modules" : "Inverters"}
                  </h3>
                )}
                <button
                  type="button"
                  aria-pressed={k === key}
                  className={clsx(
                    "flex w-full items-center gap-3 px-3 py-1.5 text-left text-sm",
                    "hover:bg-copper-soft max-md:min-h-12",
                    k === key && picked === null ? "bg-copper-soft" : "",
                  )}
                  onClick={() => {
                    setKey(k);
                  }}
                >
                  <span className={clsx("grow", older && n === 0 && "text-ink-3")}>
                    <strong>{c.sheet.model}</strong> {c.sheet.maker}{" "}
                    <span className="text-ink-2">
                      rev {c.sheet.revision}
                      {older ? ", older" : ""}
                    </span>
                  </span>
                  <span className="text-right font-mono text-xs text-ink-2">
                    {c.kind === "module"
                      ? amount(c.sheet.ratings.pmax_w, "W")
                      : amount(c.sheet.ac_w, "W")}
                  </span>
                  <span className="w-32 text-right text-xs">
                    {n > 0
                      ? c.kind === "module"
                        ? `on ${String(n)} string${n === 1 ? "" : "s"}`
                        : `in this job`
                      : ""}
                  </span>
                </button>
              </li>
            );
          })}
        </ul>
        {shown.length === 0 && (
          <p className="p-3 text-sm text-ink-2">No data sheet has these words.</p>
        )}
      </Sheet>
      <Sheet title="Checks">
        <CheckList
          report={view.report}
          checks={view.report.checks.filter((c) => c.stage === "equipment")}
          onPick={(c) => {
            pick(checkKey(c));
          }}
        />
      </Sheet>
    </StageFrame>
  );
}

function DataSheet({ chosen, used }: { chosen: Chosen; used: number }) {
  const { draft, company, editor, canPlan } = useBench();
  const { sheet } = chosen;
  const rows = chosen.kind === "module" ? moduleRows(chosen.sheet) : inverterRows(chosen.sheet);
  const known = bothLibraries(draft.library, company);
  const { job } = draft;
  return (
    <article data-testid="data-sheet">
      <h2 className="text-lg font-bold">{sheet.model}</h2>
      <p className="text-sm text-ink-2">
        {sheet.maker}, data sheet revision {sheet.revision}
      </p>
      {sheet.demo && (
        <p className="mt-2 rounded bg-caution-soft p-2 text-xs text-caution">
          Demo: made up. A real job needs the maker’s own data sheet.
        </p>
      )}
      {canPlan && (
        <div className="my-3 flex flex-wrap gap-2">
          {chosen.kind === "module" ? (
            strings(job).length > 0 ? (
              <Button
                main
                disabled={used === strings(job).length}
                onClick={() => {
                  editor.edit((d) => setModule(d, known, sheet));
                }}
              >
                Use {sheetName(sheet)} on every string
              </Button>
            ) : (
              <Button
                main
                disabled={inverters(job).length === 0 || job.site.faces.length === 0}
                onClick={() => {
                  editor.edit((d) => addString(d, known, sheet));
                }}
              >
                Start a string of {sheet.model}
              </Button>
            )
          ) : (
            <>
              {inverters(job).map((i) => (
                <Button
                  key={i.id}
                  main
                  disabled={sheetKey(i.sheet) === sheetKey(sheet)}
                  onClick={() => {
                    editor.edit((d) => swapInverter(d, known, i.id, sheet));
                  }}
                >
                  Use {sheetName(sheet)} as {i.id}
                </Button>
              ))}
              <Button
                main={inverters(job).length === 0}
                onClick={() => {
                  editor.edit((d) => addInverter(d, known, sheet));
                }}
              >
                {inverters(job).length === 0 ? `Use ${sheetName(sheet)}` : "Add one more"}
              </Button>
              {inverters(job)
                .filter(
                  (i) =>
                    sheetKey(i.sheet) === sheetKey(sheet) &&
                    !strings(job).some((s) => s.inverter === i.id),
                )
                .map((i) => (
                  <Button
                    key={i.id}
                    onClick={() => {
                      editor.edit((d) => removeInverter(d, i.id));
                    }}
                  >
                    Take out {i.id}
                  </Button>
                ))}
            </>
          )}
        </div>
      )}
      {canPlan &&
        chosen.kind === "module" &&
        strings(job).length === 0 &&
        (inverters(job).length === 0 || job.site.faces.length === 0) && (
          <p className="mb-2 text-xs text-ink-2">
            A string needs an inverter (here) and a face (Site) first.
          </p>
        )}
      <Rows rows={rows} />
    </article>
  );
}

function Rows({ rows }: { rows: Row[] }) {
  return (
    <dl className="border-t border-dashed border-ink-3 pt-2 text-sm">
      {rows.map(([label, value, unit]) => (
        <div key={label} className="flex justify-between gap-3 border-b border-line py-0.5">
          <dt className="text-ink-2">{label === "NMOT" ? <Term name="NMOT" /> : label}</dt>
          <dd
            className={clsx(
              "font-mono whitespace-nowrap",
              value === null || value === undefined ? "text-ink-3" : "",
            )}
          >
            {value === null || value === undefined ? "not given" : entered(value, unit)}
          </dd>
        </div>
      ))}
    </dl>
  );
}
