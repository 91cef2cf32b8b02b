/** The readings of all strings that do not come with the job itself, asked for in pages. */
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api } from "../../api/client";
import { useBench } from "../../shell/bench";
import { Button } from "../../ui/Button";
import { Pager } from "../../ui/Pager";
import { Sheet } from "../../ui/Sheet";
import { ReadingRow } from "./ReadingRow";

/** Readings of one page. */
const PAGE = 100;

export function EarlierReadings() {
  const { view } = useBench();
  const total = view.report.readings_n;
  const [open, setOpen] = useState(false);
  const [page, setPage] = useState(0);
  const found = useQuery({
    queryKey: ["readings", view.id, total, page],
    queryFn: () => api.readings(view.id, page, view.job.school),
    placeholderData: keepPreviousData,
    enabled: open,
  });
  if (total <= view.report.readings.length) return null;
  if (!open)
    return (
      <div className="mt-3">
        <Button
          onClick={() => {
            setOpen(true);
          }}
        >
          Every reading of the job ({total})
        </Button>
      </div>
    );
  return (
    <Sheet title="Every reading" aside="newest first" className="mt-3">
      <ul data-testid="every-reading">
        {found.data?.readings.map((judged) => (
          <ReadingRow
            key={judged.reading.id}
            judged={judged}
            checks={found.data.checks.filter(
              ({ subject }) => subject.kind === "reading" && subject.reading === judged.reading.id,
            )}
            onPick={() => {
              // What is not in the report has no slip.
            }}
            onWithdrawn={() => void found.refetch()}
          />
        ))}
      </ul>
      <Pager page={page} size={PAGE} total={total} onPage={setPage} order="newest first" />
    </Sheet>
  );
}
