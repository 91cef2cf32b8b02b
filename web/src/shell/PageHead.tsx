/** The head of the pages outside a job: the name, and where else to go. */
import { clsx } from "clsx";
import { Brand } from "./Brand";

export function PageHead({ children }: { children: React.ReactNode }) {
  return (
    <header
      className={clsx(
        "no-print flex flex-wrap items-center gap-3 bg-slate px-4 py-2 text-slate-ink",
      )}
    >
      <Brand />
      <strong>Heliant</strong>
      <span className="grow" />
      {children}
    </header>
  );
}
