/** Whether the screen is one held in the hand. */
import { useSyncExternalStore } from "react";

const narrow = window.matchMedia("(max-width: 767px)");

function subscribe(listener: () => void): () => void {
  narrow.addEventListener("change", listener);
  return () => {
    narrow.removeEventListener("change", listener);
  };
}

export const useNarrow = (): boolean => useSyncExternalStore(subscribe, () => narrow.matches);
