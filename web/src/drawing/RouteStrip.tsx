/** The ways of a route laid end to end, to scale: through which places, and what is seen of it. */
import { clsx } from "clsx";
import type { Plan } from "../api/client";
import { partsOf, usedWays } from "../model/plan";
import { lengthText } from "../model/units";
import { placeName, type Place } from "../text/words";

interface Props {
  plan: Plan;
  school: "na" | "iec";
}

/** Places that stay to be seen are outlined in copper, what is buried or hidden is not. */
const LOOKS: Partial<Record<Place, string>> = {
  roof_sun: "border-copper bg-caution-soft",
  roof_shade: "border-copper bg-copper-soft",
  outside_wall_sun: "border-copper bg-caution-soft",
  outside_wall_shade: "border-copper bg-copper-soft",
  sheltered: "border-copper bg-copper-soft",
  underground: "border-ink-3 bg-line",
};

export function RouteStrip({ plan, school }: Props) {
  const parts = usedWays(plan).flatMap((key) =>
    partsOf(plan.ways[key] ?? { from: "", to: "" }).map((part, k) => ({ key, k, part })),
  );
  if (parts.length === 0) return null;
  return (
    <ol aria-label="Places it goes through" className="my-1 flex gap-px">
      {parts.map(({ key, k, part }) => {
        const name = placeName(part.place, school);
        const metres = part.length_m ?? null;
        const text = `${key}, ${name}: ${metres === null ? "length open" : lengthText(metres)}`;
        return (
          <li
            key={`${key}/${String(k)}`}
            title={text}
            className={clsx(
              "min-w-2 truncate border px-1 text-xs leading-6 text-ink",
              metres === null && "border-dashed",
              (part.place && LOOKS[part.place]) ?? "border-line bg-paper",
            )}
            // What is not measured is as wide as a short part, and dashed.
            style={{ flexGrow: metres ?? 1, flexBasis: 0 }}
          >
            {name}
          </li>
        );
      })}
    </ol>
  );
}
