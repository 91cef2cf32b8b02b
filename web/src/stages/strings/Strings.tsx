/**
 * Strings: each against the inverter's window. Counts are changed on the drawing or in the table.
 */
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, Refused, unlessRefused, type Check, type Subject, type Way } from "../../api/client";
import { BranchRise } from "../../drawing/BranchRise";
import { StringWindow } from "../../drawing/StringWindow";
import type { Draft } from "../../model/editor";
import { amount, many } from "../../model/format";
import {
  addString,
  applyPlan,
  branches,
  bothLibraries,
  inverters,
  moveModule,
  strings,
} from "../../model/planning";
import { setAt } from "../../model/pointer";
import { checkKey, valueOf, worst, worstKey } from "../../model/report";
import { ofString, same } from "../../model/subject";
import { useBench } from "../../shell/bench";
import { First, type Missing } from "../../shell/First";
import { CheckList } from "../../shell/CheckList";
import { StageFrame, usePicked } from "../../shell/StageFrame";
import { Button } from "../../ui/Button";
import { Sheet } from "../../ui/Sheet";
import { Tabs } from "../../ui/Tabs";
import { useAddress } from "../../ui/useAddress";
import { WORDS } from "../../ui/verdict";
import { Branches } from "./Branches";
import { ColdMethods } from "./ColdMethods";
import { StringTable } from "./StringTable";
import { WaysPanel } from "./WaysPanel";
import { WhatIf } from "./WhatIf";

const worstWord = (checks: Check[]): string => (checks.length === 0 ? "" : WORDS[worst(checks)]);

/** Tabs for those who plan or might ask what a plan would be; an inspector sees what it is. */
const PLANNED = new Set(["ways", "if"]);

/** Strings from which the table goes first. */
const MANY = 24;

