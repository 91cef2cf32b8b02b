/**
 * A face seen from above, ridge on top: modules as they lie, where + and − leave each, how they
 * join, and the tails to the box. Worked on by mouse, touch and keyboard.
 */
import { memo, useMemo, useRef, useState } from "react";
import type { Point, RoofFace, RoofModule, Tape } from "../api/client";
import { plain } from "../model/format";
import { beside, snapped, within } from "../model/roof";
import { tapeColour } from "../ui/Tape";

export interface MapActions {
  onMove: (keys: string[], by: Point) => void;
  onTurn: (keys: string[]) => void;
  onTip: (keys: string[]) => void;
  onTakeOff: (keys: string[]) => void;
  onJoin: (key: string) => void;
  onRoute: () => void;
  onBox: (at: Point) => void;
}

interface Props {
  face: RoofFace;
  tapes: Tape[];
  selected: string[];
  onSelect: (keys: string[]) => void;
  /** The join whose slip is open: letter and place. */
  join: { letter: string; place: number } | null;
  onPickJoin: (letter: string, place: number) => void;
  /** Clicks join modules to the string that is worked on. */
  joining: boolean;
  /** What the drawing is wide, in its own units and on the screen. */
  wide: number;
  /** Null where nobody may plan. */
  actions: MapActions | null;
}

const HIGH = 460;
const EDGE = 14;
/** Modules from which labels and signs are left to the zoom. */
const CROWD = 160;

const KEYS = "Arrows walk, T turns, J joins, R routes, Delete takes off.";

const DIRECTIONS: Record<string, Point> = {
  ArrowLeft: [-1, 0],
  ArrowRight: [1, 0],
  ArrowUp: [0, 1],
  ArrowDown: [0, -1],
};

/** Where a face is drawn: millimetres to the drawing's own units, y turned round. */
function placing(face: RoofFace, wide: number) {
  const [l, b, r, t] = face.extent_mm;
  const scale = Math.min((wide - 2 * EDGE) / Math.max(1, r - l), HIGH / Math.max(1, t - b), 0.075);
  const left = (Math.max(wide, (r - l) * scale + 2 * EDGE) - (r - l) * scale) / 2;
  return {
    scale,
    width: Math.max(wide, (r - l) * scale + 2 * EDGE),
    height: (t - b) * scale + 2 * EDGE,
    x: (mm: number) => (mm - l) * scale + left,
    y: (mm: number) => (t - mm) * scale + EDGE,
    back: ([px, py]: Point): Point => [(px - left) / scale + l, t - (py - EDGE) / scale],
  };
}

type Placing = ReturnType<typeof placing>;

type Held =
  | { what: "modules"; from: Point; keys: string[]; by: Point }
  | { what: "box"; by: Point; from: Point }
  | { what: "frame"; from: Point; to: Point }
  | { what: "sheet"; from: Point; view: Point };

