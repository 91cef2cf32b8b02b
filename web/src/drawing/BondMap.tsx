/**
 * The bonding graph: metal parts in rows by how far they are from the electrode, what joins them
 * between. The way of what is picked is drawn thick; a part that nothing bonds stands apart.
 */
import { clsx } from "clsx";
import type { Bonding, MetalPart } from "../api/client";
import { WORDS } from "../ui/verdict";

const WIDE = 128;
const HIGH = 34;
const GAP = 16;
const ROW = 74;

const KINDS: Record<MetalPart["kind"], string> = {
  frames: "frames and rails",
  units: "units",
  case: "case",
  inverter: "inverter",
  panel: "panel",
  raceway: "metal raceway",
  electrode: "electrode",
};

const JOINS: Record<Bonding["edges"][number]["by"], string> = {
  lugs: "lugs",
  mount: "mount",
  earth_wire: "",
  conductor: "bond",
  fittings: "",
};

interface Props {
  bonding: Bonding;
  school: "na" | "iec";
  picked: string | null;
  onPick: (part: MetalPart) => void;
  name: (part: MetalPart) => string;
}

/** The parts from one to the electrode, itself first. */
function wayOf(bonding: Bonding, from: string | null): string[] {
  const next = new Map(bonding.parts.map((p) => [p.key, p.next ?? null]));
  const way: string[] = [];
  for (let key = from; key !== null; key = next.get(key) ?? null) way.push(key);
  return way;
}

export function BondMap({ bonding, school, picked, onPick, name }: Props) {
  const lone = bonding.parts.filter((p) => p.steps_n == null);
  const rows: MetalPart[][] = [];
  for (const part of bonding.parts.filter((p) => p.steps_n != null)) {
    // An electrode stands at the ground, whatever it is the electrode of.
    const row = part.kind === "electrode" ? 0 : (part.steps_n ?? 0);
    rows[row] = [...(rows[row] ?? []), part];
  }
  const filled = Array.from(rows, (r) => r as MetalPart[] | undefined).map((r) => r ?? []);
  // From the roof down: the farthest first; what nothing bonds above all of it.
  const drawn = [...(lone.length ? [lone] : []), ...filled.reverse()];
  const most = Math.max(1, ...drawn.map((r) => r.length));
  const width = Math.max(620, most * (WIDE + GAP) + GAP);
  const height = drawn.length * ROW + 46;
  const at = new Map<string, [number, number]>();
  drawn.forEach((row, k) => {
    const left = (width - row.length * (WIDE + GAP) + GAP) / 2;
    row.forEach((part, i) => at.set(part.key, [left + i * (WIDE + GAP), 8 + k * ROW]));
  });
  const path = wayOf(bonding, picked);
  const onPath = (a: string, b: string) => {
    const i = path.indexOf(a);
    const j = path.indexOf(b);
    return i >= 0 && j >= 0 && Math.abs(i - j) === 1;
  };
  return (
    <div className="overflow-x-auto">
      <svg
        viewBox={`0 0 ${String(width)} ${String(height)}`}
        width={width}
        height={height}
        role="group"
        aria-label="Bonding: every metal part and its way to the electrode"
      >
        {bonding.edges.map((e, i) => {
          const [a, b] = [at.get(e.from), at.get(e.to)];
          if (!a || !b) return null;
          const [ax, ay] = [a[0] + WIDE / 2, a[1] + HIGH / 2];
          const [bx, by] = [b[0] + WIDE / 2, b[1] + HIGH / 2];
          const strong = onPath(e.from, e.to);
          const size = e.size == null ? "" : `${e.size} ${school === "na" ? "AWG" : "mm²"}`;
          const text = [JOINS[e.by], size, e.size == null ? "" : e.insulated ? "insulated" : "bare"]
            .filter(Boolean)
            .join(" ");
          // In the gap above the lower one, where no box hides it; away from where the line leans.
          const low = Math.max(ay, by) - HIGH / 2 - (i % 2 === 0 ? 10 : 24);
          const along = ay === by ? 0 : (low - ay) / (by - ay);
          const far = Math.abs(by - ay) > 1.5 * ROW;
          const leansRight = far ? bx >= ax : (bx - ax) * (by - ay) > 0;
          return (
            <g key={i}>
              <line
                x1={ax}
                y1={ay}
                x2={bx}
                y2={by}
                className={strong ? "stroke-holds" : "stroke-ink-3"}
                strokeWidth={strong ? 3.5 : 1.2}
                strokeDasharray={e.known ? undefined : "4 3"}
              />
              {text && Math.abs(ay - by) > HIGH && (
                <text
                  x={ax + (bx - ax) * along + (leansRight ? -6 : 6)}
                  y={low}
                  textAnchor={leansRight ? "end" : "start"}
                  strokeWidth="4"
                  className="fill-ink-2 stroke-sheet font-mono text-[10px] [paint-order:stroke]"
                >
                  {text}
                </text>
              )}
            </g>
          );
        })}
        {bonding.parts.map((p) => {
          const place = at.get(p.key);
          if (!place) return null;
          const [x, y] = place;
          const own = p.key === picked;
          const state = p.metal ? WORDS[p.verdict] : "not of metal";
          return (
            <g
              key={p.key}
              role="button"
              tabIndex={0}
              aria-label={`${name(p)}, ${KINDS[p.kind]}: ${state}`}
              aria-pressed={own}
              className="cursor-pointer"
              onClick={() => {
                onPick(p);
              }}
              onKeyDown={(e) => {
                if (e.key === "Enter" || e.key === " ") {
                  e.preventDefault();
                  onPick(p);
                }
              }}
            >
              <rect
                x={x}
                y={y}
                width={WIDE}
                height={HIGH}
                rx={p.kind === "raceway" ? 16 : 3}
                strokeDasharray={p.metal ? (p.verdict === "unknown" ? "4 3" : undefined) : "1 3"}
                strokeWidth={own ? 2.5 : 1.2}
                className={clsx(
                  !p.metal || p.verdict === "pass"
                    ? "fill-sheet"
                    : p.verdict === "fail"
                      ? "fill-stop-soft"
                      : "fill-paper",
                  own
                    ? "stroke-copper"
                    : p.verdict === "fail" && p.metal
                      ? "stroke-stop"
                      : "stroke-ink",
                )}
              />
              <text
                x={x + WIDE / 2}
                y={y + 15}
                textAnchor="middle"
                className="fill-ink text-[12px] font-bold"
              >
                {name(p)}
              </text>
              <text
                x={x + WIDE / 2}
                y={y + 27}
                textAnchor="middle"
                className="fill-ink-2 text-[10.5px]"
              >
                {p.metal ? KINDS[p.kind] : `${KINDS[p.kind]}, not of metal`}
              </text>
            </g>
          );
        })}
        {(filled.at(-1) ?? []).map((p) => {
          const [x, y] = at.get(p.key) ?? [0, 0];
          const middle = String(x + WIDE / 2);
          return (
            <path
              key={p.key}
              d={`M${middle} ${String(y + HIGH)} v14 m-16 0 h32 m-26 6 h20 m-14 6 h8`}
              className={clsx("fill-none", p.verdict === "pass" ? "stroke-ink" : "stroke-ink-3")}
              strokeDasharray={p.verdict === "pass" ? undefined : "4 3"}
              strokeWidth="2"
            />
          );
        })}
      </svg>
    </div>
  );
}
