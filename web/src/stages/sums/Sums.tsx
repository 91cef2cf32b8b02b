/**
 * Quick sums: pick one, type or paste the few inputs, read the slip. Every sum the core declares is
 * here.
 */
import { clsx } from "clsx";
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { NavLink, useNavigate, useParams } from "react-router";
import {
  api,
  Refused,
  unlessRefused,
  type Account,
  type Job,
  type Problem,
  type Sum,
  type SumInput,
} from "../../api/client";
import { amount, many } from "../../model/format";
import { pasted, sampled, type Values } from "../../model/paste";
import { keepInputs, keptInputs } from "../../model/sumInputs";
import { PageHead } from "../../shell/PageHead";
import { Lines } from "../../shell/Slip";
import { SCHOOL } from "../../text/words";
import { Button } from "../../ui/Button";
import { Dialog } from "../../ui/Dialog";
import { NumberField } from "../../ui/NumberField";
import { Pick } from "../../ui/Pick";
import { Sheet } from "../../ui/Sheet";
import { TextField } from "../../ui/TextField";
import { Tick } from "../../ui/Tick";
import { Badge } from "../../ui/verdict";

export function Sums({ account }: { account: Account }) {
  const { school = "na", name } = useParams();
  const sums = useQuery({ queryKey: ["sums"], queryFn: api.sums, staleTime: Infinity });
  const own = (sums.data ?? []).filter((s) => s.school === school);
  const sum = own.find((s) => s.name === name) ?? own[0];
  useEffect(() => {
    document.title = "Quick sums · Heliant";
  }, []);
  return (
    <div className="flex h-full flex-col max-md:h-auto">
      <PageHead account={account} />
      <div className="paper-flow grid min-h-0 grow grid-cols-[220px_minmax(0,1fr)] max-md:block">
        <nav
          aria-label="Quick sums"
          className="no-print overflow-y-auto border-r border-line bg-sheet p-3"
        >
          <h1 className="mb-2 text-lg font-bold">Quick sums</h1>
          <div className="mb-2 flex gap-2" role="group" aria-label="School">
            {(["na", "iec"] as const).map((s) => (
              <NavLink
                key={s}
                to={`/sums/${s}/${name ?? own[0]?.name ?? "string-window"}`}
                aria-current={s === school ? "true" : undefined}
                className={clsx(
                  "min-h-9 rounded border px-2 py-1.5 text-sm max-md:min-h-12",
                  s === school ? "border-copper bg-copper-soft font-bold" : "border-line",
                )}
              >
                {SCHOOL[s]}
              </NavLink>
            ))}
          </div>
          <ul className="max-md:flex max-md:flex-wrap max-md:gap-1">
            {own.map((s) => (
              <li key={s.name}>
                <NavLink
                  to={`/sums/${school}/${s.name}`}
                  className={clsx(
                    "block rounded px-2 py-1.5 text-sm max-md:grid max-md:min-h-12",
                    "max-md:items-center max-md:border max-md:border-line",
                    "max-md:text-base",
                    s === sum ? "bg-copper-soft font-bold" : "",
                  )}
                >
                  {s.title}
                </NavLink>
              </li>
            ))}
          </ul>
        </nav>
        {sum && <OneSum key={`${sum.name}${sum.school}`} sum={sum} account={account} />}
      </div>
    </div>
  );
}

