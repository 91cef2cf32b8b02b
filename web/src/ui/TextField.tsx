import { useState } from "react";
import type { Problem } from "../api/client";
import { Field, inputLook } from "./field";
import { useFlush } from "./useFlush";

interface Props {
  label: string;
  value: string;
  problem?: Problem | undefined;
  onChange: (value: string) => void;
  readOnly?: boolean;
  compact?: boolean;
  /** Several lines of text. */
  lines?: boolean;
  /** Longest text: what is longer is said here and blocks nothing else. */
  most?: number;
  /** What may be picked instead of typed. */
  offers?: readonly string[];
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
  autoFocus,
}: Props) {
  const [typed, setTyped] = useState<string | null>(null);
  const over = typed === null ? 0 : typed.length - most;
  const leave = () => {
    // What is too long stays here until it is shorter.
    if (over > 0) return;
    if (typed !== null && typed !== value) onChange(typed);
    setTyped(null);
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
            setTyped(e.target.value);
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
