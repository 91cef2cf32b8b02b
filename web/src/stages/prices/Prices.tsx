/** The company's prices and times, by which routes, places and repairs are compared. */
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, refusal, type Account, type Problem, type Rate } from "../../api/client";
import { SPELLINGS } from "../../model/catalogue";
import { PageHead } from "../../shell/PageHead";
import { Notice } from "../../shell/Notice";
import { NumberField } from "../../ui/NumberField";
import { Sheet } from "../../ui/Sheet";

const GROUPS: [group: string, title: string, about: string][] = [
  ["year", "Hours, energy, years", "what work and losses are worth"],
  ["material", "Material", "in your money"],
  ["work", "Work on site", "minutes of one person"],
  ["repair", "Repairs", "minutes, by which they are ranked"],
  ["panel", "Panels", "what it takes to bring PV onto one"],
];

const UNITS: Record<string, string> = { cost: "", min: "min", "%": "%", years: "years" };

export function Prices({ account }: { account: Account }) {
  const queries = useQueryClient();
  const all = useQuery({ queryKey: ["rates"], queryFn: api.rates });
  const shown = useQuery({ queryKey: ["shown"], queryFn: api.shown });
  const [problems, setProblems] = useState<Record<string, Problem>>({});
  const may = account.role === "owner";
  if (!all.data) return <Notice text={all.isError ? "The server does not answer." : "Opening"} />;
  const { table, own } = all.data;
  const length = shown.data?.own.length ?? shown.data?.company.length;
  const feet = SPELLINGS.find((s) => s.unit === "m" && s.words.includes("ft"));
  /** A rate by the metre, by what lengths are shown in. */
  const by = (r: Rate) => (length === "ft" && feet && r.key.endsWith("_m") ? feet.factor : 1);
  const set = async (key: string, value: number | null) => {
    try {
      queries.setQueryData(["rates"], await api.setRate(key, value));
      setProblems((p) => Object.fromEntries(Object.entries(p).filter(([k]) => k !== key)));
    } catch (error) {
      const { message, errors } = refusal(error);
      setProblems((p) => ({ ...p, [key]: errors[0] ?? { path: "", message, hint: "" } }));
    }
  };
  return (
    <div className="flex h-full flex-col">
      <PageHead account={account} />
      <main className="min-h-0 grow overflow-y-auto p-4">
        <div className="mx-auto max-w-4xl">
          <h1 className="mb-1 text-lg font-bold">Prices and times</h1>
          <p className="mb-3 text-sm text-ink-2">
            Routes, places of the inverter, wires and repairs are compared by these. A new job takes
            them as they are today; a job that is there keeps its own until it is told otherwise. A
            field that is emptied counts as it came with the program.
          </p>
          {GROUPS.map(([group, title, about]) => (
            <Sheet key={group} title={title} aside={about} className="mb-3">
              <div className="grid gap-x-6 gap-y-2 p-3 md:grid-cols-2">
                {table
                  .filter((r) => r.group === group)
                  .map((r) => {
                    const title = by(r) === 1 ? r.title : r.title.replace("metre", "foot");
                    return (
                      <div key={r.key} className="grid grid-cols-[1fr_9rem] items-end gap-2">
                        <span className="pb-2 text-sm">
                          {title}
                          {own[r.key] !== undefined && (
                            <span className="block text-xs text-ink-2">
                              {String(tidy(r.value * by(r)))} as it came
                            </span>
                          )}
                        </span>
                        <NumberField
                          label={title}
                          compact
                          unit={UNITS[r.unit] ?? r.unit}
                          value={tidy((own[r.key] ?? r.value) * by(r))}
                          readOnly={!may}
                          problem={problems[r.key]}
                          onChange={(value) => {
                            void set(r.key, value === null ? null : tidy(value / by(r)));
                          }}
                        />
                      </div>
                    );
                  })}
              </div>
            </Sheet>
          ))}
        </div>
      </main>
    </div>
  );
}

/** Without what a factor adds behind the fourth digit of a price. */
const tidy = (value: number): number => Number(value.toPrecision(4));
