/**
 * The volts along each branch: how far every unit stands above the panel, and how much room is
 * left.
 */
import type { Report, Tape } from "../api/client";
import { plain } from "../model/format";
import { tapeColour } from "../ui/Tape";

type Branch = Report["branches"][number];

interface Props {
  branches: Branch[];
  tapes: Tape[];
  picked: string | null;
  onPick: (letter: string) => void;
}

const percent = (value: number | null | undefined): string =>
  value == null ? "open" : `${plain(value, 2)} %`;

const WIDTH = 740;
const LEFT = 120;
const ROW = 92;

export function BranchRise({ branches, tapes, picked, onPick }: Props) {
  const most =
    Math.max(0.1, ...branches.flatMap((b) => [...b.arms_v.flat(), b.limit_v ?? 0])) * 1.12;
  const widest = Math.max(1, ...branches.map((b) => b.arms_v.reduce((n, a) => n + a.length, 0)));
  const feed = Math.max(
    0,
    ...branches.map((b) => (b.arms_v.length > 1 ? (b.arms_v[0]?.length ?? 0) : 0)),
  );
  const across = Math.max(
    widest,
    feed + Math.max(0, ...branches.map((b) => b.arms_v.at(-1)?.length ?? 0)),
  );
  const step = (WIDTH - LEFT - 60) / Math.max(1, across);
  return (
    <svg
      viewBox={`0 0 ${String(WIDTH)} ${String(branches.length * ROW + 14)}`}
      className="block w-full"
      data-testid="branch-rise"
    >
      {branches.map((b, i) => {
        const floor = i * ROW + ROW - 20;
        const y = (v: number) => floor - (v / most) * (ROW - 32);
        const [first = [], second] = b.arms_v;
        const colour = tapeColour(tapes, b.letter);
        // The first arm of two runs back from the feed, the other on from it.
        const at = LEFT + 20 + feed * step;
        const points = [
          ...(second ? first : []).map((v, k) => ({ x: at - (k + 1) * step, v })).reverse(),
          { x: at, v: b.feed_v },
          ...(second ?? first).map((v, k) => ({ x: at + (k + 1) * step, v })),
        ];
        return (
          <g key={b.letter}>
            {picked === b.letter && (
              <rect
                x="0"
                y={i * ROW}
                width={WIDTH}
                height={ROW}
                fill="var(--copper-soft)"
                opacity="0.6"
              />
            )}
            <g
              className="cursor-pointer"
              onClick={() => {
                onPick(b.letter);
              }}
            >
              <rect
                role="button"
                tabIndex={0}
                aria-label={[
                  `Branch ${b.letter}`,
                  `${String(points.length - 1)} units`,
                  b.face,
                  `rise ${percent(b.rise_pct)}`,
                ].join(", ")}
                x="30"
                y={floor - 52}
                width={LEFT - 40}
                height="34"
                fill="transparent"
                onKeyDown={(e) => {
                  if (e.key === "Enter" || e.key === " ") {
                    e.preventDefault();
                    onPick(b.letter);
                  }
                }}
              />
              <rect x="2" y={floor - 46} width="26" height="18" rx="3" fill={colour} />
              <text
                x="15"
                y={floor - 33}
                textAnchor="middle"
                fontSize="12"
                fontWeight="700"
                fill="#fff"
              >
                {b.letter}
              </text>
              <text
                x="35"
                y={floor - 38}
                fontSize="12.5"
                fontWeight="700"
                fill="var(--ink)"
                pointerEvents="none"
              >
                {b.arms_v.map((a) => String(a.length)).join(" + ")} units
              </text>
              <text x="35" y={floor - 24} fontSize="11.5" fill="var(--ink-2)" pointerEvents="none">
                {b.face}
              </text>
            </g>
            {b.limit_v != null && (
              <>
                <line
                  x1={LEFT}
                  x2={WIDTH - 6}
                  y1={y(b.limit_v)}
                  y2={y(b.limit_v)}
                  stroke="var(--caution)"
                  strokeDasharray="5 3"
                />
                <text
                  x={WIDTH - 6}
                  y={y(b.limit_v) - 3}
                  fontSize="11"
                  fill="var(--caution)"
                  textAnchor="end"
                >
                  limit {plain(b.limit_v, 2)} V
                </text>
              </>
            )}
            <line x1={LEFT} x2={WIDTH - 6} y1={floor} y2={floor} stroke="var(--ink)" />
            <polyline
              points={points.map((p) => `${String(p.x)},${String(y(p.v))}`).join(" ")}
              fill="none"
              stroke={colour}
              strokeWidth="2"
            />
            {points.map((p, k) =>
              p.x === at ? (
                <path
                  key={k}
                  d={`M${String(at)} ${String(floor)}V${String(y(p.v))}`}
                  stroke="var(--ink)"
                  strokeWidth="3"
                />
              ) : (
                <circle key={k} cx={p.x} cy={y(p.v)} r="3" fill={colour}>
                  <title>{plain(p.v, 2)} V above the panel</title>
                </circle>
              ),
            )}
            <text x={at} y={floor + 13} fontSize="11" textAnchor="middle" fill="var(--ink-2)">
              feed
            </text>
            <text x={WIDTH - 6} y={floor + 13} fontSize="11" textAnchor="end" fill="var(--ink-2)">
              whole rise {b.rise_pct == null ? "open" : `${plain(b.rise_pct, 2)} %`} · fed at the
              end {percent(b.end_fed_pct)}, in the middle{" "}
              {b.centre_fed_pct == null ? "open" : `${plain(b.centre_fed_pct, 2)} %`}
            </text>
          </g>
        );
      })}
    </svg>
  );
}
