/** The meter strip: what each count of modules would read now, the band that holds, the reading. */
import type { MeterStrip as Strip, Verdict } from "../api/client";
import { plain, round } from "../model/format";

const COLOUR: Record<Verdict, string> = {
  pass: "var(--holds)",
  warn: "var(--caution)",
  fail: "var(--stop)",
  unknown: "var(--ink-3)",
};

export function MeterStrip({ strip, verdict }: { strip: Strip; verdict: Verdict }) {
  const width = 480;
  const x = (v: number) => 10 + ((v - strip.from_v) / (strip.to_v - strip.from_v)) * (width - 20);
  return (
    <svg viewBox={`0 0 ${String(width)} 132`} className="block w-full" data-testid="meter-strip">
      <rect x="10" y="44" width={width - 20} height="34" fill="var(--paper)" stroke="var(--line)" />
      <rect
        x={x(strip.band_from_v)}
        y="44"
        width={x(strip.band_to_v) - x(strip.band_from_v)}
        height="34"
        fill="var(--holds-soft)"
        stroke="var(--holds)"
      />
      <text
        x={(x(strip.band_from_v) + x(strip.band_to_v)) / 2}
        y="36"
        textAnchor="middle"
        fontSize="13"
        fontWeight="700"
        fill="var(--holds)"
      >
        {strip.reading_v == null ? `expected ${round(strip.band_from_v)} to ${round(strip.band_to_v)}` : ""}
      </text>
      {strip.marks.map((m) => (
        <g key={m.modules_n} textAnchor="middle" fill="var(--ink-2)">
          <line x1={x(m.volts_v)} x2={x(m.volts_v)} y1="78" y2="86" stroke="var(--ink-3)" />
          <text x={x(m.volts_v)} y="101" fontSize="12">
            {m.modules_n}
          </text>
          <text x={x(m.volts_v)} y="117" fontSize="12" className="font-mono">
            {round(m.volts_v)}
          </text>
        </g>
      ))}
      <text x="10" y="130" fontSize="11" fill="var(--ink-3)">
        modules, and what they read now in volts
      </text>
      {strip.reading_v != null && (
        <g>
          <line
            x1={x(strip.reading_v)}
            x2={x(strip.reading_v)}
            y1="42"
            y2="80"
            stroke={COLOUR[verdict]}
            strokeWidth="4"
          />
          <path d={`M${String(x(strip.reading_v) - 8)} 26h16l-8 14z`} fill={COLOUR[verdict]} />
          <text
            x={Math.min(width - 50, Math.max(50, x(strip.reading_v)))}
            y="20"
            textAnchor="middle"
            fontSize="16"
            fontWeight="700"
            fill={COLOUR[verdict]}
            className="font-mono"
          >
            {plain(strip.reading_v, 1)} V
          </text>
        </g>
      )}
    </svg>
  );
}
