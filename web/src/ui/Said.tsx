/** What was just done, said in passing, with the way back. */
import { clsx } from "clsx";
import { Toast } from "radix-ui";

export interface SaidLine {
  text: string;
  /** The way back, where there is one. */
  undo?: () => void;
}

interface Props {
  said: SaidLine;
  onDone: () => void;
}

export function Said({ said, onDone }: Props) {
  return (
    <Toast.Provider swipeDirection="down" duration={8000}>
      <Toast.Root
        key={said.text}
        open
        onOpenChange={(open) => {
          if (!open) onDone();
        }}
        data-testid="said"
        className={clsx(
          "flex items-center gap-3 rounded-lg border",
          "border-line bg-slate px-4 py-2 text-slate-ink shadow",
        )}
      >
        <Toast.Description className="text-sm">{said.text}</Toast.Description>
        {said.undo && (
          <Toast.Action asChild altText="Take it back by “put away” in the list">
            <button
              type="button"
              className="min-h-9 text-sm font-bold underline max-md:min-h-12"
              onClick={said.undo}
            >
              Undo
            </button>
          </Toast.Action>
        )}
      </Toast.Root>
      <Toast.Viewport className="fixed bottom-4 left-1/2 z-40 -translate-x-1/2" />
    </Toast.Provider>
  );
}
