/**
 * The plan through the places of the house, from the roof down: nodes in their bands, ways between
 * them, circuits in their tapes.
 */
import { clsx } from "clsx";
import type { Job, Report, Verdict } from "../api/client";
import { whole } from "../model/format";
import type { Of } from "../model/subject";
import { lengthText } from "../model/units";
import { NODES, placeName, racewayText } from "../text/words";
import { tapeColour } from "../ui/Tape";
import { Mark } from "../ui/verdict";

type Route = Report["route"];
type RouteWay = Route["ways"][number];
type RouteNode = Route["nodes"][number];

interface Props {
  report: Report;
  school: Job["school"];
  /** The part that is picked, as `way/part`. */
  picked: string | null;
  /** Verdict of a part of a way, counted from 1: its raceway and what lies there. */
  verdictOf: (way: string, part: number) => Verdict;
  onPick: (way: string, part: number) => void;
}

const LEFT = 150;
/** What the sheet is wide: a drawing up to that fills it, a longer one is scrolled. */
const SHEET = 770;
const NODES_WIDE = 94;
const PARTS_WIDE = 84;
const LANE = 70;
const TOP = 14;
const LINES = 6;
const NODE = 84;

/** A part of a way as one text. */
export const partKey = (way: string, part: number): string => `${way}/${String(part)}`;

/** The same of a subject. */
export const wayKey = (part: Of<"way">): string => partKey(part.way, part.part);

export function RouteMap({ report, school, picked, verdictOf, onPick }: Props) {
  const { route } = report;
  const tops = route.bands.map((_, i) =>
    route.bands.slice(0, i).reduce((sum, b) => sum + b.lanes * LANE + TOP, 0),
  );
  const height = Math.max(
    60,
    route.bands.reduce((sum, b) => sum + b.lanes * LANE + TOP, 0),
  );
  // A column with nodes in it is as wide as a node; the others share the rest.
  const withNodes = new Set(route.nodes.map((n) => n.column));
  const others = route.columns - withNodes.size;
  const rest = (SHEET - LEFT - withNodes.size * NODES_WIDE) / Math.max(1, others);
  const wide = (column: number) =>
    withNodes.has(column) ? NODES_WIDE : Math.max(PARTS_WIDE, rest);
  const lefts = [LEFT];
  for (let c = 0; c < route.columns; c++) lefts.push((lefts[c] ?? LEFT) + wide(c));
  const x = (column: number) => lefts[column] ?? LEFT;
  const width = Math.max(SHEET, x(route.columns));
  const y = (band: number, lane: number) => (tops[band] ?? 0) + TOP / 2 + lane * LANE + LANE / 2;
  const at = new Map(route.nodes.map((n) => [n.node, { x: x(n.column), y: y(n.band, n.lane) }]));
  return (
    <svg
      viewBox={`0 0 ${String(width)} ${String(height)}`}
      className={clsx("block", width <= SHEET ? "w-full" : "")}
      style={width > SHEET ? { width: `${String(width)}px` } : undefined}
      data-testid="route-map"
    >
      {route.bands.map((band, i) => (
        <g key={band.place ?? "open"}>
          <rect
            x="0"
            y={tops[i]}
            width={width}
            height={band.lanes * LANE + TOP - 1}
            fill={i % 2 === 0 ? "var(--paper)" : "var(--tracking)"}
          />
          <text x="12" y={(tops[i] ?? 0) + 26} fontSize="13" fontWeight="700" fill="var(--ink)">
            {placeName(band.place, school)}
          </text>
          <text x="12" y={(tops[i] ?? 0) + 44} fontSize="12" fill="var(--ink-2)">
            {band.ambient_c == null ? "air open" : whole(band.ambient_c, "degC")}
          </text>
        </g>
      ))}
      {route.ways.map((way) => (
        <DrawnWay
          key={way.way}
          way={way}
          report={report}
          picked={picked}
          verdictOf={verdictOf}
          onPick={onPick}
          from={at.get(way.from)}
          to={at.get(way.to)}
          x={x}
          y={y}
        />
      ))}
      {route.ways.map((way) => (
        <Labels key={way.way} way={way} x={x} y={y} />
      ))}
      {route.nodes.map((node) => (
        <DrawnNode key={node.node} node={node} x={x(node.column)} y={y(node.band, node.lane)} />
      ))}
      {route.ways.length === 0 && (
        <text x={width / 2} y="36" textAnchor="middle" fontSize="13.5" fill="var(--ink-2)">
          No way yet.
        </text>
      )}
    </svg>
  );
}