export function Strings() {
  const { view, draft, editor, account, canPlan, company, pick } = useBench();
  const { report } = view;
  const { job } = draft;
  const picked = usePicked("strings");
  const known = bothLibraries(draft.library, company);
  const letter = picked?.subject.kind === "string" ? picked.subject.string : null;
  const pickOf = (subject: (letter: string) => Subject) => (l: string) => {
    const own = report.checks.filter((c) => c.stage === "strings" && same(c.subject, subject(l)));
    if (own.length > 0) pick(worstKey(own));
  };
  const pickString = pickOf(ofString);
  const pickBranch = pickOf((branch) => ({ kind: "branch", branch }));
  const branch = picked?.subject.kind === "branch" ? picked.subject.branch : null;
  // From what is in hand, not from what the last answer drew: keys may be faster than the server.
  const step = (indices: number[], by: number) => {
    editor.editJob((j) =>
      indices.reduce((next, index) => {
        const n = strings(next)[index]?.n ?? 0;
        return by === 0 || n + by < 1 ? next : setAt(next, `/strings/${String(index)}/n`, n + by);
      }, j),
    );
  };
  const setCount = (indices: number[], count: number) => {
    editor.editJob((j) =>
      indices.reduce((next, index) => setAt(next, `/strings/${String(index)}/n`, count), j),
    );
  };
  const only = strings(job).length === 0 && branches(job).length > 0;
  // In the address: a reload, and a link that is sent, open the same tab.
  const [search, put] = useAddress();
  const tab = search.get("tab") ?? (only ? "branches" : "strings");
  const setTab = (next: string) => {
    put({ tab: next });
  };
  // What the window shows instead of what is kept: a way that is looked at, or what is tried out.
  const [looked, setLooked] = useState<Way | null>(null);
  const [trial, setTrial] = useState<Draft | null>(null);
  const shown =
    tab === "if" ? trial : tab === "ways" && looked ? applyPlan(draft, looked.edits, known) : null;
  const tried = useQuery({
    queryKey: ["try", shown?.job, shown?.library],
    queryFn: () =>
      shown ? api.tryPlan(shown.job, shown.library) : Promise.reject(new Error("nothing is tried")),
    enabled: shown !== null,
    placeholderData: keepPreviousData,
    retry: unlessRefused,
    staleTime: Infinity,
  });
  const other = shown !== null && tried.data ? tried.data : null;
  const drawn = other ?? report;
  const n = strings(job).reduce((sum, s) => sum + s.n, 0);
  const [low, cells] = [
    valueOf(report, "site.t_min_c", { kind: "site" }),
    valueOf(report, "site.t_cell_hot_c", { kind: "site" }),
  ];
  const missing: Missing[] = [
    ...(job.site.faces.length === 0 ? [{ what: "a face", at: "site" } as const] : []),
    ...(inverters(job).length === 0 ? [{ what: "an inverter", at: "equipment" } as const] : []),
    ...(strings(job).length === 0 && known.modules.length === 0
      ? [{ what: "a module data sheet", at: "library" } as const]
      : []),
  ];
  const others = report.checks.filter(
    (c) =>
      (c.stage === "strings" && c.subject.kind !== "string" && c.subject.kind !== "branch") ||
      c.id === "ac.phase_unbalance_a",
  );
  const units = branches(job).reduce((sum, b) => sum + b.arms_n.reduce((k, a) => k + a, 0), 0);
  const counted = [
    strings(job).length > 0 || units === 0
      ? `${String(n)} modules in ${many(strings(job).length, "string")}`
      : "",
    units > 0 ? `${String(units)} units on ${String(branches(job).length)} branches` : "",
  ].filter(Boolean);
  const tabsOf = <T extends { key: string }>(all: T[]): T[] =>
    account.role === "inspector" ? all.filter((t) => !PLANNED.has(t.key)) : all;
  const drawing = (
    <>
      {drawn.string_windows.map((w) => (
        <Sheet
          key={w.inverter}
          title={`${w.inverter} ${w.model}: each string against its window`}
          aside={
            other ? (
              <strong className="text-copper">
                {tab === "if"
                  ? "tried out, not kept: dashed is what is kept"
                  : "a way that is looked at, not kept"}
              </strong>
            ) : (
              "bar: working volts, hot to cold · end mark: open circuit, coldest morning"
            )
          }
          className="mb-3"
        >
          <div className="p-2 max-md:px-1">
            <StringWindow
              window={w}
              fold={strings(job).length > 24 ? 2 : 12}
              tapes={drawn.tapes}
              picked={letter}
              onPick={other ? () => undefined : pickString}
              onStep={canPlan && !other ? step : null}
              onCount={canPlan && !other ? setCount : null}
              onMove={
                tab === "if"
                  ? (from, to) => {
                      setTrial(moveModule(trial ?? draft, from, to));
                    }
                  : canPlan && !other
                    ? (from, to) => {
                        editor.edit((d) => moveModule(d, from, to));
                      }
                    : null
              }
              ghost={
                tab === "if" && other
                  ? report.string_windows.find((g) => g.inverter === w.inverter)
                  : undefined
              }
            />
          </div>
        </Sheet>
      ))}
      {report.branches.length > 0 && (
        <Sheet
          title="Volts along each branch"
          aside="above the panel, unit by unit, from the feed on"
          className="mb-3"
        >
          <div className="overflow-x-auto p-2 [&>svg]:max-md:min-w-[740px]">
            <BranchRise
              branches={report.branches}
              tapes={report.tapes}
              picked={branch}
              onPick={pickBranch}
            />
          </div>
        </Sheet>
      )}
    </>
  );
  const tabs = (
    <Tabs
      label="Strings"
      value={tab}
      onChange={(next) => {
        setTab(next);
        setLooked(null);
      }}
      tabs={tabsOf([
        {
          key: "strings",
          title: "Strings",
          note: String(strings(job).length),
          body: () => (
            <>
              <StringTable onPick={pickString} picked={letter} />
              {canPlan && (
                <div className="flex flex-wrap items-center gap-3 p-3">
                  <Button
                    disabled={missing.length > 0}
                    onClick={() => {
                      editor.edit((d) =>
                        addString(
                          d,
                          known,
                          strings(d.job).length === 0 ? known.modules[0] : undefined,
                        ),
                      );
                    }}
                  >
                    Add a string
                  </Button>
                  <span className="text-sm text-ink-2">
                    {missing.length > 0 ? (
                      <First missing={missing} />
                    ) : (
                      "On a string of the drawing: ← and → or a typed number change its count"
                    )}
                  </span>
                </div>
              )}
            </>
          ),
        },
        {
          key: "branches",
          title: "Branches",
          note: String(branches(job).length),
          body: () => <Branches onPick={pickBranch} picked={branch} />,
        },
        { key: "ways", title: "Ways to wire it", body: () => <WaysPanel onLook={setLooked} /> },
        {
          key: "if",
          title: "What if",
          body: () => (
            <WhatIf
              trial={trial}
              report={other ?? undefined}
              refused={
                tried.error instanceof Refused
                  ? `${tried.error.message}. ${tried.error.detail}`
                  : null
              }
              onTry={setTrial}
            />
          ),
        },
        {
          key: "inputs",
          title: "Inputs and inverters",
          note: worstWord(others),
          body: () => (
            <CheckList
              report={report}
              checks={others}
              onPick={(c) => {
                pick(checkKey(c));
              }}
            />
          ),
        },
      ])}
    />
  );
  return (
    <StageFrame
      stage="strings"
      about={[
        `${counted.join(", ")} · coldest morning ${amount(low, "degC")}`,
        `cells ${amount(cells, "degC")} on the hottest day`,
      ].join(", ")}
      inSlip={(check) =>
        check.id === "string.voc_cold_v" ? <ColdMethods report={report} check={check} /> : null
      }
    >
      {/* Many strings are read in the table; the drawing stands behind it. */}
      {strings(job).length >= MANY ? (
        <>
          {tabs}
          <div className="mt-3">{drawing}</div>
        </>
      ) : (
        <>
          {drawing}
          {tabs}
        </>
      )}
    </StageFrame>
  );
}
