/**
 * The voltage window: each string against the inverter's limits, from the geometry of the report.
 * Strings that are alike fold into one row where there are many. A string's end is dragged or
 * stepped by key; its tape is dragged onto another string to move a module there.
 */
import { useRef, useState } from "react";
import type { StringWindow as Window, Tape } from "../api/client";
import { round } from "../model/format";
import { tapeColour } from "../ui/Tape";
import { useNarrow } from "../ui/useNarrow";
import { apart, lines, widthOf } from "./labels";

type Row = Window["rows"][number];

interface Props {
  window: Window;
  tapes: Tape[];
  picked: string | null;
  onPick: (letter: string) => void;
  /** Modules more (or fewer) in the strings of a row. */
  onStep: ((indices: number[], by: number) => void) | null;
  /** A count that was typed on a row. */
  onCount?: ((indices: number[], n: number) => void) | null;
  /** A module from one string to another. */
  onMove?: ((from: number, to: number) => void) | null;
  /** The same strings as they are kept, drawn behind what is tried out. */
  ghost?: Window | undefined;
  /** Rows from which like strings fold. */
  fold?: number;
}

/** Sizes on a desk, and on a screen that is held in the hand. */
const DESK = { WIDTH: 740, LEFT: 140, SMALL: 11.5, NAME: 12.5 };
const HAND = { WIDTH: 358, LEFT: 132, SMALL: 13, NAME: 14 };
/** Rows that are drawn with their volts written under them. */
const ROOMY = 8;

interface Folded extends Row {
  letters: string[];
  indices: number[];
}

function folded(rows: Row[], from: number): Folded[] {
  if (rows.length <= from)
    return rows.map((r) => ({ ...r, letters: [r.letter], indices: [r.index] }));
  const groups = new Map<string, Folded>();
  for (const r of rows) {
    const key = [r.n, r.face, r.vmp_hot_v, r.voc_cold_v, r.fixed_v].join("|");
    const group = groups.get(key);
    if (group) {
      group.letters.push(r.letter);
      group.indices.push(r.index);
    } else groups.set(key, { ...r, letters: [r.letter], indices: [r.index] });
  }
  return [...groups.values()];
}

/** A text as far as it has room; of our type most letters are narrower than the widest. */
const short = (text: string, size: number, room: number): string => {
  const most = Math.floor(room / widthOf("x", 0.86 * size));
  return text.length > most ? `${text.slice(0, most - 1)}…` : text;
};

