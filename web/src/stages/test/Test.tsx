/**
 * Test: the expected band, a reading, its verdict and the likely cause. For the hand at the
 * inverter.
 */
import { clsx } from "clsx";
import { useState } from "react";
import { strings } from "../../model/planning";
import { worst } from "../../model/report";
import type { Check } from "../../api/client";
import { useBench } from "../../shell/bench";
import { Slip } from "../../shell/Slip";
import { StageFrame } from "../../shell/StageFrame";
import { Sheet } from "../../ui/Sheet";
import { Tape } from "../../ui/Tape";
import { Mark } from "../../ui/verdict";
import { EarlierReadings } from "./EarlierReadings";
import { ReadingForm } from "./ReadingForm";
import { ReadingRow } from "./ReadingRow";
import { useReading } from "./useReading";

export function Test() {
  const { view } = useBench();
  const list = strings(view.job);
  const [chosen, setChosen] = useState<string | null>(null);
  const [arrived, setArrived] = useState(false);
  const letter = list.find((s) => s.letter === chosen)?.letter ?? list[0]?.letter;
  if (letter === undefined) {
    return (
      <StageFrame stage="test" about="nothing to test yet">
        <p className="text-sm text-ink-2">
          There is no string yet. Plan strings first; then each gets its expected volts here.
        </p>
      </StageFrame>
    );
  }
  // Keyed by the string: another string is another reading.
  return (
    <OneString
      key={letter}
      letter={letter}
      arrived={arrived}
      onChoose={(to, byEnter) => {
        setArrived(byEnter);
        setChosen(to);
      }}
    />
  );
}

interface OneProps {
  letter: string;
  arrived: boolean;
  onChoose: (letter: string, byEnter: boolean) => void;
}

function OneString({ letter, arrived, onChoose }: OneProps) {
  const { view, pick, picked } = useBench();
  const { report } = view;
  const list = strings(view.job);
  const reading = useReading(letter);
  const { judged } = reading;
  const live = judged?.checks.find((c) => c.id === "test.voc_v") ?? judged?.checks[0];
  const choose = (l: string, byEnter = false) => {
    pick(null);
    onChoose(l, byEnter);
  };
  const ofReading = (id: string): Check[] =>
    report.checks.filter((c) => c.subject.kind === "reading" && c.subject.reading === id);
  const standing = (l: string) => {
    const own = report.readings.filter((r) => r.reading.values.string === l && !r.superseded);
    return own.length === 0 ? "unknown" : worst(own.flatMap((r) => ofReading(r.reading.id)));
  };
  const records = report.readings.filter((r) => r.reading.values.string === letter).reverse();
  return (
    <StageFrame
      stage="test"
      about="string circuits at the inverter end, isolators open"
      slip={
        picked === null && judged && live ? (
          <Slip report={judged} check={live} onEdits={null} />
        ) : undefined
      }
    >
      <div className="grid grid-cols-[190px_minmax(0,1fr)] gap-3 max-md:grid-cols-1">
        <Sheet title="Strings" className="self-start max-md:hidden">
          <ul className="max-h-[60vh] overflow-y-auto">
            {list.map((s) => (
              <li key={s.letter} className="border-b border-line last:border-b-0">
                <button
                  type="button"
                  aria-pressed={s.letter === letter}
                  className={clsx(
                    "flex min-h-11 w-full items-center gap-2 px-3 text-left text-sm",
                    s.letter === letter ? "bg-copper-soft" : "hover:bg-copper-soft",
                  )}
                  onClick={() => {
                    choose(s.letter);
                  }}
                >
                  <Tape tapes={report.tapes} letter={s.letter} />
                  <span className="grow">{s.n} modules</span>
                  <Mark verdict={standing(s.letter)} />
                </button>
              </li>
            ))}
          </ul>
        </Sheet>
        <div className="hidden gap-2 overflow-x-auto max-md:flex" role="group" aria-label="Strings">
          {list.map((s) => (
            <button
              key={s.letter}
              type="button"
              aria-pressed={s.letter === letter}
              aria-label={`String ${s.letter}, ${String(s.n)} modules`}
              className={clsx(
                "flex min-h-12 min-w-20 items-center justify-center gap-2 rounded-md",
                "border",
                s.letter === letter
                  ? "border-2 border-copper bg-copper-soft"
                  : "border-ink-3 bg-sheet",
              )}
              onClick={() => {
                choose(s.letter);
              }}
            >
              <Tape tapes={report.tapes} letter={s.letter} />
              <Mark verdict={standing(s.letter)} />
            </button>
          ))}
        </div>
        <div className="min-w-0">
          <ReadingForm
            letter={letter}
            entry={reading}
            arrived={arrived}
            onNext={() => {
              // The next that nobody has read yet, from here on and round again.
              const at = list.findIndex((s) => s.letter === letter);
              const turn = [...list.slice(at + 1), ...list.slice(0, at)];
              const next = turn.find((s) => standing(s.letter) === "unknown");
              if (next) choose(next.letter, true);
            }}
          />
          <Sheet
            title={`Readings of ${letter}`}
            aside="only ever added, newest first"
            className="mt-3"
          >
            {records.length === 0 && <p className="p-3 text-sm text-ink-2">None yet.</p>}
            <ul data-testid="readings">
              {records.map((judged) => (
                <ReadingRow
                  key={judged.reading.id}
                  judged={judged}
                  checks={ofReading(judged.reading.id)}
                  onPick={pick}
                />
              ))}
            </ul>
          </Sheet>
          <EarlierReadings />
        </div>
      </div>
    </StageFrame>
  );
}
