/** Site: what must be known before anything is sized. */
import { clsx } from "clsx";
import type { Job } from "../../api/client";
import { Compass } from "../../drawing/Compass";
import { TemperatureScale } from "../../drawing/TemperatureScale";
import { amount } from "../../model/format";
import { addFace, removeFace, strings } from "../../model/planning";
import { setAt } from "../../model/pointer";
import { checkKey, valueOf } from "../../model/report";
import { useBench } from "../../shell/bench";
import { CheckList } from "../../shell/CheckList";
import { StageFrame } from "../../shell/StageFrame";
import { BUILDINGS, COLD_METHODS, MOUNTINGS, SCHOOL } from "../../text/words";
import { Button } from "../../ui/Button";
import { problemAt } from "../../ui/field";
import { NumberField } from "../../ui/NumberField";
import { Pick } from "../../ui/Pick";
import { Sheet } from "../../ui/Sheet";
import { TextField } from "../../ui/TextField";
import { PlacesSheet } from "./PlacesSheet";
import { WeatherSheet } from "./WeatherSheet";

/** Names of time zones the browser knows. */
const ZONES = Intl.supportedValuesOf("timeZone");

export function Site() {
  const { view, draft, editor, canPlan, choices, problems, pick } = useBench();
  const { job } = draft;
  const { site } = job;
  const report = view.report;
  const set = (pointer: string) => (value: unknown) => {
    editor.editJob((j) => setAt(j, pointer, value));
  };
  const at = (pointer: string) => problemAt(problems, `/job${pointer}`);
  const ceiling = valueOf(report, "site.dc_ceiling_v", { kind: "site" });
  const cells = valueOf(report, "site.t_cell_hot_c", { kind: "site" });
  return (
    <StageFrame
      stage="site"
      about={`${SCHOOL[job.school]} practice · DC ceiling ${amount(ceiling, "V")}`}
    >
      <Sheet
        title="What everything is sized for"
        aside="from the coldest morning to the hottest cells"
        className="mb-3"
      >
        <div tabIndex={0} className="flex items-center gap-3 overflow-x-auto p-3 max-md:flex-wrap">
          <div className="min-w-0 grow max-md:min-w-[640px]">
            <TemperatureScale
              cold={valueOf(report, "site.t_min_c", { kind: "site" })}
              hot={valueOf(report, "site.t_max_c", { kind: "site" })}
              cells={cells}
            />
          </div>
          <Compass faces={site.faces} />
        </div>
      </Sheet>
      <div className="grid gap-3 lg:grid-cols-2">
        <Sheet title="Temperatures and building">
          <div className="grid grid-cols-2 gap-3 p-3">
            <NumberField
              label="Lowest expected ambient"
              kept="degC"
              value={site.t_min_c}
              readOnly={!canPlan}
              problem={at("/site/t_min_c")}
              onChange={set("/site/t_min_c")}
            />
            <NumberField
              label="2 % high ambient"
              kept="degC"
              value={site.t_max_c}
              readOnly={!canPlan}
              problem={at("/site/t_max_c")}
              onChange={set("/site/t_max_c")}
            />
            <Pick
              label="Array mounted"
              value={site.mounting ?? ""}
              options={MOUNTINGS}
              disabled={!canPlan}
              onChange={(v) => {
                set("/site/mounting")(v || null);
              }}
            />
            <Pick
              label="Building"
              value={site.building ?? ""}
              options={[
                ["", "not said yet"],
                ...choices.buildings.map((b) => [b, BUILDINGS[b] ?? b] as const),
              ]}
              disabled={!canPlan}
              onChange={(v) => {
                set("/site/building")(v || null);
              }}
            />
            {site.building === "ground" && (
              <Pick
                label="Its DC enters"
                value={site.dc_enters ?? ""}
                options={[
                  ["", "not said: judged at both ends"],
                  ...choices.buildings
                    .filter((b) => b !== "ground")
                    .map((b) => [b, BUILDINGS[b] ?? b] as const),
                ]}
                disabled={!canPlan}
                onChange={(v) => {
                  set("/site/dc_enters")(v || null);
                }}
              />
            )}
            <NumberField
              label="Cell rise, if known better"
              kept="K"
              value={site.cell_rise_hot_c}
              readOnly={!canPlan}
              problem={at("/site/cell_rise_hot_c")}
              onChange={set("/site/cell_rise_hot_c")}
            />
            <NumberField
              label="Free below the modules"
              kept="mm"
              as={job.school === "na" ? "in" : undefined}
              value={site.module_clearance_mm}
              readOnly={!canPlan}
              problem={at("/site/module_clearance_mm")}
              onChange={set("/site/module_clearance_mm")}
            />
            <Pick
              label="Cold volts by"
              value={site.cold_method}
              options={choices.cold_methods.map(
                (m) => [m, COLD_METHODS[job.school][m] ?? m] as const,
              )}
              disabled={!canPlan}
              onChange={set("/site/cold_method")}
            />
          </div>
        </Sheet>
        <Sheet title="The job">
          <div className="grid gap-3 p-3">
            <TextField
              label="Name"
              value={job.name}
              most={120}
              readOnly={!canPlan}
              problem={at("/name")}
              onChange={set("/name")}
            />
            <div className="grid grid-cols-2 gap-3 max-md:grid-cols-1">
              <TextField
                label="Customer"
                value={job.customer ?? ""}
                most={120}
                readOnly={!canPlan}
                problem={at("/customer")}
                onChange={set("/customer")}
              />
              <TextField
                label="Contact"
                value={job.contact ?? ""}
                most={200}
                readOnly={!canPlan}
                problem={at("/contact")}
                onChange={set("/contact")}
              />
            </div>
            <TextField
              label="Address"
              value={job.address ?? ""}
              most={300}
              readOnly={!canPlan}
              problem={at("/address")}
              onChange={set("/address")}
            />
            <TextField
              label="Notes"
              lines
              most={4000}
              value={job.notes ?? ""}
              readOnly={!canPlan}
              problem={at("/notes")}
              onChange={set("/notes")}
            />
            <TextField
              label="The site’s clock (times on paper)"
              value={job.time_zone ?? ""}
              offers={ZONES}
              readOnly={!canPlan}
              problem={at("/time_zone")}
              onChange={(zone) => {
                set("/time_zone")(zone.trim() || null);
              }}
            />
          </div>
        </Sheet>
        <WeatherSheet />
        <Faces job={job} at={at} />
        <Sheet title="Checks">
          <CheckList
            report={report}
            checks={report.checks.filter((c) => c.stage === "site")}
            onPick={(c) => {
              pick(checkKey(c));
            }}
          />
        </Sheet>
      </div>
      <PlacesSheet />
    </StageFrame>
  );
}

