/** Ground (na) or earth (iec): every metal part on its way to the electrode. */
import { useState } from "react";
import type { MetalPart, Node } from "../../api/client";
import { BondMap } from "../../drawing/BondMap";
import { many } from "../../model/format";
import {
  changeEarthed,
  changeProtection,
  planOf,
  type Earthed,
  type Practised,
} from "../../model/plan";
import { checkKey, checksOf, worstKey } from "../../model/report";
import { same, subjectName } from "../../model/subject";
import { useBench } from "../../shell/bench";
import { CheckList } from "../../shell/CheckList";
import { StageFrame, usePicked } from "../../shell/StageFrame";
import { NumberField } from "../../ui/NumberField";
import { Pick } from "../../ui/Pick";
import { Sheet } from "../../ui/Sheet";
import { YesNo } from "../../ui/YesNo";

type Backup = NonNullable<Practised["backup"]>;

export function Earth() {
  const { view, draft, pick } = useBench();
  const { report } = view;
  const { bonding } = report;
  const [key, setKey] = useState<string | null>(null);
  const check = usePicked("earth");
  const own = report.checks.filter((c) => c.stage === "earth");
  const ofSlip = check && bonding.parts.find((p) => same(p.subject, check.subject));
  const part = bonding.parts.find((p) => p.key === key) ?? ofSlip;
  const metal = bonding.parts.filter((p) => p.metal);
  const name = (p: MetalPart): string => {
    const { subject } = p;
    const face =
      subject.kind === "face" ? draft.job.site.faces.find((f) => f.id === subject.face) : undefined;
    return face?.name ?? (subject.kind === "way" ? `Way ${subject.way}` : subjectName(subject));
  };
  return (
    <StageFrame
      stage="earth"
      about={[
        many(metal.length, "metal part"),
        `${String(metal.filter((p) => p.verdict === "pass").length)} bonded`,
      ].join(" · ")}
    >
      <Sheet
        title="Every metal part on its way to the electrode"
        aside="thick: the way of the picked part · dashed: open"
        className="mb-3"
      >
        {bonding.parts.length === 0 ? (
          <p className="p-3 text-sm text-ink-2">
            Nothing is planned yet: boxes and ways come from Runs, frames from the roof map.
          </p>
        ) : (
          <BondMap
            bonding={bonding}
            school={draft.job.school}
            picked={part?.key ?? null}
            name={name}
            onPick={(p) => {
              setKey(p.key);
              const checks = checksOf(report, p.subject).filter((c) => c.stage === "earth");
              if (checks.length > 0) pick(worstKey(checks));
            }}
          />
        )}
        {part && <PartForm part={part} name={name(part)} />}
      </Sheet>
      <div className="grid gap-3 lg:grid-cols-2">
        <Practice />
        <BackupForm />
        <Sheet title="Checks" className="lg:col-span-2">
          <CheckList
            report={report}
            checks={own}
            onPick={(c) => {
              setKey(null);
              pick(checkKey(c));
            }}
          />
        </Sheet>
      </div>
    </StageFrame>
  );
}

