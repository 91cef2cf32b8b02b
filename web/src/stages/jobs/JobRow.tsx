/** One job in the list. */
import { clsx } from "clsx";
import { Link } from "react-router";
import type { Job, JobLine, Verdict } from "../../api/client";
import { age } from "../../model/format";
import { SCHOOL } from "../../text/words";
import { Menu } from "../../ui/Menu";
import type { MenuItem } from "../../ui/MenuList";
import { Badge } from "../../ui/verdict";

interface Props {
  job: JobLine;
  now: number;
  /** What whoever looks may do with it. */
  items: readonly MenuItem[];
}

export function JobRow({ job, now, items }: Props) {
  return (
    <li
      className={clsx(
        "flex flex-wrap items-center gap-x-4 gap-y-1 border-b border-line",
        "px-4 py-2.5 last:border-b-0",
      )}
    >
      <div className="min-w-40 grow">
        <Link
          to={`/jobs/${job.id}/strings`}
          className={clsx(
            "text-base font-bold hover:text-copper hover:underline",
            "max-md:inline-block max-md:py-2",
          )}
        >
          {job.name}
        </Link>
        <p className="text-xs text-ink-2">
          {SCHOOL[job.school as Job["school"]]} · revision {job.revision} ·{" "}
          {age(job.updated_at, now)} by {job.updated_by}
          {job.waits && (
            <span className="ml-2 rounded bg-caution-soft px-1.5 text-caution">
              a newer data sheet waits for a decision
            </span>
          )}
        </p>
      </div>
      <p className="text-right font-mono text-xs text-ink-2">
        {job.counts.fail} stop · {job.counts.warn} caution · {job.counts.unknown} open
      </p>
      <span className="w-20">
        <Badge verdict={job.verdict as Verdict} />
      </span>
      {items.length > 0 && (
        <Menu label={`More about ${job.name}`} items={items}>
          More
        </Menu>
      )}
    </li>
  );
}
