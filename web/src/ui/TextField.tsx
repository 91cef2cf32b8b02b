import { useLayoutEffect, useRef, useState } from "react";
import type { Problem } from "../api/client";
import { Field, inputLook } from "./field";
import { useFlush } from "./useFlush";

interface Props {
  label: string;
  value: string;
  problem?: Problem | undefined;
  /** `false` where it cannot be taken: what was typed stays in the field. */
  onChange: (value: string) => unknown;
  readOnly?: boolean;
  compact?: boolean;
  /** Several lines of text. */
  lines?: boolean;
  /** Longest text: what is longer is said here and blocks nothing else. */
  most?: number;
  /** What may be picked instead of typed. */
  offers?: readonly string[];
  /** What was entered before, the latest first: what begins so is set behind the cursor. */
  completes?: readonly string[] | undefined;
  autoFocus?: boolean;
}

/** Words; they are taken when the field is left. */
export function TextField({
  label,
  value,
  problem,
  onChange,
  readOnly,
  compact,
  lines = false,
  most = Infinity,
  offers,
  completes = [],
  autoFocus,
}: Props) {
  const [typed, setTyped] = useState<string | null>(null);
  // From where on the text is ours and not typed: marked, so that the next letter replaces it.
  const [marked, setMarked] = useState<number | null>(null);
  const box = useRef<HTMLInputElement>(null);
  useLayoutEffect(() => {
    if (marked !== null) box.current?.setSelectionRange(marked, box.current.value.length);
  }, [marked, typed]);
  const over = typed === null ? 0 : typed.length - most;
  const leave = () => {
    // What is too long stays here until it is shorter.
    if (over > 0) return;
    if (typed !== null && typed !== value && onChange(typed) === false) return;
    setTyped(null);
    setMarked(null);
  };
  useFlush(() => {
    if (typed !== null && over <= 0 && typed !== value) onChange(typed);
  });
  const long = {
    message: `${String(over)} too many`,
    hint: `${String(most)} characters at most; it is not saved yet`,
  };
  return (
    <Field label={label} compact={compact} problem={over > 0 ? long : problem}>
      {(control) => {
        const shared = {
          ...control,
          value: typed ?? value,
          "data-typing": typed !== null,
          readOnly,
          autoFocus,
          onChange: (e: React.ChangeEvent<HTMLInputElement | HTMLTextAreaElement>) => {
            const text = e.target.value;
            const letters = e.nativeEvent instanceof InputEvent && e.nativeEvent.data !== null;
            const begun = text.toLowerCase();
            const whole =
              letters && e.target.selectionStart === text.length
                ? completes.find((c) => c.length > text.length && c.toLowerCase().startsWith(begun))
                : undefined;
            setTyped(whole ?? text);
            setMarked(whole === undefined ? null : text.length);
          },
          onBlur: leave,
        };
        if (lines)
          return <textarea {...shared} rows={4} className={`${inputLook} resize-y py-1.5`} />;
        const list = offers ? `${control.id}-offers` : undefined;
        return (
          <>
            <input
              {...shared}
              ref={box}
              autoComplete={completes.length > 0 ? "off" : undefined}
              aria-autocomplete={completes.length > 0 ? "inline" : undefined}
              list={list}
              className={inputLook}
              onKeyDown={(e) => {
                if (e.key === "Enter") leave();
              }}
            />
            {offers && (
              <datalist id={list}>
                {offers.map((o) => (
                  <option key={o} value={o} />
                ))}
              </datalist>
            )}
          </>
        );
      }}
    </Field>
  );
}
