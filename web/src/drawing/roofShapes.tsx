/** What a roof map is drawn with: ground, modules, leads, trunks, rails, the box. */
import { memo } from "react";
import type { Area, Point, RoofFace, RoofModule, Tape } from "../api/client";
import { amount } from "../model/format";
import { tapeColour } from "../ui/Tape";

export const HIGH = 460;
export const EDGE = 14;

/** Where a face is drawn: millimetres to the drawing's own units, y turned round. */
export function placing(face: RoofFace, wide: number) {
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

export type Placing = ReturnType<typeof placing>;

/** Points of a face as a drawing has them. */
const drawn = (at: Placing, points: Point[]): string =>
  points.map(([x, y]) => `${String(at.x(x))},${String(at.y(y))}`).join(" ");

/** What leads to the box: down its column, then along. */
function ToBox({ from, to, at }: { from: Point; to: Point; at: Placing }) {
  return (
    <polyline
      pointerEvents="none"
      points={drawn(at, [from, [from[0], to[1]], to])}
      strokeDasharray="5 4"
      strokeWidth="1.6"
    />
  );
}

/** Modules of which a join is a stop. */
export const wrongOf = (face: RoofFace): Set<string> =>
  new Set(
    [...face.strings.flatMap((s) => s.joins), ...face.trunks.flatMap((t) => t.hops)]
      .filter((j) => j.verdict === "fail")
      .flatMap((j) => ("before" in j ? [j.after, j.before] : [j.after])),
  );

export const Ground = memo(function Ground({ face, at }: { face: RoofFace; at: Placing }) {
  const outline = face.outline_mm;
  const points = (list: Point[]) => drawn(at, list);
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
  const frames = face.rows;
  return (
    <g>
      {frames ? (
        Array.from({ length: frames.n }, (_, row) => {
          const low = a[1] + row * (frames.slope_m + frames.gap_m) * 1000;
          return (
            <polygon
              key={row}
              points={points(band(low, low + frames.slope_m * 1000))}
              fill="var(--paper)"
              stroke="var(--ink-3)"
            />
          );
        })
      ) : (
        <polygon points={points([a, b, c, d])} fill="var(--paper)" stroke="var(--line)" />
      )}
      <line
        x1={at.x(d[0])}
        y1={at.y(d[1])}
        x2={at.x(c[0])}
        y2={at.y(c[1])}
        stroke={frames ? "none" : "var(--ink)"}
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
            {f.m * 1000 * at.scale > 12 ? `${f.name} kept free, ${amount(f.m, "m")}` : ""}
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

export const Module = memo(function Module(props: ModuleProps) {
  const { module: m, at, name, colour, picked, wrong, small } = props;
  const [l, b, r, t] = m.area_mm;
  const [width, height] = [(r - l) * at.scale, (t - b) * at.scale];
  const edge = wrong ? "var(--stop)" : picked ? "var(--copper)" : "var(--ink)";
  return (
    <g data-module={m.key} data-name={name}>
      <title>{`${name}${m.turned ? ", turned" : ""}${m.pinned ? ", pinned" : ""}`}</title>
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
      {m.pinned && (
        <g pointerEvents="none" stroke="var(--ink)" strokeWidth="1.2">
          <circle cx={at.x(l) + 8} cy={at.y(t) + 20} r="3.4" fill="var(--copper)" />
          <path d={`M${at.x(l) + 8} ${at.y(t) + 23.4}v6`} />
        </g>
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

export const Exits = memo(function Exits({ module: m, at }: ExitsProps) {
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
  // Both leads of an optimizer leave it at one place.
  if (m.plus_mm && m.minus_mm && m.plus_mm.every((mm, i) => mm === m.minus_mm?.[i])) {
    return <Unit x={at.x(m.plus_mm[0])} y={at.y(m.plus_mm[1])} />;
  }
  return (
    <>
      {sign(m.minus_mm, false)}
      {sign(m.plus_mm, true)}
    </>
  );
});

/** A unit or optimizer under the middle of its module. */
function Unit({ x, y }: { x: number; y: number }) {
  return (
    <rect
      pointerEvents="none"
      x={x - 5}
      y={y - 5}
      width="10"
      height="10"
      rx="2"
      fill="var(--sheet)"
      stroke="var(--ink)"
      strokeWidth="2"
    />
  );
}

interface JoinsProps {
  face: RoofFace;
  tapes: Tape[];
  at: Placing;
  /** The join whose slip is open: letter and place. */
  join: { letter: string; place: number } | null;
}

export const Joins = memo(function Joins({ face, tapes, at, join }: JoinsProps) {
  return (
    <>
      {face.strings.map((s) => (
        <g key={s.letter} fill="none" stroke={tapeColour(tapes, s.letter)}>
          {[s.tail_plus, s.tail_minus].map(
            (tail, i) => tail && <ToBox key={i} from={tail.from_mm} to={tail.to_mm} at={at} />,
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

export function Box({ name, at, mm, by }: { name: string; at: Placing; mm: Point; by: Point }) {
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

/** A trunk from unit to unit, each unit in the middle of its module. */
export const Trunks = memo(function Trunks({ face, tapes, at, join }: JoinsProps) {
  return (
    <>
      {face.trunks.map((t) => {
        const colour = tapeColour(tapes, t.letter);
        return (
          <g key={t.letter} fill="none" stroke={colour}>
            {t.feeds.map(([from, to], i) => (
              <ToBox key={i} from={from} to={to} at={at} />
            ))}
            {t.hops.map((hop) => {
              const points = drawn(at, [hop.from_mm, [hop.to_mm[0], hop.from_mm[1]], hop.to_mm]);
              const open = join?.letter === t.letter && join.place === hop.place;
              return (
                <g
                  key={hop.place}
                  data-join={`${t.letter}${String(hop.place)}`}
                  className="cursor-pointer"
                >
                  <polyline points={points} stroke="transparent" strokeWidth="10" />
                  <polyline
                    points={points}
                    strokeWidth={open ? 5 : 3}
                    stroke={hop.verdict === "fail" ? "var(--stop)" : undefined}
                    strokeDasharray={hop.bridged ? "8 4" : undefined}
                  />
                  {hop.verdict === "warn" && <Seal hop={hop} at={at} />}
                </g>
              );
            })}
            {face.modules
              .filter((m) => m.string === t.letter)
              .map((m) => (
                <Unit
                  key={m.key}
                  x={at.x((m.area_mm[0] + m.area_mm[2]) / 2)}
                  y={at.y((m.area_mm[1] + m.area_mm[3]) / 2)}
                />
              ))}
          </g>
        );
      })}
    </>
  );
});

/** Drops that are lost: a cap to seal each. */
function Seal({ hop, at }: { hop: { from_mm: Point; to_mm: Point }; at: Placing }) {
  const x = at.x((hop.from_mm[0] + hop.to_mm[0]) / 2);
  const y = at.y((hop.from_mm[1] + hop.to_mm[1]) / 2);
  return (
    <g stroke="var(--caution)" strokeWidth="2">
      <circle cx={x} cy={y} r="5" fill="var(--sheet)" />
      <path d={`M${x - 3} ${y - 3}l6 6m0 -6l-6 6`} />
    </g>
  );
}

/** Straight lines from point to point of a face. */
function Segments({
  all,
  at,
  ...line
}: { all: Area[]; at: Placing } & React.SVGProps<SVGLineElement>) {
  return all.map(([x1, y1, x2, y2], i) => (
    <line key={i} x1={at.x(x1)} y1={at.y(y1)} x2={at.x(x2)} y2={at.y(y2)} {...line} />
  ));
}

/** Rails under the modules, and a lug for bonding on each row. */
export const Rails = memo(function Rails({ face, at }: { face: RoofFace; at: Placing }) {
  return (
    <g pointerEvents="none">
      <Segments all={face.rails.rails_mm} at={at} stroke="var(--ink-2)" strokeWidth="3" />
      <Segments all={face.rails.bond_mm} at={at} stroke="var(--holds)" strokeWidth="2" />
      {face.rails.lugs_mm.map(([x, y], i) => (
        <circle key={i} cx={at.x(x)} cy={at.y(y)} r="4.5" fill="var(--holds)" />
      ))}
    </g>
  );
});
