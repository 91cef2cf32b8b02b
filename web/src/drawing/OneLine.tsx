/** A sheet of the one-line diagram: the marks the core laid out, each leading to its subject. */
import { clsx } from "clsx";
import type { OneLineMark, OneLineSheet, Subject, Tape } from "../api/client";
import { same, subjectKey, subjectName } from "../model/subject";
import { tapeColour } from "../ui/Tape";

interface Props {
  sheet: OneLineSheet;
  tapes: Tape[];
  /** What is marked out. */
  picked: Subject[];
  onPick: (subject: Subject) => void;
  /** How many times as wide as there is room for. */
  closer?: number;
}

const STROKES = { circuits: 0.5, symbols: 0.4, frame: 0.25, cases: 0.25, words: 0.2 };

export function OneLine({ sheet, tapes, picked, onPick, closer = 1 }: Props) {
  const height = sheet.size_mm[1] ?? 210;
  // Marks of one subject are one thing to press.
  const groups = new Map<string, { subject: Subject | null; marks: OneLineMark[] }>();
  for (const mark of sheet.marks) {
    const subject = mark.subject ?? null;
    const key = subject ? subjectKey(subject) : "frame";
    const own = groups.get(key);
    if (own) own.marks.push(mark);
    else groups.set(key, { subject, marks: [mark] });
  }
  const [left, top, wide, high] = reach(sheet, height);
  return (
    <svg
      viewBox={`${String(left)} ${String(top)} ${String(wide)} ${String(high)}`}
      role="group"
      aria-label="One-line diagram"
      className="bg-white"
      style={{ width: `${String(100 * closer)}%` }}
    >
      {[...groups].map(([key, { subject, marks }]) => {
        const own = subject !== null && picked.some((p) => same(p, subject));
        const inside = marks.map((m, i) => (
          <Mark key={i} mark={m} height={height} tapes={tapes} own={own} />
        ));
        // Frame and title block are for paper.
        if (subject === null) return null;
        return (
          <g
            key={key}
            role="button"
            tabIndex={0}
            aria-label={subjectName(subject)}
            aria-pressed={own}
            className="cursor-pointer outline-offset-1"
            onClick={() => {
              onPick(subject);
            }}
            onKeyDown={(e) => {
              if (e.key === "Enter" || e.key === " ") {
                e.preventDefault();
                onPick(subject);
              }
            }}
          >
            {inside}
          </g>
        );
      })}
    </svg>
  );
}

/** What is drawn on a sheet besides its frame, with some room: left, top, width, height. */
function reach(sheet: OneLineSheet, height: number): [number, number, number, number] {
  const points = sheet.marks
    .filter((m) => m.layer !== "frame")
    .flatMap(({ mark }) => (mark.kind === "line" ? mark.points_mm : [mark.at_mm]));
  const xs = points.map(([x = 0]) => x);
  const ys = points.map(([, y = 0]) => height - y);
  const [left, top] = [Math.min(...xs) - 5, Math.min(...ys) - 6];
  return [left, top, Math.max(...xs) - left + 12, Math.max(...ys) - top + 6];
}

function Mark({
  mark: { mark, layer, tape },
  height,
  tapes,
  own,
}: {
  mark: OneLineMark;
  height: number;
  tapes: Tape[];
  own: boolean;
}) {
  const stroke = own
    ? "var(--copper)"
    : layer === "circuits" && tape != null
      ? tapeColour(tapes, tape)
      : "#15202B";
  const wide = STROKES[layer] * (own ? 2 : 1);
  switch (mark.kind) {
    case "line": {
      const points = mark.points_mm
        .map(([x = 0, y = 0]) => `${x.toFixed(2)},${(height - y).toFixed(2)}`)
        .join(" ");
      const look = {
        points,
        fill: layer === "symbols" && mark.closed ? "#fff" : "none",
        stroke,
        strokeWidth: wide,
        strokeDasharray: layer === "cases" ? "1.4 0.9" : undefined,
      };
      return (
        <>
          {layer === "circuits" && (
            <polyline points={points} fill="none" stroke="transparent" strokeWidth="4" />
          )}
          {mark.closed ? <polygon {...look} /> : <polyline {...look} />}
        </>
      );
    }
    case "circle": {
      const [x = 0, y = 0] = mark.at_mm;
      return (
        <circle
          cx={x}
          cy={height - y}
          r={mark.r_mm}
          fill="#fff"
          stroke={stroke}
          strokeWidth={wide}
        />
      );
    }
    case "text": {
      const [x = 0, y = 0] = mark.at_mm;
      return (
        <text
          x={x}
          y={height - y}
          fontSize={mark.size_mm * 1.25}
          textAnchor={mark.anchor === "middle" ? "middle" : "start"}
          className={clsx("font-mono", own && "font-bold")}
          fill={own ? "var(--copper)" : "#15202B"}
        >
          {mark.text}
        </text>
      );
    }
  }
}
