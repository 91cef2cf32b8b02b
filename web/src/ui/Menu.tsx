/** What can be done with one thing of many: a menu behind a button, fetched when asked for. */
import { lazy, Suspense, useState } from "react";
import { Button } from "./Button";
import type { MenuItem } from "./MenuList";

const MenuList = lazy(async () => ({ default: (await import("./MenuList")).MenuList }));

interface Props {
  label: string;
  /** What stands on the button. */
  children: React.ReactNode;
  items: readonly MenuItem[];
}

export function Menu({ label, children, items }: Props) {
  const [asked, setAsked] = useState(false);
  const button = (
    <Button
      aria-label={label}
      aria-haspopup="menu"
      onClick={() => {
        setAsked(true);
      }}
    >
      {children}
    </Button>
  );
  if (!asked) return button;
  return (
    <Suspense fallback={button}>
      <MenuList label={label} items={items}>
        {children}
      </MenuList>
    </Suspense>
  );
}
