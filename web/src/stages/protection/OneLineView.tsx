/** The one-line of the job as it is saved: sheet by sheet, taken away as PDF, SVG, DXF. */
import { useState } from "react";
import { api, type Subject } from "../../api/client";
import { OneLine } from "../../drawing/OneLine";
import { checksOf, worstKey } from "../../model/report";
import { useBench } from "../../shell/bench";
import { linkLook } from "../../ui/Button";
import { Pager } from "../../ui/Pager";
import { Pick } from "../../ui/Pick";
import { useSaved } from "./useSaved";

export function OneLineView({ marked }: { marked: Subject[] }) {
  const { view, pick } = useBench();
  const [paper, setPaper] = useState<"a4" | "letter">(view.job.school === "na" ? "letter" : "a4");
  const [page, setPage] = useState(0);
  const [closer, setCloser] = useState(1);
  const { data, away } = useSaved(`one-line ${paper}`, (id, revision) =>
    api.oneLine(id, revision, paper),
  );
  const [picked, setPicked] = useState<Subject[]>([]);
  const sheets = data?.sheets ?? [];
  const sheet = sheets[Math.min(page, sheets.length - 1)];
  const file = (format: string) =>
    `/api/jobs/${view.id}/one-line/${format}?paper=${paper}&sheet=${String(page + 1)}`;
  if (!sheet)
    return (
      <p role="status" className="p-3 text-sm text-ink-2">
        {data
          ? "There is no circuit to draw yet: plan the circuits under Runs."
          : away
            ? "The diagram cannot be had at the moment."
            : "Drawing"}
      </p>
    );
  return (
    <div className="grid gap-2 p-3">
      <div className="no-print flex flex-wrap items-end gap-2">
        <Pick
          label="Paper"
          value={paper}
          options={[
            ["a4", "A4"],
            ["letter", "Letter"],
          ]}
          onChange={(p) => {
            setPaper(p as "a4" | "letter");
          }}
        />
        <Pick
          label="Seen"
          value={String(closer)}
          options={[
            ["1", "whole"],
            ["2", "twice as large"],
            ["3", "three times"],
          ]}
          onChange={(times) => {
            setCloser(Number(times));
          }}
        />
        {["pdf", "svg", "dxf"].map((format) => (
          <a key={format} className={`${linkLook} border-ink`} href={file(format)}>
            {format.toUpperCase()}
          </a>
        ))}
        <span className="text-xs text-ink-2">
          letters of {sheet.text_mm.toFixed(1)} mm on paper
        </span>
        {sheets.length > 1 && (
          <Pager page={page} size={1} total={sheets.length} onPage={setPage} order="sheets" />
        )}
      </div>
      <div className="max-h-[75vh] overflow-auto rounded border border-line bg-white">
        <OneLine
          sheet={sheet}
          tapes={view.report.tapes}
          closer={closer}
          picked={marked.length > 0 ? marked : picked}
          onPick={(subject) => {
            setPicked([subject]);
            const checks = checksOf(view.report, subject);
            if (checks.length > 0) pick(worstKey(checks));
          }}
        />
      </div>
    </div>
  );
}
