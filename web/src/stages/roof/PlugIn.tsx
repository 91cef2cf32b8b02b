/**
 * As you plug in: what the meter should read after each module, in today's light. For one hand on
 * the roof: large, and what was entered stays in this browser.
 */
import { useQuery } from "@tanstack/react-query";
import { clsx } from "clsx";
import { useState } from "react";
import { api, Refused } from "../../api/client";
import { amount } from "../../model/format";
import { strings } from "../../model/planning";
import { useBench } from "../../shell/bench";
import { problemAt } from "../../ui/field";
import { NumberField } from "../../ui/NumberField";
import { Sheet } from "../../ui/Sheet";
import { Tape } from "../../ui/Tape";
import { Badge } from "../../ui/verdict";

interface Light {
  irradiance_w_m2: number | null;
  back_c: number | null;
}

/** Light and warmth hold from string to string, and for whoever comes back to the page. */
const key = (job: string) => `heliant.light.${job}`;

function started(job: string): Light {
  const nothing: Light = { irradiance_w_m2: null, back_c: null };
  try {
    return { ...nothing, ...(JSON.parse(localStorage.getItem(key(job)) ?? "{}") as Light) };
  } catch {
    // What does not parse was not written by us.
    return nothing;
  }
}

export function PlugIn() {
  const { view } = useBench();
  const all = strings(view.job);
  const [letter, setLetter] = useState(all[0]?.letter ?? "");
  const [light, setLight] = useState(() => started(view.id));
  const [read, setRead] = useState<Record<string, (number | null)[]>>({});
  const readings = read[letter] ?? [];
  const running = useQuery({
    queryKey: ["running", view.id, view.revision, letter, light, readings],
    queryFn: () =>
      api.running(view.id, { values: { string: letter, ...light }, readings_v: readings }),
    placeholderData: (before) => before,
    enabled: letter !== "",
    retry: false,
  });
  const refused = running.error instanceof Refused ? running.error.errors : [];
  const change = (what: Partial<Light>) => {
    const next = { ...light, ...what };
    setLight(next);
    localStorage.setItem(key(view.id), JSON.stringify(next));
  };
  const judged = running.data;
  const bad = judged?.first_bad_n ?? null;
  const n = all.find((s) => s.letter === letter)?.n ?? 0;
  if (all.length === 0) return null;
  return (
    <Sheet title="As you plug in" aside="volts after each module, now" className="mt-3">
      <div className="p-3 text-base">
        <div className="mb-3 flex flex-wrap gap-2">
          {all.map((s) => (
            <button
              key={s.letter}
              type="button"
              aria-pressed={s.letter === letter}
              aria-label={`Plug in string ${s.letter}`}
              className={clsx(
                "flex min-h-12 min-w-12 items-center justify-center rounded border-2",
                s.letter === letter ? "border-copper" : "border-line",
              )}
              onClick={() => {
                setLetter(s.letter);
              }}
            >
              <Tape tapes={view.report.tapes} letter={s.letter} />
            </button>
          ))}
        </div>
        <div className="grid grid-cols-2 gap-3">
          <NumberField
            label="Light now"
            unit="W/m²"
            value={light.irradiance_w_m2}
            problem={problemAt(refused, "/irradiance_w_m2")}
            onChange={(irradiance_w_m2) => {
              change({ irradiance_w_m2 });
            }}
          />
          <NumberField
            label="Back of a module"
            kept="degC"
            value={light.back_c}
            problem={problemAt(refused, "/back_c")}
            onChange={(back_c) => {
              change({ back_c });
            }}
          />
        </div>
        {judged && judged.verdict === "fail" && (
          <p role="alert" className="mt-3 rounded-lg bg-stop-soft p-3 font-bold text-stop">
            <Badge verdict="fail" /> {judged.reason}
          </p>
        )}
        {judged && judged.expected_v.length === 0 && (
          <p className="mt-3 text-ink-2">Enter light and warmth: then each module has its volts.</p>
        )}
        <ol className="mt-3 grid grid-cols-1 gap-2" data-testid="plug-in">
          {(judged?.expected_v ?? []).slice(0, n).map((volts, i) => (
            <li
              key={`${letter}${String(i)}`}
              className={clsx(
                "flex min-w-0 items-center gap-2 rounded-lg border p-2",
                bad === i + 1 ? "border-2 border-stop" : "border-line",
              )}
            >
              <strong className="w-10 shrink-0 text-lg">{`${letter}${String(i + 1)}`}</strong>
              <span className="min-w-0 grow font-mono text-lg whitespace-nowrap">
                {amount(volts, "V")}
              </span>
              <span className="w-32 shrink-0">
                <NumberField
                  compact
                  label={`Read after ${letter}${String(i + 1)}`}
                  unit="V"
                  value={readings[i]}
                  onChange={(v) => {
                    const next = Array.from({ length: Math.max(n, i + 1) }, (_, k) =>
                      k === i ? v : (readings[k] ?? null),
                    );
                    setRead({ ...read, [letter]: next });
                  }}
                />
              </span>
            </li>
          ))}
        </ol>
      </div>
    </Sheet>
  );
}
