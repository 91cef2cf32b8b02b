import { useRef, useState } from "react";
import type { Problem, Unit } from "../api/client";
import { plain, unitSign } from "../model/format";
import type { Spelling } from "../model/catalogue";
import { shownAs, signOf, spelling, toShown } from "../model/shown";
import { read } from "../model/typed";
import { Field, inputLook } from "./field";
import { useFlush } from "./useFlush";
import { useNarrow } from "./useNarrow";

interface Props {
  label: string;
  /** What stands behind the field. */
  unit?: string;
  /** The unit that is kept, where others may be typed or shown: `m`, `mm`, `degC`, `K`, `deg`. */
  kept?: Unit;
  /** What it is shown in, where that is not as others of the unit: `in` of millimetres. */
  as?: string;
  value: number | null | undefined;
  problem?: Problem | undefined;
  onChange: (value: number | null) => void;
  /** Where nobody may edit. */
  readOnly?: boolean;
  /** May be below nought: a phone's number keys have no minus. */
  signed?: boolean;
  compact?: boolean;
  /** Taken letter by letter, as far as it reads: something judges it while it is typed. */
  live?: boolean;
  onEnter?: () => void;
  autoFocus?: boolean;
}

const shown = (value: number | null | undefined, as: Spelling | undefined): string => {
  if (value === null || value === undefined) return "";
  return String(Number(as ? toShown(value, as).toFixed(2) : value.toPrecision(7)));
};

/** What is wrong, in the unit it was typed in. */
function inUnit(problem: Problem | undefined, as: Spelling | undefined): Problem | undefined {
  if (!problem || !as) return problem;
  const put = (text: string) =>
    text.replace(/-?\d+(?:\.\d+)?/g, (n) => {
      const whole = toShown(Number(n), as);
      const rounded = Number(whole.toFixed(as.decimals));
      return `${plain(rounded, Number.isInteger(rounded) ? 0 : as.decimals)} ${signOf(as)}`;
    });
  return { ...problem, message: put(problem.message), hint: put(problem.hint ?? "") };
}

/**
 * A number with its unit. What is typed stays as typed until it is left; what is no number is said
 * at the field. Other units may be typed: they are read, and shown again in the field's own.
 */
export function NumberField({
  label,
  unit,
  kept,
  as: word,
  value,
  problem,
  onChange,
  readOnly,
  signed = kept === "degC",
  compact,
  live = false,
  onEnter,
  autoFocus,
}: Props) {
  const [typed, setTyped] = useState<string | null>(null);
  const [wrong, setWrong] = useState<string | null>(null);
  const narrow = useNarrow();
  const came = useRef(false);
  const as = kept && (word ? spelling(kept, word) : shownAs(kept));
  const sign = as ? signOf(as) : kept ? unitSign(kept) : (unit ?? "");
  /** Takes a text as far as it reads. */
  const take = (written: string) => {
    const found = read(written, kept, sign, as);
    if ("value" in found && found.value !== (value ?? null)) onChange(found.value);
    return found;
  };
  const leave = () => {
    if (typed === null) return true;
    const found = take(typed);
    if ("wrong" in found) {
      setWrong(found.wrong);
      return false;
    }
    setWrong(null);
    setTyped(null);
    return true;
  };
  useFlush(() => {
    if (typed !== null) take(typed);
  });
  const text = typed ?? shown(value, as);
  return (
    <Field
      label={label}
      compact={compact}
      unit={unit ?? sign}
      problem={wrong ? { message: wrong } : inUnit(problem, as)}
    >
      {(control) => (
        <>
          {signed && narrow && readOnly !== true && (
            <button
              type="button"
              aria-label={`${label}: change the sign`}
              className="min-h-12 min-w-12 rounded border border-ink-3 font-mono text-base"
              onClick={() => {
                const turned = /^[-−]/.test(text) ? text.slice(1) : `−${text}`;
                // The field is not left by this: what reads is taken now, a sign alone waits.
                setTyped("wrong" in take(turned) ? turned : null);
              }}
            >
              ±
            </button>
          )}
          <input
            {...control}
            inputMode="decimal"
            autoComplete="off"
            autoFocus={autoFocus}
            className={`${inputLook} text-right font-mono`}
            value={text}
            data-typing={typed !== null}
            readOnly={readOnly}
            onFocus={(e) => {
              // A number is typed over as a whole, whether Tab or the mouse came to it.
              came.current = true;
              e.target.select();
            }}
            onMouseUp={(e) => {
              if (came.current) e.preventDefault();
              came.current = false;
            }}
            onChange={(e) => {
              came.current = false;
              setTyped(e.target.value);
              if (live) take(e.target.value);
            }}
            onBlur={leave}
            onKeyDown={(e) => {
              if (e.key === "Enter" && leave()) onEnter?.();
              if (e.key === "Escape") {
                setTyped(null);
                setWrong(null);
              }
            }}
          />
        </>
      )}
    </Field>
  );
}
