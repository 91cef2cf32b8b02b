/**
 * The plan through the places of the house, from the roof down: nodes in their bands, ways between
 * them, circuits in their tapes. What is drawn is picked, moved from place to place, joined by new
 * ways and taken out on it, by mouse and by keyboard.
 */
import { clsx } from "clsx";
import { useMemo, useRef, useState } from "react";
import type { Job, Report, Verdict } from "../api/client";
import type { Picked } from "../model/drop";
import { whole } from "../model/format";
import type { Of } from "../model/subject";
import { placeName, type Place } from "../text/words";
import { NODE, SHEET, inOrder, layout, type Layout } from "./routeLayout";
import { DrawnNode, DrawnWay, Labels } from "./routeShapes";

interface Props {
  report: Report;
  school: Job["school"];
  picked: Picked | null;
  /** The ways a circuit is led over, in order, while it is led anew. */
  leading?: readonly string[] | null;
  /** Ways that are not looked at are drawn faint. */
  faint?: (way: string) => boolean;
  /** Places that nothing is in are drawn too. */
  allPlaces: boolean;
  canPlan: boolean;
  /** Verdict of a part of a way, counted from 1: its raceway and what lies there. */
  verdictOf: (way: string, part: number) => Verdict;
  onPick: (what: Picked) => void;
  /** It was dragged into another place. */
  onMove: (what: Picked, place: Place | null) => void;
  /** A way was drawn from node to node. */
  onConnect: (from: string, to: string) => void;
  /** A key was pressed on a thing that is picked; true where it meant something. */
  onKey: (key: string, what: Picked) => boolean;
}

/** A part of a way as one text. */
export const partKey = (way: string, part: number): string => `${way}/${String(part)}`;

/** The same of a subject. */
export const wayKey = (part: Of<"way">): string => partKey(part.way, part.part);

/** Its key in the drawing. */
const keyOf = (what: Picked): string =>
  what.kind === "part"
    ? `part/${partKey(what.way, what.part)}`
    : what.kind === "node"
      ? `node/${what.node}`
      : `circuit/${what.circuit}`;

const ofKey = (key: string): Picked => {
  const [kind, ...rest] = key.split("/");
  return kind === "node"
    ? { kind: "node", node: rest.join("/") }
    : { kind: "part", way: rest[0] ?? "", part: Number(rest[1]) };
};

/** How far a press may slip and still be one. */
const SLIP = 6;

interface Drag {
  what: Picked;
  /** A way is drawn and not a thing moved. */
  draws: boolean;
  from: [number, number];
  to: [number, number];
}

