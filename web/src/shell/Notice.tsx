/** One sentence in the middle of an empty page. */
export function Notice({ text, children }: { text: string; children?: React.ReactNode }) {
  return (
    <main className="grid h-full place-items-center p-6">
      <div className="text-center">
        <p role="status" className="text-ink-2">
          {text}
        </p>
        {children}
      </div>
    </main>
  );
}
