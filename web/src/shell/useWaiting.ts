/** Sends the readings that wait for a signal, one after the other, as soon as there is one. */
import { useCallback, useEffect, useRef, useSyncExternalStore } from "react";
import { api, Refused } from "../api/client";
import type { Editor } from "../model/editor";
import { refuse, sent, subscribe, waiting, type WaitingReading } from "../model/waiting";

/** How often it is tried. */
const AGAIN_MS = 5_000;

export function useWaiting(job: string, editor: Editor): readonly WaitingReading[] {
  const list = useSyncExternalStore(
    subscribe,
    useCallback(() => waiting(job), [job]),
  );
  const busy = useRef(false);
  const go = useCallback(async () => {
    if (busy.current) return;
    busy.current = true;
    try {
      for (const one of waiting(job)) {
        if (one.refused !== undefined) continue;
        try {
          editor.read(await api.addReading(job, one.reading, one));
          sent(job, one.key);
        } catch (error) {
          // Signed out: it waits on until somebody is signed in.
          if (!(error instanceof Refused) || error.status === 401) return;
          refuse(job, one.key, `${error.message}. ${error.detail}`);
        }
      }
    } finally {
      busy.current = false;
    }
  }, [job, editor]);
  const some = list.some((w) => w.refused === undefined);
  useEffect(() => {
    if (!some) return;
    const run = () => void go();
    run();
    const timer = setInterval(run, AGAIN_MS);
    window.addEventListener("online", run);
    return () => {
      clearInterval(timer);
      window.removeEventListener("online", run);
    };
  }, [some, go]);
  return list;
}
