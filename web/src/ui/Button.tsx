/** A button; the main one of a screen is copper. */
import { clsx } from "clsx";
/** A link that looks like a button. */
export const linkLook = clsx(
  "inline-grid min-h-10 place-items-center rounded-md border px-4 text-sm font-bold",
  "max-md:min-h-12 max-md:text-base",
);

type ButtonProps = React.ComponentProps<"button"> & { main?: boolean };

export function Button({ main = false, className = "", ...rest }: ButtonProps) {
  const look = main ? "border-copper bg-copper text-on-copper" : "border-ink bg-sheet text-ink";
  return (
    <button
      type="button"
      className={clsx(
        "no-print min-h-9 rounded-md border px-3 py-1 text-sm font-bold disabled:opacity-50",
        "max-md:min-h-12 max-md:text-base",
        look,
        className,
      )}
      {...rest}
    />
  );
}
