/** Where bands, nodes and parts of the drop drawing lie, by columns and lanes of the report. */
import type { Report } from "../api/client";
import { DOWN } from "../model/drop";
import { lengthText } from "../model/units";
import { racewayText, type Place } from "../text/words";

export type Route = Report["route"];
export type RouteWay = Route["ways"][number];
export type RouteNode = Route["nodes"][number];

export const LEFT = 150;
/** What the sheet is wide: a drawing up to that fills it, a longer one is scrolled. */
export const SHEET = 770;
const NODES_WIDE = 94;
const PARTS_WIDE = 84;
export const LANE = 70;
export const TOP = 14;
/** A place that nothing is in. */
const THIN = 24;
export const NODE = 84;

/** Letters of a way's key that are written on it. */
export const KEY = 8;
/** Width of a letter of what is written on a way, px. */
const LETTER = 6.8;

export const short = (text: string, most: number): string =>
  text.length > most ? `${text.slice(0, most - 1)}…` : text;

/** What is written on a part, one line under the other. */
export const labelOf = (part: RouteWay["parts"][number]): [string, string] => [
  part.raceway ? racewayText(part.raceway) : "open",
  part.length_m == null ? "length open" : lengthText(part.length_m),
];

/** Widths that columns need for what is written on the parts that lie in one of them. */
function written(route: Route): Map<number, number> {
  const needs = new Map<number, number>();
  for (const way of route.ways)
    for (const [k, part] of way.parts.entries()) {
      if (part.to - part.from !== 1) continue;
      const [first, second] = labelOf(part);
      const key = k === 0 ? short(way.way, KEY).length + 1 : 0;
      const own = Math.max(first.length + key, second.length) * LETTER + 10;
      needs.set(part.from, Math.max(needs.get(part.from) ?? 0, own));
    }
  return needs;
}

export interface Strip {
  place: Place | null;
  /** Its number among the bands of the report; none where nothing is in it. */
  band: number | null;
  ambient_c: number | null;
  top: number;
  height: number;
}

export interface Layout {
  strips: Strip[];
  width: number;
  height: number;
  x: (column: number) => number;
  y: (band: number, lane: number) => number;
  /** The place at a height. */
  placeAt: (y: number) => Place | null | undefined;
}

/** The layout; with `all`, places that nothing is in stand between the others. */
export function layout(route: Route, all: boolean): Layout {
  const used = new Map(route.bands.map((b, i) => [b.place ?? null, i]));
  const order: (Place | null)[] = all
    ? [...DOWN, ...(used.has(null) ? [null] : [])]
    : route.bands.map((b) => b.place ?? null);
  const strips: Strip[] = [];
  let top = 0;
  for (const place of order) {
    const band = used.get(place) ?? null;
    const own = band === null ? undefined : route.bands[band];
    const height = own ? own.lanes * LANE + TOP : THIN;
    strips.push({ place, band, ambient_c: own?.ambient_c ?? null, top, height });
    top += height;
  }
  // A column with nodes in it is as wide as a node; the others share the rest.
  const withNodes = new Set(route.nodes.map((n) => n.column));
  const others = route.columns - withNodes.size;
  const rest = (SHEET - LEFT - withNodes.size * NODES_WIDE) / Math.max(1, others);
  const needs = written(route);
  const lefts = [LEFT];
  for (let c = 0; c < route.columns; c++) {
    const least = withNodes.has(c) ? NODES_WIDE : Math.max(PARTS_WIDE, rest);
    lefts.push((lefts[c] ?? LEFT) + Math.max(least, needs.get(c) ?? 0));
  }
  const x = (column: number) => lefts[column] ?? LEFT;
  const tops = new Map(strips.map((s) => [s.band, s.top]));
  return {
    strips,
    width: Math.max(SHEET, x(route.columns)),
    height: Math.max(60, top),
    x,
    y: (band, lane) => (tops.get(band) ?? 0) + TOP / 2 + lane * LANE + LANE / 2,
    placeAt: (y) => strips.find((s) => y >= s.top && y < s.top + s.height)?.place,
  };
}

/** Nodes and parts in the order of the current, column by column: the way of the arrow keys. */
export function inOrder(route: Route): string[] {
  const nodes = route.nodes.map((n) => ({ key: `node/${n.node}`, at: n.column, y: n.band }));
  const parts = route.ways.flatMap((w) =>
    w.parts.map((p, i) => ({ key: `part/${w.way}/${String(i + 1)}`, at: p.from, y: p.band })),
  );
  return [...nodes, ...parts]
    .sort((a, b) => a.at - b.at || a.y - b.y || a.key.localeCompare(b.key))
    .map((t) => t.key);
}