export function StringWindow({
  window: w,
  tapes,
  picked,
  onPick,
  onStep,
  onCount = null,
  onMove = null,
  ghost,
  fold = 12,
}: Props) {
  const { WIDTH, LEFT, SMALL, NAME } = useNarrow() ? HAND : DESK;
  const rows = folded(w.rows, fold);
  const row = rows.length > ROOMY ? 24 : 46;
  const axis = Math.max(w.axis_max_v, ghost?.axis_max_v ?? 0);
  const x = (volts: number) => LEFT + (volts / axis) * (WIDTH - LEFT - 14);
  const heads = lines(
    [
      ...(w.limit_v == null
        ? []
        : [{ text: `limit ${round(w.limit_v)}`, x: x(w.limit_v) - 5, ends: true }]),
      ...(w.tracking_min_v == null
        ? []
        : [{ text: `tracking from ${round(w.tracking_min_v)}`, x: x(w.tracking_min_v) + 3 }]),
      ...(w.full_power_min_v == null || w.full_power_max_v == null
        ? []
        : [
            {
              text: `full power ${round(w.full_power_min_v)} to ${round(w.full_power_max_v)}`,
              x: x(w.full_power_min_v) + 3,
            },
          ]),
    ],
    SMALL,
    WIDTH,
  );
  const high = Math.max(0, ...heads.map((h) => h.line));
  const TOP = 30 + high * (SMALL + 3);
  const bottom = TOP + Math.max(1, rows.length) * row + 4;
  // As many ticks as have room for their number.
  const every = Math.ceil((w.ticks_v.length * widthOf("1000", SMALL)) / (WIDTH - LEFT));
  // While a tape is dragged: from which row, and over which it is.
  const [carried, setCarried] = useState<{ from: number; over: number } | null>(null);
  const [pulled, setPulled] = useState<{ row: number; by: number } | null>(null);
  // Digits that follow one another are one count.
  const typed = useRef({ text: "", at: 0 });
  const band = (from: number | null | undefined, to: number | null | undefined, fill: string) =>
    from == null || to == null ? null : (
      <rect
        x={x(from)}
        y={TOP}
        width={Math.max(0, x(to) - x(from))}
        height={bottom - TOP}
        fill={fill}
      />
    );

  /** Follows a pointer from where it went down; gives its way in the drawing's units. */
  const follow = (
    event: React.PointerEvent<SVGElement>,
    moved: (dx: number, y: number) => void,
    done: (dx: number, y: number) => void,
  ) => {
    const svg = event.currentTarget.ownerSVGElement;
    if (!svg) return;
    const target = event.currentTarget;
    target.setPointerCapture(event.pointerId);
    const box = svg.getBoundingClientRect();
    const scale = WIDTH / box.width;
    const start = event.clientX;
    const at = (e: PointerEvent): [number, number] => [
      (e.clientX - start) * scale,
      (e.clientY - box.top) * scale,
    ];
    const move = (e: Event) => {
      moved(...at(e as PointerEvent));
    };
    const up = (e: Event) => {
      target.removeEventListener("pointermove", move);
      target.removeEventListener("pointerup", up);
      done(...at(e as PointerEvent));
    };
    target.addEventListener("pointermove", move);
    target.addEventListener("pointerup", up);
  };
  const rowAt = (y: number) => Math.floor((y - TOP) / row);

  return (
    <svg
      viewBox={`0 0 ${String(WIDTH)} ${String(bottom + 26)}`}
      className="block w-full"
      data-testid="string-window"
    >
      {band(w.tracking_min_v, w.tracking_max_v, "var(--tracking)")}
      {band(w.full_power_min_v, w.full_power_max_v, "var(--full)")}
      {band(w.limit_v, axis, "var(--stop-soft)")}
      <g fontSize={SMALL}>
        {heads.map((h) => (
          <text
            key={h.text}
            x={h.x}
            y={TOP - 8 - h.line * (SMALL + 3)}
            textAnchor={h.ends ? "end" : "start"}
            fill={h.ends ? "var(--stop)" : "var(--ink-2)"}
            fontWeight={h.ends ? "700" : undefined}
          >
            {h.text}
          </text>
        ))}
      </g>
      {w.limit_v != null && (
        <line
          x1={x(w.limit_v)}
          x2={x(w.limit_v)}
          y1={TOP - 5}
          y2={bottom}
          stroke="var(--stop)"
          strokeWidth="2"
        />
      )}
      {rows.map((r, i) => {
        const y = TOP + i * row + row / 2 - (row > 30 ? 5 : 0);
        const colour = tapeColour(tapes, r.letter);
        const one = r.voc_cold_one_v;
        const many = r.letters.length;
        const was = ghost?.rows.find((g) => g.letter === r.letter);
        const name = many > 1 ? `Strings ${r.letters.join(", ")}` : `String ${r.letter}`;
        const by = pulled?.row === i ? pulled.by : 0;
        const said = (volts: number | null | undefined, words = "") =>
          volts == null ? null : { text: words + round(volts), x: x(volts) };
        const held = apart(said(r.safety_v, "safe "), said(r.fixed_v), SMALL, LEFT);
        const read = apart(said(r.vmp_hot_v), said(r.voc_cold_v), SMALL, LEFT);
        return (
          <g key={r.letter}>
            {(r.letters.includes(picked ?? "") || carried?.over === i) && (
              <rect
                x="0"
                y={TOP + i * row}
                width={WIDTH}
                height={row}
                fill="var(--copper-soft)"
                opacity="0.6"
              />
            )}
            {was && was.voc_cold_v != null && (
              <g stroke="var(--ink-3)" strokeDasharray="3 3" fill="none">
                <line x1={x(was.vmp_hot_v ?? 0)} x2={x(was.voc_cold_v)} y1={y + 9} y2={y + 9} />
                <line x1={x(was.voc_cold_v)} x2={x(was.voc_cold_v)} y1={y - 9} y2={y + 9} />
              </g>
            )}
            <g
              className="cursor-pointer"
              onClick={() => {
                onPick(r.letter);
              }}
            >
              <rect
                role="button"
                tabIndex={0}
                aria-label={`${name}, ${String(r.n)} in series, ${r.face}`}
                x="30"
                y={y - 12}
                width={LEFT - 40}
                height={row > 30 ? 30 : 24}
                fill="transparent"
                onKeyDown={(e) => {
                  if (e.key === "Enter" || e.key === " ") {
                    e.preventDefault();
                    onPick(r.letter);
                  }
                  if (onCount && /^[0-9]$/.test(e.key)) {
                    const text =
                      e.timeStamp - typed.current.at < 900 ? typed.current.text + e.key : e.key;
                    typed.current = { text, at: e.timeStamp };
                    if (Number(text) >= 1) onCount(r.indices, Number(text));
                  }
                  if (onStep && (e.key === "ArrowRight" || e.key === "+")) onStep(r.indices, 1);
                  if (onStep && (e.key === "ArrowLeft" || e.key === "-")) onStep(r.indices, -1);
                }}
              />
              <rect
                x="2"
                y={y - 9}
                width="26"
                height="18"
                rx="3"
                fill={colour}
                data-testid={`tape-${r.letter}`}
                className={onMove ? "cursor-grab touch-none" : undefined}
                onPointerDown={(e) => {
                  if (!onMove || rows.length < 2) return;
                  follow(
                    e,
                    (_, at) => {
                      setCarried({ from: i, over: rowAt(at) });
                    },
                    (_, at) => {
                      setCarried(null);
                      const to = rows[rowAt(at)];
                      if (to && to !== r) onMove(r.index, to.index);
                    },
                  );
                }}
              >
                {onMove && <title>Drag onto another string: one module goes there</title>}
              </rect>
              <text
                x="15"
                y={y + 4}
                textAnchor="middle"
                fontSize="12"
                fontWeight="700"
                fill="#fff"
                pointerEvents="none"
              >
                {r.letter}
              </text>
              <text
                x="35"
                pointerEvents="none"
                y={y - (row > 30 ? 1 : -4)}
                fontSize={NAME}
                fontWeight="700"
                fill="var(--ink)"
              >
                {r.n + by} in series{many > 1 ? ` × ${String(many)}` : ""}
              </text>
              {row > 30 && (
                <text x="35" y={y + 13} fontSize={SMALL} fill="var(--ink-2)" pointerEvents="none">
                  {short(
                    `${r.face} · ${
                      many > 1
                        ? `${r.letters.slice(0, 3).join(" ")}${many > 3 ? " …" : ""}`
                        : `input ${String(r.mppt)}`
                    }`,
                    SMALL,
                    LEFT - 36,
                  )}
                </text>
              )}
            </g>
            {r.fixed_v != null && (
              <g>
                <line
                  x1={x(r.safety_v ?? 0)}
                  x2={x(r.fixed_v)}
                  y1={y}
                  y2={y}
                  stroke={colour}
                  strokeDasharray="2 4"
                />
                <circle
                  cx={x(r.safety_v ?? 0)}
                  cy={y}
                  r="4"
                  fill="none"
                  stroke={colour}
                  strokeWidth="2"
                >
                  <title>Volts when safe</title>
                </circle>
                <path d={`M${String(x(r.fixed_v))} ${String(y - 9)}l7 9l-7 9l-7 -9z`} fill={colour}>
                  <title>Held by the inverter</title>
                </path>
                {row > 30 && (
                  <g fontSize={SMALL} textAnchor="middle" fill="var(--ink)" className="font-mono">
                    <text x={held[0]} y={y + 22}>
                      safe {round(r.safety_v ?? 0)}
                    </text>
                    <text x={held[1]} y={y + 22}>
                      {round(r.fixed_v)}
                    </text>
                  </g>
                )}
              </g>
            )}
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
                <line
                  x1={x(r.voc_cold_v)}
                  x2={x(r.voc_cold_v)}
                  y1={y - 9}
                  y2={y + 9}
                  stroke={colour}
                  strokeWidth="3"
                />
                {by !== 0 && one != null && (
                  <line
                    x1={x(r.voc_cold_v + by * one)}
                    x2={x(r.voc_cold_v + by * one)}
                    y1={y - 12}
                    y2={y + 12}
                    stroke="var(--copper)"
                    strokeWidth="3"
                  />
                )}
                {one != null && onStep && (
                  <rect
                    x={x(r.voc_cold_v) - 9}
                    y={y - Math.min(14, row / 2)}
                    width="18"
                    height={Math.min(28, row)}
                    fill="transparent"
                    className="cursor-ew-resize touch-none"
                    data-testid={`end-${r.letter}`}
                    onPointerDown={(e) => {
                      const perModule = x(one) - x(0);
                      const steps = (dx: number) => Math.max(1 - r.n, Math.round(dx / perModule));
                      follow(
                        e,
                        (dx) => {
                          setPulled({ row: i, by: steps(dx) });
                        },
                        (dx) => {
                          setPulled(null);
                          if (steps(dx) !== 0) onStep(r.indices, steps(dx));
                        },
                      );
                    }}
                  >
                    <title>Drag to change the count of {r.letters.join(", ")}</title>
                  </rect>
                )}
              </>
            )}
            {row > 30 && (
              <g fontSize={SMALL} textAnchor="middle" fill="var(--ink)" className="font-mono">
                {r.vmp_hot_v != null && (
                  <text x={read[0]} y={y + 22}>
                    {round(r.vmp_hot_v)}
                  </text>
                )}
                {r.voc_cold_v != null && (
                  <text x={read[1]} y={y + 22}>
                    {round(r.voc_cold_v)}
                  </text>
                )}
              </g>
            )}
          </g>
        );
      })}
      <line x1={LEFT} x2={WIDTH - 14} y1={bottom} y2={bottom} stroke="var(--ink)" />
      <g fontSize={SMALL} fill="var(--ink-2)" className="font-mono" textAnchor="middle">
        <text x={LEFT - 8} y={bottom + 18} textAnchor="end" className="font-sans">
          volts DC
        </text>
        {w.ticks_v.map((t, i) => (
          <g key={t}>
            <line x1={x(t)} x2={x(t)} y1={bottom} y2={bottom + 5} stroke="var(--ink)" />
            {i % every === 0 && (
              <text x={x(t)} y={bottom + 18}>
                {round(t)}
              </text>
            )}
          </g>
        ))}
      </g>
    </svg>
  );
}
