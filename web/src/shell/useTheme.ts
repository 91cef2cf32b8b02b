/** Light or dusk: as the system has it until somebody chooses. */
import { useEffect, useSyncExternalStore } from "react";

const KEY = "heliant.theme";
const listeners = new Set<() => void>();
const dark = window.matchMedia("(prefers-color-scheme: dark)");
dark.addEventListener("change", () => {
  for (const l of listeners) l();
});

const current = (): string => localStorage.getItem(KEY) ?? (dark.matches ? "dusk" : "light");

export function toggleTheme(): void {
  localStorage.setItem(KEY, current() === "dusk" ? "light" : "dusk");
  for (const l of listeners) l();
}

function subscribe(listener: () => void): () => void {
  listeners.add(listener);
  return () => listeners.delete(listener);
}

export function useTheme(): string {
  const theme = useSyncExternalStore(subscribe, current);
  useEffect(() => {
    document.documentElement.dataset["theme"] = theme;
  }, [theme]);
  return theme;
}
