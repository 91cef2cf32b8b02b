/**
 * What hangs on what: each inverter with its inputs, the strings on them, and the connectors left
 * free.
 */
import type { Draft } from "../model/editor";
import { inverters, strings } from "../model/planning";
import { amount } from "../model/format";
import { valueOf } from "../model/report";
import type { Report } from "../api/client";
import { tapeColour } from "../ui/Tape";

interface Props {
  draft: Draft;
  report: Report;
  onPick: (sheet: string) => void;
}

const ROW = 26;
const SHOWN = 12;

export function EquipmentPlan({ draft, report, onPick }: Props) {
  const { job, library } = draft;
  let y = 14;
  const boxes = inverters(job).map((inverter) => {
    const sheet = library.inverters.find(
      (s) => s.sheet === inverter.sheet.sheet && s.revision === inverter.sheet.revision,
    );
    const inputs = (sheet?.mppts ?? []).map((mppt, k) => {
      const on = strings(job).filter((s) => s.inverter === inverter.id && s.mppt === k + 1);
      const top = y;
      const rows = Math.max(1, Math.min(on.length, SHOWN));
      y += rows * ROW + 10;
      return {
        number: k + 1,
        on,
        top,
        rows,
        connectors: mppt.connectors_n,
        watts: valueOf(report, "mppt.power_w", {
          kind: "mppt",
          inverter: inverter.id,
          input: k + 1,
        }),
      };
    });
    const top = inputs[0]?.top ?? y;
    const bottom = y - 10;
    y += 14;
    return { inverter, sheet, inputs, top, bottom: Math.max(bottom, top + 60) };
  });
  return (
    <svg
      viewBox={`0 0 700 ${String(Math.max(60, y))}`}
      className="block w-full"
      data-testid="equipment-plan"
    >
      {boxes.map(({ inverter, sheet, inputs, top, bottom }) => (
        <g key={inverter.id}>
          {inputs.map((input) => (
            <g key={input.number}>
              {input.on.slice(0, SHOWN).map((s, i) => {
                const line = input.top + i * ROW + ROW / 2;
                const module = library.modules.find(
                  (m) => m.sheet === s.module.sheet && m.revision === s.module.revision,
                );
                return (
                  <g key={s.letter}>
                    <rect
                      x="8"
                      y={line - 10}
                      width="28"
                      height="20"
                      rx="3"
                      fill={tapeColour(report.tapes, s.letter)}
                    />
                    <text
                      x="22"
                      y={line + 4.5}
                      textAnchor="middle"
                      fontSize="12"
                      fontWeight="700"
                      fill="#fff"
                    >
                      {s.letter}
                    </text>
                    <text x="44" y={line + 4.5} fontSize="13" fill="var(--ink)">
                      {s.n} × {module?.model ?? s.module.sheet}
                    </text>
                    <line
                      x1="180"
                      x2="330"
                      y1={line}
                      y2={line}
                      stroke={tapeColour(report.tapes, s.letter)}
                      strokeWidth="3"
                    />
                  </g>
                );
              })}
              {input.on.length > SHOWN && (
                <text x="230" y={input.top + SHOWN * ROW + 6} fontSize="12" fill="var(--ink-2)">
                  and {input.on.length - SHOWN} more
                </text>
              )}
              <rect
                x="330"
                y={input.top + 1}
                width="120"
                height={input.rows * ROW - 2}
                fill="var(--sheet)"
                stroke="var(--ink-3)"
              />
              <text
                x="340"
                y={input.top + input.rows * (ROW / 2) + 4.5}
                fontSize="12.5"
                fill="var(--ink)"
              >
                input {input.number}: {input.on.length} of {input.connectors ?? "?"}
              </text>
            </g>
          ))}
          <g>
            <rect
              role="button"
              tabIndex={0}
              aria-label={`Inverter ${inverter.id}, ${sheet?.model ?? inverter.sheet.sheet}`}
              className="cursor-pointer"
              onClick={() => {
                onPick(inverter.id);
              }}
              onKeyDown={(e) => {
                if (e.key === "Enter" || e.key === " ") onPick(inverter.id);
              }}
              x="450"
              y={top}
              width="230"
              height={bottom - top}
              rx="6"
              fill="#17232E"
              stroke="var(--line)"
            />
            <text
              x="466"
              y={top + 26}
              fontSize="15"
              fontWeight="700"
              fill="#F4F3EF"
              pointerEvents="none"
            >
              {inverter.id} · {sheet?.model ?? inverter.sheet.sheet}
            </text>
            <text
              x="466"
              y={top + 46}
              fontSize="12.5"
              fill="#B7C0C8"
              className="font-mono"
              pointerEvents="none"
            >
              {inputs
                .map((i) => (i.watts === null ? null : amount(i.watts, "W")))
                .filter((w) => w !== null)
                .join(" + ") || "nothing on it"}
            </text>
          </g>
        </g>
      ))}
      {boxes.length === 0 && (
        <text x="350" y="34" textAnchor="middle" fontSize="13.5" fill="var(--ink-2)">
          No inverter yet: pick a data sheet below and use it.
        </text>
      )}
    </svg>
  );
}