export function RoofMap(props: Props) {
  const { face, tapes, selected, onSelect, join, onPickJoin, joining, wide, actions } = props;
  const at = useMemo(() => placing(face, wide), [face, wide]);
  const svg = useRef<SVGSVGElement>(null);
  const [held, setHeld] = useState<Held | null>(null);
  const [zoom, setZoom] = useState(1);
  const [shift, setShift] = useState<Point>([0, 0]);
  const current = selected.at(-1);
  const chosen = useMemo(() => new Set(selected), [selected]);
  const wrong = useMemo(() => wrongOf(face), [face]);
  const crowded = face.modules.length > CROWD && zoom < 2;

  const point = (e: { clientX: number; clientY: number }): Point => {
    const box = svg.current?.getBoundingClientRect();
    if (!box || box.width === 0) return [0, 0];
    const px = ((e.clientX - box.left) / box.width) * (at.width / zoom) + shift[0];
    const py = ((e.clientY - box.top) / box.height) * (at.height / zoom) + shift[1];
    return at.back([px, py]);
  };
  const zoomed = (by: number) => {
    const next = Math.min(8, Math.max(1, zoom * by));
    const keep = (size: number, s: number) =>
      Math.min(size - size / next, Math.max(0, s + (size / zoom - size / next) / 2));
    setShift([keep(at.width, shift[0]), keep(at.height, shift[1])]);
    setZoom(next);
  };

  // One listener for all that is drawn: what is under the pointer says what it is.
  const down = (e: React.PointerEvent) => {
    if (e.button !== 0) return;
    const under = (what: string) =>
      (e.target as Element).closest(`[data-${what}]`)?.getAttribute(`data-${what}`) ?? null;
    svg.current?.focus({ preventScroll: true });
    const joined = under("join");
    if (joined !== null) {
      const [, letter = "", place = ""] = /^([A-Z]+)(\d+)$/.exec(joined) ?? [];
      onPickJoin(letter, Number(place));
      return;
    }
    svg.current?.setPointerCapture(e.pointerId);
    const from = point(e);
    if (under("box") !== null) {
      if (actions) setHeld({ what: "box", from, by: [0, 0] });
      return;
    }
    const key = under("module");
    if (key === null) {
      setHeld(
        e.shiftKey
          ? { what: "frame", from, to: from }
          : { what: "sheet", from: [e.clientX, e.clientY], view: shift },
      );
      return;
    }
    if (joining && actions) {
      onSelect([key]);
      actions.onJoin(key);
      return;
    }
    const keys = e.shiftKey
      ? chosen.has(key)
        ? selected.filter((k) => k !== key)
        : [...selected, key]
      : chosen.has(key)
        ? selected
        : [key];
    onSelect(keys);
    if (actions && !e.shiftKey) setHeld({ what: "modules", from, keys, by: [0, 0] });
  };
  const moved = (e: React.PointerEvent) => {
    if (!held) return;
    const [x, y] = point(e);
    switch (held.what) {
      case "modules": {
        const raw: Point = [x - held.from[0], y - held.from[1]];
        const far = Math.hypot(...raw) * at.scale > 5;
        setHeld({ ...held, by: far ? snapped(face, held.keys, raw, face.gap_mm) : [0, 0] });
        break;
      }
      case "box":
        setHeld({ ...held, by: [x - held.from[0], y - held.from[1]] });
        break;
      case "frame":
        setHeld({ ...held, to: [x, y] });
        break;
      case "sheet": {
        const box = svg.current?.getBoundingClientRect();
        if (!box || zoom === 1) break;
        const by = (now: number, then: number, size: number, whole: number, view: number) =>
          Math.min(
            whole - whole / zoom,
            Math.max(0, view - ((now - then) / size) * (whole / zoom)),
          );
        setShift([
          by(e.clientX, held.from[0], box.width, at.width, held.view[0]),
          by(e.clientY, held.from[1], box.height, at.height, held.view[1]),
        ]);
      }
    }
  };
  const up = () => {
    if (held?.what === "modules" && (held.by[0] !== 0 || held.by[1] !== 0))
      actions?.onMove(held.keys, held.by);
    if (held?.what === "box" && face.box_mm && (held.by[0] !== 0 || held.by[1] !== 0)) {
      const [x, y] = face.box_mm;
      actions?.onBox([Math.round(x + held.by[0]), Math.round(y + held.by[1])]);
    }
    if (held?.what === "frame") onSelect(within(face, held.from, held.to));
    if (held?.what === "sheet" && held.view === shift) onSelect([]);
    setHeld(null);
  };

  const key = (e: React.KeyboardEvent) => {
    const direction = DIRECTIONS[e.key];
    const can = actions && current !== undefined;
    if (direction) {
      if (e.altKey && can) {
        actions.onMove(selected, [direction[0] * 10, direction[1] * 10]);
      } else {
        const next =
          current === undefined ? face.modules[0]?.key : beside(face, current, direction);
        if (next) onSelect(e.shiftKey ? [...selected.filter((k) => k !== next), next] : [next]);
      }
    } else if (e.ctrlKey || e.metaKey) {
      if (e.key !== "a") return;
      onSelect(face.modules.map((m) => m.key));
    } else if (can && e.key === "t") actions.onTurn(selected);
    else if (can && e.key === "l") actions.onTip(selected);
    else if (can && e.key === "j") actions.onJoin(current);
    else if (can && (e.key === "Delete" || e.key === "Backspace")) actions.onTakeOff(selected);
    else if (actions && e.key === "r") actions.onRoute();
    else if (e.key === "Enter" && current !== undefined) {
      const m = face.modules.find((o) => o.key === current);
      if (m?.string == null || m.place == null) return;
      const last = face.strings.find((s) => s.letter === m.string)?.on_map_n ?? 0;
      onPickJoin(m.string, Math.max(1, m.place < last ? m.place : m.place - 1));
    } else if (e.key === "+") zoomed(1.5);
    else if (e.key === "-") zoomed(1 / 1.5);
    else if (e.key === "0") zoomed(1 / 8);
    else if (e.key === "Escape") onSelect([]);
    else return;
    e.preventDefault();
    e.stopPropagation();
  };

  const carried = held?.what === "modules" ? held : null;
  const carry = carried
    ? `translate(${String(carried.by[0] * at.scale)} ${String(-carried.by[1] * at.scale)})`
    : undefined;
  const name = (m: RoofModule) =>
    m.string != null && m.place != null ? `${m.string}${String(m.place)}` : m.key;
  const now = face.modules.find((m) => m.key === current);
  return (
    <div className="relative">
      <svg
        ref={svg}
        role="application"
        aria-label={`Map of ${face.name}. ${KEYS}`}
        aria-describedby={`said-${face.face}`}
        tabIndex={0}
        viewBox={[shift[0], shift[1], at.width / zoom, at.height / zoom].join(" ")}
        className="block w-full touch-none select-none"
        style={{ maxHeight: HIGH + 2 * EDGE }}
        data-testid={`roof-map-${face.face}`}
        onPointerDown={down}
        onPointerMove={moved}
        onPointerUp={up}
        onPointerCancel={() => {
          setHeld(null);
        }}
        onKeyDown={key}
        onWheel={(e) => {
          if (e.ctrlKey) zoomed(e.deltaY < 0 ? 1.2 : 1 / 1.2);
        }}
      >
        <Ground face={face} at={at} />
        {face.modules.map((m) => (
          <g key={m.key} transform={carried?.keys.includes(m.key) ? carry : undefined}>
            <Module
              module={m}
              at={at}
              name={name(m)}
              colour={m.string == null ? "var(--ink-3)" : tapeColour(tapes, m.string)}
              picked={chosen.has(m.key)}
              wrong={wrong.has(m.key)}
              small={crowded}
            />
          </g>
        ))}
        {!carried && <Joins {...{ face, tapes, at, join }} />}
        {!crowded &&
          face.modules.map((m) => (
            <g key={m.key} transform={carried?.keys.includes(m.key) ? carry : undefined}>
              <Exits module={m} at={at} />
            </g>
          ))}
        {face.box_mm && (
          <Box
            name={face.node ?? "Box"}
            at={at}
            mm={face.box_mm}
            by={held?.what === "box" ? held.by : [0, 0]}
          />
        )}
        {held?.what === "frame" && (
          <rect
            x={Math.min(at.x(held.from[0]), at.x(held.to[0]))}
            y={Math.min(at.y(held.from[1]), at.y(held.to[1]))}
            width={Math.abs(at.x(held.to[0]) - at.x(held.from[0]))}
            height={Math.abs(at.y(held.to[1]) - at.y(held.from[1]))}
            fill="var(--copper)"
            fillOpacity="0.12"
            stroke="var(--copper)"
          />
        )}
      </svg>
      <p id={`said-${face.face}`} className="sr-only" aria-live="polite">
        {now
          ? [name(now), now.turned && "turned", now.string === null && "in no string"]
              .filter(Boolean)
              .join(", ")
          : "No module picked"}
      </p>
      {zoom > 1 && (
        <button
          type="button"
          className="absolute top-1 right-1 rounded border border-line bg-sheet px-2 text-xs"
          onClick={() => {
            zoomed(1 / 8);
          }}
        >
          Whole face
        </button>
      )}
    </div>
  );
}

