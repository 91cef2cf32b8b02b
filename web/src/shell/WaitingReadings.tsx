/** Readings that wait for a signal, or that the server did not take. */
import { moment } from "../model/format";
import { sent } from "../model/waiting";
import type { Waiting } from "./useWaiting";

interface Props {
  job: string;
  waiting: Waiting;
}

export function WaitingReadings({ job, waiting: { list, why } }: Props) {
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
            {wait === 1 ? "1 reading waits" : `${String(wait)} readings wait`}{" "}
            {why === "signal" ? "for a signal." : "until you are signed in again."}
          </strong>{" "}
          Kept in this browser; each goes out once, by itself, while the job is open.
          {why === "signed-out" && (
            <>
              {" "}
              <a className="underline" href={window.location.pathname}>
                Sign in
              </a>
            </>
          )}
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
