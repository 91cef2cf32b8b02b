import { clsx } from "clsx";
import { Tabs as RadixTabs } from "radix-ui";

interface TabsProps {
  label: string;
  value: string;
  onChange: (value: string) => void;
  tabs: readonly { key: string; title: string; note?: string; body: () => React.ReactNode }[];
}

/** A few views of the same thing, one at a time. */
export function Tabs({ label, value, onChange, tabs }: TabsProps) {
  return (
    <RadixTabs.Root value={value} onValueChange={onChange}>
      <RadixTabs.List aria-label={label} className="flex flex-wrap gap-1">
        {tabs.map((t) => (
          <RadixTabs.Trigger
            key={t.key}
            value={t.key}
            className={clsx(
              "min-h-9 rounded-t-md border border-b-0 border-line bg-paper px-3 text-sm",
              "text-ink-2 aria-selected:bg-sheet aria-selected:font-bold",
              "aria-selected:text-ink max-md:min-h-12",
            )}
          >
            {t.title}
            {t.note && <span className="ml-2 text-xs font-normal text-ink-2">{t.note}</span>}
          </RadixTabs.Trigger>
        ))}
      </RadixTabs.List>
      {tabs.map((t) => (
        <RadixTabs.Content
          key={t.key}
          value={t.key}
          className="rounded-lg rounded-tl-none border border-line bg-sheet"
        >
          {value === t.key && t.body()}
        </RadixTabs.Content>
      ))}
    </RadixTabs.Root>
  );
}
