/** Yes or no. */
export function Tick({
  label,
  checked,
  onChange,
  disabled = false,
}: {
  label: string;
  checked: boolean;
  onChange: (checked: boolean) => void;
  disabled?: boolean;
}) {
  return (
    <label className="flex min-h-9 items-center gap-2 text-sm max-md:min-h-12 max-md:text-base">
      <input
        type="checkbox"
        className="size-4 accent-[var(--copper)] max-md:size-6"
        checked={checked}
        disabled={disabled}
        onChange={(e) => {
          onChange(e.target.checked);
        }}
      />
      {label}
    </label>
  );
}
