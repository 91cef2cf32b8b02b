/**
 * An enclosure to scale: rails of ways of 17.5 mm with the devices on them. A device is picked,
 * dragged, or moved with the arrow keys; the core says whether it fits where it is put.
 */
import { clsx } from "clsx";
import { useRef, useState } from "react";
import type { EnclosureDrawing } from "../api/client";
import { DEVICES } from "../text/words";

/** Pixels of a way, of the gap from rail to rail, of a device. */
const WAY = 20;
const RAIL = 118;
const HIGH = 84;
const LEFT = 26;
/** Devices move by half ways. */
const STEP = 0.5;

interface Props {
  drawing: EnclosureDrawing;
  picked: string | null;
  canPlan: boolean;
  onPick: (device: string) => void;
  /** The rail from 1, and the ways to the left. */
  onMove: (device: string, rail: number, left: number) => void;
}

export function EnclosureMap({ drawing, picked, canPlan, onPick, onMove }: Props) {
  const [held, setHeld] = useState<{ device: string; x: number; y: number } | null>(null);
  const from = useRef<{ x: number; y: number } | null>(null);
  const ways = Math.max(1, ...drawing.rails.map((r) => r.ways_n));
  const width = ways * WAY + 2 * LEFT;
  const height = drawing.rails.length * RAIL + 14;
  const put = (device: string, rail: number, left: number) => {
    const row = Math.min(Math.max(rail, 1), drawing.rails.length);
    onMove(device, row, Math.max(0, Math.round(left / STEP) * STEP));
  };
  const size = `${String(drawing.rails.length)} rails of ${String(ways)} ways`;
  return (
    <svg
      viewBox={`0 0 ${String(width)} ${String(height)}`}
      width={width}
      height={height}
      role="group"
      aria-label={`Enclosure ${drawing.node}, ${size}`}
      className="max-w-full"
    >
      <rect
        x="3"
        y="3"
        width={width - 6}
        height={height - 6}
        rx="6"
        className="fill-paper stroke-ink"
        strokeWidth="1.5"
      />
      {drawing.rails.map((rail, k) => {
        const top = 10 + k * RAIL + (RAIL - HIGH) / 2 - 4;
        const middle = top + HIGH / 2;
        return (
          <g key={k}>
            <rect
              x={LEFT}
              y={middle - 9}
              width={rail.ways_n * WAY}
              height="18"
              className="fill-line stroke-ink-3"
              strokeWidth="0.7"
            />
            {Array.from({ length: Math.floor(rail.ways_n) + 1 }, (_, w) => (
              <line
                key={w}
                x1={LEFT + w * WAY}
                x2={LEFT + w * WAY}
                y1={middle + HIGH / 2 + 3}
                y2={middle + HIGH / 2 + (w % 6 === 0 ? 10 : 6)}
                className="stroke-ink-3"
              />
            ))}
            <text
              x={LEFT + rail.ways_n * WAY}
              y={top - 3}
              textAnchor="end"
              className="fill-ink-2 font-mono text-[10px]"
            >
              {String(rail.ways_n)} × 17.5 mm
            </text>
            {rail.devices.map((d) => {
              const mine = held?.device === d.device ? held : null;
              const x = LEFT + d.left_ways * WAY + (mine?.x ?? 0);
              const y = top + (mine?.y ?? 0);
              const wide = d.ways_n * WAY;
              const name = [
                d.device,
                DEVICES[d.what],
                `${String(d.ways_n)} ways`,
                `rail ${String(k + 1)}`,
                ...(d.fits ? [] : ["must move"]),
              ].join(", ");
              return (
                <g
                  key={d.device}
                  role="button"
                  tabIndex={0}
                  aria-label={name}
                  aria-pressed={picked === d.device}
                  className={canPlan ? "cursor-grab" : "cursor-pointer"}
                  onClick={() => {
                    onPick(d.device);
                  }}
                  onPointerDown={(e) => {
                    if (!canPlan) return;
                    e.currentTarget.setPointerCapture(e.pointerId);
                    from.current = { x: e.clientX, y: e.clientY };
                  }}
                  onPointerMove={(e) => {
                    if (!from.current) return;
                    setHeld({
                      device: d.device,
                      x: e.clientX - from.current.x,
                      y: e.clientY - from.current.y,
                    });
                  }}
                  onPointerUp={() => {
                    const moved = mine && Math.abs(mine.x) + Math.abs(mine.y) > 6;
                    from.current = null;
                    setHeld(null);
                    if (moved)
                      put(d.device, k + 1 + Math.round(mine.y / RAIL), d.left_ways + mine.x / WAY);
                  }}
                  onKeyDown={(e) => {
                    const by = { ArrowLeft: -1, ArrowRight: 1 }[e.key];
                    const rails = { ArrowUp: -1, ArrowDown: 1 }[e.key];
                    if (e.key === "Enter" || e.key === " ") {
                      e.preventDefault();
                      onPick(d.device);
                    } else if (canPlan && (by ?? rails) !== undefined) {
                      e.preventDefault();
                      onPick(d.device);
                      put(d.device, k + 1 + (rails ?? 0), d.left_ways + (by ?? 0));
                    }
                  }}
                >
                  <rect
                    x={x}
                    y={y}
                    width={wide}
                    height={HIGH}
                    rx="2"
                    strokeWidth={picked === d.device ? 2.5 : 1}
                    strokeDasharray={d.placed ? undefined : "4 2"}
                    className={clsx(
                      d.fits ? "fill-sheet" : "fill-stop-soft",
                      picked === d.device ? "stroke-copper" : d.fits ? "stroke-ink" : "stroke-stop",
                    )}
                  />
                  <Face what={d.what} x={x} y={y + HIGH / 2} wide={wide} />
                  <text
                    x={x + wide / 2}
                    y={y + 13}
                    textAnchor="middle"
                    className="fill-ink font-mono text-[10px] font-bold"
                  >
                    {wide < d.device.length * 6.4
                      ? d.device.slice(0, Math.floor(wide / 6.4))
                      : d.device}
                  </text>
                </g>
              );
            })}
          </g>
        );
      })}
    </svg>
  );
}

/** What a device looks like from before: a lever, a cartridge, a window. */
function Face({
  what,
  x,
  y,
  wide,
}: {
  what: keyof typeof DEVICES;
  x: number;
  y: number;
  wide: number;
}) {
  const middle = x + wide / 2;
  const half = Math.min(wide / 2 - 3, 12);
  switch (what) {
    case "fuse":
      return (
        <rect
          x={middle - half / 2}
          y={y - 20}
          width={half}
          height="40"
          rx="2"
          className="fill-none stroke-ink-2"
        />
      );
    case "surge_device":
      return (
        <path
          d={`M${String(middle)} ${String(y - 16)} l-5 14 h9 l-6 18`}
          className="fill-none stroke-ink-2"
        />
      );
    case "breaker":
    case "rcd":
      return (
        <rect
          x={middle - half * 0.6}
          y={y - 8}
          width={half * 1.2}
          height="22"
          className="fill-line stroke-ink-2"
        />
      );
    case "isolator":
      return (
        <g className="fill-none stroke-ink-2">
          <circle cx={middle} cy={y} r={half} />
          <path
            d={`M${String(middle)} ${String(y - half)} v${String(half * 1.4)}`}
            strokeWidth="3"
          />
        </g>
      );
    default:
      return <circle cx={middle} cy={y} r="3" className="fill-ink-3" />;
  }
}
