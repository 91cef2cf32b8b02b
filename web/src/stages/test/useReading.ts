/**
 * The reading in hand: what is typed, judged by the server while it is typed, kept when it is kept.
 */
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, Refused, type Preview, type Problem, type Reading } from "../../api/client";
import { newKey, wait } from "../../model/waiting";
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

/** How long light and warmth may be taken from the reading before. */
const CARRIED_MS = 10 * 60_000;

const lightKey = (job: string) => `heliant.light.${job}`;

interface Light {
  at: string;
  values: Pick<Reading, "irradiance_w_m2" | "cell_c" | "back_c" | "ambient_c">;
}

function keepLight(job: string, at: string, reading: Reading): void {
  const { irradiance_w_m2, cell_c, back_c, ambient_c } = reading;
  const light: Light = { at, values: { irradiance_w_m2, cell_c, back_c, ambient_c } };
  localStorage.setItem(lightKey(job), JSON.stringify(light));
}

/** Light and warmth of the reading before, on whatever string, while they are fresh. */
export function freshLight(job: string, now: number): Light | null {
  try {
    const light = JSON.parse(localStorage.getItem(lightKey(job)) ?? "null") as Light | null;
    return light && now - Date.parse(light.at) <= CARRIED_MS ? light : null;
  } catch {
    return null;
  }
}

export interface Entry {
  reading: Reading;
  /** When light and warmth were read that are taken from the reading before. */
  carried: string | null;
  change: (what: Partial<Reading>) => void;
  /** What it comes to so far. */
  judged: Preview | undefined;
  problems: Problem[];
  /** What became of the last try to keep it. */
  said: string | null;
  busy: boolean;
  /** Keeps it; true where nothing speaks against going on to the next string. */
  keep: () => Promise<boolean>;
}

export function useReading(letter: string): Entry {
  const { view, editor, pick } = useBench();
  const [begun] = useState(() => started(view.id, letter, view.version));
  const [light] = useState(() =>
    Object.keys(begun[0]).length > 1 ? null : freshLight(view.id, Date.now()),
  );
  const [reading, setReading] = useState<Reading>({ ...begun[0], ...light?.values });
  const [carried, setCarried] = useState(light?.at ?? null);
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
    if (Object.keys(what).some((k) => k !== "voc_v" && k !== "isc_a")) setCarried(null);
    setErrors([]);
    setSaid(null);
    pick(null);
    const started: Started = { version: view.version, reading: next };
    localStorage.setItem(key(view.id, letter), JSON.stringify(started));
  };
  const keep = async (): Promise<boolean> => {
    setBusy(true);
    const one = { key: newKey(), at: new Date().toISOString(), reading };
    const next = (words: string) => {
      localStorage.removeItem(key(view.id, letter));
      // Light and warmth hold for the next reading too; what was read does not.
      keepLight(view.id, carried ?? one.at, reading);
      setCarried(carried ?? one.at);
      setReading({ ...reading, voc_v: null, isc_a: null });
      setSaid(words);
    };
    try {
      const outcome = await api.addReading(view.id, reading, one);
      editor.read(outcome);
      next("Kept.");
      const own = outcome.report.checks.filter(
        ({ subject }) => subject.kind === "reading" && subject.reading === one.key,
      );
      return own.every((c) => c.verdict === "pass");
    } catch (error) {
      if (error instanceof Refused) {
        setErrors(error.errors);
        setSaid(error.errors.length > 0 ? null : `${error.message}. ${error.detail}`);
        return false;
      } else {
        // It may have got through: under its key it is added once.
        wait(view.id, one);
        next("No signal: it is kept here and goes out by itself.");
        return true;
      }
    } finally {
      setBusy(false);
    }
  };
  const problems = [...errors, ...refused];
  return {
    reading,
    carried,
    change,
    judged: refused.length > 0 ? undefined : preview.data,
    problems,
    said,
    busy,
    keep,
  };
}