export function RouteMap(props: Props) {
  const { report, school, picked, allPlaces, canPlan } = props;
  const { route } = report;
  const svg = useRef<SVGSVGElement>(null);
  const [drag, setDrag] = useState<Drag | null>(null);
  const pressed = useRef<Drag | null>(null);
  const dragged = useRef(false);
  const caught = useRef(false);
  const at = useMemo(() => layout(route, allPlaces), [route, allPlaces]);
  const order = useMemo(() => inOrder(route), [route]);
  const pickedKey = picked === null ? null : keyOf(picked);
  // One stop for the Tab key; arrows go on from there.
  const stop = pickedKey !== null && order.includes(pickedKey) ? pickedKey : order[0];

  const point = (e: React.PointerEvent): [number, number] => {
    const matrix = svg.current?.getScreenCTM()?.inverse();
    if (!matrix) return [0, 0];
    const p = new DOMPoint(e.clientX, e.clientY).matrixTransform(matrix);
    return [p.x, p.y];
  };
  const nodeAt = ([x, y]: [number, number]) =>
    route.nodes.find(
      (n) =>
        Math.abs(x - at.x(n.column) - 4 - NODE / 2) <= NODE / 2 &&
        Math.abs(y - at.y(n.band, n.lane)) <= 20,
    )?.node;
  const press = (e: React.PointerEvent, what: Picked, draws = false) => {
    if (!canPlan || e.button !== 0) return;
    e.stopPropagation();
    const from = point(e);
    pressed.current = { what, draws, from, to: from };
    dragged.current = false;
    caught.current = false;
    svg.current?.setPointerCapture(e.pointerId);
  };
  /** A press that the drawing did not catch: of who may only look, or of a program. */
  const click = (what: Picked) => {
    if (caught.current) caught.current = false;
    else props.onPick(what);
  };
  const move = (e: React.PointerEvent) => {
    const own = pressed.current;
    if (!own) return;
    const to = point(e);
    const far = Math.hypot(to[0] - own.from[0], to[1] - own.from[1]);
    if (!dragged.current && far < SLIP) return;
    dragged.current = true;
    setDrag({ ...own, to });
  };
  const release = (e: React.PointerEvent) => {
    const own = pressed.current;
    pressed.current = null;
    setDrag(null);
    if (!own) return;
    if (!dragged.current) {
      // The press was caught by the drawing: it picks what it began on.
      if (!own.draws) props.onPick(own.what);
      caught.current = true;
      return;
    }
    const to = point(e);
    if (own.draws) {
      const end = nodeAt(to);
      if (end !== undefined && own.what.kind === "node" && end !== own.what.node)
        props.onConnect(own.what.node, end);
      return;
    }
    const place = at.placeAt(to[1]);
    if (place !== undefined && place !== at.placeAt(own.from[1])) props.onMove(own.what, place);
  };
  const focus = (key: string | undefined) => {
    if (key === undefined) return;
    const found = svg.current?.querySelector<SVGElement>(`[data-thing="${CSS.escape(key)}"]`);
    found?.focus();
    found?.scrollIntoView({ block: "nearest", inline: "nearest" });
  };
  const onKeyDown = (e: React.KeyboardEvent) => {
    const key = (e.target as Element).getAttribute("data-thing");
    // Keys with Ctrl and the like are the browser's and the workbench's.
    if (key === null || e.ctrlKey || e.metaKey || e.altKey) return;
    const step = { ArrowRight: 1, ArrowDown: 1, ArrowLeft: -1, ArrowUp: -1 }[e.key];
    if (step !== undefined && !e.shiftKey) focus(order[order.indexOf(key) + step]);
    else if (e.key === "Home") focus(order[0]);
    else if (e.key === "End") focus(order.at(-1));
    else if (e.key === "Enter" || e.key === " ") props.onPick(ofKey(key));
    else if (!props.onKey(e.shiftKey ? `Shift ${e.key}` : e.key, ofKey(key))) return;
    e.preventDefault();
    e.stopPropagation();
  };
  return (
    <svg
      ref={svg}
      viewBox={`0 0 ${String(at.width)} ${String(at.height)}`}
      className={clsx("block", at.width <= SHEET ? "w-full" : "", drag && "cursor-grabbing")}
      style={{
        ...(at.width > SHEET ? { width: `${String(at.width)}px` } : {}),
        // A finger that drags a thing does not scroll the page.
        touchAction: canPlan ? "pan-x pan-y" : undefined,
      }}
      data-testid="route-map"
      onPointerMove={move}
      onPointerUp={release}
      onPointerCancel={() => {
        pressed.current = null;
        setDrag(null);
      }}
      onKeyDown={onKeyDown}
    >
      <Still {...props} at={at} stop={stop} pickedKey={pickedKey} press={press} click={click} />
      {drag && <Dragged drag={drag} at={at} school={school} over={nodeAt(drag.to)} />}
    </svg>
  );
}

interface StillProps extends Props {
  at: Layout;
  stop: string | undefined;
  pickedKey: string | null;
  press: (e: React.PointerEvent, what: Picked, draws?: boolean) => void;
  click: (what: Picked) => void;
}

