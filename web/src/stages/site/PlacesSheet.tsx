/**
 * Places for the inverter compared: what cables and heat lose, what the cables cost, what each
 * place asks for.
 */
import { clsx } from "clsx";
import { Fragment } from "react";
import { fieldTitle } from "../../model/catalogue";
import { amount, number } from "../../model/format";
import { lengthWord } from "../../model/shown";
import { useBench } from "../../shell/bench";
import { placeName, PLACES, type Place as PlaceKind } from "../../text/words";
import { Button } from "../../ui/Button";
import { problemAt } from "../../ui/field";
import { NumberField } from "../../ui/NumberField";
import { Pick } from "../../ui/Pick";
import { Sheet } from "../../ui/Sheet";
import { TakeOut } from "../../ui/TakeOut";
import { TextField } from "../../ui/TextField";
import type { Job } from "../../api/client";

type Place = NonNullable<Job["places"]>[number];

const START: Place[] = [
  { name: "on the roof by the array", place: "roof_shade", dc_m: null, ac_m: null },
  { name: "outside wall", place: "outside_wall_shade", dc_m: null, ac_m: null },
  { name: "garage", place: "garage", dc_m: null, ac_m: null },
];

export function PlacesSheet() {
  const { view, draft, editor, canPlan, problems } = useBench();
  const { job } = draft;
  const places = job.places ?? [];
  const found = view.report.places;
  const put = (next: Place[]) => {
    editor.editJob((j) => ({ ...j, places: next }));
  };
  const change = (i: number, what: Partial<Place>) => {
    put(places.map((p, k) => (k === i ? { ...p, ...what } : p)));
  };
  const lengthField = (p: Place, i: number, key: "dc_m" | "ac_m", title: string) => (
    <NumberField
      compact
      label={`${title} to ${p.name}`}
      value={p[key]}
      kept="m"
      unit=""
      readOnly={!canPlan}
      problem={problemAt(problems, `/job/places/${String(i)}/${key}`)}
      onChange={(v) => {
        change(i, { [key]: v });
      }}
    />
  );
  return (
    <Sheet
      title="Where the inverter goes"
      aside="cable, heat and weather, compared over a clear year"
      className="mt-3"
    >
      {places.length > 0 && (
        <div className="overflow-x-auto">
          <table className="w-full text-sm" aria-label="Places for the inverter">
            <thead>
              <tr
                className={clsx(
                  "border-b border-line text-xs text-ink-2 [&>th]:px-1.5 [&>th]:py-1",
                  "[&>th]:text-right [&>th]:font-normal",
                )}
              >
                <th className="!text-left">Place</th>
                <th>DC, {lengthWord()}</th>
                <th>AC, {lengthWord()}</th>
                <th>DC loss, kWh</th>
                <th>AC loss, kWh</th>
                <th>Heat, kWh</th>
                <th>Cables</th>
                <th>In all</th>
                <th />
              </tr>
            </thead>
            <tbody>
              {places.map((p, i) => {
                const row = found.rows.find((r) => r.name === p.name);
                return (
                  <Fragment key={i}>
                    <tr
                      className={clsx(
                        "align-top [&>td]:px-1.5 [&>td]:py-1 [&>td]:text-right",
                        row?.best ? "bg-copper-soft" : "",
                      )}
                    >
                      <td className="min-w-44 !text-left">
                        <TextField
                          compact
                          label={`Name of place ${String(i + 1)}`}
                          value={p.name}
                          readOnly={!canPlan}
                          problem={problemAt(problems, `/job/places/${String(i)}/name`)}
                          onChange={(name) => {
                            if (name.trim() !== "") change(i, { name });
                          }}
                        />
                        <Pick
                          compact
                          label={`Kind of ${p.name}`}
                          value={p.place}
                          options={(Object.keys(PLACES) as PlaceKind[])
                            .filter((k) => k !== "underground" && k !== "cavity")
                            .map((k) => [k, placeName(k, job.school)] as const)}
                          disabled={!canPlan}
                          onChange={(place) => {
                            change(i, { place: place as Place["place"] });
                          }}
                        />
                      </td>
                      <td className="w-18 min-w-18">{lengthField(p, i, "dc_m", "DC")}</td>
                      <td className="w-18 min-w-18">{lengthField(p, i, "ac_m", "AC")}</td>
                      {[row?.dc_loss_kwh, row?.ac_loss_kwh, row?.heat_loss_kwh].map((v, k) => (
                        <td key={k} className="font-mono whitespace-nowrap">
                          {v == null ? "open" : number(v, "kWh")}
                        </td>
                      ))}
                      <td className="font-mono">{amount(row?.cable_cost, "cost")}</td>
                      <td className="font-mono font-bold">{amount(row?.total_cost, "cost")}</td>
                      <td>
                        {canPlan && (
                          <TakeOut
                            what={p.name}
                            onClick={() => {
                              put(places.filter((_, k) => k !== i));
                            }}
                          />
                        )}
                      </td>
                    </tr>
                    <tr
                      className={clsx(
                        "border-b border-line text-xs text-ink-2",
                        row?.best ? "bg-copper-soft" : "",
                      )}
                    >
                      <td colSpan={9} className="px-1.5 pb-1">
                        Asks for: {row?.asks.join("; ")}.
                      </td>
                    </tr>
                  </Fragment>
                );
              })}
            </tbody>
          </table>
        </div>
      )}
      <div className="grid gap-2 p-3 text-sm">
        {found.recommendation && (
          <p data-testid="place-recommended">
            <strong>Recommended:</strong> {found.recommendation}
          </p>
        )}
        {found.missing.length > 0 && (
          <p>
            <strong>Open:</strong> {found.missing.map(fieldTitle).join(", ")}.
          </p>
        )}
        {places.length > 0 && (
          <p className="text-xs text-ink-2">
            Every day is taken as clear, the middle of each month stands for it, the air swings
            between the design temperatures; above 45 °C the inverter is taken to give 2 % less a
            kelvin. Prices are those of this job. Trust the order more than the numbers.
          </p>
        )}
        {canPlan && (
          <div className="flex gap-2">
            <Button
              disabled={places.length >= 6}
              onClick={() => {
                const next = START.find((s) => !places.some((p) => p.name === s.name));
                if (places.length === 0) put(START);
                else
                  put([
                    ...places,
                    next ?? ({ ...START[2], name: `place ${String(places.length + 1)}` } as Place),
                  ]);
              }}
            >
              {places.length === 0 ? "Compare three places" : "Add a place"}
            </Button>
          </div>
        )}
      </div>
    </Sheet>
  );
}