function OneSum({ sum, account }: { sum: Sum; account: Account }) {
  const [values, setValues] = useState<Values>(() => ({ ...sampled(sum), ...keptInputs(sum) }));
  useEffect(() => {
    keepInputs(sum, values);
  }, [sum, values]);
  const [asking, setAsking] = useState(false);
  const [paste, setPaste] = useState<string | null>(null);
  const [said, setSaid] = useState<string | null>(null);
  const navigate = useNavigate();
  const school = sum.school as Job["school"];
  const slip = useQuery({
    queryKey: ["sum", sum.name, school, values],
    queryFn: () => api.doSum(sum.name, school, values),
    placeholderData: keepPreviousData,
    retry: unlessRefused,
    staleTime: Infinity,
  });
  const problems: Problem[] = slip.error instanceof Refused ? slip.error.errors : [];
  const done = slip.error ? undefined : slip.data;
  const set = (key: string) => (value: unknown) => {
    setSaid(null);
    setValues((v) => ({ ...v, [key]: value }));
  };
  const at = (key: string) => problems.find((p) => p.path === `/${key}`);
  const canPlan = account.role === "owner" || account.role === "designer";
  return (
    <div
      className={clsx(
        "grid min-h-0 grid-cols-[minmax(0,1fr)_380px] gap-3 overflow-y-auto p-4",
        "max-lg:grid-cols-1 max-md:p-3",
      )}
    >
      <Sheet title={sum.title} aside={sum.about} className="self-start">
        <div className="grid grid-cols-3 items-end gap-3 p-4 max-md:grid-cols-1">
          {sum.inputs.map((i) => (
            <SumField
              key={i.key}
              input={i}
              value={values[i.key]}
              problem={at(i.key)}
              onChange={set(i.key)}
            />
          ))}
        </div>
        <div className="no-print flex flex-wrap items-center gap-2 border-t border-line p-4">
          <Button
            onClick={() => {
              setPaste(paste === null ? "" : null);
            }}
          >
            Paste inputs
          </Button>
          <Button
            disabled={!done}
            onClick={() => {
              if (done)
                void navigator.clipboard.writeText(done.text).then(
                  () => {
                    setSaid("The slip is copied.");
                  },
                  () => {
                    setSaid(
                      "The browser does not allow copying: mark the slip and copy it by hand.",
                    );
                  },
                );
            }}
          >
            Copy the slip
          </Button>
          <Button
            disabled={!done}
            onClick={() => {
              window.print();
            }}
          >
            Print it
          </Button>
          {canPlan && (
            <Button
              disabled={!done}
              onClick={() => {
                setAsking(true);
              }}
            >
              Turn it into a job
            </Button>
          )}
          <Button
            onClick={() => {
              setSaid(null);
              setValues(sampled(sum));
            }}
          >
            Sample inputs again
          </Button>
          {said && (
            <span role="status" className="text-sm">
              {said}
            </span>
          )}
        </div>
        {paste !== null && (
          <div className="grid gap-2 px-4 pb-4">
            <label className="text-xs text-ink-2">
              One input a line, with its name and its value; or JSON
              <textarea
                className="h-28 w-full rounded border border-ink-3 bg-sheet p-2 font-mono text-sm"
                value={paste}
                onChange={(e) => {
                  setPaste(e.target.value);
                }}
              />
            </label>
            <div>
              <Button
                main
                onClick={() => {
                  const found = pasted(sum, paste);
                  setValues((v) => ({ ...v, ...found.values }));
                  setPaste(null);
                  const n = Object.keys(found.values).length;
                  const left = found.left.join("; ");
                  setSaid(`${many(n, "input")} taken.${left ? ` Not understood: ${left}` : ""}`);
                }}
              >
                Take them
              </Button>
            </div>
          </div>
        )}
      </Sheet>
      <Dialog
        title="A new job from these inputs"
        open={asking}
        onClose={() => {
          setAsking(false);
        }}
      >
        <p className="mb-2 text-sm">
          A {SCHOOL[school]} job is made and opened; it takes these along:
        </p>
        <dl className="mb-3 grid grid-cols-[1fr_auto] gap-x-4 text-sm">
          {sum.inputs.map((i) => (
            <div key={i.key} className="contents">
              <dt className="text-ink-2">{i.title}</dt>
              <dd className="text-right font-mono">{inputText(values[i.key], i)}</dd>
            </div>
          ))}
        </dl>
        <Button
          main
          onClick={() => {
            setAsking(false);
            api
              .sumToJob(sum.name, school, values)
              .then((made) => navigate(`/jobs/${made.id}/strings`))
              .catch((e: unknown) => {
                setSaid(
                  e instanceof Refused
                    ? e.detail
                    : "The server does not answer. Try again in a moment.",
                );
              });
          }}
        >
          Make the job
        </Button>
      </Dialog>
      <article
        className="self-start rounded-lg border border-line bg-sheet p-4"
        aria-label="Slip"
        data-testid="sum-slip"
        aria-live="polite"
      >
        <h2 className="font-bold">{sum.title}</h2>
        {problems.length > 0 && (
          <ul className="mt-2 text-sm font-bold text-stop" role="alert">
            {problems.map((p) => (
              <li key={p.path + p.message}>
                {p.message}
                {p.hint ? `: ${p.hint}` : ""}
              </li>
            ))}
          </ul>
        )}
        {slip.error && !(slip.error instanceof Refused) && (
          <p className="mt-2 text-sm text-caution">
            The server does not answer. It is tried again.
          </p>
        )}
        {done?.answers.map((f, i) => (
          <section key={f.id} className="mt-3">
            <h3 className="flex items-baseline justify-between gap-3">
              <span className="text-sm">{f.title}</span>
              <span
                className={`text-right font-mono font-bold ${i === 0 ? "text-xl" : "text-base"}`}
              >
                {f.value == null && f.note ? "none" : amount(f.value, f.unit)}
              </span>
            </h3>
            {f.note && <p className="text-xs text-ink-2">{f.note}</p>}
            <Lines figure={f} />
            <p className="text-xs text-ink-3">Rests on {f.source}</p>
          </section>
        ))}
        {done && done.checks.length > 0 && (
          <ul className="mt-3 border-t border-dashed border-ink-3 pt-2 text-sm">
            {done.checks
              .filter((c) => !c.alternative)
              .map((c, i) => (
                <li key={`${c.id}${String(i)}`} className="border-b border-line py-1">
                  <div className="flex items-center gap-2">
                    <span className="grow">{c.title}</span>
                    <Badge verdict={c.verdict} />
                  </div>
                  {c.reason && <p className="text-xs">{c.reason}</p>}
                  {c.cures?.map((cure) => (
                    <p key={cure.text} className="text-xs text-ink-2">
                      {cure.text}
                    </p>
                  ))}
                </li>
              ))}
          </ul>
        )}
        <p className="mt-3 text-xs text-ink-2">
          The local code and a licensed person have the last word.
        </p>
      </article>
    </div>
  );
}

