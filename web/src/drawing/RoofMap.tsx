/**
 * A face seen from above, ridge on top: modules as they lie, where + and − leave each, how they
 * join, and the tails to the box. Worked on by mouse, touch and keyboard.
 */
import { useMemo, useRef, useState } from "react";
import type { Point, RoofFace, RoofModule, Tape } from "../api/client";
import { beside, snapped, within } from "../model/roof";
import { tapeColour } from "../ui/Tape";
import {
  Box,
  EDGE,
  Exits,
  Ground,
  HIGH,
  Joins,
  Module,
  Rails,
  Trunks,
  placing,
  wrongOf,
} from "./roofShapes";

export interface MapActions {
  onMove: (keys: string[], by: Point) => void;
  onTurn: (keys: string[]) => void;
  onTip: (keys: string[]) => void;
  onTakeOff: (keys: string[]) => void;
  onJoin: (key: string) => void;
  onPin: (keys: string[]) => void;
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
  /** Shows rails and lugs instead of leads. */
  rails: boolean;
  /** What the drawing is wide, in its own units and on the screen. */
  wide: number;
  /** Null where nobody may plan. */
  actions: MapActions | null;
}

/** Modules from which labels and signs are left to the zoom. */
const CROWD = 160;

const KEYS = "Arrows walk, T turns, J joins, P pins, R routes, Delete takes off.";

const DIRECTIONS: Record<string, Point> = {
  ArrowLeft: [-1, 0],
  ArrowRight: [1, 0],
  ArrowUp: [0, 1],
  ArrowDown: [0, -1],
};

type Held =
  | { what: "modules"; from: Point; keys: string[]; by: Point }
  | { what: "box"; by: Point; from: Point }
  | { what: "frame"; from: Point; to: Point }
  | { what: "sheet"; from: Point; view: Point };

export function RoofMap(props: Props) {
  const { face, tapes, selected, onSelect, join, onPickJoin, joining, rails, wide, actions } =
    props;
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
    else if (can && e.key === "p") actions.onPin(selected);
    else if (can && (e.key === "Delete" || e.key === "Backspace")) actions.onTakeOff(selected);
    else if (actions && e.key === "r") actions.onRoute();
    else if (e.key === "Enter" && current !== undefined) {
      const m = face.modules.find((o) => o.key === current);
      if (m?.string == null || m.place == null) return;
      const last = face.modules.filter((o) => o.string === m.string).length;
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
        {!carried && rails && <Rails face={face} at={at} />}
        {!carried && !rails && (
          // While clicks join modules, what is drawn over them lets the clicks through.
          <g pointerEvents={joining ? "none" : undefined}>
            <Joins {...{ face, tapes, at, join }} />
            <Trunks {...{ face, tapes, at, join }} />
          </g>
        )}
        {!crowded &&
          !rails &&
          !face.trunks.length &&
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
          ? [
              name(now),
              now.turned && "turned",
              now.pinned && "pinned",
              now.string === null && "in no string",
            ]
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
