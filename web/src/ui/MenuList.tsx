import { clsx } from "clsx";
import { DropdownMenu } from "radix-ui";
import { Button } from "./Button";

export interface MenuItem {
  label: string;
  run: () => void;
}

interface Props {
  label: string;
  children: React.ReactNode;
  items: readonly MenuItem[];
}

export function MenuList({ label, children, items }: Props) {
  return (
    <DropdownMenu.Root defaultOpen>
      <DropdownMenu.Trigger asChild>
        <Button aria-label={label}>{children}</Button>
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content
          align="end"
          sideOffset={4}
          className="z-30 min-w-40 rounded-lg border border-line bg-sheet p-1 text-ink shadow"
        >
          {items.map((item) => (
            <DropdownMenu.Item
              key={item.label}
              className={clsx(
                "cursor-pointer rounded px-3 py-1.5",
                "text-sm outline-none data-highlighted:bg-copper-soft max-md:min-h-12",
                "max-md:text-base",
              )}
              onSelect={item.run}
            >
              {item.label}
            </DropdownMenu.Item>
          ))}
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}