function DrawnNode({ node, x, y }: { node: RouteNode; x: number; y: number }) {
  return (
    <g>
      <title>{`${node.node}: ${NODES[node.kind]}`}</title>
      <rect
        x={x + 4}
        y={y - 16}
        width={NODE}
        height="32"
        rx="4"
        fill="#17232E"
        stroke="var(--line)"
      />
      <text
        x={x + 4 + NODE / 2}
        y={y - 2}
        textAnchor="middle"
        fontSize="11.5"
        fontWeight="700"
        fill="#F4F3EF"
      >
        {short(node.node, 12)}
      </text>
      <text x={x + 4 + NODE / 2} y={y + 11} textAnchor="middle" fontSize="10" fill="#C9CDD1">
        {NODES[node.kind]}
      </text>
    </g>
  );
}

const short = (text: string, most: number): string =>
  text.length > most ? `${text.slice(0, most - 1)}…` : text;

interface Point {
  x: number;
  y: number;
}

interface WayProps extends Omit<Props, "school"> {
  way: RouteWay;
  from: Point | undefined;
  to: Point | undefined;
  x: (column: number) => number;
  y: (band: number, lane: number) => number;
}

/** Between the lines of a way; many of them draw together. */
const gap = (lines: number): number => (lines > 3 ? 3 : 4);
const half = (lines: number): number => (lines * gap(lines)) / 2;

const labelOf = (part: RouteWay["parts"][number]): [string, string] => [
  part.raceway ? racewayText(part.raceway) : "open",
  part.length_m == null ? "length open" : lengthText(part.length_m),
];

/** What is written on a way: above all lines, and clear of those behind it. */
function Labels({ way, x, y }: Pick<WayProps, "way" | "x" | "y">) {
  const lines = Math.min(LINES, Math.max(1, way.circuits.length));
  return (
    <g pointerEvents="none">
      {way.parts.flatMap((part, k) =>
        labelOf(part).map((line, row) => (
          <text
            key={`${String(k)}/${String(row)}`}
            x={(x(part.from) + x(part.to)) / 2}
            y={y(part.band, part.lane) - 8 - half(lines) - (1 - row) * 12}
            textAnchor="middle"
            fontSize="11"
            fill="var(--ink)"
            stroke={part.band % 2 === 0 ? "var(--paper)" : "var(--tracking)"}
            strokeWidth="3"
            paintOrder="stroke"
            className="font-mono"
          >
            {k === 0 && row === 0 && <tspan fontWeight="700">{`${short(way.way, 6)} `}</tspan>}
            {line}
          </text>
        )),
      )}
    </g>
  );
}

function DrawnWay({ way, report, picked, verdictOf, onPick, from, to, x, y }: WayProps) {
  const colours = way.circuits
    .slice(0, LINES)
    .map((c) => (c.string ? tapeColour(report.tapes, c.string) : "var(--ink)"));
  const lines = colours.length > 0 ? colours : ["var(--ink-3)"];
  return (
    <g>
      {way.parts.map((part, k) => {
        const number = k + 1;
        const key = partKey(way.way, number);
        const [x1, x2] = [x(part.from), x(part.to)];
        const level = y(part.band, part.lane);
        const next = way.parts[k + 1];
        const verdict = verdictOf(way.way, number);
        const label = labelOf(part);
        return (
          <g
            key={key}
            role="button"
            tabIndex={0}
            aria-label={`${way.way} part ${String(number)}, ${label.join(", ")}`}
            className="cursor-pointer"
            onClick={() => {
              onPick(way.way, number);
            }}
            onKeyDown={(e) => {
              if (e.key === "Enter" || e.key === " ") onPick(way.way, number);
            }}
          >
            <rect
              x={x1}
              y={level - LANE / 2 + 1}
              width={x2 - x1}
              height={LANE - 2}
              fill={picked === key ? "var(--copper-soft)" : "transparent"}
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
