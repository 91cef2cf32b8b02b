/** Every node with devices: its enclosure to scale where it has one, and the picked device. */
import { useState } from "react";
import { EnclosureMap } from "../../drawing/EnclosureMap";
import { changeDevice, changeNode, devicesOf, planOf } from "../../model/plan";
import { withSheets, bothLibraries } from "../../model/planning";
import { checksOf, worst, worstKey } from "../../model/report";
import { useBench } from "../../shell/bench";
import { useCommand } from "../../shell/useCommand";
import { DEVICES, NODES } from "../../text/words";
import { Mark } from "../../ui/verdict";
import { NumberField } from "../../ui/NumberField";
import { Pick } from "../../ui/Pick";
import { AddDevice } from "./AddDevice";
import { DeviceForm } from "./DeviceForm";

const ROW = [
  "flex w-full items-center gap-2 rounded px-2 py-1 text-left text-sm hover:bg-copper-soft",
  "aria-pressed:bg-copper-soft max-md:min-h-12 max-md:text-base",
].join(" ");

export function Enclosures() {
  const { draft } = useBench();
  const nodes = Object.entries(planOf(draft.job).nodes);
  const shown = nodes.filter(
    ([, n]) =>
      devicesOf(n).length > 0 || ["combiner", "enclosure", "isolator", "panel"].includes(n.kind),
  );
  return (
    <div className="grid gap-4 p-3">
      {shown.map(([key]) => (
        <Place key={key} node={key} />
      ))}
      {shown.length === 0 && (
        <p className="text-sm text-ink-2">
          No box, combiner or enclosure is planned yet. Set one into a way under Runs; devices are
          put in here.
        </p>
      )}
    </div>
  );
}

function Place({ node }: { node: string }) {
  const { view, draft, editor, canPlan, company, picked, pick } = useBench();
  const [command, said] = useCommand();
  const own = planOf(draft.job).nodes[node];
  const [device, setDevice] = useState<string | null>(null);
  if (!own) return null;
  const { report } = view;
  const drawing = report.enclosures.find((e) => e.node === node);
  const devices = devicesOf(own);
  const chosen = device !== null && own.devices?.[device] ? device : null;
  const show = (name: string) => {
    setDevice(name);
    const checks = checksOf(report, { kind: "device", node, device: name });
    if (checks.length > 0 && worstKey(checks) !== picked) pick(worstKey(checks));
  };
  const all = bothLibraries(draft.library, company);
  const sheets = own.kind === "combiner" ? all.combiners : all.enclosures;
  const entries = drawing?.entries ?? [];
  return (
    <section className="rounded-lg border border-line p-3" data-testid={`place-${node}`}>
      <header className="mb-2 flex flex-wrap items-baseline gap-x-3">
        <h3 className="font-bold">{own.name || node}</h3>
        <span className="text-sm text-ink-2">
          {NODES[own.kind]} {own.name ? node : ""}
        </span>
        {entries.length > 0 && (
          <span className="text-xs text-ink-2">
            comes in:{" "}
            {entries
              .map((e) => `${e.way}${e.hole_mm == null ? "" : ` ⌀ ${e.hole_mm.toFixed(0)} mm`}`)
              .join(", ")}
          </span>
        )}
        {drawing?.next && (
          <span className="text-sm font-bold text-stop">
            next size: {drawing.next.join(" × ")} ways
          </span>
        )}
      </header>
      <div className="flex flex-wrap items-start gap-4">
        {drawing && drawing.rails.length > 0 ? (
          <EnclosureMap
            drawing={drawing}
            picked={chosen}
            canPlan={canPlan}
            onPick={show}
            onMove={(name, rail, left_ways) => {
              editor.editJob((j) => changeDevice(j, node, name, { rail, left_ways }));
            }}
          />
        ) : null}
        <ul aria-label={`Devices in ${node}`} className="grid grow gap-1">
          {devices.map(([name, d]) => {
            const checks = checksOf(report, { kind: "device", node, device: name });
            const without = drawing?.without.some((w) => w.device === name) === true;
            return (
              <li key={name}>
                <button
                  type="button"
                  aria-pressed={chosen === name}
                  className={ROW}
                  onClick={() => {
                    show(name);
                  }}
                >
                  {checks.length > 0 && <Mark verdict={worst(checks)} />}
                  <span className="font-mono font-bold">{name}</span>
                  <span className="text-ink-2">{DEVICES[d.what]}</span>
                  {d.feeds && <span className="text-xs text-ink-2">feeds {d.feeds}</span>}
                  {without && <span className="text-xs font-bold text-stop">no room</span>}
                </button>
              </li>
            );
          })}
          {devices.length === 0 && <li className="px-2 text-sm text-ink-2">No devices yet.</li>}
        </ul>
      </div>
      {chosen !== null && <DeviceForm key={chosen} node={node} name={chosen} command={command} />}
      {canPlan && (
        <div className="mt-3 flex flex-wrap items-end gap-2 border-t border-line pt-2">
          <AddDevice node={node} command={command} onAdded={setDevice} />
          {["combiner", "enclosure", "roof_box", "junction_box"].includes(own.kind) && (
            <>
              <Pick
                label={`Data sheet of ${node}`}
                value={
                  own.enclosure ? `${own.enclosure.sheet}/${String(own.enclosure.revision)}` : ""
                }
                options={[
                  ["", "none"],
                  ...sheets.map((s) => {
                    const size = `${String(s.rails_n ?? "?")} × ${String(s.rail_ways_n ?? "?")}`;
                    return [
                      `${s.sheet}/${String(s.revision)}`,
                      `${s.maker} ${s.model}, ${size} ways`,
                    ] as const;
                  }),
                ]}
                onChange={(k) => {
                  const s = sheets.find((o) => `${o.sheet}/${String(o.revision)}` === k);
                  const enclosure = s ? { sheet: s.sheet, revision: s.revision } : null;
                  editor.edit((d) =>
                    withSheets(
                      changeNode(d.job, node, {
                        enclosure,
                        ...(s ? { ways_n: null, rails_n: null } : {}),
                      }),
                      all,
                    ),
                  );
                }}
              />
              {!own.enclosure && (
                <>
                  <div className="w-28">
                    <NumberField
                      label={`Room in ${node}`}
                      unit="ways"
                      value={own.ways_n}
                      onChange={(ways_n) => {
                        editor.editJob((j) => changeNode(j, node, { ways_n }));
                      }}
                    />
                  </div>
                  <div className="w-24">
                    <NumberField
                      label={`Rails in ${node}`}
                      value={own.rails_n}
                      onChange={(rails_n) => {
                        editor.editJob((j) => changeNode(j, node, { rails_n }));
                      }}
                    />
                  </div>
                </>
              )}
            </>
          )}
        </div>
      )}
      {said !== null && (
        <p role="status" className="mt-2 text-sm">
          {said}
        </p>
      )}
    </section>
  );
}
