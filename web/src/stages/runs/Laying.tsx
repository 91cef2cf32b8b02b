/** What the pull and the spade ask of a part: its bends, how much it rises, earth over it. */
import { useState } from "react";
import type { Part } from "../../api/client";
import { bendsText, readBends } from "../../model/drop";
import { lengthText } from "../../model/units";
import { useBench } from "../../shell/bench";
import { problemAt } from "../../ui/field";
import { NumberField } from "../../ui/NumberField";
import { TextField } from "../../ui/TextField";
import { YesNo } from "../../ui/YesNo";

interface Props {
  part: Part;
  /** As the labels say it: `2 of DC1`. */
  names: string;
  /** Where it stands in the job, for problems. */
  path: string;
  change: (what: Partial<Part>) => void;
}

export function Laying({ part, names, path, change }: Props) {
  const { draft, canPlan, problems } = useBench();
  const [wrong, setWrong] = useState<string | null>(null);
  const { school } = draft.job;
  const buried = part.place === "underground";
  if (!part.raceway && !buried) return null;
  const bendProblem =
    problemAt(problems, `${path}/bends`) ??
    problems.find((p) => p.path.startsWith(`${path}/bends/`));
  return (
    <div className="flex flex-wrap items-start gap-3">
      {part.raceway && (
        <>
          <div className="w-52">
            <TextField
              label={`Bends of part ${names}`}
              value={bendsText(part.bends, lengthText)}
              readOnly={!canPlan}
              problem={wrong === null ? bendProblem : { path, message: wrong }}
              onChange={(typed) => {
                const found = readBends(typed, part.bends);
                if ("wrong" in found) {
                  setWrong(found.wrong);
                  return false;
                }
                setWrong(null);
                change({ bends: found.value } as Partial<Part>);
                return true;
              }}
            />
          </div>
          <div className="w-36">
            <NumberField
              label={`Rise of part ${names}`}
              kept="m"
              signed
              value={part.rise_m}
              readOnly={!canPlan}
              problem={problemAt(problems, `${path}/rise_m`)}
              onChange={(rise_m) => {
                change({ rise_m });
              }}
            />
          </div>
        </>
      )}
      {buried && (
        <div className="w-36">
          <NumberField
            label={`Earth over part ${names}`}
            kept="mm"
            as={school === "na" ? "in" : undefined}
            value={part.cover_mm}
            readOnly={!canPlan}
            problem={problemAt(problems, `${path}/cover_mm`)}
            onChange={(cover_mm) => {
              change({ cover_mm });
            }}
          />
        </div>
      )}
      {buried && school === "iec" && (
        <YesNo
          label={`Under a drive, part ${names}`}
          value={part.under_drive}
          disabled={!canPlan}
          onChange={(under_drive) => {
            change({ under_drive });
          }}
        />
      )}
    </div>
  );
}
