/** A panel's bus: its main, its loads, what feeds it, what is free, and transformers, in place. */
import { clsx } from "clsx";
import type { Board } from "../api/client";

const ROW = 22;
const amps = (a: number | null | undefined): string => (a == null ? "open" : `${String(a)} A`);

interface Props {
  board: Board;
  picked: string | null;
  onPick: (circuit: string) => void;
}

export function BoardMap({ board, picked, onPick }: Props) {
  const loads = board.loads_a.filter((a) => a > 0);
  const pv = board.feeds;
  const far = board.pv_at_far_end !== false;
  const rows = Math.max(4, Math.ceil(loads.length / 2) + pv.length + 1);
  const height = rows * ROW + 70;
  const mainY = board.centre_fed ? 30 + (rows * ROW) / 2 : 26;
  const bottom = height - 28;
  // At the far end from the main, or next to it.
  const pvY = (k: number) => (far ? bottom - 14 - k * ROW : mainY + 24 + k * ROW);
  const first = far ? mainY + 26 : mainY + 26 + pv.length * ROW;
  const taken = board.transformers.length;
  return (
    <svg
      viewBox={`0 0 480 ${String(height)}`}
      width="480"
      height={height}
      role="group"
      aria-label={`Panel ${board.node}: bus ${amps(board.bus_a)}, main ${amps(board.main_a)}`}
      className="max-w-full"
    >
      <rect
        x="110"
        y="6"
        width="210"
        height={height - 12}
        rx="5"
        className="fill-paper stroke-ink"
        strokeWidth="1.5"
      />
      <rect x="211" y="20" width="8" height={bottom - 20} className="fill-copper stroke-ink" />
      <text x="226" y={bottom + 14} className="fill-ink-2 font-mono text-[11px]">
        bus {amps(board.bus_a)}
      </text>
      <line x1="60" x2="211" y1={mainY} y2={mainY} className="stroke-ink" strokeWidth="3" />
      {taken > 0 && (
        <g>
          <ellipse
            cx="86"
            cy={mainY}
            rx="7"
            ry="11"
            className="fill-none stroke-copper"
            strokeWidth="2"
          />
          <text x="86" y={mainY + 24} textAnchor="middle" className="fill-ink-2 text-[10px]">
            {board.transformers.join(", ")}
          </text>
        </g>
      )}
      <text x="56" y={mainY + 4} textAnchor="end" className="fill-ink text-[11px]">
        grid side
      </text>
      <Breaker x={132} y={mainY} text={`main ${amps(board.main_a)}`} strong />
      {loads.map((a, i) => {
        const right = i % 2 === 0;
        const y = first + Math.floor(i / 2) * ROW;
        return (
          <g key={i}>
            <line
              x1={right ? 219 : 211}
              x2={right ? 300 : 130}
              y1={y}
              y2={y}
              className="stroke-ink-3"
            />
            <Breaker x={right ? 240 : 150} y={y} text={`${String(a)}`} />
          </g>
        );
      })}
      {pv.map((f, k) => {
        const y = pvY(k);
        const own = picked === f.circuit;
        return (
          <g
            key={f.circuit}
            role="button"
            tabIndex={0}
            aria-label={`${f.circuit}: ${amps(f.rated_a)} on ${amps(f.breaker_a)}`}
            aria-pressed={own}
            className="cursor-pointer"
            onClick={() => {
              onPick(f.circuit);
            }}
            onKeyDown={(e) => {
              if (e.key === "Enter" || e.key === " ") {
                e.preventDefault();
                onPick(f.circuit);
              }
            }}
          >
            <line x1="219" x2="372" y1={y} y2={y} className="stroke-copper" strokeWidth="2.5" />
            <rect
              x="238"
              y={y - 9}
              width="74"
              height="18"
              rx="2"
              className={clsx("fill-copper-soft", own ? "stroke-copper" : "stroke-ink")}
              strokeWidth={own ? 2.5 : 1}
            />
            <text x="275" y={y + 4} textAnchor="middle" className="fill-ink font-mono text-[11px]">
              {amps(f.breaker_a)}
            </text>
            <text x="376" y={y + 4} className="fill-ink font-mono text-[11px]">
              {f.circuit} {f.rated_a == null ? "" : `${String(Math.round(f.rated_a * 10) / 10)} A`}
            </text>
          </g>
        );
      })}
      {board.free_n != null && (
        <text
          x="118"
          y={bottom + 14}
          className={clsx("text-[11px]", board.free_n < 0 ? "fill-stop" : "fill-ink-2")}
        >
          {board.free_n < 0
            ? `${String(-board.free_n)} too few`
            : `${String(board.free_n)} ways free`}
        </text>
      )}
    </svg>
  );
}

function Breaker({
  x,
  y,
  text,
  strong = false,
}: {
  x: number;
  y: number;
  text: string;
  strong?: boolean;
}) {
  const wide = strong ? 80 : 38;
  return (
    <>
      <rect
        x={x}
        y={y - 8}
        width={wide}
        height="16"
        rx="2"
        className="fill-sheet stroke-ink"
        strokeWidth={strong ? 1.6 : 0.8}
      />
      <text
        x={x + wide / 2}
        y={y + 4}
        textAnchor="middle"
        className="fill-ink font-mono text-[10.5px]"
      >
        {text}
      </text>
    </>
  );
}
