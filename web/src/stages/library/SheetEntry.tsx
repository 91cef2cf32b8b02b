/**
 * Entering a data sheet as a maker prints it: checked while it is typed, with what the values mean
 * beside it.
 */
import { keepPreviousData, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import {
  api,
  refusal,
  type About,
  type Check,
  type Field,
  type Figure,
  type Problem,
  type SheetKind,
  type SheetLine,
  type Unit,
} from "../../api/client";
import { fieldTitle } from "../../model/catalogue";
import { amount } from "../../model/format";
import { putAt, valueAt } from "../../model/pointer";
import { keepSheetDraft } from "../../model/sheetDraft";
import { figureOf, valueOf } from "../../model/report";
import { same, subjectKey } from "../../model/subject";
import { Button } from "../../ui/Button";
import { Dialog } from "../../ui/Dialog";
import { NumberField } from "../../ui/NumberField";
import { Pick } from "../../ui/Pick";
import { Sheet } from "../../ui/Sheet";
import { TextField } from "../../ui/TextField";
import { YesNo } from "../../ui/YesNo";
import { Tick } from "../../ui/Tick";
import { Badge } from "../../ui/verdict";
import { Kept } from "./Kept";
import { KINDS } from "./words";

export interface Entry {
  kind: SheetKind;
  /** The revision this one follows; none for a new sheet. */
  from: SheetLine | null;
  document: Record<string, unknown>;
  /** The document it is entered from, as far as it is named. */
  named?: string;
}

interface Props {
  entry: Entry;
  onDone: (kept: { kind: SheetKind; sheet: string; revision: number } | null) => void;
}

/** Units of fields in which others may be typed. */
const KEPT: Record<string, Unit | undefined> = { mm: "mm", m: "m", kg: "kg", "°C": "degC" };

const MEANT_FOR = { t_min_c: -10, t_max_c: 35, cell_rise_hot_c: 35, dc_ceiling_v: 600 };

const revisionKey = (l: { sheet: string; revision: number }): string =>
  `${l.sheet}/${String(l.revision)}`;

const slug = (text: string): string =>
  text
    .toLowerCase()
    .replace(/[^a-z0-9]+/g, "-")
    .replace(/^-|-$/g, "");

export function SheetEntry({ entry, onDone }: Props) {
  const [document, setDocument] = useState(entry.document);
  const [from, setFrom] = useState(entry.named ?? "");
  const [leaving, setLeaving] = useState(false);
  const begun = document !== entry.document || from !== (entry.named ?? "");
  useEffect(() => {
    if (begun) keepSheetDraft({ ...entry, document, named: from });
  }, [begun, entry, document, from]);
  const [site, setSite] = useState<Record<string, number | null>>(MEANT_FOR);
  const [refused, setRefused] = useState<Problem[]>([]);
  const [kept, setKept] = useState(false);
  const fields = useQuery({
    queryKey: ["fields", entry.kind],
    queryFn: () => api.sheetFields(entry.kind),
    staleTime: Infinity,
  });
  const jobs = useQuery({ queryKey: ["jobs", {}, 0], queryFn: () => api.jobs() });
  const [siteOf, setSiteOf] = useState("");
  const library = useQuery({ queryKey: ["library"], queryFn: api.library });
  const client = useQueryClient();
  const known = useQuery({ queryKey: ["known"], queryFn: api.knownWords });
  const modules = library.data?.modules ?? [];
  const [picked, setModule] = useState<string | null>(null);
  const module = picked ?? (modules[0] ? revisionKey(modules[0]) : "");
  const looked = modules.find((l) => revisionKey(l) === module);
  const whole = entry.from ? document : { ...document, sheet: sheetKeyOf(document) };
  const judged = useQuery({
    queryKey: ["judge", entry.kind, whole, site, module],
    queryFn: () =>
      api.judgeSheet({
        kind: entry.kind,
        document: whole as Record<string, never>,
        about: {
          ...site,
          module: looked?.ratings ?? null,
        } as About,
        school: "iec",
      }),
    placeholderData: keepPreviousData,
  });
  const problems = [...(judged.data?.problems ?? []), ...refused];
  const at = (pointer: string) => problems.find((p) => p.path === pointer);
  const set = (pointer: string) => (value: unknown) => {
    setRefused([]);
    setDocument((d) => putAt(d, pointer, value));
  };
  const inputs = (valueAt(document, "/mppts") as unknown[] | undefined) ?? [];
  const groups = new Map<string, Field[]>();
  for (const f of fields.data ?? []) {
    if (["sheet", "revision", "demo"].includes(f.key)) continue;
    groups.set(f.group, [...(groups.get(f.group) ?? []), f]);
  }
  const control = (f: Field, pointer: string, label: string) => {
    const value = valueAt(document, pointer);
    if (f.input === "flag")
      return <Tick key={pointer} label={label} checked={value === true} onChange={set(pointer)} />;
    if (f.input === "yes_no")
      return (
        <YesNo
          key={pointer}
          label={label}
          value={value as boolean | null | undefined}
          onChange={set(pointer)}
        />
      );
    if (f.key === "rcd")
      return (
        <Pick
          key={pointer}
          label={label}
          value={(value as string | null | undefined) ?? ""}
          options={[
            ["", "not said: type B"],
            ["ac", "type AC"],
            ["a", "type A"],
            ["f", "type F"],
            ["b", "type B"],
          ]}
          onChange={(rcd) => {
            set(pointer)(rcd === "" ? null : rcd);
          }}
        />
      );
    if (f.input === "choice")
      return (
        <Pick
          key={pointer}
          label={label}
          value={(value as string | undefined) ?? "dc_first"}
          options={[
            ["dc_first", "DC"],
            ["ac_first", "AC"],
          ]}
          onChange={set(pointer)}
        />
      );
    if (f.input === "text")
      return (
        <TextField
          key={pointer}
          label={label}
          value={(value as string | undefined) ?? ""}
          problem={value === "" ? undefined : at(pointer)}
          onChange={set(pointer)}
          readOnly={entry.from !== null && f.key !== "demo"}
          completes={f.key === "maker" ? known.data?.makers : undefined}
        />
      );
    return (
      <NumberField
        key={pointer}
        label={label}
        unit={f.unit === "n" ? "" : f.unit}
        kept={KEPT[f.unit]}
        value={value as number | null | undefined}
        problem={at(pointer)}
        onChange={(typed) => {
          // What can only be below nought needs no sign; it is shown with it.
          set(pointer)(f.negative && typed !== null ? -Math.abs(typed) : typed);
        }}
      />
    );
  };
  const keep = async () => {
    try {
      await api.addSheet({
        kind: entry.kind,
        from_document: from,
        document: whole as Record<string, never>,
      });
      keepSheetDraft(null);
      void client.invalidateQueries({ queryKey: ["known"] });
      setKept(true);
    } catch (error) {
      const { message, errors } = refusal(error);
      const inside = errors.map((p) => ({ ...p, path: p.path.replace(/^\/document/, "") }));
      setRefused(inside.length > 0 ? inside : [{ path: "", message }]);
    }
  };
  const reference = {
    kind: entry.kind,
    sheet: String(whole["sheet"]),
    revision: Number(whole["revision"]),
  };
  if (kept)
    return (
      <Kept
        {...reference}
        onDone={() => {
          onDone(reference);
        }}
      />
    );
  const figures = judged.data?.figures ?? [];
  const checks = judged.data?.checks ?? [];
  // What is judged stands with its check.
  const meant = figures.filter(
    (f) => !checks.some((c) => c.figure === f.id && same(c.subject, f.subject)),
  );
  const blocking = problems.filter((p) => p.path !== "");
  const named = String(document["maker"] ?? "") !== "" && String(document["model"] ?? "") !== "";
  return (
    <div className="grid gap-3 xl:grid-cols-[minmax(0,1fr)_290px]">
      <Dialog
        title="This data sheet is half entered"
        open={leaving}
        onClose={() => {
          setLeaving(false);
        }}
      >
        <p className="mb-3 text-sm">
          A draft stays in this browser and is offered when you come back to the data sheets.
        </p>
        <div className="flex flex-wrap gap-2">
          <Button
            main
            onClick={() => {
              onDone(null);
            }}
          >
            Keep it as a draft
          </Button>
          <Button
            onClick={() => {
              keepSheetDraft(null);
              onDone(null);
            }}
          >
            Throw it away
          </Button>
          <Button
            onClick={() => {
              setLeaving(false);
            }}
          >
            Go on entering
          </Button>
        </div>
      </Dialog>
      <Sheet
        title={
          entry.from
            ? `${entry.from.model}: revision ${String(document["revision"])}`
            : `New ${KINDS[entry.kind].one} data sheet`
        }
        aside={
          entry.from
            ? "starts from the newest revision; change what the maker changed"
            : "as the maker prints it"
        }
      >
        <div className="grid gap-3 p-4">
          <TextField
            label="Taken from (document, edition, date)"
            autoFocus
            value={from}
            onChange={setFrom}
            completes={known.data?.documents}
            problem={at("/from_document")}
          />
          {[...groups].map(([group, list]) =>
            list.some((f) => f.key.includes("*")) ? (
              inputs.map((_, k) => (
                <fieldset key={`${group}${String(k)}`} className="rounded border border-line p-3">
                  <legend className="px-1 text-sm font-bold">MPPT {k + 1}</legend>
                  <div className="grid grid-cols-4 items-start gap-x-3 gap-y-2 max-md:grid-cols-2">
                    {list.map((f) =>
                      control(f, `/${f.key.replace("*", String(k)).replaceAll(".", "/")}`, f.title),
                    )}
                  </div>
                  {k === inputs.length - 1 && (
                    <div className="mt-2 flex gap-2">
                      <Button
                        onClick={() => {
                          set("/mppts")([...inputs, { ...(inputs[k] as object) }]);
                        }}
                      >
                        One more like it
                      </Button>
                      {inputs.length > 1 && (
                        <Button
                          onClick={() => {
                            set("/mppts")(inputs.slice(0, -1));
                          }}
                        >
                          Take MPPT {k + 1} out
                        </Button>
                      )}
                    </div>
                  )}
                </fieldset>
              ))
            ) : (
              <fieldset key={group} className="rounded border border-line p-3">
                <legend className="px-1 text-sm font-bold">{group}</legend>
                <div className="grid grid-cols-3 items-start gap-x-3 gap-y-2 max-md:grid-cols-2">
                  {list.map((f) => control(f, `/${f.key.replaceAll(".", "/")}`, f.title))}
                </div>
              </fieldset>
            ),
          )}
          <div className="flex flex-wrap items-center gap-3">
            <Button
              main
              disabled={!named || from.trim() === "" || blocking.length > 0}
              onClick={() => {
                void keep();
              }}
            >
              Keep revision {String(document["revision"])}
            </Button>
            <Button
              onClick={() => {
                if (begun) setLeaving(true);
                else onDone(null);
              }}
            >
              Leave it
            </Button>
            <span className="text-sm text-ink-2">
              {!named
                ? "Maker and model are missing."
                : from.trim() === ""
                  ? "Say where the values come from."
                  : blocking.length > 0
                    ? `${String(blocking.length)} entries are not right.`
                    : ""}
            </span>
          </div>
          {refused
            .filter(
              (p) =>
                p.path === "" ||
                !fields.data?.some((f) => `/${f.key.replaceAll(".", "/")}` === p.path),
            )
            .map((p) => (
              <p key={p.message} role="alert" className="text-sm font-bold text-stop">
                {p.message}
                {p.hint ? `: ${p.hint}` : ""}
              </p>
            ))}
        </div>
      </Sheet>
      <div className="grid content-start gap-3">
        <Sheet title="What it means" aside="on this site">
          <div className="grid gap-2 p-3">
            <Pick
              label="at the site of"
              value={siteOf}
              options={[
                ["", "as typed here"],
                ...(jobs.data?.jobs ?? []).map((j) => [j.id, j.name] as const),
              ]}
              onChange={(id) => {
                setSiteOf(id);
                if (id === "") return;
                void api.job(id).then(({ job, report }) => {
                  const ceiling = valueOf(report, "site.dc_ceiling_v", { kind: "site" });
                  const [cells, air] = [
                    valueOf(report, "site.t_cell_hot_c", { kind: "site" }),
                    job.site.t_max_c ?? null,
                  ];
                  setSite({
                    t_min_c: job.site.t_min_c ?? null,
                    t_max_c: air,
                    cell_rise_hot_c: cells === null || air === null ? null : cells - air,
                    dc_ceiling_v: ceiling,
                  });
                });
              }}
            />
            <div className="grid grid-cols-2 gap-2">
              <NumberField
                label="Coldest morning"
                kept="degC"
                value={site["t_min_c"]}
                onChange={(t_min_c) => {
                  setSite((s) => ({ ...s, t_min_c }));
                }}
              />
              <NumberField
                label="Hottest air"
                kept="degC"
                value={site["t_max_c"]}
                onChange={(t_max_c) => {
                  setSite((s) => ({ ...s, t_max_c }));
                }}
              />
              <NumberField
                label="DC ceiling"
                unit="V"
                value={site["dc_ceiling_v"]}
                onChange={(dc_ceiling_v) => {
                  setSite((s) => ({ ...s, dc_ceiling_v }));
                }}
              />
            </div>
            {entry.kind !== "module" && (
              <Pick
                label="with the module"
                value={module}
                options={modules.map(
                  (m) => [revisionKey(m), `${m.model} rev ${String(m.revision)}`] as const,
                )}
                onChange={setModule}
              />
            )}
            <dl className="text-sm" data-testid="meaning">
              {meant.map((f, i) => (
                <div
                  key={`${f.id}${subjectKey(f.subject)}${String(i)}`}
                  className="flex justify-between gap-2 border-b border-line py-0.5"
                >
                  <dt className="text-ink-2">
                    {f.title}
                    {f.subject.kind === "mppt" ? `, MPPT ${String(f.subject.input)}` : ""}
                  </dt>
                  <dd className="font-mono whitespace-nowrap">{amount(f.value, f.unit)}</dd>
                </div>
              ))}
            </dl>
          </div>
        </Sheet>
        <Sheet title="Checks">
          <ul className="p-3 text-sm" data-testid="sheet-checks">
            {checks.map((c, i) => (
              <li
                key={`${c.id}${subjectKey(c.subject)}${String(i)}`}
                className="border-b border-line py-1"
              >
                <div className="flex items-center gap-2">
                  <span className="grow">
                    {c.title}
                    {c.subject.kind === "mppt" ? `, MPPT ${String(c.subject.input)}` : ""}
                  </span>
                  <span className="font-mono text-xs whitespace-nowrap">
                    {valueOfCheck(figures, c)}
                  </span>
                  <Badge verdict={c.verdict} />
                </div>
                {c.reason && <p className="text-xs">{c.reason}</p>}
                {c.missing && c.missing.length > 0 && (
                  <p className="text-xs text-ink-2">
                    missing: {c.missing.map(fieldTitle).join(", ")}
                  </p>
                )}
              </li>
            ))}
          </ul>
        </Sheet>
      </div>
    </div>
  );
}

function valueOfCheck(figures: Figure[], check: Check): string {
  const figure = figureOf({ figures }, check);
  return figure?.value == null ? "" : amount(figure.value, figure.unit);
}

/** Key of a new sheet: maker and model in plain letters. */
function sheetKeyOf(document: Record<string, unknown>): string {
  return slug(`${String(document["maker"] ?? "")} ${String(document["model"] ?? "")}`).slice(0, 60);
}
