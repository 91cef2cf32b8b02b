/** Who sees the job besides the company: inspectors with a seat, and links that end on a date. */
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, refusal, type Guests } from "../../api/client";
import { day } from "../../model/format";
import { useBench } from "../../shell/bench";
import { Button } from "../../ui/Button";
import { inputLook } from "../../ui/field";
import { Pick } from "../../ui/Pick";
import { Sheet } from "../../ui/Sheet";
import { Tick } from "../../ui/Tick";

/** The address of the page for a link's token. */
const lookAt = (token: string): string => `${window.location.origin}/look#${token}`;

/** A day from today, as a date field has it. */
const inDays = (n: number): string =>
  new Date(Date.now() + n * 86_400_000).toISOString().slice(0, 10);

/** What a seat or a link shows. */
const seen = (revision: number | null | undefined): string =>
  revision == null ? "the present revision" : `revision ${String(revision)}`;

export function GuestList() {
  const { view } = useBench();
  const queries = useQueryClient();
  const key = ["guests", view.id];
  const guests = useQuery({ queryKey: key, queryFn: () => api.guests(view.id) });
  const [until, setUntil] = useState(() => inDays(14));
  const [shows, setShows] = useState<"present" | "given">("present");
  // Chosen when it is made: the job as it goes on, or as it stands now.
  const revision = shows === "given" ? view.revision : null;
  const [made, setMade] = useState<string | null>(null);
  const [said, setSaid] = useState<string | null>(null);
  const doing = async (what: () => Promise<Guests | undefined>) => {
    setSaid(null);
    try {
      const now = await what();
      if (now) queries.setQueryData(key, now);
      else await queries.invalidateQueries({ queryKey: key });
    } catch (error) {
      const { message, errors } = refusal(error);
      const [wrong] = errors;
      const what = wrong?.path === "/until" ? "The day" : "The revision:";
      setSaid(wrong ? `${what} ${wrong.message}: ${wrong.hint}` : message);
    }
  };
  const seats = guests.data?.seats ?? [];
  const links = guests.data?.links ?? [];
  return (
    <Sheet title="Who else sees it" aside="this job and nothing else, and only to look">
      <div className="grid gap-3 p-3 text-sm" data-testid="guests">
        {seats.length === 0 && (
          <p className="text-ink-2">
            No inspector is let in yet. The owner does that under People.
          </p>
        )}
        <Pick
          label="What they see"
          value={shows}
          options={[
            ["present", "the present revision, whichever that is"],
            ["given", `revision ${String(view.revision)} as it is now`],
          ]}
          onChange={(key) => {
            setShows(key === "given" ? "given" : "present");
          }}
        />
        <p className="text-xs text-ink-2">
          Whoever is let in below is shown this; neither sees prices, notes or earlier revisions.
        </p>
        {seats.map((s) => (
          <Tick
            key={s.account}
            label={s.given ? `${s.name}, ${seen(s.revision)}` : s.name}
            checked={s.given}
            onChange={(given) => {
              void doing(() => api.giveSeat(view.id, s.account, given, revision));
            }}
          />
        ))}
        {links.map((l) => (
          <div key={l.id} className="flex flex-wrap items-center gap-2">
            <span className="grow">
              A link by {l.made_by}, {seen(l.revision)}, ends {day(l.until)}
            </span>
            <Button
              aria-label={`End the link that ends ${day(l.until)}`}
              onClick={() => {
                setMade(null);
                void doing(async () => {
                  await api.endJobLink(view.id, l.id);
                  return undefined;
                });
              }}
            >
              End it now
            </Button>
          </div>
        ))}
        <form
          className="flex flex-wrap items-end gap-2"
          onSubmit={(e) => {
            e.preventDefault();
            void doing(async () => {
              // To the end of that day where whoever makes it is.
              const end = new Date(`${until}T23:59:59`).toISOString();
              const { token } = await api.makeJobLink(view.id, end, revision);
              setMade(lookAt(token));
              return undefined;
            });
          }}
        >
          <label className="text-xs text-ink-2">
            A link that ends on
            <input
              type="date"
              required
              className={inputLook}
              min={inDays(1)}
              max={inDays(364)}
              value={until}
              onChange={(e) => {
                setUntil(e.target.value);
              }}
            />
          </label>
          <Button type="submit">Make a link</Button>
        </form>
        {made && (
          <label className="text-xs text-ink-2">
            Hand this on; it is shown this once. Whoever has it sees the job until it ends.
            <input
              className={inputLook}
              aria-label="Link to the job"
              readOnly
              value={made}
              onFocus={(e) => {
                e.target.select();
              }}
            />
          </label>
        )}
        {said && (
          <p role="alert" className="font-bold text-stop">
            {said}
          </p>
        )}
      </div>
    </Sheet>
  );
}
