/** The strings as a table: counts, modules, inputs; several are changed at once. */
import { clsx } from "clsx";
import { startTransition, useEffect, useState } from "react";
import type { SheetRef } from "../../api/client";
import { amount, many } from "../../model/format";
import {
  bothLibraries,
  changeString,
  changeStrings,
  inverters,
  removeString,
  removeStrings,
  sheetKey,
  sheetName,
  sheetRef,
  strings,
} from "../../model/planning";
import { checksOf, valueOf, worst } from "../../model/report";
import { ofString } from "../../model/subject";
import { useBench } from "../../shell/bench";
import { Button } from "../../ui/Button";
import { problemAt } from "../../ui/field";
import { NumberField } from "../../ui/NumberField";
import { Pick } from "../../ui/Pick";
import { TakeOut } from "../../ui/TakeOut";
import { Term } from "../../ui/Term";
import { Tape } from "../../ui/Tape";
import { Badge, WORDS } from "../../ui/verdict";

interface Named extends SheetRef {
  maker: string;
  model: string;
}

/** A sheet by what tells it apart: its maker too where two have the same model and revision. */
const named = (s: Named, all: readonly Named[]): string =>
  all.some((o) => o !== s && sheetName(o) === sheetName(s))
    ? `${s.maker} ${sheetName(s)}`
    : sheetName(s);

type Options = readonly (readonly [string, string])[];

interface SelectedProps {
  letters: ReadonlySet<string>;
  faces: Options;
  modules: Options;
  inputs: Options;
  onDone: () => void;
}

/** What is done with all strings that are chosen, as one edit. */
function Selected({ letters, faces, modules, inputs, onDone }: SelectedProps) {
  const { draft, company, editor } = useBench();
  const known = bothLibraries(draft.library, company);
  const own = strings(draft.job).filter((s) => letters.has(s.letter));
  /** What all of them have, or nothing where they differ. */
  const common = <T,>(of: (s: (typeof own)[number]) => T): T | undefined => {
    const [first, ...rest] = own.map(of);
    return rest.every((v) => v === first) ? first : undefined;
  };
  const change = (what: Parameters<typeof changeStrings>[2]) => {
    editor.edit((d) => changeStrings(d, letters, what, known));
  };
  const differ = ["", "differ"] as const;
  return (
    <div
      role="group"
      aria-label="Chosen strings"
      data-testid="chosen-strings"
      className="flex flex-wrap items-end gap-3 border-b border-line bg-copper-soft p-2"
    >
      <strong className="self-center text-sm">{many(letters.size, "string")}</strong>
      <Pick
        label="Face of all"
        value={common((s) => s.face) ?? ""}
        options={common((s) => s.face) === undefined ? [differ, ...faces] : faces}
        onChange={(face) => {
          if (face) change({ face });
        }}
      />
      <Pick
        label="Module of all"
        value={common((s) => sheetKey(s.module)) ?? ""}
        options={common((s) => sheetKey(s.module)) === undefined ? [differ, ...modules] : modules}
        onChange={(key) => {
          const sheet = known.modules.find((m) => sheetKey(m) === key);
          if (sheet) change({ module: sheetRef(sheet) });
        }}
      />
      <div className="w-24">
        <NumberField
          label="In series of all"
          value={common((s) => s.n)}
          onChange={(n) => {
            if (n !== null) change({ n });
          }}
        />
      </div>
      <Pick
        label="Input of all"
        value={common((s) => `${s.inverter}/${String(s.mppt)}`) ?? ""}
        options={
          common((s) => `${s.inverter}/${String(s.mppt)}`) === undefined
            ? [differ, ...inputs]
            : inputs
        }
        onChange={(key) => {
          const [inverter, mppt] = key.split("/");
          if (inverter) change({ inverter, mppt: Number(mppt) });
        }}
      />
      <Button
        onClick={() => {
          editor.edit((d) => removeStrings(d, letters));
          onDone();
        }}
      >
        Take them out
      </Button>
    </div>
  );
}

/** Rows that are there with the first sight. */
const FIRST = 30;

