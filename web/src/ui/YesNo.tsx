import { Pick } from "./Pick";

interface Props {
  label: string;
  /** Absent where nobody said. */
  value: boolean | null | undefined;
  onChange: (value: boolean | null) => void;
  disabled?: boolean;
  compact?: boolean;
}

/** Yes, no, or nobody said: which is no answer. */
export function YesNo({ label, value, onChange, disabled, compact }: Props) {
  return (
    <Pick
      compact={compact}
      label={label}
      value={value == null ? "" : value ? "yes" : "no"}
      options={[
        ["", "not known"],
        ["yes", "yes"],
        ["no", "no"],
      ]}
      disabled={disabled}
      onChange={(v) => {
        onChange(v === "" ? null : v === "yes");
      }}
    />
  );
}
