/** The cures of what a slip shows, tried before they are offered. */
import { useQuery } from "@tanstack/react-query";
import { api, unlessRefused, type Check, type TriedCure } from "../api/client";
import { subjectKey } from "../model/subject";
import { useBench } from "./bench";

/** Nothing where there is nothing to try; a word while it is tried. */
export function useCures(check: Check | undefined): TriedCure[] | "trying" | undefined {
  const { view } = useBench();
  const some = check?.cures?.some((c) => (c.edits ?? []).length > 0 || c.command != null) ?? false;
  const subject = check?.subject;
  const { data, isError } = useQuery({
    queryKey: ["cures", view.id, view.revision, subject ? subjectKey(subject) : ""],
    queryFn: () => (subject ? api.cures(view.id, view.revision, subject) : []),
    enabled: some && subject !== undefined,
    retry: unlessRefused,
    staleTime: Infinity,
  });
  if (!some) return undefined;
  // What could not be tried is not offered; what the rule says without an edit stands.
  if (isError)
    return check?.cures?.filter((c) => (c.edits ?? []).length === 0 && c.command == null) ?? [];
  if (!data) return "trying";
  return data.find((c) => c.id === check?.id)?.cures ?? [];
}
