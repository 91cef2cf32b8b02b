/** What is looked for in the list of jobs: it stands in the address, so Back comes back to it. */
import { useSearchParams } from "react-router";
import type { JobsWanted } from "../../api/client";

const TEXTS = ["find", "verdict", "school", "by", "order"] as const;
const FLAGS = ["waits", "archived"] as const;

export interface WantedJobs {
  wanted: JobsWanted;
  page: number;
  /** Looks for something else too; an empty text no longer. */
  want: (more: JobsWanted) => void;
  setPage: (page: number) => void;
}

export function useWanted(): WantedJobs {
  const [search, setSearch] = useSearchParams();
  const texts = TEXTS.flatMap((key) => {
    const text = search.get(key);
    return text ? [[key, text]] : [];
  });
  const flags = FLAGS.flatMap((key) => (search.get(key) === "true" ? [[key, true]] : []));
  const wanted = Object.fromEntries([...texts, ...flags]) as JobsWanted;
  const put = (changes: Record<string, string>) => {
    setSearch(
      (before) => {
        const next = new URLSearchParams(before);
        for (const [key, value] of Object.entries(changes)) {
          if (value === "" || value === "false") next.delete(key);
          else next.set(key, value);
        }
        return next;
      },
      { replace: true },
    );
  };
  return {
    wanted,
    page: Number(search.get("page") ?? 0) || 0,
    want: (more) => {
      const changes = Object.entries(more).map(([k, v]) => [k, String(v ?? "")] as const);
      put({ ...Object.fromEntries(changes), page: "" });
    },
    setPage: (page) => {
      put({ page: page === 0 ? "" : String(page) });
    },
  };
}
