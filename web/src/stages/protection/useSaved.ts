/** What is drawn of the job as it is saved: it stays as long as the revision does. */
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { unlessRefused } from "../../api/client";
import { useBench } from "../../shell/bench";

export function useSaved<T>(
  what: string,
  fetch: (id: string, revision: number) => Promise<T>,
): { data: T | undefined; away: boolean } {
  const { view } = useBench();
  const { data, failureCount } = useQuery({
    queryKey: [what, view.id, view.revision],
    queryFn: () => fetch(view.id, view.revision),
    retry: unlessRefused,
    staleTime: Infinity,
    placeholderData: keepPreviousData,
  });
  return { data, away: failureCount > 0 };
}
