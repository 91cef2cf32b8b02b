/** The four verdicts: each its own shape, word and colour. */
import { clsx } from "clsx";
import type { Verdict } from "../api/client";

export const WORDS: Record<Verdict, string> = {
  pass: "Holds",
  warn: "Caution",
  fail: "Stop",
  unknown: "Open",
};

const COLOURS: Record<Verdict, string> = {
  pass: "text-holds",
  warn: "text-caution",
  fail: "text-stop",
  unknown: "text-ink-3",
};

const GROUNDS: Record<Verdict, string> = {
  pass: "bg-holds-soft text-holds",
  warn: "bg-caution-soft text-caution",
  fail: "bg-stop-soft text-stop",
  unknown: "border border-dashed border-ink-3 text-ink-3",
};

function Shape({ verdict }: { verdict: Verdict }) {
  const stroke = {
    fill: "none",
    stroke: "currentColor",
    strokeWidth: 1.8,
    strokeLinecap: "round" as const,
  };
  switch (verdict) {
    case "pass":
      return (
        <g {...stroke}>
          <circle cx="9" cy="9" r="7" />
          <path d="M5.5 9.2l2.4 2.5 4.6-5" />
        </g>
      );
    case "warn":
      return (
        <g {...stroke}>
          <path d="M9 2l7.3 13.5H1.7z" strokeLinejoin="round" />
          <path d="M9 7v4M9 13.2v.1" />
        </g>
      );
    case "fail":
      return (
        <g {...stroke}>
          <rect x="2" y="2" width="14" height="14" rx="1.5" />
          <path d="M6 6l6 6M12 6l-6 6" />
        </g>
      );
    case "unknown":
      return <circle cx="9" cy="9" r="7" {...stroke} strokeDasharray="2.6 2.9" />;
  }
}

export function Mark({ verdict, onSlate = false }: { verdict: Verdict; onSlate?: boolean }) {
  const ground = onSlate ? "rounded-sm bg-[#f4f3ef] p-px" : "";
  const colour = onSlate ? ONPAPER[verdict] : COLOURS[verdict];
  return (
    <svg
      viewBox="0 0 18 18"
      width="18"
      height="18"
      role="img"
      aria-label={WORDS[verdict]}
      className={`shrink-0 ${ground} ${colour}`}
    >
      <Shape verdict={verdict} />
    </svg>
  );
}

const ONPAPER: Record<Verdict, string> = {
  pass: "text-[#1B7446]",
  warn: "text-[#8F5B00]",
  fail: "text-[#B0261C]",
  unknown: "text-[#66717B]",
};

export function Badge({ verdict, children }: { verdict: Verdict; children?: React.ReactNode }) {
  return (
    <span
      className={clsx(
        "inline-flex items-center gap-1 rounded px-1.5 py-0.5 text-xs font-bold",
        "whitespace-nowrap",
        GROUNDS[verdict],
      )}
    >
      <svg viewBox="0 0 18 18" width="14" height="14" aria-hidden="true">
        <Shape verdict={verdict} />
      </svg>
      {children ?? WORDS[verdict]}
    </span>
  );
}
