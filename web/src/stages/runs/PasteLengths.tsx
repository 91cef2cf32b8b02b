/** Lengths of a way's parts, pasted from a list. */
import { useState } from "react";
import { many } from "../../model/format";
import { pastedLengths } from "../../model/lengths";
import { changePart, partsOf, planOf } from "../../model/plan";
import { useBench } from "../../shell/bench";
import { Button } from "../../ui/Button";
import { Field, inputLook } from "../../ui/field";

export function PasteLengths({ way }: { way: string }) {
  const { draft, editor } = useBench();
  const [text, setText] = useState("");
  const [said, setSaid] = useState<{ wrong: boolean; text: string } | null>(null);
  const parts = partsOf(planOf(draft.job).ways[way] ?? { from: "", to: "" });
  const take = () => {
    const found = pastedLengths(text);
    if ("wrong" in found) {
      setSaid({ wrong: true, text: found.wrong });
      return;
    }
    const { lengths, units } = found;
    if (lengths.length !== parts.length) {
      const [lines, has] = [many(lengths.length, "length"), many(parts.length, "part")];
      setSaid({ wrong: true, text: `${lines} for ${has}: one for each, in their order.` });
      return;
    }
    editor.editJob((j) =>
      lengths.reduce((next, length_m, k) => changePart(next, way, k, { length_m }), j),
    );
    setText("");
    const read = units === "" ? "" : `, read in ${units}`;
    setSaid({ wrong: false, text: `${many(lengths.length, "length")} taken${read}.` });
  };
  return (
    <details className="px-2 pb-2 text-sm">
      <summary className="min-h-9 cursor-pointer py-1.5 text-copper underline max-md:min-h-12">
        Paste lengths into {way}
      </summary>
      <Field label={`Lengths of ${way}, one a line`}>
        {(control) => (
          <textarea
            {...control}
            rows={3}
            className={`${inputLook} py-1.5`}
            value={text}
            onChange={(e) => {
              setText(e.target.value);
              setSaid(null);
            }}
          />
        )}
      </Field>
      <div className="mt-2 flex flex-wrap items-center gap-3">
        <Button onClick={take}>Take them into {way}</Button>
        {said && (
          <p
            role={said.wrong ? "alert" : "status"}
            className={said.wrong ? "font-bold text-stop" : ""}
          >
            {said.text}
          </p>
        )}
      </div>
    </details>
  );
}
