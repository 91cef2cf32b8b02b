/** What is done by hand on the map: joining, turning, taking off, bringing into line. */
import { clsx } from "clsx";
import type { Tape as TapeOf } from "../../api/client";
import { many } from "../../model/format";
import { Button } from "../../ui/Button";
import { Tape } from "../../ui/Tape";
import { Tick } from "../../ui/Tick";

interface Props {
  letters: string[];
  tapes: TapeOf[];
  /** The string or branch that clicks join to. */
  joining: string | null;
  onJoining: (letter: string | null) => void;
  onLoosen: (letter: string) => void;
  picked: number;
  onTurn: () => void;
  onTakeOff: () => void;
  onPin: () => void;
  onAlign: (along: "row" | "column") => void;
  mayTurn: boolean;
  onMayTurn: (may: boolean) => void;
}

export function Tools(props: Props) {
  const { letters, tapes, joining, onJoining, onLoosen, picked } = props;
  return (
    <div className="my-3 flex flex-wrap items-center gap-2">
      <span className="text-sm font-bold">Join by hand</span>
      {letters.map((letter) => (
        <button
          key={letter}
          type="button"
          aria-pressed={joining === letter}
          className={clsx(
            "rounded border-2 p-1",
            joining === letter ? "border-copper" : "border-line",
          )}
          onClick={() => {
            onJoining(joining === letter ? null : letter);
          }}
        >
          <Tape tapes={tapes} letter={letter} />
        </button>
      ))}
      {joining !== null && (
        <Button
          onClick={() => {
            onLoosen(joining);
          }}
        >
          Loosen {joining}
        </Button>
      )}
      <Button disabled={picked === 0} onClick={props.onTurn}>
        Turn {picked > 1 ? many(picked, "module") : "module"}{" "}
        <kbd className="text-xs text-ink-2">T</kbd>
      </Button>
      <Button disabled={picked === 0} onClick={props.onTakeOff}>
        Take off
      </Button>
      <Button disabled={picked === 0} onClick={props.onPin}>
        Pin or free <kbd className="text-xs text-ink-2">P</kbd>
      </Button>
      {picked > 1 && (
        <>
          <Button
            onClick={() => {
              props.onAlign("row");
            }}
          >
            Into one row
          </Button>
          <Button
            onClick={() => {
              props.onAlign("column");
            }}
          >
            Into one column
          </Button>
        </>
      )}
      <Tick label="modules may be turned" checked={props.mayTurn} onChange={props.onMayTurn} />
    </div>
  );
}
