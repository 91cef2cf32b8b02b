/** Readings that wait for a signal, or that the server did not take. */
import { moment } from "../model/format";
import { sent, type WaitingReading } from "../model/waiting";

interface Props {
  job: string;
  list: readonly WaitingReading[];
}

export function WaitingReadings({ job, list }: Props) {
  if (list.length === 0) return null;
  const refused = list.filter((w) => w.refused !== undefined);
  const wait = list.length - refused.length;
  return (
    <section
      aria-label="Readings that wait"
      data-testid="waiting"
      className="no-print border-b border-caution bg-caution-soft px-4 py-2 text-sm text-ink"
    >
      {wait > 0 && (
        <p role="status">
          <strong>
            {wait === 1 ? "1 reading waits" : `${String(wait)} readings wait`} for a signal.
          </strong>{" "}
          Kept in this browser; each goes out once, by itself, while the job is open.
        </p>
      )}
      {refused.map((w) => (
        <p key={w.key} role="alert">
          <strong>The reading on {w.reading.string}</strong>, {moment(w.at)}, was not taken:{" "}
          {w.refused}{" "}
          <button
            type="button"
            className="min-h-8 underline max-md:min-h-12"
            onClick={() => {
              sent(job, w.key);
            }}
          >
            Throw it away
          </button>
        </p>
      ))}
    </section>
  );
}
