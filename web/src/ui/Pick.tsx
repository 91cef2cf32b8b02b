import { useState } from "react";
import { Field, inputLook } from "./field";

interface Props {
  label: string;
  value: string;
  options: readonly (readonly [string, string])[];
  onChange: (value: string) => void;
  disabled?: boolean;
  compact?: boolean;
  /** One of very many like it: its list is there when it is come to, until then what is chosen. */
  lean?: boolean;
}

/** One of a few: the browser's own list, which works with gloves and with a keyboard. */
export function Pick({ label, value, options, onChange, disabled, compact, lean = false }: Props) {
  const [came, setCame] = useState(!lean);
  const come = () => {
    setCame(true);
  };
  return (
    <Field label={label} compact={compact}>
      {(control) => (
        <select
          {...control}
          className={inputLook}
          title={options.find(([key]) => key === value)?.[1]}
          value={value}
          disabled={disabled}
          onFocus={come}
          onPointerEnter={come}
          onChange={(e) => {
            onChange(e.target.value);
          }}
        >
          {(came ? options : options.filter(([key]) => key === value)).map(([key, text]) => (
            <option key={key} value={key}>
              {text}
            </option>
          ))}
        </select>
      )}
    </Field>
  );
}
