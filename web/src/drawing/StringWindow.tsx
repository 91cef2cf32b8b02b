/** The voltage window: each string against the inverter's limits, from the geometry of the report. */
import type { StringWindow as Window, Tape } from "../api/client";
import { round } from "../model/format";
import { tapeColour } from "../ui/parts";

interface Props {
  window: Window;
  tapes: Tape[];
  picked: string | null;
  onPick: (letter: string) => void;
  /** Modules more (or fewer): the end mark is dragged, or moved by the arrow keys. */
  onStep: ((index: number, by: number) => void) | null;
}

const WIDTH = 740;
const LEFT = 140;
const TOP = 30;

export function StringWindow({ window: w, tapes, picked, onPick, onStep }: Props) {
  const row = w.rows.length > 12 ? 22 : 46;
  const bottom = TOP + Math.max(1, w.rows.length) * row + 4;
  const x = (volts: number) => LEFT + (volts / w.axis_max_v) * (WIDTH - LEFT - 14);
  const band = (from: number | null | undefined, to: number | null | undefined, fill: string) =>
    from == null || to == null ? null : (
      <rect x={x(from)} y={TOP} width={x(to) - x(from)} height={bottom - TOP} fill={fill} />
    );

  const drag = (event: React.PointerEvent<SVGElement>, index: number, one: number) => {
    if (!onStep) return;
    const svg = event.currentTarget.ownerSVGElement;
    if (!svg) return;
    event.currentTarget.setPointerCapture(event.pointerId);
    const scale = WIDTH / svg.getBoundingClientRect().width;
    const start = event.clientX;
    const perModule = x(one) - x(0);
    const up = (end: PointerEvent) => {
      event.target.removeEventListener("pointerup", up as EventListener);
      onStep(index, Math.round(((end.clientX - start) * scale) / perModule));
    };
    event.target.addEventListener("pointerup", up as EventListener);
  };

  return (
    <svg viewBox={`0 0 ${String(WIDTH)} ${String(bottom + 26)}`} className="block w-full" data-testid="string-window">
      {band(w.tracking_min_v, w.tracking_max_v, "var(--tracking)")}
      {band(w.full_power_min_v, w.full_power_max_v, "var(--full)")}
      {band(w.limit_v, w.axis_max_v, "var(--stop-soft)")}
      <g fontSize="11.5" fill="var(--ink-2)">
        {w.tracking_min_v != null && (
          <text x={x(w.tracking_min_v) + 3} y={TOP - 8}>
            tracking from {round(w.tracking_min_v)}
          </text>
        )}
        {w.full_power_min_v != null && w.full_power_max_v != null && (
          <text x={x(w.full_power_min_v) + 3} y={TOP - 8}>
            full power {round(w.full_power_min_v)} to {round(w.full_power_max_v)}
          </text>
        )}
        {w.limit_v != null && (
          <text x={x(w.limit_v) - 5} y={TOP - 8} textAnchor="end" fill="var(--stop)" fontWeight="700">
            limit {round(w.limit_v)}
          </text>
        )}
      </g>
      {w.limit_v != null && (
        <line x1={x(w.limit_v)} x2={x(w.limit_v)} y1={TOP - 5} y2={bottom} stroke="var(--stop)" strokeWidth="2" />
      )}
      {w.rows.map((r, i) => {
        const y = TOP + i * row + row / 2 - (row > 30 ? 5 : 0);
        const colour = tapeColour(tapes, r.letter);
        const one = r.voc_cold_one_v;
        return (
          <g key={r.letter}>
            {picked === r.letter && (
              <rect x="0" y={TOP + i * row} width={WIDTH} height={row} fill="var(--copper-soft)" opacity="0.6" />
            )}
            <g
              role="button"
              tabIndex={0}
              aria-label={`String ${r.letter}, ${String(r.n)} in series, ${r.face}`}
              className="cursor-pointer"
              onClick={() => {
                onPick(r.letter);
              }}
              onKeyDown={(e) => {
                if (e.key === "Enter" || e.key === " ") onPick(r.letter);
                if (onStep && (e.key === "ArrowRight" || e.key === "+")) onStep(r.index, 1);
                if (onStep && (e.key === "ArrowLeft" || e.key === "-")) onStep(r.index, -1);
              }}
            >
              <rect x="2" y={y - 9} width="26" height="18" rx="3" fill={colour} />
              <text x="15" y={y + 4} textAnchor="middle" fontSize="12" fontWeight="700" fill="#fff">
                {r.letter}
              </text>
              <text x="35" y={y - (row > 30 ? 1 : -4)} fontSize="12.5" fontWeight="700" fill="var(--ink)">
                {r.n} in series
              </text>
              {row > 30 && (
                <text x="35" y={y + 13} fontSize="11.5" fill="var(--ink-2)">
                  {r.face} · input {r.mppt}
                </text>
              )}
            </g>
            {r.vmp_hot_v != null && (
              <rect
                x={x(r.vmp_hot_v)}
                y={y - 6}
                width={Math.max(2, x(r.vmp_cold_v ?? r.vmp_hot_v) - x(r.vmp_hot_v))}
                height="12"
                fill={colour}
                rx="1"
              />
            )}
            {r.voc_cold_v != null && (
              <>
                <line
                  x1={x(r.vmp_cold_v ?? r.vmp_hot_v ?? 0)}
                  x2={x(r.voc_cold_v)}
                  y1={y}
                  y2={y}
                  stroke={colour}
                  strokeWidth="2"
                />
                <line x1={x(r.voc_cold_v)} x2={x(r.voc_cold_v)} y1={y - 9} y2={y + 9} stroke={colour} strokeWidth="3" />
                {one != null && onStep && (
                  <rect
                    x={x(r.voc_cold_v) - 9}
                    y={y - 14}
                    width="18"
                    height="28"
                    fill="transparent"
                    className="cursor-ew-resize touch-none"
                    data-testid={`end-${r.letter}`}
                    onPointerDown={(e) => {
                      drag(e, r.index, one);
                    }}
                  >
                    <title>Drag to change the count of {r.letter}</title>
                  </rect>
                )}
              </>
            )}
            {row > 30 && (
              <g fontSize="11.5" textAnchor="middle" fill="var(--ink)" className="font-mono">
                {r.vmp_hot_v != null && (
                  <text x={x(r.vmp_hot_v)} y={y + 22}>
                    {round(r.vmp_hot_v)}
                  </text>
                )}
                {r.voc_cold_v != null && (
                  <text x={x(r.voc_cold_v)} y={y + 22}>
                    {round(r.voc_cold_v)}
                  </text>
                )}
              </g>
            )}
          </g>
        );
      })}
      <line x1={LEFT} x2={WIDTH - 14} y1={bottom} y2={bottom} stroke="var(--ink)" />
      <g fontSize="11.5" fill="var(--ink-2)" className="font-mono" textAnchor="middle">
        <text x={LEFT - 8} y={bottom + 18} textAnchor="end" className="font-sans">
          volts DC
        </text>
        {w.ticks_v.map((t) => (
          <g key={t}>
            <line x1={x(t)} x2={x(t)} y1={bottom} y2={bottom + 5} stroke="var(--ink)" />
            <text x={x(t)} y={bottom + 18}>
              {round(t)}
            </text>
          </g>
        ))}
      </g>
    </svg>
  );
}
