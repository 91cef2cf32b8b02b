import { clsx } from "clsx";
import { Popover } from "radix-ui";
import { termLook } from "./termLook";

interface Props {
  text: string;
  said: string;
}

export function TermSaid({ text, said }: Props) {
  return (
    <Popover.Root defaultOpen>
      <Popover.Trigger className={termLook} aria-label={`${text}: what is that?`}>
        {text}
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          sideOffset={4}
          collisionPadding={8}
          aria-label={text}
          data-testid="term"
          className={clsx(
            "z-50 max-w-72 rounded-lg border border-line bg-sheet",
            "p-3 text-left font-sans text-sm font-normal text-ink shadow",
          )}
        >
          {said}
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}
