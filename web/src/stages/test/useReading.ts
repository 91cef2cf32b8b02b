/**
 * The reading in hand: what is typed, judged by the server while it is typed, kept when it is kept.
 */
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, Refused, type Preview, type Problem, type Reading } from "../../api/client";
import { useBench } from "../../shell/bench";

/** What is typed and not kept yet stays in this browser until it is. */
const key = (job: string, letter: string) => `heliant.reading.${job}.${letter}`;

interface Started {
  /** Version of the format the reading is of; absent in what an older page left behind. */
  version?: number;
  reading: Reading;
}

/** What was begun; of another version of the format it is put aside, and a sentence says so. */
export function started(job: string, letter: string, version: number): [Reading, string | null] {
  const text = localStorage.getItem(key(job, letter));
  if (text === null) return [{ string: letter }, null];
  try {
    const begun = JSON.parse(text) as Partial<Started>;
    if (begun.version === version && begun.reading) return [begun.reading, null];
  } catch {
    // What does not parse was not written by us.
  }
  localStorage.setItem(`${key(job, letter)}.aside`, text);
  localStorage.removeItem(key(job, letter));
  const said = "What was typed here belongs to another version; it is put aside. Read it again.";
  return [{ string: letter }, said];
}

export interface Entry {
  reading: Reading;
  change: (what: Partial<Reading>) => void;
  /** What it comes to so far. */
  judged: Preview | undefined;
  problems: Problem[];
  /** What became of the last try to keep it. */
  said: string | null;
  busy: boolean;
  keep: () => Promise<void>;
}

export function useReading(letter: string): Entry {
  const { view, editor, pick } = useBench();
  const [begun] = useState(() => started(view.id, letter, view.version));
  const [reading, setReading] = useState<Reading>(begun[0]);
  const [said, setSaid] = useState<string | null>(begun[1]);
  const [errors, setErrors] = useState<Problem[]>([]);
  const [busy, setBusy] = useState(false);
  const preview = useQuery({
    queryKey: ["preview", view.id, view.revision, reading],
    queryFn: () => api.preview(view.id, reading),
    placeholderData: (before) => before,
    retry: false,
  });
  const refused = preview.error instanceof Refused ? preview.error.errors : [];
  const change = (what: Partial<Reading>) => {
    const next = { ...reading, ...what };
    setReading(next);
    setErrors([]);
    setSaid(null);
    pick(null);
    const started: Started = { version: view.version, reading: next };
    localStorage.setItem(key(view.id, letter), JSON.stringify(started));
  };
  const keep = async () => {
    setBusy(true);
    try {
      const saved = await api.addReading(view.id, reading);
      localStorage.removeItem(key(view.id, letter));
      editor.read(saved);
      // Light and warmth hold for the next reading too; what was read does not.
      setReading({ ...reading, voc_v: null, isc_a: null });
      setSaid("Kept.");
    } catch (error) {
      if (error instanceof Refused) {
        setErrors(error.errors);
        setSaid(error.errors.length > 0 ? null : `${error.message}. ${error.detail}`);
      } else {
        setSaid(
          "The server does not answer. What you typed stays here; press again when it is back.",
        );
      }
    } finally {
      setBusy(false);
    }
  };
  const problems = [...errors, ...refused];
  return {
    reading,
    change,
    judged: refused.length > 0 ? undefined : preview.data,
    problems,
    said,
    busy,
    keep,
  };
}
