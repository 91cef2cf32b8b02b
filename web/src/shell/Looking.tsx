/** Says that an earlier revision is looked at: nothing can be changed in it, it can be restored. */
import { clsx } from "clsx";
import { moment } from "../model/format";
import { Button } from "../ui/Button";
import { useBench } from "./bench";
import { useRestore } from "./useRestore";

export function Looking() {
  const { view, newest, looking, look } = useBench();
  const restore = useRestore();
  if (looking === null) return null;
  const now = newest.get().view.revision;
  return (
    <section
      aria-label="Earlier revision"
      className={clsx(
        "no-print flex flex-wrap items-center gap-3 border-b border-line",
        "bg-copper-soft px-4 py-2 text-sm",
      )}
    >
      <p className="grow">
        <strong>Revision {looking} as it stood</strong>, saved {moment(view.saved_at)} by{" "}
        {view.saved_by}. Nothing is changed by looking; readings are those of today.
      </p>
      {restore && (
        <Button
          onClick={() => {
            void restore(looking);
          }}
        >
          Restore as revision {now + 1}
        </Button>
      )}
      <Button
        main
        onClick={() => {
          look(null);
        }}
      >
        Back to revision {now}
      </Button>
    </section>
  );
}