export function StringTable({
  onPick,
  picked,
}: {
  onPick: (letter: string) => void;
  picked: string | null;
}) {
  const { view, draft, editor, canPlan, company, problems } = useBench();
  const { report } = view;
  const { job } = draft;
  const known = bothLibraries(draft.library, company);
  const faces = job.site.faces.map((f) => [f.id, f.name] as const);
  // What tells sheets apart comes first: where models are alike, the maker.
  const modules = known.modules.map((m) => [sheetKey(m), named(m, known.modules)] as const);
  const optimizers = known.optimizers.map((o) => [sheetKey(o), sheetName(o)] as const);
  const [asked, setAsked] = useState(false);
  // The first rows at once; the others come behind them, while nothing else is asked for.
  const [most, setMost] = useState(FIRST);
  useEffect(() => {
    startTransition(() => {
      setMost(Infinity);
    });
  }, []);
  const [chosen, setChosen] = useState<ReadonlySet<string>>(new Set());
  const letters = strings(job).map((s) => s.letter);
  // Strings that were taken out meanwhile are not among them.
  const selected = new Set(letters.filter((l) => chosen.has(l)));
  const withOptimizers = asked || strings(job).some((s) => s.optimizer);
  const inputs = inverters(job).flatMap((i) => {
    const sheet = known.inverters.find((s) => sheetKey(s) === sheetKey(i.sheet));
    return (sheet?.mppts ?? []).map(
      (_, k) =>
        [
          `${i.id}/${String(k + 1)}`,
          inverters(job).length > 1 ? `${i.id}/${String(k + 1)}` : `input ${String(k + 1)}`,
        ] as const,
    );
  });
  if (strings(job).length === 0) return <p className="p-3 text-sm text-ink-2">No string yet.</p>;
  return (
    <div className="overflow-x-auto">
      {canPlan && optimizers.length > 0 && !withOptimizers && (
        <button
          type="button"
          className="float-right min-h-8 px-3 text-xs text-copper underline"
          onClick={() => {
            setAsked(true);
          }}
        >
          With optimizers
        </button>
      )}
      {selected.size > 0 && (
        <Selected
          letters={selected}
          faces={faces}
          modules={modules}
          inputs={inputs}
          onDone={() => {
            setChosen(new Set());
          }}
        />
      )}
      <table className="w-full text-sm">
        <thead>
          <tr
            className={clsx(
              "border-b border-line text-xs text-ink-2 [&>th]:px-1 [&>th]:py-1",
              "[&>th]:font-normal",
            )}
          >
            {canPlan && letters.length > 1 && (
              <th className="w-6">
                <input
                  type="checkbox"
                  aria-label="All strings"
                  className="size-4 accent-[var(--copper)]"
                  checked={selected.size === letters.length}
                  ref={(box) => {
                    if (box)
                      box.indeterminate = selected.size > 0 && selected.size < letters.length;
                  }}
                  onChange={(e) => {
                    setChosen(new Set(e.target.checked ? letters : []));
                  }}
                />
              </th>
            )}
            <th className="text-left">String</th>
            <th className="text-left">Face</th>
            <th className="text-left">Module</th>
            <th className="text-right">In series</th>
            <th className="text-left">On</th>
            <th className="text-right">
              <Term name="cold Voc" />
              {withOptimizers ? " or watts" : ""}
            </th>
            <th className="text-right">
              <Term name="hot Vmp" />
              {withOptimizers ? " or amps" : ""}
            </th>
            <th />
            <th />
          </tr>
        </thead>
        <tbody>
          {strings(job)
            .slice(0, most)
            .map((s, i) => {
              const path = `/job/strings/${String(i)}`;
              const own = checksOf(report, ofString(s.letter)).filter((c) => c.stage === "strings");
              const change = (what: Partial<typeof s>) => {
                editor.edit((d) => changeString(d, i, what, known));
              };
              return (
                <tr
                  key={s.letter}
                  className={clsx(
                    "border-b border-line [&>td]:px-1 [&>td]:py-1",
                    picked === s.letter ? "bg-copper-soft" : "",
                  )}
                >
                  {canPlan && letters.length > 1 && (
                    <td>
                      <input
                        type="checkbox"
                        aria-label={`Choose string ${s.letter}`}
                        className="size-4 accent-[var(--copper)]"
                        checked={selected.has(s.letter)}
                        onChange={(e) => {
                          const next = new Set(selected);
                          if (e.target.checked) next.add(s.letter);
                          else next.delete(s.letter);
                          setChosen(next);
                        }}
                      />
                    </td>
                  )}
                  <td>
                    <button
                      type="button"
                      aria-label={`Working of string ${s.letter}`}
                      className="grid min-h-8 place-items-center"
                      onClick={() => {
                        onPick(s.letter);
                      }}
                    >
                      <Tape tapes={report.tapes} letter={s.letter} />
                    </button>
                  </td>
                  <td className="min-w-28">
                    <Pick
                      compact
                      lean
                      label={`Face of ${s.letter}`}
                      value={s.face}
                      options={faces}
                      disabled={!canPlan}
                      onChange={(face) => {
                        change({ face });
                      }}
                    />
                  </td>
                  <td className="min-w-32">
                    <Pick
                      compact
                      lean
                      label={`Module of ${s.letter}`}
                      value={sheetKey(s.module)}
                      options={modules}
                      disabled={!canPlan}
                      onChange={(key) => {
                        const sheet = known.modules.find((m) => sheetKey(m) === key);
                        if (sheet) change({ module: sheetRef(sheet) });
                      }}
                    />
                    {(withOptimizers || s.optimizer) && (
                      <Pick
                        compact
                        lean
                        label={`Optimizer of ${s.letter}`}
                        value={s.optimizer ? sheetKey(s.optimizer) : ""}
                        options={[["", "no optimizer"], ...optimizers]}
                        disabled={!canPlan}
                        onChange={(key) => {
                          const sheet = known.optimizers.find((o) => sheetKey(o) === key);
                          change({ optimizer: sheet ? sheetRef(sheet) : null });
                        }}
                      />
                    )}
                  </td>
                  <td className="w-16 min-w-16">
                    <NumberField
                      compact
                      label={`Modules in series of ${s.letter}`}
                      value={s.n}
                      readOnly={!canPlan}
                      problem={problemAt(problems, `${path}/n`)}
                      onChange={(n) => {
                        if (n !== null) change({ n });
                      }}
                    />
                  </td>
                  <td className="min-w-24">
                    <Pick
                      compact
                      lean
                      label={`Input of ${s.letter}`}
                      value={`${s.inverter}/${String(s.mppt)}`}
                      options={inputs}
                      disabled={!canPlan}
                      onChange={(key) => {
                        const [inverter, mppt] = key.split("/");
                        if (inverter !== undefined) change({ inverter, mppt: Number(mppt) });
                      }}
                    />
                  </td>
                  <td className="text-right font-mono whitespace-nowrap">
                    {s.optimizer
                      ? amount(valueOf(report, "string.opt_power_w", ofString(s.letter)), "W")
                      : amount(valueOf(report, "string.voc_cold_v", ofString(s.letter)), "V")}
                  </td>
                  <td className="text-right font-mono whitespace-nowrap">
                    {s.optimizer
                      ? amount(valueOf(report, "string.opt_current_a", ofString(s.letter)), "A")
                      : amount(valueOf(report, "string.vmp_hot_v", ofString(s.letter)), "V")}
                  </td>
                  <td>
                    <button
                      type="button"
                      aria-label={`Verdict of string ${s.letter}: ${WORDS[worst(own)]}`}
                      onClick={() => {
                        onPick(s.letter);
                      }}
                    >
                      <Badge verdict={worst(own)} />
                    </button>
                  </td>
                  <td className="text-right">
                    {canPlan && (
                      <TakeOut
                        what={`string ${s.letter}`}
                        onClick={() => {
                          editor.edit((d) => removeString(d, s.letter));
                        }}
                      />
                    )}
                  </td>
                </tr>
              );
            })}
        </tbody>
      </table>
    </div>
  );
}
