/** When the front row shades the row behind it, as a strip of hours of any day of the year. */
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, type RoofFace, type RowShade } from "../../api/client";
import { amount, plain } from "../../model/format";
import { useBench } from "../../shell/bench";
import { Field, inputLook } from "../../ui/field";

const [WIDE, HIGH] = [720, 34];
const MONTHS = [31, 28, 31, 30, 31, 30, 31, 31, 30, 31, 30, 31];

/** Hours and minutes of sun time. */
const clock = (hours: number): string => {
  const minutes = Math.round(hours * 60);
  return `${String(Math.floor(minutes / 60))}:${String(minutes % 60).padStart(2, "0")}`;
};

export function RowStrip({ face }: { face: RoofFace }) {
  const { draft } = useBench();
  const { job, library } = draft;
  const rows = face.rows;
  const shortest = rows?.shortest ?? null;
  const [chosen, setChosen] = useState<{ month: number; day: number } | null>(null);
  const month = chosen?.month ?? shortest?.month ?? 12;
  const day = Math.min(chosen?.day ?? shortest?.day ?? 21, MONTHS[month - 1] ?? 31);
  const asked = useQuery({
    queryKey: ["shade", job.roof, job.site, face.face, month, day],
    queryFn: () => api.rowShade(job, library, { face: face.face, month, day }),
    enabled: shortest !== null && chosen !== null,
    placeholderData: (before) => before,
    retry: false,
  });
  if (!rows || rows.n < 2) return null;
  const shade = chosen === null ? shortest : (asked.data ?? shortest);
  const names = Array.from({ length: 12 }, (_, i) =>
    new Date(2025, i, 1).toLocaleString("en", { month: "long" }),
  );
  return (
    <section className="border-t border-line p-3" aria-label={`Shade between rows, ${face.name}`}>
      <h3 className="text-sm font-bold">Shade between rows</h3>
      {shade === null ? (
        <p className="text-sm text-ink-2">The latitude is not entered yet (Site).</p>
      ) : (
        <>
          <div className="my-2 flex flex-wrap items-end gap-3">
            <Field label="Month">
              {(control) => (
                <select
                  {...control}
                  className={inputLook}
                  value={month}
                  onChange={(e) => {
                    setChosen({ month: Number(e.target.value), day });
                  }}
                >
                  {names.map((name, i) => (
                    <option key={name} value={i + 1}>
                      {name}
                    </option>
                  ))}
                </select>
              )}
            </Field>
            <Field label="Day">
              {(control) => (
                <input
                  {...control}
                  type="number"
                  min={1}
                  max={MONTHS[month - 1]}
                  className={`${inputLook} w-20 text-right font-mono`}
                  value={day}
                  onChange={(e) => {
                    const next = Number(e.target.value);
                    if (next >= 1 && next <= 31) setChosen({ month, day: next });
                  }}
                />
              )}
            </Field>
            <p className="pb-1 text-sm" data-testid={`shade-${face.face}`}>
              <strong>{plain(shade.shaded_h, 1)} h in shade</strong> at a gap of{" "}
              {amount(rows.gap_m, "m")}; no shade from 9:00 to 15:00 on this day from{" "}
              {amount(shade.gap_min_m, "m")} on.
            </p>
          </div>
          <Strip shade={shade} />
        </>
      )}
    </section>
  );
}

function Strip({ shade }: { shade: RowShade }) {
  const x = (hour: number) => (hour / 24) * WIDE;
  const sun = shade.sun_h as [number, number] | null;
  const spans = shade.shaded as [number, number][];
  const said = spans.map(([from, to]) => `${clock(from)} to ${clock(to)}`).join(", ");
  return (
    <svg
      viewBox={`0 0 ${String(WIDE)} ${String(HIGH + 18)}`}
      className="block w-full"
      role="img"
      aria-label={`In shade: ${said || "never"}, sun time`}
    >
      <rect width={WIDE} height={HIGH} fill="var(--line)" />
      {sun && (
        <rect
          x={x(sun[0])}
          width={x(sun[1]) - x(sun[0])}
          height={HIGH}
          fill="var(--caution-soft)"
        />
      )}
      {spans.map(([from, to]) => (
        <rect key={from} x={x(from)} width={x(to) - x(from)} height={HIGH} fill="var(--ink-2)" />
      ))}
      {[9, 15].map((hour) => (
        <line
          key={hour}
          x1={x(hour)}
          x2={x(hour)}
          y2={HIGH}
          stroke="var(--copper)"
          strokeDasharray="3 3"
        />
      ))}
      {[0, 3, 6, 9, 12, 15, 18, 21, 24].map((hour) => (
        <text
          key={hour}
          x={x(hour)}
          y={HIGH + 13}
          textAnchor={hour === 0 ? "start" : hour === 24 ? "end" : "middle"}
          fontSize="11"
          fill="var(--ink-2)"
        >
          {`${String(hour)}:00`}
        </text>
      ))}
      {spans.map(([from, to]) => (
        <text
          key={from}
          x={x((from + to) / 2)}
          y={HIGH / 2 + 4}
          textAnchor="middle"
          fontSize="11"
          fill="var(--sheet)"
        >
          {to - from > 1.6 ? `${clock(from)} to ${clock(to)}` : ""}
        </text>
      ))}
    </svg>
  );
}
