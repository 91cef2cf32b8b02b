/** The revisions, fetched when they are first looked at: they are not on the first screen. */
import { lazy, Suspense } from "react";

const Loaded = lazy(async () => ({ default: (await import("./Revisions")).Revisions }));

export function Revisions(props: { onDone?: () => void }) {
  return (
    <Suspense fallback={<p className="text-sm text-ink-2">Opening</p>}>
      <Loaded {...props} />
    </Suspense>
  );
}
