/** Serial numbers of all faces: find one and see where it sits, take in or give out a CSV. */
import { useState } from "react";
import { Link } from "react-router";
import { api, type RoofFace } from "../../api/client";
import { many } from "../../model/format";
import { asCsv, fromCsv, nameOf, withSerials } from "../../model/serials";
import { useBench } from "../../shell/bench";
import { Button } from "../../ui/Button";
import { inputLook } from "../../ui/field";
import { Sheet } from "../../ui/Sheet";

interface Props {
  faces: RoofFace[];
  /** Picks a module on the map. */
  onPick: (face: string, key: string) => void;
}

interface Said {
  text: string;
  job?: { id: string; name: string };
}

export function SerialTools({ faces, onPick }: Props) {
  const { view, editor, canPlan } = useBench();
  const [wanted, setWanted] = useState("");
  const [said, setSaid] = useState<Said | null>(null);
  const find = () => {
    const text = wanted.trim();
    if (text === "") return;
    const hits = faces.flatMap((f) =>
      f.modules.filter((m) => m.serial?.includes(text) === true).map((m) => ({ f, m })),
    );
    const first = hits.find(({ m }) => m.serial === text) ?? hits[0];
    if (first) {
      onPick(first.f.face, first.m.key);
      const more = hits.length > 1 ? ` ${String(hits.length - 1)} more have it in them.` : "";
      setSaid({ text: `${first.m.serial ?? ""} is ${nameOf(first.m)} on ${first.f.name}.${more}` });
      return;
    }
    setSaid({ text: "Looking through the other jobs …" });
    api.serialsElsewhere(view.id, [text]).then(
      ([hit]) => {
        setSaid(
          hit
            ? { text: `${text} is in `, job: { id: hit.job, name: hit.name } }
            : { text: `${text} is on no map.` },
        );
      },
      () => {
        setSaid({ text: `${text} is not in this job; the others cannot be asked just now.` });
      },
    );
  };
  const read = async (file: File) => {
    const found = fromCsv(await file.text(), faces);
    if (typeof found === "string") {
      setSaid({ text: found });
      return;
    }
    const count = new Map<string, number>();
    for (const serial of Object.values(found)) count.set(serial, (count.get(serial) ?? 0) + 1);
    const twice = [...count].find(([, n]) => n > 1);
    if (twice) {
      setSaid({ text: `${twice[0]} is there twice: nothing was taken over.` });
      return;
    }
    editor.editJob((job) =>
      faces.reduce((next, f) => {
        const own = f.modules.filter((m) => found[m.key] !== undefined);
        const serials = Object.fromEntries(own.map((m) => [m.key, found[m.key] ?? ""]));
        return withSerials(next, f.face, serials);
      }, job),
    );
    setSaid({ text: `${many(Object.keys(found).length, "serial")} taken over.` });
  };
  const give = () => {
    const link = document.createElement("a");
    link.href = URL.createObjectURL(new Blob([asCsv(faces)], { type: "text/csv" }));
    link.download = `${view.job.name}, serial numbers.csv`;
    link.click();
    URL.revokeObjectURL(link.href);
  };
  return (
    <Sheet title="Serial numbers" aside="the printed grid is in the pack" className="mt-3">
      <div className="flex flex-wrap items-end gap-3 p-3 text-sm">
        <label className="grid gap-1">
          <span>Find a serial</span>
          <input
            autoComplete="off"
            className={`${inputLook} font-mono`}
            value={wanted}
            onChange={(e) => {
              setWanted(e.target.value);
            }}
            onKeyDown={(e) => {
              if (e.key === "Enter") find();
            }}
          />
        </label>
        <Button onClick={find}>Find</Button>
        <Button onClick={give}>Give out as CSV</Button>
        {canPlan && (
          <label className="grid gap-1">
            <span>Take in a CSV (serial, and module or place)</span>
            <input
              type="file"
              accept=".csv,text/csv"
              onChange={(e) => {
                const file = e.target.files?.[0];
                if (file) void read(file);
                e.target.value = "";
              }}
            />
          </label>
        )}
        {said !== null && (
          <p role="status" className="w-full font-bold" data-testid="serial-said">
            {said.text}
            {said.job && (
              <Link className="text-copper underline" to={`/jobs/${said.job.id}/roof`}>
                {said.job.name}
              </Link>
            )}
          </p>
        )}
      </div>
    </Sheet>
  );
}
