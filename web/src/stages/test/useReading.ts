/**
 * The reading in hand: what is typed, judged by the server while it is typed, kept when it is kept.
 */
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, Refused, type Preview, type Problem, type Reading } from "../../api/client";
import { useBench } from "../../shell/bench";

/** What is typed and not kept yet stays in this browser until it is. */
const key = (job: string, letter: string) => `heliant.reading.${job}.${letter}`;

function started(job: string, letter: string): Reading {
  const text = localStorage.getItem(key(job, letter));
  if (text !== null) {
    try {
      return JSON.parse(text) as Reading;
    } catch {
      // What does not parse was not written by us.
    }
  }
  return { string: letter };
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
  const [reading, setReading] = useState<Reading>(() => started(view.id, letter));
  const [said, setSaid] = useState<string | null>(null);
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
    localStorage.setItem(key(view.id, letter), JSON.stringify(next));
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
