/** The cures of what a slip shows, tried before they are offered. */
import { useQuery } from "@tanstack/react-query";
import { api, unlessRefused, type Check, type TriedCure } from "../api/client";
import { subjectKey } from "../model/subject";
import { useBench } from "./bench";

/** What was tried, and whether there was no time for all of it. */
export interface Tried {
  cures: TriedCure[];
  cut: boolean;
}

const all = (cures: TriedCure[]): Tried => ({ cures, cut: false });

/** Nothing where there is nothing to try; a word while it is tried. */
export function useCures(check: Check | undefined): Tried | "trying" | undefined {
  const { view, account } = useBench();
  const some = check?.cures?.some((c) => (c.edits ?? []).length > 0 || c.command != null) ?? false;
  const subject = check?.subject;
  const { data, isError } = useQuery({
    queryKey: ["cures", view.id, view.revision, subject ? subjectKey(subject) : ""],
    queryFn: () => (subject ? api.cures(view.id, view.revision, subject) : { checks: [] }),
    // Who is from outside only looks: what would mend it is the company's to try.
    enabled: some && subject !== undefined && account.role !== "inspector",
    retry: unlessRefused,
    staleTime: Infinity,
  });
  if (!some || account.role === "inspector") return undefined;
  // What could not be tried is not offered; what the rule says without an edit stands.
  if (isError)
    return all(check?.cures?.filter((c) => !(c.edits ?? []).length && c.command == null) ?? []);
  if (!data) return "trying";
  const cures = data.checks.find((c) => c.id === check?.id)?.cures ?? [];
  return { cures, cut: data.cut ?? false };
}
