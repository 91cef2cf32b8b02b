import { clsx } from "clsx";
import { Dialog as RadixDialog } from "radix-ui";

interface DialogProps {
  title: string;
  open: boolean;
  onClose: () => void;
  wide?: boolean;
  children: React.ReactNode;
}

/** Something to be decided before anything else is done. */
export function Dialog({ title, open, onClose, wide = false, children }: DialogProps) {
  return (
    <RadixDialog.Root
      open={open}
      onOpenChange={(next) => {
        if (!next) onClose();
      }}
    >
      <RadixDialog.Portal>
        <RadixDialog.Overlay className="fixed inset-0 z-30 bg-[rgb(0_0_0/0.45)]" />
        <RadixDialog.Content
          aria-describedby={undefined}
          className={clsx(
            "fixed top-[8vh] left-1/2 z-40 max-h-[84vh] -translate-x-1/2 overflow-auto",
            "rounded-lg border border-line bg-sheet p-4 text-ink",
            wide ? "w-[min(50rem,calc(100vw-1.5rem))]" : "w-[min(34rem,calc(100vw-1.5rem))]",
          )}
        >
          <RadixDialog.Title className="mb-3 text-lg font-bold">{title}</RadixDialog.Title>
          {children}
        </RadixDialog.Content>
      </RadixDialog.Portal>
    </RadixDialog.Root>
  );
}
