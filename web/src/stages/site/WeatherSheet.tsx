/**
 * Design temperatures from an hourly weather file: its histogram, what is wrong with it, and taking
 * them over.
 */
import { useRef, useState } from "react";
import { api, refusal, type Refusal, type Weather } from "../../api/client";
import { Histogram } from "../../drawing/Histogram";
import { amount, plain } from "../../model/format";
import { apply, setAt } from "../../model/pointer";
import { valueOf } from "../../model/report";
import { useBench } from "../../shell/bench";
import { Button } from "../../ui/Button";
import { problemAt } from "../../ui/field";
import { NumberField } from "../../ui/NumberField";
import { Sheet } from "../../ui/Sheet";

const MONTHS =
  "January February March April May June July August September October November December".split(
    " ",
  );

export function WeatherSheet() {
  const { view, draft, editor, canPlan, problems } = useBench();
  const { site } = draft.job;
  const [read, setRead] = useState<{ name: string; weather: Weather } | null>(null);
  const [refused, setRefused] = useState<(Refusal & { name: string }) | null>(null);
  const [busy, setBusy] = useState(false);
  const file = useRef<HTMLInputElement>(null);
  const look = async (name: string, text: Promise<string>) => {
    setBusy(true);
    setRefused(null);
    setRead(null);
    try {
      setRead({ name, weather: await api.weather(await text) });
    } catch (error) {
      setRefused({ ...refusal(error), name });
    } finally {
      setBusy(false);
    }
  };
  const record = read?.weather.record ?? site.weather;
  const set = (pointer: string) => (value: number | null) => {
    editor.editJob((j) => setAt(j, pointer, value));
  };
  const far = valueOf(view.report, "site.station_km", { kind: "site" });
  const marks = [
    { at: read?.weather.t_min_c ?? site.t_min_c, title: "coldest" },
    { at: read?.weather.t_max_c ?? site.t_max_c, title: "hot" },
  ].flatMap((m) => (m.at == null ? [] : [{ ...m, at: m.at }]));
  return (
    <Sheet title="Weather file" aside="hourly: EPW, or CSV with time and dry bulb">
      <div className="grid gap-2 p-3 text-sm">
        {canPlan && (
          <div className="flex flex-wrap items-center gap-2">
            <input
              ref={file}
              type="file"
              className="sr-only"
              tabIndex={-1}
              aria-label="Weather file"
              accept=".epw,.csv,.txt,text/csv"
              onChange={(e) => {
                const chosen = e.target.files?.[0];
                if (chosen) void look(chosen.name, chosen.text());
                e.target.value = "";
              }}
            />
            <Button onClick={() => file.current?.click()}>Read a weather file</Button>
            <Button
              onClick={() => {
                void look("made-up station", api.demoWeather());
              }}
            >
              Made-up station
            </Button>
            {busy && <span className="text-ink-2">Reading</span>}
          </div>
        )}
        {refused && (
          <div
            role="alert"
            className="rounded border border-stop bg-stop-soft p-2"
            data-testid="weather-refused"
          >
            <p className="font-bold text-stop">
              {refused.name} is not taken. {refused.errors.length === 0 ? refused.message : ""}
            </p>
            <ul>
              {refused.errors.map((p, i) => (
                <li key={`${p.path}${String(i)}`}>
                  {p.path.startsWith("/rows/") && <strong>Row {p.path.split("/")[2]}: </strong>}
                  {p.message}
                  {p.hint ? ` (${p.hint})` : ""}
                </li>
              ))}
            </ul>
          </div>
        )}
        {record && (
          <>
            <p>
              <strong>{record.station || "Station not named"}</strong>,{" "}
              {record.typical
                ? "a typical year"
                : record.first_year === record.last_year
                  ? String(record.first_year)
                  : `${String(record.first_year)} to ${String(record.last_year)}`}
              , {plain(record.hours_n, 0)} h
              {far === null || read ? "" : `, ${amount(far, "km")} from the site`}
              {read && ` · hottest month ${MONTHS[read.weather.hottest_month - 1] ?? ""}`}
            </p>
            <Histogram bins={record.histogram} marks={marks} />
          </>
        )}
        {read && (
          <div data-testid="weather-read">
            <p className="text-xs text-ink-2">
              {read.weather.years
                .map((y) =>
                  [
                    String(y.year),
                    ": ",
                    amount(y.min_c, "degC"),
                    y.counts ? "" : " (not whole)",
                  ].join(""),
                )
                .join(" · ")}
            </p>
            <ul className="my-1 list-disc pl-5 text-caution">
              {read.weather.warnings.map((w) => (
                <li key={w}>{w}</li>
              ))}
            </ul>
            <div className="flex flex-wrap gap-2">
              <Button
                main
                className="whitespace-nowrap"
                onClick={() => {
                  editor.editJob((j) => apply(j, read.weather.edits));
                  setRead(null);
                }}
              >
                Take {amount(read.weather.t_min_c, "degC")} and{" "}
                {amount(read.weather.t_max_c, "degC")}
              </Button>
              <Button
                onClick={() => {
                  // The record stands beside what was typed: where they differ it is said at the
                  // check.
                  editor.editJob((j) =>
                    apply(
                      j,
                      read.weather.edits.filter(
                        (e) => !e.pointer.endsWith("t_min_c") && !e.pointer.endsWith("t_max_c"),
                      ),
                    ),
                  );
                  setRead(null);
                }}
              >
                Only compare
              </Button>
              <Button
                onClick={() => {
                  setRead(null);
                }}
              >
                Leave it
              </Button>
            </div>
          </div>
        )}
        {!record && !refused && (
          <p className="text-ink-2">None taken: the temperatures are as typed.</p>
        )}
        <div className="grid grid-cols-2 gap-3">
          <NumberField
            label="Latitude of the site, north +"
            unit="°"
            value={site.latitude_deg}
            readOnly={!canPlan}
            problem={problemAt(problems, "/job/site/latitude_deg")}
            onChange={set("/site/latitude_deg")}
          />
          <NumberField
            label="Longitude, east +"
            unit="°"
            value={site.longitude_deg}
            readOnly={!canPlan}
            problem={problemAt(problems, "/job/site/longitude_deg")}
            onChange={set("/site/longitude_deg")}
          />
        </div>
      </div>
    </Sheet>
  );
}
