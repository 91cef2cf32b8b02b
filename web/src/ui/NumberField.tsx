import { useState } from "react";
import type { Problem } from "../api/client";
import { Field, inputLook } from "./field";

interface Props {
  label: string;
  unit?: string;
  value: number | null | undefined;
  problem?: Problem | undefined;
  onChange: (value: number | null) => void;
  /** Where nobody may edit. */
  readOnly?: boolean;
  /** From what is shown to what is kept: feet to metres. */
  factor?: number;
  compact?: boolean;
}

const shown = (value: number | null | undefined, factor: number): string =>
  value === null || value === undefined
    ? ""
    : String(Number(factor === 1 ? value.toPrecision(7) : (value / factor).toFixed(2)));

/**
 * A number with its unit. What is typed stays as typed until it is left; what is no number is said
 * at the field.
 */
export function NumberField({
  label,
  unit,
  value,
  problem,
  onChange,
  readOnly,
  factor = 1,
  compact,
}: Props) {
  const [typed, setTyped] = useState<string | null>(null);
  const [wrong, setWrong] = useState<string | null>(null);
  const leave = () => {
    if (typed === null) return;
    const clean = typed.trim().replace("−", "-").replace(",", ".");
    const parsed = clean === "" ? null : Number(clean);
    if (parsed !== null && !Number.isFinite(parsed)) {
      setWrong(`“${typed}” is no number`);
      return;
    }
    setWrong(null);
    setTyped(null);
    const kept = parsed === null ? null : parsed * factor;
    if (kept !== (value ?? null)) onChange(kept);
  };
  return (
    <Field
      label={label}
      compact={compact}
      unit={unit}
      problem={wrong ? { message: wrong } : problem}
    >
      {(control) => (
        <input
          {...control}
          inputMode="decimal"
          autoComplete="off"
          className={`${inputLook} text-right font-mono`}
          value={typed ?? shown(value, factor)}
          data-typing={typed !== null}
          readOnly={readOnly}
          onChange={(e) => {
            setTyped(e.target.value);
          }}
          onBlur={leave}
          onKeyDown={(e) => {
            if (e.key === "Enter") leave();
            if (e.key === "Escape") {
              setTyped(null);
              setWrong(null);
            }
          }}
        />
      )}
    </Field>
  );
}
