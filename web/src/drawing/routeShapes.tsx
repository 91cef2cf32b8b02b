/** Shapes of the drop drawing: nodes, ways with the circuits in them, what is written on them. */
import type { Report, Verdict } from "../api/client";
import type { Picked } from "../model/drop";
import { NODES } from "../text/words";
import { tapeColour } from "../ui/Tape";
import { Mark } from "../ui/verdict";
import {
  KEY,
  LANE,
  NODE,
  labelOf,
  short,
  type RouteNode,
  type RouteWay,
  type Strip,
} from "./routeLayout";

const LINES = 6;

type Press = (e: React.PointerEvent, what: Picked, draws?: boolean) => void;

interface NodeProps {
  node: RouteNode;
  x: number;
  y: number;
  picked: boolean;
  /** The one stop of the Tab key. */
  stop: boolean;
  /** Ways may be drawn from it. */
  draws: boolean;
  press: Press;
  click: (what: Picked) => void;
}

export function DrawnNode({ node, x, y, picked, stop, draws, press, click }: NodeProps) {
  const what: Picked = { kind: "node", node: node.node };
  return (
    <g
      role="button"
      tabIndex={stop ? 0 : -1}
      data-thing={`node/${node.node}`}
      aria-label={`${short(node.node, 12)} ${NODES[node.kind]}`}
      aria-current={picked ? "true" : undefined}
      className="group cursor-pointer"
      // Its lines lead far away: what has the focus is shown on the thing itself.
      style={{ outline: "none" }}
      onPointerDown={(e) => {
        press(e, what);
      }}
      onClick={() => {
        click(what);
      }}
    >
      <rect
        x={x + 4}
        y={y - 16}
        width={NODE}
        height="32"
        rx="4"
        fill="#17232E"
        stroke={picked ? "var(--copper)" : "var(--line)"}
        strokeWidth={picked ? 3 : 1}
      />
      <rect
        x={x}
        y={y - 20}
        width={NODE + 8}
        height="40"
        rx="6"
        fill="none"
        strokeWidth="2"
        className="stroke-transparent group-focus-visible:stroke-ink"
      />
      <text
        x={x + 4 + NODE / 2}
        y={y - 2}
        textAnchor="middle"
        fontSize="11.5"
        fontWeight="700"
        fill="#F4F3EF"
      >
        {`${short(node.node, 12)} `}
      </text>
      <text x={x + 4 + NODE / 2} y={y + 11} textAnchor="middle" fontSize="10" fill="#C9CDD1">
        {NODES[node.kind]}
      </text>
      {draws && picked && (
        <circle
          cx={x + 4 + NODE}
          cy={y}
          r="7"
          fill="var(--copper)"
          stroke="var(--sheet)"
          strokeWidth="2"
          className="cursor-crosshair"
          onPointerDown={(e) => {
            press(e, what, true);
          }}
        >
          <title>Draw a way from here</title>
        </circle>
      )}
    </g>
  );
}

interface Point {
  x: number;
  y: number;
}

interface WayProps {
  way: RouteWay;
  report: Report;
  pickedKey: string | null;
  stop: string | undefined;
  /** Its place among the ways a circuit is led over; 0 where it is not among them. */
  led: number;
  faint: boolean;
  verdictOf: (way: string, part: number) => Verdict;
  press: Press;
  click: (what: Picked) => void;
  from: Point | undefined;
  to: Point | undefined;
  x: (column: number) => number;
  y: (band: number, lane: number) => number;
}

/** Between the lines of a way; many of them draw together. */
const gap = (lines: number): number => (lines > 3 ? 3 : 4);
const half = (lines: number): number => (lines * gap(lines)) / 2;