/** Modules of which a join is a stop. */
const wrongOf = (face: RoofFace): Set<string> =>
  new Set(
    face.strings
      .flatMap((s) => s.joins)
      .filter((j) => j.verdict === "fail")
      .flatMap((j) => [j.after, j.before]),
  );

const Ground = memo(function Ground({ face, at }: { face: RoofFace; at: Placing }) {
  const outline = face.outline_mm;
  const points = (list: Point[]) => list.map(([x, y]) => `${at.x(x)},${at.y(y)}`).join(" ");
  const free = face.free;
  if (!outline) return null;
  const [a, b, c, d] = outline;
  const side = (from: Point, to: Point, y: number) =>
    from[0] + ((to[0] - from[0]) * (y - from[1])) / (to[1] - from[1]);
  const band = (low: number, high: number): Point[] => [
    [side(a, d, low), low],
    [side(b, c, low), low],
    [side(b, c, high), high],
    [side(a, d, high), high],
  ];
  const bands = [
    { name: "eave", m: free.eave_m, area: band(a[1], a[1] + free.eave_m * 1000) },
    { name: "ridge", m: free.ridge_m, area: band(c[1] - free.ridge_m * 1000, c[1]) },
  ].filter((f) => f.m > 0);
  return (
    <g>
      <polygon points={points([a, b, c, d])} fill="var(--paper)" stroke="var(--line)" />
      <line
        x1={at.x(d[0])}
        y1={at.y(d[1])}
        x2={at.x(c[0])}
        y2={at.y(c[1])}
        stroke="var(--ink)"
        strokeWidth="3"
      />
      {bands.map((f) => (
        <g key={f.name}>
          <polygon points={points(f.area)} fill="none" stroke="var(--stop)" strokeDasharray="4 4" />
          <text
            x={at.x((a[0] + b[0]) / 2)}
            y={(at.y(f.area[0]?.[1] ?? 0) + at.y(f.area[2]?.[1] ?? 0)) / 2 + 4}
            textAnchor="middle"
            fontSize="11"
            fill="var(--stop)"
          >
            {f.m * 1000 * at.scale > 12 ? `${f.name} kept free, ${plain(f.m, 2)} m` : ""}
          </text>
        </g>
      ))}
      {face.obstructions.map((o) => {
        const [l, low, r, high] = o.area_mm;
        return (
          <g key={o.key}>
            <rect
              x={at.x(l)}
              y={at.y(high)}
              width={(r - l) * at.scale}
              height={(high - low) * at.scale}
              fill="var(--line)"
              stroke="var(--ink-3)"
            />
            <text
              x={at.x((l + r) / 2)}
              y={at.y((low + high) / 2) + 4}
              textAnchor="middle"
              fontSize="11"
              fill="var(--ink-2)"
            >
              {o.name || o.key}
            </text>
          </g>
        );
      })}
    </g>
  );
});

