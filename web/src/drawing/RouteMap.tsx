/**
 * The way of the circuits through the places of the house, from the roof down; lines in their tape
 * colours.
 */
import type { Job, Leg, Report, Route, Verdict } from "../api/client";
import type { Of } from "../model/subject";
import { plain } from "../model/format";
import { lengthText } from "../model/units";
import { placeName, racewayText } from "../text/words";
import { tapeColour } from "../ui/Tape";
import { Mark } from "../ui/verdict";

interface Props {
  route: Route;
  report: Report;
  school: Job["school"];
  picked: string | null;
  /** Verdict of a segment: its raceway and what runs in it. */
  verdictOf: (leg: Leg) => Verdict;
  onPick: (leg: Leg) => void;
}

const WIDTH = 720;
const BAND = 62;
const LEFT = 178;
const LINES = 6;
const BOX = 44;

const translated = (x: number, y: number): string => `translate(${String(x)} ${String(y)})`;

export const legKey = (leg: { run: string; segment: number }): string =>
  `${leg.run}/${String(leg.segment + 1)}`;

/** The same of a raceway's subject, which counts segments from 1. */
export const racewayKey = (raceway: Of<"raceway">): string =>
  `${raceway.run}/${String(raceway.segment)}`;

export function RouteMap({ route, report, school, picked, verdictOf, onPick }: Props) {
  const height = Math.max(1, route.bands.length) * BAND;
  // Every run begins with a box of its own; the rest of the width is shared by the segments.
  const starts = route.legs.filter((leg) => leg.segment === 0).length;
  const step = (WIDTH - LEFT - starts * BOX - 16) / Math.max(1, route.legs.length);
  const left = route.legs.map(
    (_, i) =>
      LEFT + i * step + route.legs.slice(0, i + 1).filter((l) => l.segment === 0).length * BOX,
  );
  const y = (band: number) => band * BAND + BAND / 2;
  return (
    <svg
      viewBox={`0 0 ${String(WIDTH)} ${String(height)}`}
      className="block w-full"
      data-testid="route-map"
    >
      {route.bands.map((band, i) => (
        <g key={band.place}>
          <rect
            x="0"
            y={i * BAND}
            width={WIDTH}
            height={BAND - 1}
            fill={i % 2 === 0 ? "var(--paper)" : "var(--tracking)"}
          />
          <text x="12" y={i * BAND + 25} fontSize="13" fontWeight="700" fill="var(--ink)">
            {placeName(band.place, school)}
          </text>
          <text x="12" y={i * BAND + 43} fontSize="12" fill="var(--ink-2)">
            {band.ambient_c == null ? "air open" : `${plain(band.ambient_c, 0)} °C`}
          </text>
        </g>
      ))}
      {route.legs.map((leg, i) => {
        const next = route.legs[i + 1];
        const joined = next?.run === leg.run;
        const x1 = left[i] ?? LEFT;
        const x2 = x1 + step;
        const level = y(leg.band);
        const colours =
          leg.strings.length > 0
            ? leg.strings.slice(0, LINES).map((l) => tapeColour(report.tapes, l))
            : ["var(--ink)"];
        const key = legKey(leg);
        const verdict = verdictOf(leg);
        const label = [
          String(leg.segment + 1),
          leg.raceway ? racewayText(leg.raceway) : "open",
          leg.length_m == null ? "length open" : lengthText(leg.length_m, school),
        ];
        return (
          <g
            key={key}
            role="button"
            tabIndex={0}
            aria-label={`${leg.run} segment ${label.join(", ")}`}
            className="cursor-pointer"
            onClick={() => {
              onPick(leg);
            }}
            onKeyDown={(e) => {
              if (e.key === "Enter" || e.key === " ") onPick(leg);
            }}
          >
            <rect
              x={x1}
              y={level - 24}
              width={x2 - x1}
              height="48"
              fill={picked === key ? "var(--copper-soft)" : "transparent"}
            />
            <rect
              x={x1 + 4}
              y={level - 4 - colours.length * 2}
              width={x2 - x1 - 8}
              height={8 + colours.length * 4}
              rx="3"
              fill="var(--sheet)"
              stroke="var(--line)"
            />
            {colours.map((colour, k) => {
              const aside = (k - (colours.length - 1) / 2) * 4;
              const from = leg.segment === 0 ? x1 - 10 : x1 + aside;
              const down = joined ? `V${String(y(next.band) + aside)}` : "";
              return (
                <path
                  key={k}
                  d={[
                    `M${String(from)} ${String(level + aside)}`,
                    `H${String(joined ? x2 + aside : x2)}`,
                    down,
                  ].join("")}
                  fill="none"
                  stroke={colour}
                  strokeWidth="2.5"
                />
              );
            })}
            {leg.segment === 0 && (
              <g>
                <rect
                  x={x1 - BOX + 2}
                  y={level - 13}
                  width={BOX - 8}
                  height="26"
                  rx="4"
                  fill="#17232E"
                  stroke="var(--line)"
                />
                <text
                  x={x1 - BOX / 2 - 2}
                  y={level + 4.5}
                  textAnchor="middle"
                  fontSize="11.5"
                  fontWeight="700"
                  fill="#F4F3EF"
                >
                  {leg.run}
                </text>
              </g>
            )}
            <text
              x={(x1 + x2) / 2 + 4}
              y={level - 11 - colours.length}
              textAnchor="middle"
              fontSize="11.5"
              fill="var(--ink)"
              className="font-mono"
            >
              {label.slice(step < 150 ? 1 : 0, step < 100 ? 2 : 3).join(" · ")}
            </text>
            {(verdict === "fail" || verdict === "warn") && (
              <g transform={translated((x1 + x2) / 2 - 9, level + 7 + colours.length)}>
                <Mark verdict={verdict} />
              </g>
            )}
          </g>
        );
      })}
      {route.legs.length === 0 && (
        <text x={WIDTH / 2} y="36" textAnchor="middle" fontSize="13.5" fill="var(--ink-2)">
          No circuit yet.
        </text>
      )}
    </svg>
  );
}
