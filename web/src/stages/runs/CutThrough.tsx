/**
 * The cut through the raceway that is picked; a circuit of another way is dragged into it, or
 * named, to see what happens.
 */
import { useQuery } from "@tanstack/react-query";
import { clsx } from "clsx";
import { useState } from "react";
import { api, type Check, type Command, type RacewayCut as Cut } from "../../api/client";
import { RacewayCut } from "../../drawing/RacewayCut";
import { amount, between, many } from "../../model/format";
import { carriedBy, circuitsOf } from "../../model/plan";
import { apply } from "../../model/pointer";
import { checkKey } from "../../model/report";
import { subjectName } from "../../model/subject";
import { useBench } from "../../shell/bench";
import { racewayText } from "../../text/words";
import { Button } from "../../ui/Button";
import { Pick } from "../../ui/Pick";
import { Badge } from "../../ui/verdict";
import { CIRCUIT_DRAGGED } from "./CircuitChips";

interface Props {
  cut: Cut;
  way: string;
  part: number;
  command: (command: Command) => void;
}

export function CutThrough({ cut, way, part, command }: Props) {
  const { view, draft, editor, canPlan } = useBench();
  const [circuit, setCircuit] = useState("");
  const [over, setOver] = useState(false);
  const { job, library } = draft;
  const inside = carriedBy(job, way);
  const others = circuitsOf(job).filter(([key]) => !inside.includes(key));
  const tried = useQuery({
    queryKey: ["laid-in", job, way, part, circuit],
    queryFn: () => api.laidIn(job, library, { way, part, circuit }),
    enabled: circuit !== "" && others.some(([key]) => key === circuit),
    retry: false,
  });
  const sizes = useQuery({
    queryKey: ["raceway-sizes", job, way, part],
    queryFn: () => api.racewaySizes(job, library, { way, part }),
    retry: false,
  });
  const found = circuit === "" ? undefined : tried.data;
  const shown = found?.cut ?? cut;
  return (
    <figure
      className={clsx("mt-2 rounded-lg", over && "outline-2 outline-copper")}
      data-testid="cut-through"
      onDragOver={(e) => {
        if (!e.dataTransfer.types.includes(CIRCUIT_DRAGGED)) return;
        e.preventDefault();
        setOver(true);
      }}
      onDragLeave={() => {
        setOver(false);
      }}
      onDrop={(e) => {
        setOver(false);
        const dragged = e.dataTransfer.getData(CIRCUIT_DRAGGED);
        if (others.some(([key]) => key === dragged)) {
          e.preventDefault();
          setCircuit(dragged);
        }
      }}
    >
      <div className="flex items-center gap-3">
        <RacewayCut cut={shown} tapes={view.report.tapes} />
        <figcaption className="text-xs text-ink-2">
          {racewayText(shown)}, to scale
          <br />
          {amount(shown.inner_mm, "mm")} inside
          <br />
          {many(shown.wires.length, "wire")}, {job.school === "na" ? "ground" : "earth"} counted
          {shown.wires.some((w) => !w.fits) && (
            <strong className="block text-stop">Not all find room.</strong>
          )}
          {found && <strong className="block text-copper">with {circuit} in it</strong>}
        </figcaption>
      </div>
      {circuit === "" && sizes.data && (
        <ul aria-label="Sizes beside it" className="mt-2 text-sm">
          {sizes.data.map((s) => (
            <li
              key={s.size}
              className="grid grid-cols-[1fr_4.5rem_5rem_2rem] items-center gap-1 text-right"
            >
              <span className={clsx("text-left", s.now && "font-bold")}>
                {racewayText({ kind: cut.kind, size: s.size })}
                {s.now && <span className="sr-only"> now</span>}
              </span>
              <span className="font-mono">{amount(s.fill_pct, "%")}</span>
              <span className="text-left">
                <Badge verdict={s.verdict} />
              </span>
              {canPlan && !s.now ? (
                <button
                  type="button"
                  aria-label={`Take size ${s.size}`}
                  className="min-h-8 text-copper underline max-md:min-h-12"
                  onClick={() => {
                    editor.editJob((j) => apply(j, s.edits, job));
                  }}
                >
                  Take
                </button>
              ) : (
                <span className="w-8" />
              )}
            </li>
          ))}
        </ul>
      )}
      {canPlan && others.length > 0 && (
        <div className="mt-2">
          <Pick
            label={`What if this were in ${way} too`}
            value={circuit}
            options={[["", "as it is"], ...others.map(([key]) => [key, key] as const)]}
            onChange={setCircuit}
          />
        </div>
      )}
      {circuit !== "" && tried.isError && (
        <p role="alert" className="text-sm text-stop">
          It cannot be worked out now.
        </p>
      )}
      {found && (
        <div role="status" aria-label={`${circuit} in ${way}`} className="mt-2 text-sm">
          <ul>
            {(found.checks as Check[])
              .filter((c) => c.id.startsWith("raceway."))
              .map((c) => (
                <li key={checkKey(c)} className="flex justify-between gap-2">
                  <span>
                    {c.title}
                    {c.limit && c.margin != null && (
                      <span className="text-ink-2">: room left {between(c.margin, c.unit)}</span>
                    )}
                  </span>
                  <Badge verdict={c.verdict} />
                </li>
              ))}
          </ul>
          {found.also.length > 0 && (
            <p className="mt-1 text-caution">
              Elsewhere:{" "}
              {(found.also as Check[])
                .map((c) => `${subjectName(c.subject)}, ${c.title}`)
                .join("; ")}
            </p>
          )}
          {found.command ? (
            <Button
              main
              className="mt-2"
              onClick={() => {
                if (found.command) command(found.command);
                setCircuit("");
              }}
            >
              Lead {circuit} through {way}
            </Button>
          ) : (
            <p className="mt-1 text-ink-2">
              {way} begins and ends elsewhere: {circuit} is only looked at here.
            </p>
          )}
        </div>
      )}
    </figure>
  );
}
