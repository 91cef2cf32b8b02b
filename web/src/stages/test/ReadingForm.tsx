/**
 * One reading: light and warmth first, then what the meter says. Judged while it is typed, kept
 * when it is kept.
 */
import { clsx } from "clsx";
import { useState } from "react";
import type { Reading } from "../../api/client";
import { MeterStrip } from "../../drawing/MeterStrip";
import { fieldTitle } from "../../model/catalogue";
import { age, amount } from "../../model/format";
import { strings } from "../../model/planning";
import { useBench } from "../../shell/bench";
import { Button } from "../../ui/Button";
import { problemAt } from "../../ui/field";
import { NumberField } from "../../ui/NumberField";
import { Pick } from "../../ui/Pick";
import { Sheet } from "../../ui/Sheet";
import { Tape } from "../../ui/Tape";
import { Badge } from "../../ui/verdict";
import type { Entry } from "./useReading";

const KINDS = [
  ["back_c", "module back"],
  ["cell_c", "cell"],
  ["ambient_c", "air"],
] as const;
type Kind = (typeof KINDS)[number][0];

interface Props {
  letter: string;
  entry: Entry;
  /** Whoever comes from another string by Enter types on here. */
  arrived: boolean;
  /** Goes on to the next string. */
  onNext: () => void;
}

export function ReadingForm({ letter, entry, arrived, onNext }: Props) {
  const { view, canRead } = useBench();
  const { reading, carried, change, judged, problems, said, busy, keep } = entry;
  const [kind, setKind] = useState<Kind>(
    () => KINDS.find(([k]) => reading[k] != null)?.[0] ?? "back_c",
  );
  const onward = () => {
    if (!canRead || busy || (reading.voc_v == null && reading.isc_a == null)) return;
    // What does not hold is looked at before anything else.
    void keep().then((holds) => {
      if (holds) onNext();
    });
  };
  const at = (field: keyof Reading) => problemAt(problems, `/${field}`);
  const figure = (id: string) => judged?.figures.find((f) => f.id === id);
  const voc = judged?.checks.find((c) => c.id === "test.voc_v");
  const isc = judged?.checks.find((c) => c.id === "test.isc_a");
  const n = strings(view.job).find((s) => s.letter === letter)?.n ?? 0;
  const missing = [...new Set(judged?.figures.flatMap((f) => f.missing ?? []) ?? [])];
  const causes = judged?.causes ?? [];
  const temperature = (value: number | null): Partial<Reading> => ({
    back_c: null,
    cell_c: null,
    ambient_c: null,
    [kind]: value,
  });
  return (
    <Sheet
      title={
        <span className="flex items-center gap-2 text-base">
          <Tape tapes={view.report.tapes} letter={letter} /> Open-circuit volts, {n} modules
        </span>
      }
    >
      <div className="p-3">
        <div
          className={clsx(
            "grid grid-cols-[1fr_1.5fr_1fr_1fr_1fr] items-start gap-3",
            "max-md:grid-cols-2",
          )}
        >
          <NumberField
            live
            label="Irradiance"
            unit="W/m²"
            value={reading.irradiance_w_m2}
            readOnly={!canRead}
            problem={at("irradiance_w_m2")}
            onChange={(irradiance_w_m2) => {
              change({ irradiance_w_m2 });
            }}
          />
          <Pick
            label="Temperature of"
            value={kind}
            options={KINDS}
            disabled={!canRead}
            onChange={(k) => {
              const value = reading[kind] ?? null;
              setKind(k as Kind);
              change({ back_c: null, cell_c: null, ambient_c: null, [k]: value });
            }}
          />
          <NumberField
            live
            label="Temperature"
            kept="degC"
            value={reading[kind]}
            readOnly={!canRead}
            problem={at(kind)}
            onChange={(v) => {
              change(temperature(v));
            }}
          />
          <NumberField
            live
            label="Voc read"
            unit="V"
            signed
            autoFocus={arrived}
            onEnter={onward}
            value={reading.voc_v}
            readOnly={!canRead}
            problem={at("voc_v")}
            onChange={(voc_v) => {
              change({ voc_v });
            }}
          />
          <NumberField
            live
            label="Isc read"
            unit="A"
            onEnter={onward}
            value={reading.isc_a}
            readOnly={!canRead}
            problem={at("isc_a")}
            onChange={(isc_a) => {
              change({ isc_a });
            }}
          />
        </div>
        {carried && (
          <p className="mt-2 text-sm text-ink-2 max-md:text-base" data-testid="carried">
            Light and warmth as read {age(carried, Date.now())}: read them again if the light has
            changed.
          </p>
        )}
        <div
          className="mt-3 flex flex-wrap items-center gap-x-4 gap-y-1 text-sm max-md:text-base"
          aria-live="polite"
          data-testid="expected"
        >
          <span>
            expected{" "}
            <strong className="font-mono">
              {amount(figure("test.voc_expected_v")?.value, "V")}
            </strong>
          </span>
          {figure("test.isc_expected_a")?.value != null && (
            <span>
              and{" "}
              <strong className="font-mono">
                {amount(figure("test.isc_expected_a")?.value, "A")}
              </strong>
            </span>
          )}
          {figure("test.t_cell_c")?.value != null && (
            <span className="text-ink-2">
              cells at {amount(figure("test.t_cell_c")?.value, "degC")}
            </span>
          )}
          {missing.length > 0 && (
            <span className="text-ink-2">open: {missing.map(fieldTitle).join(", ")}</span>
          )}
          <span className="grow" />
          {reading.voc_v != null && voc && <Badge verdict={voc.verdict} />}
          {reading.isc_a != null && isc && (
            <span className="flex items-center gap-1 text-xs">
              Isc <Badge verdict={isc.verdict} />
            </span>
          )}
        </div>
        {judged?.strip && (
          <div className="mt-2">
            <MeterStrip strip={judged.strip} verdict={voc?.verdict ?? "unknown"} />
          </div>
        )}
        {reading.voc_v != null && voc && voc.verdict !== "pass" && (
          <div
            className="mt-2 rounded-lg bg-caution-soft p-3 text-sm max-md:text-base"
            data-testid="cause"
          >
            {causes.length === 0 && voc.reason && <p>{voc.reason}</p>}
            {causes[0] && <p className="font-bold">Most likely: {causes[0].text}</p>}
            {causes.slice(1).map((c) => (
              <p key={c.code + c.text}>or: {c.text}</p>
            ))}
          </div>
        )}
        <div className="mt-3 flex flex-wrap items-center gap-3">
          {canRead ? (
            <Button
              main
              className="max-md:w-full"
              disabled={busy || (reading.voc_v == null && reading.isc_a == null)}
              onClick={() => {
                void keep();
              }}
            >
              Keep this reading
            </Button>
          ) : (
            <span className="text-sm text-ink-2">
              Your role looks; readings are added by field, designer and owner.
            </span>
          )}
          {canRead && (
            <span className="text-xs text-ink-2 max-md:hidden">
              Enter keeps it and goes on where it holds
            </span>
          )}
          {said && (
            <span role="status" className="text-sm font-bold max-md:text-base">
              {said}
            </span>
          )}
          {problems
            .filter((e) => !e.path.slice(1))
            .map((e) => (
              <span key={e.message} role="alert" className="text-sm text-stop">
                {e.message}: {e.hint}
              </span>
            ))}
        </div>
      </div>
    </Sheet>
  );
}
