/** What stands in the address behind the question mark, changed a part at a time. */
import { useCallback } from "react";
import { useSearchParams } from "react-router";

/** The parameters, and a way to change some: an empty one goes. No step is added to go Back to. */
export function useAddress(): [URLSearchParams, (changes: Record<string, string>) => void] {
  const [search, setSearch] = useSearchParams();
  const put = useCallback(
    (changes: Record<string, string>) => {
      setSearch(
        (before) => {
          const next = new URLSearchParams(before);
          for (const [key, value] of Object.entries(changes)) {
            if (value === "") next.delete(key);
            else next.set(key, value);
          }
          return next;
        },
        { replace: true },
      );
    },
    [setSearch],
  );
  return [search, put];
}