function Faces({ job, at }: { job: Job; at: (pointer: string) => ReturnType<typeof problemAt> }) {
  const { editor, canPlan } = useBench();
  const edit = (pointer: string) => (value: unknown) => {
    // A face without a tilt or azimuth is no face: an emptied field goes back to what it was.
    if (value === null) return;
    editor.editJob((j) => setAt(j, pointer, value));
  };
  return (
    <Sheet title="Faces" aside="azimuth from north, clockwise">
      {job.site.faces.length === 0 && (
        <p className="p-3 text-sm text-ink-2">
          No face yet. Strings lie on faces: add the first one.
        </p>
      )}
      <ul>
        {job.site.faces.map((face, i) => {
          const path = `/site/faces/${String(i)}`;
          const used = strings(job)
            .filter((s) => s.face === face.id)
            .map((s) => s.letter);
          return (
            <li
              key={face.id}
              className={clsx(
                "grid grid-cols-[1fr_60px_68px_auto] items-end gap-2 border-b",
                "border-line p-3 max-md:grid-cols-2",
              )}
            >
              <TextField
                label="Face"
                value={face.name}
                readOnly={!canPlan}
                problem={at(`${path}/name`)}
                onChange={edit(`${path}/name`)}
              />
              <NumberField
                label="Tilt, °"
                kept="deg"
                unit=""
                value={face.tilt_deg}
                readOnly={!canPlan}
                problem={at(`${path}/tilt_deg`)}
                onChange={edit(`${path}/tilt_deg`)}
              />
              <NumberField
                label="Azimuth, °"
                value={face.azimuth_deg}
                readOnly={!canPlan}
                problem={at(`${path}/azimuth_deg`)}
                onChange={edit(`${path}/azimuth_deg`)}
              />
              {canPlan && (
                <Button
                  disabled={used.length > 0}
                  title={used.length > 0 ? `Strings ${used.join(", ")} lie on it` : undefined}
                  aria-label={`Take out ${face.name}`}
                  onClick={() => {
                    editor.editJob((j) => removeFace(j, face.id));
                  }}
                >
                  Take out
                </Button>
              )}
            </li>
          );
        })}
      </ul>
      {canPlan && (
        <div className="p-3">
          <Button
            onClick={() => {
              editor.editJob(addFace);
            }}
          >
            Add a face
          </Button>
        </div>
      )}
    </Sheet>
  );
}
