/** The small button that takes a line out. */
import { clsx } from "clsx";
export function TakeOut({
  what,
  onClick,
  disabled = false,
}: {
  what: string;
  onClick: () => void;
  disabled?: boolean;
}) {
  return (
    <button
      type="button"
      className={clsx(
        "no-print min-h-8 text-xs whitespace-nowrap text-copper underline disabled:text-ink-3",
        "max-md:min-h-12",
      )}
      aria-label={`Take out ${what}`}
      disabled={disabled}
      onClick={onClick}
    >
      Take out
    </button>
  );
}
