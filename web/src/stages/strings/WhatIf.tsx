/**
 * Trying out: a colder morning, another inverter, a module moved. Nothing is kept until it is said.
 */
import { useState } from "react";
import type { Report } from "../../api/client";
import { amount } from "../../model/format";
import type { Draft } from "../../model/editor";
import {
  bothLibraries,
  inverters,
  moveModule,
  sheetKey,
  sheetName,
  strings,
  swapInverter,
} from "../../model/planning";
import { setAt } from "../../model/pointer";
import { moves } from "../../model/report";
import { useBench } from "../../shell/bench";
import { Button } from "../../ui/Button";
import { NumberField } from "../../ui/NumberField";
import { Pick } from "../../ui/Pick";

interface Props {
  trial: Draft | null;
  report: Report | undefined;
  /** What is wrong with what is tried, in words. */
  refused: string | null;
  onTry: (draft: Draft | null) => void;
}

export function WhatIf({ trial, report, refused, onTry }: Props) {
  const { view, draft, editor, company, canPlan } = useBench();
  const now = trial ?? draft;
  const { job } = now;
  const known = bothLibraries(draft.library, company);
  const letters = strings(job).map((s, i) => [String(i), `${s.letter}: ${String(s.n)}`] as const);
  const [from, setFrom] = useState("0");
  const [to, setTo] = useState("1");
  const tried = (next: Draft) => {
    onTry(next);
  };
  const t = job.site.t_min_c;
  return (
    <div className="p-3">
      <div className="flex flex-wrap items-end gap-x-4 gap-y-2">
        <div className="flex items-end gap-1">
          <div className="w-28">
            <NumberField
              label="Coldest morning"
              kept="degC"
              value={t}
              onChange={(v) => {
                tried({ ...now, job: setAt(job, "/site/t_min_c", v) });
              }}
            />
          </div>
          {([-1, 1] as const).map((by) => (
            <Button
              key={by}
              aria-label={by < 0 ? "One degree colder" : "One degree warmer"}
              disabled={t == null}
              onClick={() => {
                if (t != null) tried({ ...now, job: setAt(job, "/site/t_min_c", t + by) });
              }}
            >
              {by < 0 ? "−" : "+"}
            </Button>
          ))}
        </div>
        {inverters(job).map((i) => (
          <div key={i.id} className="w-44">
            <Pick
              label={`Inverter ${i.id}`}
              value={sheetKey(i.sheet)}
              options={known.inverters.map((s) => [sheetKey(s), sheetName(s)] as const)}
              onChange={(key) => {
                const sheet = known.inverters.find((s) => sheetKey(s) === key);
                if (sheet) tried(swapInverter(now, known, i.id, sheet));
              }}
            />
          </div>
        ))}
        {letters.length > 1 && (
          <div className="flex items-end gap-1">
            <div className="w-24">
              <Pick label="A module from" value={from} options={letters} onChange={setFrom} />
            </div>
            <div className="w-24">
              <Pick label="to" value={to} options={letters} onChange={setTo} />
            </div>
            <Button
              disabled={from === to}
              onClick={() => {
                tried(moveModule(now, Number(from), Number(to)));
              }}
            >
              Move one
            </Button>
          </div>
        )}
      </div>
      <div
        className="mt-3 min-h-16 border-t border-line pt-2 text-sm"
        aria-live="polite"
        data-testid="what-moves"
      >
        {refused && <p className="font-bold text-stop">{refused}</p>}
        {!trial && (
          <p className="text-ink-2">
            Change something: the window above shows it, with what is kept dashed behind it.
            Dragging a tape onto another string moves a module there.
          </p>
        )}
        {trial && report && (
          <>
            <p className="font-bold">
              Against revision {view.revision}: {amount(report.counts.fail, "n")} stops,{" "}
              {amount(report.counts.warn, "n")} cautions
            </p>
            <ul className="list-disc pl-5">
              {moves(view, { job: trial.job, report }).map((m) => (
                <li key={m}>{m}</li>
              ))}
            </ul>
          </>
        )}
      </div>
      {trial && (
        <div className="mt-2 flex gap-2">
          {canPlan && (
            <Button
              main
              disabled={refused !== null}
              onClick={() => {
                editor.edit(() => trial);
                onTry(null);
              }}
            >
              Keep it
            </Button>
          )}
          <Button
            onClick={() => {
              onTry(null);
            }}
          >
            Drop it
          </Button>
        </div>
      )}
    </div>
  );
}
