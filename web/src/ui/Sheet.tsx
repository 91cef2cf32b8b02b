/** A part of a screen with its heading. */
export function Sheet({
  title,
  aside,
  children,
  className = "",
}: {
  title?: React.ReactNode;
  aside?: React.ReactNode;
  children: React.ReactNode;
  className?: string;
}) {
  return (
    <section className={`rounded-lg border border-line bg-sheet ${className}`}>
      {title !== undefined && (
        <header className="flex flex-wrap items-baseline gap-x-3 border-b border-line px-4 py-2">
          <h2 className="text-sm font-bold">{title}</h2>
          <span className="text-xs text-ink-2">{aside}</span>
        </header>
      )}
      {children}
    </section>
  );
}
