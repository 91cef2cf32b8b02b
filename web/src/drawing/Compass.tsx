/** The faces seen from above: where each looks, the longer the flatter. */
import type { Job } from "../api/client";

const SIZE = 130;

export function Compass({ faces }: { faces: Job["site"]["faces"] }) {
  const c = SIZE / 2;
  return (
    <svg
      viewBox={`0 0 ${String(SIZE)} ${String(SIZE)}`}
      className="h-32 w-32 shrink-0"
      role="img"
      aria-label="Faces by azimuth, north on top"
      data-testid="compass"
    >
      <circle cx={c} cy={c} r={c - 16} fill="var(--paper)" stroke="var(--line)" />
      {["N", "E", "S", "W"].map((word, i) => (
        <text
          key={word}
          x={c + (c - 7) * Math.sin((i * Math.PI) / 2)}
          y={c - (c - 7) * Math.cos((i * Math.PI) / 2) + 4}
          textAnchor="middle"
          fontSize="11"
          fill="var(--ink-2)"
        >
          {word}
        </text>
      ))}
      {faces.map((face) => {
        const length = (c - 20) * Math.cos((face.tilt_deg * Math.PI) / 180);
        return (
          <g
            key={face.id}
            transform={`translate(${String(c)} ${String(c)}) rotate(${String(face.azimuth_deg)})`}
          >
            <path
              d={`M-8 0 L0 ${String(-Math.max(10, length))} L8 0z`}
              fill="var(--copper-soft)"
              stroke="var(--copper)"
              strokeWidth="1.5"
            />
            <title>
              {[
                `${face.name}: ${String(face.tilt_deg)}° tilt`,
                `${String(face.azimuth_deg)}° from north`,
              ].join(", ")}
            </title>
          </g>
        );
      })}
      <circle cx={c} cy={c} r="2.5" fill="var(--copper)" />
    </svg>
  );
}
