/** The schedule of labels by place, printed at true size. */
import { api } from "../../api/client";
import { many } from "../../model/format";
import { useBench } from "../../shell/bench";
import { linkLook } from "../../ui/Button";
import { useSaved } from "./useSaved";

const FACE = [
  "grid place-items-center gap-0.5 border-2 border-ink bg-white px-2 py-1",
  "text-center font-mono text-[#15202b]",
].join(" ");

export function Labels() {
  const { view } = useBench();
  const { data, away } = useSaved("labels", api.labels);
  if (!data || data.length === 0)
    return (
      <p role="status" className="p-3 text-sm text-ink-2">
        {data
          ? "There is nothing to label yet: plan the circuits under Runs."
          : away
            ? "The labels cannot be had at the moment."
            : "Looking"}
      </p>
    );
  const pieces = data.reduce((n, l) => n + l.n, 0);
  return (
    <div className="grid gap-2 p-3">
      <p className="flex flex-wrap items-center gap-3 text-sm">
        {many(pieces, "label")} in {many(data.length, "place")}
        <a className={`${linkLook} border-ink`} href={`/api/jobs/${view.id}/labels/pdf`}>
          PDF, true size
        </a>
      </p>
      <ul className="grid grid-cols-2 gap-2 max-md:grid-cols-1" aria-label="Labels by place">
        {data.map((l, i) => {
          const [width = 100, height = 30] = l.size_mm;
          return (
            <li key={i} className="grid gap-1 rounded border border-line p-2 text-sm">
              <span className="flex flex-wrap items-baseline gap-x-2">
                <strong>{l.place}</strong>
                <span className="text-xs text-ink-2">
                  {many(l.n, "piece")} · {width.toFixed(0)} × {height.toFixed(0)} mm · {l.source}
                </span>
                <a
                  className="ml-auto text-xs text-copper underline max-md:min-h-12"
                  aria-label={`SVG of the label ${l.lines[0] ?? ""} for ${l.place}`}
                  href={`/api/jobs/${view.id}/labels/svg?label=${String(i + 1)}`}
                >
                  SVG
                </a>
              </span>
              <span
                className={FACE}
                style={{ aspectRatio: `${String(width)} / ${String(height)}`, maxWidth: width * 3 }}
              >
                {l.lines.map((line, k) => (
                  <span key={k} className={k === 0 ? "font-bold" : "text-xs"}>
                    {line}
                  </span>
                ))}
              </span>
              {l.open && (
                <span className="text-xs font-bold text-caution">
                  A figure in it is open: do not print it for good.
                </span>
              )}
            </li>
          );
        })}
      </ul>
    </div>
  );
}