interface ModuleProps {
  module: RoofModule;
  at: Placing;
  name: string;
  colour: string;
  picked: boolean;
  wrong: boolean;
  small: boolean;
}

const Module = memo(function Module(props: ModuleProps) {
  const { module: m, at, name, colour, picked, wrong, small } = props;
  const [l, b, r, t] = m.area_mm;
  const [width, height] = [(r - l) * at.scale, (t - b) * at.scale];
  const edge = wrong ? "var(--stop)" : picked ? "var(--copper)" : "var(--ink)";
  return (
    <g data-module={m.key} data-name={name}>
      <title>{`${name}${m.turned ? ", turned" : ""}`}</title>
      <rect
        x={at.x(l)}
        y={at.y(t)}
        width={width}
        height={height}
        rx="3"
        fill={picked ? "var(--copper-soft)" : "var(--sheet)"}
        stroke={edge}
        strokeWidth={picked || wrong ? 2.2 : 1}
      />
      <rect x={at.x(l)} y={at.y(t)} width={width} height={small ? 4 : 13} rx="3" fill={colour} />
      {!small && (
        <text
          x={at.x(l) + width / 2}
          y={at.y(t) + 10.5}
          textAnchor="middle"
          fontSize="10.5"
          fontWeight="700"
          fill="#fff"
        >
          {name}
        </text>
      )}
      {m.turned && !small && (
        <path
          d={`M${at.x(r) - 6} ${at.y(t) + 19}a4 4 0 1 1 -4 -2m1 -3l-2 3l3 2`}
          fill="none"
          stroke="var(--ink-2)"
          strokeWidth="1.3"
        />
      )}
    </g>
  );
});

