import { useState } from "react";
import type { Problem } from "../api/client";
import { Field, inputLook } from "./field";

interface Props {
  label: string;
  value: string;
  problem?: Problem | undefined;
  onChange: (value: string) => void;
  readOnly?: boolean;
  compact?: boolean;
}

/** Words; they are taken when the field is left. */
export function TextField({ label, value, problem, onChange, readOnly, compact }: Props) {
  const [typed, setTyped] = useState<string | null>(null);
  const leave = () => {
    if (typed !== null && typed !== value) onChange(typed);
    setTyped(null);
  };
  return (
    <Field label={label} compact={compact} problem={problem}>
      {(control) => (
        <input
          {...control}
          className={inputLook}
          value={typed ?? value}
          data-typing={typed !== null}
          readOnly={readOnly}
          onChange={(e) => {
            setTyped(e.target.value);
          }}
          onBlur={leave}
          onKeyDown={(e) => {
            if (e.key === "Enter") leave();
          }}
        />
      )}
    </Field>
  );
}
