/**
 * Protection: what ends an overcurrent or a surge, drawn as what it is: enclosures to scale, panels
 * with their bus, the one-line of all of it, and what the parties, a fault and the labels ask.
 */
import { many } from "../../model/format";
import { planOf } from "../../model/plan";
import { checkKey, worst } from "../../model/report";
import { useBench } from "../../shell/bench";
import { CheckList } from "../../shell/CheckList";
import { StageFrame } from "../../shell/StageFrame";
import { Sheet } from "../../ui/Sheet";
import { Tabs } from "../../ui/Tabs";
import { useAddress } from "../../ui/useAddress";
import { WORDS } from "../../ui/verdict";
import { Enclosures } from "./Enclosures";
import { Faults } from "./Faults";
import { Labels } from "./Labels";
import { OneLineView } from "./OneLineView";
import { Panels } from "./Panels";
import { Parties } from "./Parties";
import { Practice } from "./Practice";

export function Protection() {
  const { view, draft, pick } = useBench();
  const [search, put] = useAddress();
  const { report } = view;
  const plan = planOf(draft.job);
  const own = report.checks.filter((c) => c.stage === "protection");
  const open = (key: string) => {
    put({ view: key, slip: "" });
  };
  const verdict = (ids: string[]) => {
    const some = own.filter((c) => ids.some((id) => c.id.startsWith(id)));
    const bad = some.length > 0 ? worst(some) : "pass";
    return bad === "pass" ? undefined : WORDS[bad].toLowerCase();
  };
  const tabs = [
    {
      key: "devices",
      title: "Devices",
      note: verdict(["enclosure.", "isolator.", "spd.", "fuse.", "combiner.", "device."]),
      body: () => <Enclosures />,
    },
    {
      key: "panels",
      title: draft.job.school === "na" ? "Panels" : "Boards",
      note: verdict(["panel.", "ct."]),
      body: () => <Panels />,
    },
    { key: "one-line", title: "One-line", body: () => <OneLineView marked={[]} /> },
    { key: "parties", title: "Parties", note: verdict(["demand."]), body: () => <Parties /> },
    { key: "faults", title: "If it fails", body: () => <Faults /> },
    { key: "labels", title: "Labels", body: () => <Labels /> },
    {
      key: "practice",
      title: "Practice",
      note: verdict(["shutdown.", "service.", "supply."]),
      body: () => <Practice />,
    },
  ];
  const asked = search.get("view");
  const shown = tabs.some((t) => t.key === asked) ? (asked ?? "devices") : "devices";
  const devices = Object.values(plan.nodes).reduce(
    (n, node) => n + Object.keys(node.devices ?? {}).length,
    0,
  );
  return (
    <StageFrame
      stage="protection"
      about={[many(devices, "device"), many(own.length, "check")].join(" · ")}
    >
      <Tabs
        label="Views of the protection"
        value={shown}
        onChange={open}
        tabs={tabs.map(({ note, ...t }) => (note === undefined ? t : { ...t, note }))}
      />
      <Sheet title="Checks" className="mt-3">
        <CheckList
          report={report}
          checks={own}
          onPick={(c) => {
            pick(checkKey(c));
          }}
        />
        {own.length === 0 && (
          <p className="p-3 text-sm text-ink-2">
            Nothing is judged yet: plan the circuits under Runs first.
          </p>
        )}
      </Sheet>
    </StageFrame>
  );
}
