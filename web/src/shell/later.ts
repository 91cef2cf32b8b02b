/**
 * Screens that are not the first: they come behind it, all together, so that a signal that goes
 * away afterwards takes none of them along.
 */
import { createElement, lazy, useState, type ComponentType } from "react";

const waiting: (() => Promise<unknown>)[] = [];

/** A component that is fetched when it is first shown, or by {@link fetchAll} before. */
export function later(load: () => Promise<ComponentType>): ComponentType {
  let loaded: ComponentType | null = null;
  const fetch = async () => (loaded ??= await load());
  const Lazy = lazy(async () => ({ default: await fetch() }));
  waiting.push(fetch);
  return function Later() {
    // What is there already is shown at once; which of the two it was stays.
    const [Screen] = useState<ComponentType>(() => loaded ?? Lazy);
    return createElement(Screen);
  };
}

/** Fetches everything that was put off; what fails now is fetched when it is shown. */
export async function fetchAll(): Promise<void> {
  while (waiting.length > 0) {
    try {
      await waiting.shift()?.();
    } catch {
      return;
    }
  }
}
