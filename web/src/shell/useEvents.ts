/** Live updates: what others save and read, as the server hears of it. One connection per tab. */
import { useEffect } from "react";

/**
 * `what` is what became of the job, or that its pack is further on; an empty event means something
 * may have been missed.
 */
export interface Heard {
  job?: string;
  revision?: number;
  what?: "saved" | "read" | "pack";
}

type Listener = (heard: Heard) => void;

const listeners = new Set<Listener>();
let source: EventSource | null = null;

const RETRY_MS = 3000;

function tell(heard: Heard): void {
  for (const listener of listeners) listener(heard);
}

function open(again = false): void {
  const opened = new EventSource("/api/events");
  source = opened;
  opened.onmessage = (event: MessageEvent<string>) => {
    tell(JSON.parse(event.data) as Heard);
  };
  opened.onopen = () => {
    // What was said while the line was down was missed.
    if (again) tell({});
    again = true;
  };
  opened.onerror = () => {
    // The browser takes a broken line up again by itself, but not one that was refused while the
    // database was away.
    if (opened.readyState !== EventSource.CLOSED || source !== opened) return;
    source = null;
    setTimeout(() => {
      if (source === null && listeners.size > 0) open(true);
    }, RETRY_MS);
  };
}

/** Calls back for every event while the component is there. */
export function useEvents(listener: Listener): void {
  useEffect(() => {
    listeners.add(listener);
    if (source === null) open();
    return () => {
      listeners.delete(listener);
      if (listeners.size === 0) {
        source?.close();
        source = null;
      }
    };
  }, [listener]);
}