/** What is said of the picked part: of a case, or of the rails of a face. */
function PartForm({ part, name }: { part: MetalPart; name: string }) {
  const { draft, editor, canPlan } = useBench();
  const { subject } = part;
  if (subject.kind === "face") {
    const map = draft.job.roof?.[subject.face];
    if (!map)
      return (
        <p className="border-t border-line p-3 text-sm text-ink-2">
          How {name} is bonded is said on its roof map.
        </p>
      );
    const rails = map.rails;
    return (
      <div className="grid grid-cols-3 items-end gap-2 border-t border-line p-3 max-md:grid-cols-1">
        {(
          [
            ["A conductor leads from its lugs to the box", "bonded"],
            ["Clamps bond frames and rails", "clamps_bond"],
            ["Splices bond the rails", "splices_bond"],
          ] as const
        ).map(([label, field]) => (
          <YesNo
            key={field}
            label={`${name}: ${label.toLowerCase()}`}
            value={rails?.[field]}
            disabled={!canPlan}
            onChange={(value) => {
              editor.editJob((j) => {
                const now = j.roof?.[subject.face];
                if (!now) return j;
                const to = { ...now, rails: { ...now.rails, [field]: value } } as typeof now;
                return { ...j, roof: { ...j.roof, [subject.face]: to } };
              });
            }}
          />
        ))}
      </div>
    );
  }
  if (subject.kind !== "node") return null;
  const own = planOf(draft.job).nodes[subject.node];
  if (!own) return null;
  const earthed: Partial<Earthed> = own.earthed ?? {};
  const change = (to: Partial<Earthed>) => {
    editor.editJob((j) => changeEarthed(j, subject.node, to));
  };
  const yesNo = (
    label: string,
    field: "electrode" | "bar" | "metal" | "bonded" | "out_building",
  ) => (
    <YesNo
      label={`${name}: ${label}`}
      value={earthed[field]}
      disabled={!canPlan}
      onChange={(value) => {
        change({ [field]: value });
      }}
    />
  );
  return (
    <div className="grid grid-cols-3 items-end gap-2 border-t border-line p-3 max-md:grid-cols-1">
      {own.kind !== "electrode" && yesNo("its case is of metal", "metal")}
      {own.kind !== "electrode" && yesNo("its case is on the earth wire", "bonded")}
      {own.kind === "panel" && yesNo("an electrode is connected here", "electrode")}
      {own.kind === "panel" && yesNo("it is in another building", "out_building")}
      {["roof_box", "junction_box", "combiner", "enclosure"].includes(own.kind) &&
        yesNo("earth wires end on a bar", "bar")}
      {own.kind === "electrode" && (
        <NumberField
          label={`${name}: resistance to earth`}
          unit="ohm"
          value={earthed.ohm}
          readOnly={!canPlan}
          onChange={(ohm) => {
            change({ ohm });
          }}
        />
      )}
    </div>
  );
}

function Practice() {
  const { draft, editor, canPlan } = useBench();
  const own: Partial<Practised> = draft.job.protection ?? {};
  const na = draft.job.school === "na";
  const set = (to: Partial<Practised>) => {
    editor.editJob((j) => changeProtection(j, to));
  };
  return (
    <Sheet title="Practice">
      <div className="grid gap-3 p-3">
        {!na && (
          <YesNo
            label="Lightning protection on the building"
            value={own.lightning_protection}
            disabled={!canPlan}
            onChange={(lightning_protection) => {
              set({ lightning_protection });
            }}
          />
        )}
        {!na && (
          <NumberField
            label="Bonding of frames the local rule asks for"
            unit="mm²"
            value={own.frame_bond_mm2}
            readOnly={!canPlan}
            onChange={(frame_bond_mm2) => {
              set({ frame_bond_mm2 });
            }}
          />
        )}
        <p className="text-sm text-ink-2">
          Bare outside, insulated in raceway. A washer that bites is for one use: what is moved
          takes a new one.
        </p>
      </div>
    </Sheet>
  );
}

function BackupForm() {
  const { draft, editor, canPlan } = useBench();
  const backup = draft.job.protection?.backup ?? null;
  const nodes = Object.entries(planOf(draft.job).nodes);
  const set = (to: Partial<Backup> | null) => {
    editor.editJob((j) => {
      const next = to === null ? null : ({ ...(j.protection?.backup ?? {}), ...to } as Backup);
      return changeProtection(j, { backup: next });
    });
  };
  const node = (label: string, field: "board" | "electrode", kind: Node["kind"]) => (
    <Pick
      label={label}
      value={backup?.[field] ?? ""}
      disabled={!canPlan}
      options={[
        ["", "not said"],
        ...nodes.filter(([, n]) => n.kind === kind).map(([k, n]) => [k, n.name || k] as const),
      ]}
      onChange={(k) => {
        set({ [field]: k === "" ? null : k });
      }}
    />
  );
  return (
    <Sheet title="Backup output" aside="for the time the grid's neutral is gone">
      <div className="grid gap-3 p-3">
        <YesNo
          label="The job has a backup output"
          value={backup === null ? null : true}
          disabled={!canPlan}
          onChange={(has) => {
            set(has === true ? {} : null);
          }}
        />
        {backup && (
          <>
            {node("Board it feeds", "board", "panel")}
            {node("Its electrode", "electrode", "electrode")}
            <YesNo
              label="Its neutral is earthed while the grid is gone"
              value={backup.neutral_earthed}
              disabled={!canPlan}
              onChange={(neutral_earthed) => {
                set({ neutral_earthed });
              }}
            />
            <NumberField
              label="Current it drives into a fault"
              unit="A"
              value={backup.fault_a}
              readOnly={!canPlan}
              onChange={(fault_a) => {
                set({ fault_a });
              }}
            />
          </>
        )}
      </div>
    </Sheet>
  );
}
