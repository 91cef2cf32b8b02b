/**
 * The workings of what a slip shows: fetched when it is looked at, as the job stood when it was
 * judged.
 */
import { useQuery } from "@tanstack/react-query";
import { api, unlessRefused, type Check, type Figure } from "../api/client";
import { subjectKey } from "../model/subject";
import { useBench } from "./bench";

export interface Workings {
  /** Absent until they have come. */
  figures: Figure[] | undefined;
  away: boolean;
}

export function useWorkings(check: Check | undefined): Workings {
  const { view } = useBench();
  const subject = check?.subject;
  const { data, failureCount } = useQuery({
    queryKey: [
      "workings",
      view.id,
      view.revision,
      view.report.readings_n,
      subject ? subjectKey(subject) : "",
    ],
    queryFn: () => (subject ? api.workings(view.id, view.revision, subject) : []),
    enabled: subject !== undefined,
    retry: unlessRefused,
    staleTime: Infinity,
  });
  return { figures: data, away: failureCount > 0 && data === undefined };
}
