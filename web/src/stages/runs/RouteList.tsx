/** The drop on a narrow screen: a list from the roof to the panel that edits the same. */
import { clsx } from "clsx";
import type { Job, Report, Verdict } from "../../api/client";
import { inOrder } from "../../drawing/routeLayout";
import type { Picked } from "../../model/drop";
import { lengthText } from "../../model/units";
import { NODES, placeName, racewayText } from "../../text/words";
import { Tape } from "../../ui/Tape";
import { Badge } from "../../ui/verdict";

interface Props {
  report: Report;
  school: Job["school"];
  picked: Picked | null;
  leading: readonly string[] | null;
  verdictOf: (way: string, part: number) => Verdict;
  onPick: (what: Picked) => void;
  /** What can be done with what is picked stands below it. */
  children: React.ReactNode;
}

export function RouteList(props: Props) {
  const { report, school, picked, leading, verdictOf, onPick, children } = props;
  const { route } = report;
  const place = (band: number) => placeName(route.bands[band]?.place ?? null, school);
  return (
    <>
      <ol data-testid="route-list" aria-label="From the roof to the panel">
        {inOrder(route).map((key) => {
          const [kind, name = "", number = ""] = key.split("/");
          const node = kind === "node" ? route.nodes.find((n) => n.node === name) : undefined;
          const way = kind === "part" ? route.ways.find((w) => w.way === name) : undefined;
          const part = way?.parts[Number(number) - 1];
          const what: Picked = node
            ? { kind: "node", node: name }
            : { kind: "part", way: name, part: Number(number) };
          const own =
            picked !== null &&
            (picked.kind === "node"
              ? what.kind === "node" && picked.node === what.node
              : picked.kind === "part" &&
                what.kind === "part" &&
                picked.way === what.way &&
                picked.part === what.part);
          const led = leading && way ? leading.indexOf(way.way) + 1 : 0;
          return (
            <li key={key} className="border-b border-line last:border-b-0">
              <button
                type="button"
                aria-current={own ? "true" : undefined}
                className={clsx(
                  "flex min-h-12 w-full flex-wrap items-center gap-2 px-3 py-2 text-left text-base",
                  own || led > 0 ? "bg-copper-soft" : "",
                  node ? "font-bold" : "pl-7",
                )}
                onClick={() => {
                  onPick(what);
                }}
              >
                {led > 0 && <span className="font-mono text-copper">{led}</span>}
                {node && (
                  <>
                    {node.node}
                    <span className="font-normal text-ink-2">
                      {NODES[node.kind]} · {place(node.band)}
                    </span>
                  </>
                )}
                {part && way && (
                  <>
                    <span className="font-mono">
                      {way.way} {number}
                    </span>
                    <span className="grow text-ink-2">
                      {part.raceway ? racewayText(part.raceway) : "open"},{" "}
                      {part.length_m == null ? "length open" : lengthText(part.length_m)} ·{" "}
                      {place(part.band)}
                    </span>
                    {way.circuits.map((c) =>
                      c.string ? (
                        <Tape key={c.circuit} tapes={report.tapes} letter={c.string} />
                      ) : null,
                    )}
                    <Badge verdict={verdictOf(way.way, Number(number))} />
                  </>
                )}
              </button>
              {own && children}
            </li>
          );
        })}
      </ol>
      {(picked === null || picked.kind === "circuit") && children}
    </>
  );
}
