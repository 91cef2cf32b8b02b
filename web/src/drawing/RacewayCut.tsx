/** The cut through a raceway, to scale, every wire in it. */
import type { RacewayCut as Cut, Tape } from "../api/client";
import { tapeColour } from "../ui/Tape";

const SIGNS: Record<string, string> = {
  plus: "+",
  minus: "−",
  line: "L",
  neutral: "N",
  earth: "E",
  control: "C",
};

export function RacewayCut({ cut, tapes }: { cut: Cut; tapes: Tape[] }) {
  const r = cut.inner_mm / 2;
  const view = r * 2.25;
  return (
    <svg
      viewBox={`${String(-view / 2)} ${String(-view / 2)} ${String(view)} ${String(view)}`}
      className="h-40 w-40 shrink-0"
      role="img"
      aria-label={[
        `Cut through ${cut.kind} ${cut.size}`,
        `${String(cut.wires.length)} wires`,
        "to scale",
      ].join(", ")}
      data-testid="raceway-cut"
    >
      <circle r={r} fill="var(--sheet)" stroke="var(--ink-3)" strokeWidth={r * 0.06} />
      {cut.wires.map((wire, i) => {
        const earth = wire.role === "earth";
        const fill = earth
          ? "#23824F"
          : wire.string
            ? tapeColour(tapes, wire.string)
            : wire.role === "neutral"
              ? "#66717B"
              : "#15202B";
        return (
          <g
            key={i}
            transform={`translate(${String(wire.x_mm)} ${String(-wire.y_mm)})`}
            opacity={wire.fits ? 1 : 0.6}
          >
            <circle
              r={wire.diameter_mm / 2}
              fill={fill}
              stroke={wire.fits ? "none" : "var(--stop)"}
              strokeWidth="0.3"
            />
            <circle r={wire.diameter_mm * 0.3} fill="#E7B98F" />
            <text
              textAnchor="middle"
              y={wire.diameter_mm * 0.17}
              fontSize={wire.diameter_mm * 0.48}
              fontWeight="700"
              fill="#15202B"
            >
              {SIGNS[wire.role]}
            </text>
          </g>
        );
      })}
    </svg>
  );
}
