/** One reading in the records, with what was made of it; it can be withdrawn with a reason. */
import { clsx } from "clsx";
import { useState } from "react";
import { api, refusal, type Check, type Report } from "../../api/client";
import { amount, moment } from "../../model/format";
import { checkKey, worst } from "../../model/report";
import { useBench } from "../../shell/bench";
import { Button } from "../../ui/Button";
import { inputLook } from "../../ui/field";
import { Badge } from "../../ui/verdict";

type Judged = Report["readings"][number];

interface Props {
  judged: Judged;
  checks: Check[];
  onPick: (key: string) => void;
  onWithdrawn?: () => void;
}

const read = ({ voc_v, isc_a }: Judged["reading"]["values"]): string =>
  [voc_v != null ? amount(voc_v, "V") : "", isc_a != null ? amount(isc_a, "A") : ""]
    .filter(Boolean)
    .join(" · ");

/** What became of a reading since. */
function since({ reading, superseded, causes }: Judged, holds: boolean): string {
  const gone = reading.withdrawn;
  if (gone) return ` · withdrawn by ${gone.by}, ${moment(gone.at)}: ${gone.reason}`;
  if (superseded) return " · read again since";
  return causes[0] && !holds ? ` · ${causes[0].text}` : "";
}

export function ReadingRow({ judged, checks, onPick, onWithdrawn }: Props) {
  const { canRead } = useBench();
  const [asking, setAsking] = useState(false);
  const { reading, superseded } = judged;
  const verdict =
    checks.length === 0 ? "unknown" : worst(checks.map((c) => ({ ...c, alternative: false })));
  const withdrawn = reading.withdrawn != null;
  return (
    <li className="border-b border-line last:border-b-0">
      <div className="flex items-center">
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
          <span className={clsx("font-mono font-bold", withdrawn && "line-through")}>
            {read(reading.values)}
          </span>
          <span className="grow text-xs text-ink-2 max-md:text-base">
            {amount(reading.values.irradiance_w_m2, "W/m2")} · {reading.by}
            {reading.brought_by != null && `, brought in by ${reading.brought_by}`},{" "}
            {moment(reading.at)}
            {since(judged, verdict === "pass")}
          </span>
          {withdrawn ? (
            <span className="text-xs font-bold">Withdrawn</span>
          ) : (
            <Badge verdict={verdict} />
          )}
        </button>
        {canRead && !withdrawn && (
          <Button
            className="mr-2 shrink-0"
            aria-label={`Withdraw ${read(reading.values)} of ${reading.values.string}`}
            aria-expanded={asking}
            onClick={() => {
              setAsking(!asking);
            }}
          >
            Withdraw
          </Button>
        )}
      </div>
      {asking && !withdrawn && (
        <Withdraw
          id={reading.id}
          onDone={() => {
            setAsking(false);
            onWithdrawn?.();
          }}
        />
      )}
    </li>
  );
}

function Withdraw({ id, onDone }: { id: string; onDone: () => void }) {
  const { view, editor } = useBench();
  const [reason, setReason] = useState("");
  const [said, setSaid] = useState<string | null>(null);
  const go = async () => {
    try {
      editor.read(await api.withdrawReading(view.id, id, reason));
      onDone();
    } catch (error) {
      const { message, errors } = refusal(error);
      setSaid(errors[0] ? `The reason ${errors[0].message}: ${errors[0].hint}` : message);
    }
  };
  return (
    <form
      className="flex flex-wrap items-end gap-2 px-3 pb-3 text-sm max-md:text-base"
      onSubmit={(e) => {
        e.preventDefault();
        void go();
      }}
    >
      <label className="min-w-48 grow">
        Why it does not count; it stays on record
        <input
          className={inputLook}
          autoFocus
          value={reason}
          aria-invalid={said !== null}
          onChange={(e) => {
            setReason(e.target.value);
          }}
        />
      </label>
      <Button type="submit">Withdraw it</Button>
      {said && (
        <p role="alert" className="w-full font-bold text-stop">
          {said}
        </p>
      )}
    </form>
  );
}