/** What is written on a way: above all lines, and clear of those behind it. */
export function Labels({
  way,
  x,
  y,
  strips,
  faint,
}: Pick<WayProps, "way" | "x" | "y" | "faint"> & { strips: Strip[] }) {
  const lines = Math.min(LINES, Math.max(1, way.circuits.length));
  const ground = (band: number) =>
    strips.findIndex((s) => s.band === band) % 2 === 0 ? "var(--paper)" : "var(--tracking)";
  return (
    <g pointerEvents="none" opacity={faint ? 0.35 : 1}>
      {way.parts.flatMap((part, k) =>
        labelOf(part).map((line, row) => (
          <text
            key={`${String(k)}/${String(row)}`}
            x={(x(part.from) + x(part.to)) / 2}
            y={y(part.band, part.lane) - 8 - half(lines) - (1 - row) * 12}
            textAnchor="middle"
            fontSize="11"
            fill="var(--ink)"
            stroke={ground(part.band)}
            strokeWidth="3"
            paintOrder="stroke"
            className="font-mono"
          >
            {k === 0 && row === 0 && <tspan fontWeight="700">{`${short(way.way, KEY)} `}</tspan>}
            {line}
          </text>
        )),
      )}
    </g>
  );
}

export function DrawnWay(props: WayProps) {
  const { way, report, pickedKey, stop, led, faint, verdictOf, press, click, from, to, x, y } =
    props;
  const colours = way.circuits
    .slice(0, LINES)
    .map((c) => (c.string ? tapeColour(report.tapes, c.string) : "var(--ink)"));
  const lines = colours.length > 0 ? colours : ["var(--ink-3)"];
  return (
    <g opacity={faint ? 0.35 : 1}>
      {way.parts.map((part, k) => {
        const number = k + 1;
        const key = `part/${way.way}/${String(number)}`;
        const [x1, x2] = [x(part.from), x(part.to)];
        const level = y(part.band, part.lane);
        const next = way.parts[k + 1];
        const verdict = verdictOf(way.way, number);
        return (
          <g
            key={key}
            role="button"
            tabIndex={stop === key ? 0 : -1}
            data-thing={key}
            aria-label={`${way.way} part ${String(number)}, ${labelOf(part).join(", ")}`}
            aria-current={pickedKey === key ? "true" : undefined}
            className="group cursor-pointer"
            // Its lines lead far away: what has the focus is shown on the thing itself.
            style={{ outline: "none" }}
            onPointerDown={(e) => {
              press(e, { kind: "part", way: way.way, part: number });
            }}
            onClick={() => {
              click({ kind: "part", way: way.way, part: number });
            }}
          >
            <rect
              x={x1}
              y={level - LANE / 2 + 1}
              width={x2 - x1}
              height={LANE - 2}
              rx="4"
              fill={pickedKey === key || led > 0 ? "var(--copper-soft)" : "transparent"}
              strokeWidth="2"
              className="stroke-transparent group-focus-visible:stroke-ink"
            />
            <rect
              x={x1 + 2}
              y={level - 4 - half(lines.length)}
              width={x2 - x1 - 4}
              height={8 + 2 * half(lines.length)}
              rx="3"
              fill="var(--sheet)"
              stroke="var(--line)"
            />
            {lines.map((colour, line) => {
              const aside = (line - (lines.length - 1) / 2) * gap(lines.length);
              const begin =
                k === 0 && from
                  ? `M${String(from.x + NODE)} ${String(from.y + aside)}H${String(
                      x1 - 8 + aside,
                    )}V${String(level + aside)}H${String(x2)}`
                  : `M${String(x1 - 2)} ${String(level + aside)}H${String(x2)}`;
              const down = next
                ? `H${String(x2 - 2 + aside)}V${String(y(next.band, next.lane) + aside)}`
                : to
                  ? `H${String(to.x - 2 + aside)}V${String(to.y + aside)}H${String(to.x + 6)}`
                  : "";
              return (
                <path
                  key={line}
                  d={`${begin}${down}`}
                  fill="none"
                  stroke={colour}
                  strokeWidth={lines.length > 3 ? 2 : 2.5}
                />
              );
            })}
            {led > 0 && k === 0 && (
              <text x={x1 + 6} y={level + 24} fontSize="13" fontWeight="700" fill="var(--copper)">
                {led}
              </text>
            )}
            {(verdict === "fail" || verdict === "warn") && (
              <g transform={`translate(${String((x1 + x2) / 2 - 9)} ${String(level + 8)})`}>
                <Mark verdict={verdict} />
              </g>
            )}
          </g>
        );
      })}
    </g>
  );
}
