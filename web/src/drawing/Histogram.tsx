/** Hours by temperature, with the chosen points marked. */
import type { WeatherBin } from "../api/client";
import { plain } from "../model/format";

const WIDTH = 380;
const HEIGHT = 150;
const STEP = 2;

export function Histogram({
  bins,
  marks,
}: {
  bins: WeatherBin[];
  marks: { at: number; title: string }[];
}) {
  const all = [...bins.map((b) => b.from_c), ...marks.map((m) => m.at)];
  const from = Math.floor((Math.min(...all) - 2) / 10) * 10;
  const to = Math.ceil((Math.max(...all) + 4) / 10) * 10;
  const most = Math.max(1, ...bins.map((b) => b.hours_n));
  const x = (c: number) => 10 + ((c - from) / (to - from)) * (WIDTH - 20);
  const floor = HEIGHT - 24;
  const top = 34;
  const ticks = Array.from({ length: (to - from) / 10 + 1 }, (_, i) => from + i * 10);
  return (
    <svg
      viewBox={`0 0 ${String(WIDTH)} ${String(HEIGHT)}`}
      className="block w-full"
      role="img"
      aria-label={[
        "Hours by temperature",
        ...marks.map((m) => `${m.title} ${plain(m.at, 1)} °C`),
      ].join(", ")}
      data-testid="histogram"
    >
      {bins.map((b) => {
        const height = (b.hours_n / most) * (floor - top);
        // An hour in a band still shows.
        const drawn = b.hours_n > 0 ? Math.max(1, height) : 0;
        return (
          <rect
            key={b.from_c}
            x={x(b.from_c)}
            y={floor - drawn}
            width={Math.max(1, x(b.from_c + STEP) - x(b.from_c) - 1)}
            height={drawn}
            fill="var(--ink-3)"
            opacity="0.55"
          >
            <title>
              {plain(b.from_c, 0)} to {plain(b.from_c + STEP, 0)} °C: {b.hours_n} h
            </title>
          </rect>
        );
      })}
      <line x1="10" x2={WIDTH - 10} y1={floor} y2={floor} stroke="var(--ink)" />
      <g fontSize="11.5" fill="var(--ink-2)" textAnchor="middle" className="font-mono">
        {ticks.map((t) => (
          <text key={t} x={x(t)} y={HEIGHT - 8}>
            {plain(t, 0)}
          </text>
        ))}
      </g>
      {marks.map((m) => {
        const right = x(m.at) > WIDTH / 2;
        return (
          <g key={m.title}>
            <line
              x1={x(m.at)}
              x2={x(m.at)}
              y1="16"
              y2={floor}
              stroke="var(--copper)"
              strokeWidth="2"
            />
            <text
              x={x(m.at) + (right ? -5 : 5)}
              y="14"
              fontSize="12"
              fontWeight="700"
              fill="var(--ink)"
              textAnchor={right ? "end" : "start"}
            >
              {m.title} {plain(m.at, 1)} °C
            </text>
          </g>
        );
      })}
    </svg>
  );
}
