/**
 * The temperatures everything is sized for, on one scale: coldest morning, the sheet's 25 °C,
 * hottest air, hottest cells.
 */
import { whole } from "../model/format";

interface Props {
  cold: number | null;
  hot: number | null;
  cells: number | null;
}

const WIDTH = 700;
const FROM = -45;
const TO = 95;

export function TemperatureScale({ cold, hot, cells }: Props) {
  const x = (c: number) =>
    20 + ((Math.min(TO, Math.max(FROM, c)) - FROM) / (TO - FROM)) * (WIDTH - 40);
  const mark = (c: number | null, label: string, below: string, up: boolean, colour: string) =>
    c === null ? null : (
      <g textAnchor="middle" fill={colour}>
        <path d={up ? `M${String(x(c))} 52l-7 -12h14z` : `M${String(x(c))} 76l-7 12h14z`} />
        <text x={x(c)} y={up ? 20 : 104} fontSize="12" fill="var(--ink-2)">
          {label}
        </text>
        <text x={x(c)} y={up ? 35 : 120} fontSize="14" fontWeight="700" className="font-mono">
          {whole(c, "degC")}
        </text>
        <title>{below}</title>
      </g>
    );
  return (
    <svg
      viewBox={`0 0 ${String(WIDTH)} 128`}
      className="block w-full"
      role="img"
      aria-label="Design temperatures on one scale"
      data-testid="temperature-scale"
    >
      <rect x="20" y="54" width={WIDTH - 40} height="20" fill="var(--paper)" stroke="var(--line)" />
      {cold !== null && cells !== null && (
        <rect
          x={x(cold)}
          y="54"
          width={Math.max(0, x(cells) - x(cold))}
          height="20"
          fill="var(--full)"
        />
      )}
      {hot !== null && cells !== null && (
        <rect
          x={x(hot)}
          y="54"
          width={Math.max(0, x(cells) - x(hot))}
          height="20"
          fill="var(--caution-soft)"
          stroke="var(--caution)"
          strokeDasharray="3 3"
        />
      )}
      {Array.from({ length: 14 }, (_, i) => FROM + 5 + i * 10).map((c) => (
        <line key={c} x1={x(c)} x2={x(c)} y1="54" y2="74" stroke="var(--line)" />
      ))}
      {mark(25, "data sheet", "Standard test conditions", false, "var(--ink-3)")}
      {mark(cold, "coldest morning", "Lowest expected ambient", true, "var(--ink)")}
      {mark(hot, "hottest air", "2 % high ambient", true, "var(--ink)")}
      {mark(cells, "hottest cells", "Cells on the hottest day", false, "var(--caution)")}
    </svg>
  );
}
