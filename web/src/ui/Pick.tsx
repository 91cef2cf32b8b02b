import { Field, inputLook } from "./field";

interface Props {
  label: string;
  value: string;
  options: readonly (readonly [string, string])[];
  onChange: (value: string) => void;
  disabled?: boolean;
  compact?: boolean;
}

/** One of a few: the browser's own list, which works with gloves and with a keyboard. */
export function Pick({ label, value, options, onChange, disabled, compact }: Props) {
  return (
    <Field label={label} compact={compact}>
      {(control) => (
        <select
          {...control}
          className={inputLook}
          title={options.find(([key]) => key === value)?.[1]}
          value={value}
          disabled={disabled}
          onChange={(e) => {
            onChange(e.target.value);
          }}
        >
          {options.map(([key, text]) => (
            <option key={key} value={key}>
              {text}
            </option>
          ))}
        </select>
      )}
    </Field>
  );
}
