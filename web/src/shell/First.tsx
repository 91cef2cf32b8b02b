/** What has to be there first, each with the way to where it is entered. */
import { Link } from "react-router";
import { useBench } from "./bench";

export interface Missing {
  what: string;
  /** The stage it is entered on, or the library of data sheets. */
  at: "site" | "equipment" | "library";
}

export function First({ missing }: { missing: readonly Missing[] }) {
  const { view, stages } = useBench();
  return (
    <>
      First:{" "}
      {missing.map(({ what, at }, i) => {
        const name =
          at === "library"
            ? "Data sheets"
            : (stages.find((s) => s.key === at)?.name(view.job.school) ?? at);
        return (
          <span key={what}>
            {i > 0 && " and "}
            {what} (
            <Link
              className="text-copper underline"
              to={at === "library" ? "/library" : `/jobs/${view.id}/${at}`}
            >
              {name}
            </Link>
            )
          </span>
        );
      })}
      .
    </>
  );
}
