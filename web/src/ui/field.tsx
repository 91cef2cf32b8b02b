/** What every field has: a label, its control, the unit behind it, and what is wrong with it. */
import { clsx } from "clsx";
import { useId } from "react";
import type { Problem } from "../api/client";

export const inputLook = clsx(
  "min-h-9 w-full rounded border border-ink-3 bg-sheet px-2 text-sm",
  "max-md:min-h-12 max-md:text-base",
  "aria-[invalid=true]:border-2 aria-[invalid=true]:border-stop",
);

/** What is wrong at a place, if anything. */
export const problemAt = (problems: Problem[], path: string): Problem | undefined =>
  problems.find((p) => p.path === path);

/** What ties a control to its label and to what is said of it. */
export interface Control {
  id: string;
  "aria-invalid": boolean;
  "aria-describedby": string | undefined;
}

interface FieldProps {
  label: string;
  /** The label is for those who hear the screen; those who see it have a column's head. */
  compact?: boolean;
  unit?: string;
  problem?: { message: string; hint?: string } | undefined;
  children: (control: Control) => React.ReactNode;
}

export function Field({ label, compact = false, unit = "", problem, children }: FieldProps) {
  const id = useId();
  const said = `${id}-said`;
  return (
    <div>
      <label
        htmlFor={id}
        className={compact ? "sr-only" : "block text-xs text-ink-2 max-md:text-base"}
      >
        {label}
      </label>
      <div className="flex items-center gap-1.5">
        {children({
          id,
          "aria-invalid": problem !== undefined,
          "aria-describedby": problem ? said : undefined,
        })}
        {unit && <span className="min-w-4 shrink-0 text-xs text-ink-2">{unit}</span>}
      </div>
      {problem && (
        <p id={said} role="alert" className="mt-0.5 text-xs font-bold text-stop">
          {problem.message}
          {problem.hint ? `: ${problem.hint}` : ""}
        </p>
      )}
    </div>
  );
}