interface ExitsProps {
  module: RoofModule;
  at: Placing;
}

const Exits = memo(function Exits({ module: m, at }: ExitsProps) {
  const sign = (mm: Point | null | undefined, plus: boolean) => {
    if (!mm) return null;
    const [x, y] = [at.x(mm[0]), at.y(mm[1])];
    const colour = plus ? "var(--stop)" : "var(--ink)";
    const r = Math.max(3.5, Math.min(7, 130 * at.scale));
    return (
      <g pointerEvents="none" stroke={colour} strokeWidth="1.6">
        <circle cx={x} cy={y} r={r} fill="var(--sheet)" />
        <path d={`M${x - r / 2} ${y}h${r}${plus ? `M${x} ${y - r / 2}v${r}` : ""}`} />
      </g>
    );
  };
  return (
    <>
      {sign(m.minus_mm, false)}
      {sign(m.plus_mm, true)}
    </>
  );
});

type JoinsProps = Pick<Props, "face" | "tapes" | "join"> & { at: Placing };

const Joins = memo(function Joins({ face, tapes, at, join }: JoinsProps) {
  return (
    <>
      {face.strings.map((s) => (
        <g key={s.letter} fill="none" stroke={tapeColour(tapes, s.letter)}>
          {[s.tail_plus, s.tail_minus].map(
            (tail, i) =>
              tail && (
                <polyline
                  key={i}
                  pointerEvents="none"
                  points={[
                    [tail.from_mm[0], tail.from_mm[1]],
                    [tail.from_mm[0], tail.to_mm[1]],
                    [tail.to_mm[0], tail.to_mm[1]],
                  ]
                    .map(([x = 0, y = 0]) => `${String(at.x(x))},${String(at.y(y))}`)
                    .join(" ")}
                  strokeDasharray="5 4"
                  strokeWidth="1.6"
                />
              ),
          )}
          {s.joins.map((j) => {
            if (!j.from_mm || !j.to_mm) return null;
            const [x1, y1] = [at.x(j.from_mm[0]), at.y(j.from_mm[1])];
            const [x2, y2] = [at.x(j.to_mm[0]), at.y(j.to_mm[1])];
            const sag = Math.min(26, 8 + Math.abs(x2 - x1) / 8);
            const d = `M${x1} ${y1}Q${(x1 + x2) / 2} ${(y1 + y2) / 2 + sag} ${x2} ${y2}`;
            const stop = j.verdict === "fail";
            const open = join?.letter === s.letter && join.place === j.place;
            return (
              <g
                key={j.after}
                data-join={`${s.letter}${String(j.place)}`}
                className="cursor-pointer"
              >
                <path d={d} stroke="transparent" strokeWidth="8" />
                <path
                  d={d}
                  strokeWidth={open ? 4 : 2.2}
                  stroke={stop ? "var(--stop)" : undefined}
                  strokeDasharray={stop ? "3 3" : j.jumper_m != null ? "9 3" : undefined}
                />
              </g>
            );
          })}
        </g>
      ))}
    </>
  );
});

function Box({ name, at, mm, by }: { name: string; at: Placing; mm: Point; by: Point }) {
  const [x, y] = [at.x(mm[0] + by[0]), at.y(mm[1] + by[1])];
  const width = Math.max(34, name.length * 7 + 14);
  return (
    <g className="cursor-move" data-box={name}>
      <rect x={x - width / 2} y={y - 10} width={width} height="20" rx="3" fill="#17232E" />
      <text x={x} y={y + 4} textAnchor="middle" fontSize="11" fontWeight="700" fill="#F4F3EF">
        {name}
      </text>
    </g>
  );
}
