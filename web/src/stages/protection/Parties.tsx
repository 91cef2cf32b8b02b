/** What the fire service, the authority and the network operator ask for, and what it adds. */
import type { Demand } from "../../api/client";
import { plain } from "../../model/format";
import { checkKey, checksOf } from "../../model/report";
import { useBench } from "../../shell/bench";
import { Button } from "../../ui/Button";
import { problemAt } from "../../ui/field";
import { Menu } from "../../ui/Menu";
import { NumberField } from "../../ui/NumberField";
import { TakeOut } from "../../ui/TakeOut";
import { TextField } from "../../ui/TextField";
import { Mark } from "../../ui/verdict";
import { YesNo } from "../../ui/YesNo";

const PARTIES: readonly (readonly [Demand["party"], string])[] = [
  ["fire", "Fire service"],
  ["authority", "Wiring authority"],
  ["network", "Network operator"],
];

export function Parties() {
  const { view, draft, editor, canPlan, choices } = useBench();
  const demands = draft.job.demands ?? {};
  const all = view.report.demands;
  // Who is from outside is told no prices.
  const priced = all.filter((d) => d.cost != null);
  const cost = all.reduce((sum, d) => sum + (d.cost ?? 0), 0);
  const hours = all.reduce((sum, d) => sum + (d.hours ?? 0), 0);
  const add = (party: Demand["party"], what: Demand["what"]) => {
    editor.editJob((j) => {
      const now = j.demands ?? {};
      let key = `${party}-${what}`.replaceAll("_", "-");
      for (let n = 2; now[key]; n++) key = `${party}-${what}-${String(n)}`.replaceAll("_", "-");
      return { ...j, demands: { ...now, [key]: { party, what } as Demand } };
    });
  };
  return (
    <div className="grid gap-4 p-3">
      {priced.length > 0 && (
        <p className="text-sm" data-testid="demands-sum">
          All of them together: <strong className="font-mono">{cost.toFixed(0)}</strong> and{" "}
          <strong className="font-mono">{hours.toFixed(1)}</strong> hours by the prices of the job.
        </p>
      )}
      {PARTIES.map(([party, name]) => {
        const own = Object.entries(demands).filter(([, d]) => d.party === party);
        const usual = choices.demands.filter((d) => d.party === party);
        return (
          <section
            key={party}
            className="rounded-lg border border-line"
            data-testid={`party-${party}`}
          >
            <header className="flex flex-wrap items-center gap-3 border-b border-line px-3 py-2">
              <h3 className="font-bold">{name}</h3>
              {canPlan && (
                <Menu
                  label={`A demand of the ${name.toLowerCase()}`}
                  items={[
                    ...usual.map((d) => ({
                      label: d.title,
                      run: () => {
                        add(party, d.kind);
                      },
                    })),
                    {
                      label: "Something else, in words",
                      run: () => {
                        add(party, "other");
                      },
                    },
                  ]}
                >
                  A demand
                </Menu>
              )}
            </header>
            {own.map(([key, d]) => (
              <One key={key} name={key} demand={d} />
            ))}
            {own.length === 0 && <p className="p-3 text-sm text-ink-2">Nothing is asked yet.</p>}
          </section>
        );
      })}
    </div>
  );
}

function One({ name, demand }: { name: string; demand: Demand }) {
  const { view, editor, canPlan, problems, pick } = useBench();
  const drawn = view.report.demands.find((d) => d.demand === name);
  const checks = checksOf(view.report, { kind: "demand", demand: name });
  const at = (field: string) => problemAt(problems, `/job/demands/${name}/${field}`);
  const change = (to: Partial<Demand>) => {
    editor.editJob((j) => {
      const now = j.demands?.[name];
      return now ? { ...j, demands: { ...j.demands, [name]: { ...now, ...to } } } : j;
    });
  };
  return (
    <div className="border-b border-line p-3 last:border-b-0" data-testid={`demand-${name}`}>
      <div className="mb-2 flex flex-wrap items-center gap-2 text-sm">
        {drawn && <Mark verdict={drawn.verdict} />}
        <button
          type="button"
          className="font-bold underline decoration-line underline-offset-2 max-md:min-h-12"
          onClick={() => {
            const met = checks.find((c) => c.verdict === drawn?.verdict) ?? checks[0];
            if (met) pick(checkKey(met));
          }}
        >
          {drawn?.title ? drawn.title : demand.text || "In words"}
        </button>
        {drawn && ((drawn.cost ?? 0) > 0 || drawn.label) && (
          <span className="text-ink-2">
            adds{" "}
            {[
              (drawn.cost ?? 0) > 0
                ? `${plain(drawn.cost ?? 0, 0)}, ${plain(drawn.hours ?? 0, 1)} h`
                : null,
              drawn.label ? "a label" : null,
            ]
              .filter(Boolean)
              .join(" and ")}
          </span>
        )}
        {canPlan && (
          <span className="ml-auto">
            <TakeOut
              what={`demand ${name}`}
              onClick={() => {
                editor.editJob((j) => {
                  const rest = Object.entries(j.demands ?? {}).filter(([k]) => k !== name);
                  return { ...j, demands: Object.fromEntries(rest) };
                });
              }}
            />
          </span>
        )}
      </div>
      <div className="grid grid-cols-4 items-end gap-2 max-md:grid-cols-1">
        <TextField
          label={`Who said ${name}`}
          value={demand.said_by ?? ""}
          readOnly={!canPlan}
          most={120}
          problem={at("said_by")}
          onChange={(said_by) => {
            change({ said_by });
          }}
        />
        <TextField
          label={`When ${name} was said`}
          value={demand.said_on ?? ""}
          readOnly={!canPlan}
          most={40}
          problem={at("said_on")}
          onChange={(said_on) => {
            change({ said_on });
          }}
        />
        <TextField
          label={`Where ${name} is written`}
          value={demand.evidence ?? ""}
          readOnly={!canPlan}
          most={200}
          problem={at("evidence")}
          onChange={(evidence) => {
            change({ evidence });
          }}
        />
        <TextField
          label={`${name} in their words`}
          value={demand.text ?? ""}
          readOnly={!canPlan}
          most={400}
          problem={at("text")}
          onChange={(text) => {
            change({ text });
          }}
        />
        {demand.what === "ac_disconnect" && (
          <YesNo
            label={`A breaker will do for ${name}`}
            value={demand.breaker_will_do}
            disabled={!canPlan}
            onChange={(breaker_will_do) => {
              change({ breaker_will_do });
            }}
          />
        )}
        {demand.what === "export_limit" && (
          <NumberField
            label={`May be sent to the grid by ${name}`}
            unit="W"
            value={demand.limit_w}
            readOnly={!canPlan}
            problem={at("limit_w")}
            onChange={(limit_w) => {
              change({ limit_w });
            }}
          />
        )}
        <YesNo
          label={`Somebody found ${name} met`}
          value={demand.met}
          disabled={!canPlan}
          onChange={(met) => {
            change({ met });
          }}
        />
        {canPlan && checks.some((c) => (c.cures ?? []).length > 0) && (
          <Button
            onClick={() => {
              const mend = checks.find((c) => (c.cures ?? []).length > 0);
              if (mend) pick(checkKey(mend));
            }}
          >
            What would meet it
          </Button>
        )}
      </div>
    </div>
  );
}
