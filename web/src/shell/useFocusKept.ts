/**
 * Whoever takes a line out by keyboard goes on where it stood: what had the focus and is gone hands
 * it to what is left around it, never to the page as a whole.
 */
import { useEffect } from "react";

const FOCUSABLE =
  "a[href], button:not(:disabled), input:not(:disabled), select:not(:disabled), " +
  "textarea:not(:disabled), summary, [tabindex]:not([tabindex='-1'])";

function around(element: Element): Element[] {
  const all: Element[] = [];
  for (let e: Element | null = element; e && e !== document.body; e = e.parentElement) all.push(e);
  return all;
}

export function useFocusKept(): void {
  useEffect(() => {
    let had: Element[] = [];
    const came = (e: FocusEvent) => {
      if (e.target instanceof Element) had = around(e.target);
    };
    const gone = new MutationObserver(() => {
      const [own] = had;
      if (!own || own.isConnected || document.activeElement !== document.body) return;
      const left = had.find((e) => e.isConnected);
      had = [];
      if (!(left instanceof HTMLElement)) return;
      const first = left.querySelector<HTMLElement>(FOCUSABLE);
      if (!first) left.tabIndex = -1;
      (first ?? left).focus({ preventScroll: true });
    });
    document.addEventListener("focusin", came);
    gone.observe(document.body, { childList: true, subtree: true });
    return () => {
      document.removeEventListener("focusin", came);
      gone.disconnect();
    };
  }, []);
}