function inputText(value: unknown, input: SumInput): string {
  if (value === null || value === undefined || value === "") return "not given";
  if (typeof value === "boolean") return value ? "yes" : "no";
  const text = String(value as string | number).replaceAll("_", " ");
  return input.kind === "count" || !input.unit ? text : `${text} ${input.unit}`;
}

function SumField({
  input,
  value,
  problem,
  onChange,
}: {
  input: SumInput;
  value: unknown;
  problem: Problem | undefined;
  onChange: (value: unknown) => void;
}) {
  const label = input.title;
  switch (input.kind) {
    case "number":
    case "count":
      return (
        <NumberField
          label={label}
          unit={input.unit}
          value={value as number | null | undefined}
          problem={problem}
          onChange={onChange}
        />
      );
    case "choice":
      return (
        <Pick
          label={label}
          value={(value as string | undefined) ?? ""}
          options={input.options.map((o) => [o, o.replaceAll("_", " ")] as const)}
          onChange={onChange}
        />
      );
    case "flag":
      return <Tick label={input.title} checked={value === true} onChange={onChange} />;
    case "text":
      return (
        <TextField
          label={`${label}${input.unit ? `, ${input.unit}` : ""}`}
          value={(value as string | undefined) ?? ""}
          problem={problem}
          onChange={onChange}
        />
      );
  }
}
