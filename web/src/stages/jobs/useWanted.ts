/** What is looked for in the list of jobs: it stands in the address, so Back comes back to it. */
import type { JobsWanted } from "../../api/client";
import { useAddress } from "../../ui/useAddress";

const TEXTS = ["find", "verdict", "school", "by", "order"] as const;
const FLAGS = ["waits", "archived", "templates"] as const;

export interface WantedJobs {
  wanted: JobsWanted;
  page: number;
  /** Looks for something else too; an empty text no longer. */
  want: (more: JobsWanted) => void;
  setPage: (page: number) => void;
}

export function useWanted(): WantedJobs {
  const [search, put] = useAddress();
  const texts = TEXTS.flatMap((key) => {
    const text = search.get(key);
    return text ? [[key, text]] : [];
  });
  const flags = FLAGS.flatMap((key) => (search.get(key) === "true" ? [[key, true]] : []));
  return {
    wanted: Object.fromEntries([...texts, ...flags]) as JobsWanted,
    page: Number(search.get("page") ?? 0) || 0,
    want: (more) => {
      const said = (v: unknown) => (v === false || v === undefined || v === null ? "" : String(v));
      const changes = Object.entries(more).map(([k, v]) => [k, said(v)] as const);
      put({ ...Object.fromEntries(changes), page: "" });
    },
    setPage: (page) => {
      put({ page: page === 0 ? "" : String(page) });
    },
  };
}