/** Everything but what is being dragged. */
function Still(props: StillProps) {
  const { report, school, at, stop, pickedKey, press, click, leading, faint, canPlan } = props;
  const { route } = report;
  const nodes = new Map(
    route.nodes.map((n) => [n.node, { x: at.x(n.column), y: at.y(n.band, n.lane) }]),
  );
  return useMemo(
    () => (
      <>
        {at.strips.map((strip, i) => (
          <g key={strip.place ?? "open"}>
            <rect
              x="0"
              y={strip.top}
              width={at.width}
              height={strip.height - 1}
              fill={i % 2 === 0 ? "var(--paper)" : "var(--tracking)"}
            />
            <text
              x="12"
              y={strip.top + (strip.band === null ? 16 : 26)}
              fontSize={strip.band === null ? "11" : "13"}
              fontWeight={strip.band === null ? "400" : "700"}
              fill={strip.band === null ? "var(--ink-2)" : "var(--ink)"}
            >
              {placeName(strip.place, school)}
            </text>
            {strip.band !== null && (
              <text x="12" y={strip.top + 44} fontSize="12" fill="var(--ink-2)">
                {strip.ambient_c === null ? "air open" : whole(strip.ambient_c, "degC")}
              </text>
            )}
          </g>
        ))}
        {route.ways.map((way) => (
          <DrawnWay
            key={way.way}
            way={way}
            report={report}
            pickedKey={pickedKey}
            stop={stop}
            led={leading ? leading.indexOf(way.way) + 1 : 0}
            faint={faint?.(way.way) ?? false}
            verdictOf={props.verdictOf}
            press={press}
            click={click}
            from={nodes.get(way.from)}
            to={nodes.get(way.to)}
            x={at.x}
            y={at.y}
          />
        ))}
        {route.ways.map((way) => (
          <Labels
            key={way.way}
            way={way}
            x={at.x}
            y={at.y}
            strips={at.strips}
            faint={faint?.(way.way) ?? false}
          />
        ))}
        {route.nodes.map((node) => (
          <DrawnNode
            key={node.node}
            node={node}
            x={at.x(node.column)}
            y={at.y(node.band, node.lane)}
            picked={pickedKey === `node/${node.node}`}
            stop={stop === `node/${node.node}`}
            draws={canPlan}
            press={press}
            click={click}
          />
        ))}
        {route.ways.length === 0 && (
          <text x={at.width / 2} y="36" textAnchor="middle" fontSize="13.5" fill="var(--ink-2)">
            No way yet.
          </text>
        )}
      </>
    ),
    // What is pressed and asked goes through references that do not matter to what is drawn.
    // eslint-disable-next-line react-hooks/exhaustive-deps
    [report, school, at, stop, pickedKey, leading, faint, canPlan],
  );
}

/** What is dragged, and where it would go. */
function Dragged({
  drag,
  at,
  school,
  over,
}: {
  drag: Drag;
  at: Layout;
  school: Job["school"];
  over: string | undefined;
}) {
  const [x, y] = drag.to;
  if (drag.draws)
    return (
      <g pointerEvents="none">
        <line
          x1={drag.from[0]}
          y1={drag.from[1]}
          x2={x}
          y2={y}
          stroke="var(--copper)"
          strokeWidth="2.5"
          strokeDasharray={over === undefined ? "5 4" : undefined}
        />
        <text x={x + 8} y={y - 8} fontSize="12" fontWeight="700" fill="var(--copper)">
          {over === undefined ? "to a box, inverter or panel" : `to ${over}`}
        </text>
      </g>
    );
  const strip = at.strips.find((s) => y >= s.top && y < s.top + s.height);
  return (
    <g pointerEvents="none">
      {strip && (
        <rect
          x="1"
          y={strip.top + 1}
          width={at.width - 2}
          height={strip.height - 3}
          fill="none"
          stroke="var(--copper)"
          strokeWidth="2"
        />
      )}
      <text x={x + 10} y={y - 8} fontSize="12" fontWeight="700" fill="var(--copper)">
        {strip ? placeName(strip.place, school) : "nowhere"}
      </text>
      <circle cx={x} cy={y} r="5" fill="var(--copper)" />
    </g>
  );
}
