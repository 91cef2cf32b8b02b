/** The meter strip: what each count of modules would read now, the band that holds, the reading. */
import type { MeterStrip as Strip, Verdict } from "../api/client";
import { plain, round } from "../model/format";
import { useNarrow } from "../ui/useNarrow";

const COLOUR: Record<Verdict, string> = {
  pass: "var(--holds)",
  warn: "var(--caution)",
  fail: "var(--stop)",
  unknown: "var(--ink-3)",
};

export function MeterStrip({ strip, verdict }: { strip: Strip; verdict: Verdict }) {
  // Drawn at the width it is shown at, so that figures keep their size in the hand.
  const narrow = useNarrow();
  const width = narrow ? 340 : 520;
  const size = narrow ? 16 : 12.5;
  const x = (v: number) => 10 + ((v - strip.from_v) / (strip.to_v - strip.from_v)) * (width - 20);
  const { reading_v: reading } = strip;
  return (
    <svg
      viewBox={`0 0 ${String(width)} ${narrow ? "152" : "132"}`}
      className="block w-full"
      role="img"
      aria-label={`Holds from ${round(strip.band_from_v)} to ${round(strip.band_to_v)} volts`}
      data-testid="meter-strip"
    >
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
        x={Math.min(width - 90, (x(strip.band_from_v) + x(strip.band_to_v)) / 2)}
        y={reading == null ? 34 : 67}
        textAnchor="middle"
        fontSize={size}
        fontWeight="700"
        fill="var(--holds)"
      >
        {reading == null ? `holds ${round(strip.band_from_v)} to ${round(strip.band_to_v)} V` : ""}
      </text>
      {strip.marks.map((m) => (
        <g key={m.modules_n} textAnchor="middle" fontSize={size} fill="var(--ink-2)">
          <line x1={x(m.volts_v)} x2={x(m.volts_v)} y1="78" y2="86" stroke="var(--ink-3)" />
          <text x={x(m.volts_v)} y={narrow ? 103 : 100}>
            {m.modules_n}
          </text>
          <text x={x(m.volts_v)} y={narrow ? 124 : 116} className="font-mono">
            {round(m.volts_v)}
          </text>
        </g>
      ))}
      <text x="10" y={narrow ? 146 : 130} fontSize={narrow ? 16 : 11.5} fill="var(--ink-3)">
        modules, and what they read now, volts
      </text>
      {reading != null && (
        <g fill={COLOUR[verdict]}>
          <line
            x1={x(reading)}
            x2={x(reading)}
            y1="42"
            y2="80"
            stroke={COLOUR[verdict]}
            strokeWidth="4"
          />
          <path d={`M${String(x(reading) - 8)} 26h16l-8 14z`} />
          <text
            x={Math.min(width - 50, Math.max(50, x(reading)))}
            y="20"
            textAnchor="middle"
            fontSize="17"
            fontWeight="700"
            className="font-mono"
          >
            {plain(reading, 1)} V
          </text>
        </g>
      )}
    </svg>
  );
}
