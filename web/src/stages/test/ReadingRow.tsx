/** One reading in the records, with what was made of it. */
import { clsx } from "clsx";
import type { Check, Report } from "../../api/client";
import { amount } from "../../model/format";
import { checkKey, worst } from "../../model/report";
import { Badge } from "../../ui/verdict";

interface Props {
  judged: Report["readings"][number];
  checks: Check[];
  onPick: (key: string) => void;
}

export function ReadingRow({ judged: { reading, superseded, causes }, checks, onPick }: Props) {
  const v = reading.values;
  const verdict =
    checks.length === 0 ? "unknown" : worst(checks.map((c) => ({ ...c, alternative: false })));
  return (
    <li className="border-b border-line last:border-b-0">
      <button
        type="button"
        className={clsx(
          "flex min-h-12 w-full flex-wrap items-center gap-x-3 px-3",
          "py-1.5 text-left text-sm hover:bg-copper-soft max-md:text-base",
          superseded ? "text-ink-3" : "",
        )}
        onClick={() => {
          const first = checks.find((c) => c.verdict === verdict);
          if (first) onPick(checkKey(first));
        }}
      >
        <span className="font-mono font-bold">
          {[
            v.voc_v != null ? amount(v.voc_v, "V") : "",
            v.isc_a != null ? amount(v.isc_a, "A") : "",
          ]
            .filter(Boolean)
            .join(" · ")}
        </span>
        <span className="grow text-xs text-ink-2 max-md:text-base">
          {amount(v.irradiance_w_m2, "W/m2")} · {reading.by}
          {reading.brought_by != null && `, brought in by ${reading.brought_by}`},{" "}
          {new Date(reading.at).toLocaleString("en-GB", {
            dateStyle: "medium",
            timeStyle: "short",
          })}
          {superseded ? " · read again since" : ""}
          {causes[0] && verdict !== "pass" ? ` · ${causes[0].text}` : ""}
        </span>
        <Badge verdict={verdict} />
      </button>
    </li>
  );
}
