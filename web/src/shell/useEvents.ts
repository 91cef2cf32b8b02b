/** Live updates: what others save and read, as the server hears of it. One connection per tab. */
import { useEffect } from "react";

/** `what` is "saved" or "read"; an empty event means something may have been missed. */
export interface Heard {
  job?: string;
  revision?: number;
  what?: "saved" | "read";
}

type Listener = (heard: Heard) => void;

const listeners = new Set<Listener>();
let source: EventSource | null = null;

function open(): void {
  source = new EventSource("/api/events");
  source.onmessage = (event: MessageEvent<string>) => {
    const heard = JSON.parse(event.data) as Heard;
    for (const listener of listeners) listener(heard);
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
