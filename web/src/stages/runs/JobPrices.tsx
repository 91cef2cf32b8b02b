/** The prices a job counts with, and the company's where they are others by now. */
import { useQuery } from "@tanstack/react-query";
import { Link } from "react-router";
import { api } from "../../api/client";
import { many } from "../../model/format";
import { useBench } from "../../shell/bench";
import { Button } from "../../ui/Button";

export function JobPrices() {
  const { draft, editor, canPlan, account } = useBench();
  const all = useQuery({ queryKey: ["rates"], queryFn: api.rates });
  const own = draft.job.rates ?? {};
  const company = all.data?.own;
  if (!all.data || !company) return null;
  const other = all.data.table.filter((r) => own[r.key] !== company[r.key]);
  return (
    <p className="flex flex-wrap items-center gap-3 border-t border-line p-3 text-xs text-ink-2">
      <span>
        {Object.keys(own).length === 0
          ? "Prices and times are those that came with the program."
          : `${many(Object.keys(own).length, "price")} of your own.`}{" "}
        {other.length > 0 &&
          `The company has ${many(other.length, "other")} by now: ${other
            .slice(0, 3)
            .map((r) => r.title.toLowerCase())
            .join(", ")}${other.length > 3 ? " and more" : ""}.`}
      </span>
      {canPlan && other.length > 0 && (
        <Button
          onClick={() => {
            editor.editJob((j) => ({ ...j, rates: { ...company } }));
          }}
        >
          Count with today’s prices
        </Button>
      )}
      {account.role === "owner" && (
        <Link to="/prices" className="text-copper underline">
          Prices and times
        </Link>
      )}
    </p>
  );
}
