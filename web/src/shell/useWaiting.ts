/** Sends the readings that wait for a signal, one after the other, as soon as there is one. */
import { useEffect, useState, useSyncExternalStore, useCallback } from "react";
import { api, Refused } from "../api/client";
import type { Editor } from "../model/editor";
import { refuse, sent, subscribe, waiting, type WaitingReading } from "../model/waiting";

/** How soon it is tried again: twice as long each time, up to a minute. */
const AGAIN_MS = 5_000;
const LONGEST_MS = 60_000;

/** Why they wait. */
type Why = "signal" | "signed-out";

export interface Waiting {
  list: readonly WaitingReading[];
  why: Why;
}

/** Sends what waits of a job; says why some still does. */
async function send(job: string, editor: Editor): Promise<Why | null> {
  for (const one of waiting(job)) {
    if (one.refused !== undefined) continue;
    try {
      editor.read(await api.addReading(job, one.reading, one));
      sent(job, one.key);
    } catch (error) {
      if (!(error instanceof Refused)) return "signal";
      if (error.status === 401) return "signed-out";
      refuse(job, one.key, `${error.message}. ${error.detail}`);
    }
  }
  return null;
}

export function useWaiting(job: string, editor: Editor): Waiting {
  const list = useSyncExternalStore(
    subscribe,
    useCallback(() => waiting(job), [job]),
  );
  const [why, setWhy] = useState<Why>("signal");
  const some = list.some((w) => w.refused === undefined);
  useEffect(() => {
    if (!some) return;
    let pause = AGAIN_MS;
    let timer: ReturnType<typeof setTimeout> | undefined;
    let busy = false;
    let over = false;
    const go = async () => {
      if (busy || over) return;
      busy = true;
      clearTimeout(timer);
      const still = await send(job, editor);
      busy = false;
      // What came in meanwhile goes out with the next turn; the effect ends when nothing waits.
      if (still) setWhy(still);
      if (!over) timer = setTimeout(() => void go(), pause);
      pause = Math.min(2 * pause, LONGEST_MS);
    };
    const again = () => {
      pause = AGAIN_MS;
      void go();
    };
    again();
    window.addEventListener("online", again);
    return () => {
      over = true;
      clearTimeout(timer);
      window.removeEventListener("online", again);
    };
  }, [some, job, editor]);
  return { list, why };
}
