import type { Tape as TapeData } from "../api/client";

/** The colour of a string's tape, as the core says it for screen and paper. */
export const tapeColour = (tapes: TapeData[], letter: string): string =>
  tapes.find((t) => t.letter === letter)?.hex ?? "var(--ink-3)";

/** The tape of a string: letter, colour and bands, the same wherever the circuit shows. */
export function Tape({ tapes, letter }: { tapes: TapeData[]; letter: string }) {
  const tape = tapes.find((t) => t.letter === letter);
  const bands = tape?.bands ?? 0;
  return (
    <svg
      width="26"
      height="18"
      viewBox="0 0 26 18"
      role="img"
      aria-label={`${letter}, ${tape?.colour ?? ""} tape${bands ? `, ${String(bands)} bands` : ""}`}
    >
      <rect width="26" height="18" rx="3" fill={tapeColour(tapes, letter)} />
      {Array.from({ length: Math.min(bands, 4) }, (_, i) => (
        <rect key={i} x={2 + i * 3} width="1.5" height="18" fill="#fff" />
      ))}
      <text
        x="13"
        y="13"
        textAnchor="middle"
        fontSize="12"
        fontWeight="700"
        fill="#fff"
        className="font-sans"
      >
        {letter}
      </text>
    </svg>
  );
}
