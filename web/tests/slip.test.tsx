// @vitest-environment happy-dom
/**
 * The slip of a check: its value at once, its working when it is looked at, its cures at a press.
 */
import { render, screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { expect, test } from "vitest";
import type { Check, Figure } from "../src/api/client";
import { aside, Slip } from "../src/shell/Slip";
import { ofString } from "../src/model/subject";
import { answering, answers, calls, json, opened } from "./rig";

const COLD = "strings?slip=string.voc_cold_v%40string%3AB";
const slip = () => within(screen.getByTestId("slip"));
const asked = () => calls.filter((c) => c.path.endsWith("/workings"));

test("the working is asked for of the one subject that is looked at", async () => {
  await opened(COLD);
  const { view, workings } = answers();
  const figure = (workings as Figure[]).find((f) => f.id === "string.voc_cold_v");
  const line = figure?.working?.at(-1);
  expect(line?.numbers).toBeTruthy();
  expect(await slip().findByText(line?.numbers ?? "")).toBeTruthy();
  expect(asked()).toHaveLength(1);
  const [call] = asked();
  expect(call?.path).toBe(`/api/jobs/kestrel/revisions/${String(view.revision)}/workings`);
  expect(JSON.parse(call?.query.get("subject") ?? "")).toEqual(ofString("B"));
});

test("the value stands there before the working has come", async () => {
  answering(({ path }) => (path.endsWith("/workings") ? json({}, 503) : undefined));
  await opened(COLD);
  // 7 modules of 44.42 V each.
  expect(slip().getByText("310.9")).toBeTruthy();
  expect(slip().queryByRole("list")).toBeNull();
});

test("a working that cannot be had is said, not left out in silence", async () => {
  answering(({ path }) =>
    path.endsWith("/workings")
      ? json({ type: "/problems/x", title: "No", detail: "" }, 500)
      : undefined,
  );
  await opened(COLD);
  await waitFor(() => {
    expect(slip().getByRole("status").textContent).toContain("cannot be had");
  });
});

test("another check of the same subject needs no second call", async () => {
  await opened(COLD);
  await waitFor(() => {
    expect(asked()).toHaveLength(1);
  });
  const also = screen.getByRole("heading", { name: "Also here" }).parentElement;
  const [first] = within(also as HTMLElement).getAllByRole("button");
  if (!first) throw new Error("a string has more than one check");
  const title = first.querySelector("span")?.textContent ?? "";
  await userEvent.click(first);
  expect(slip().getByRole("heading", { level: 2 }).textContent).toContain(title);
  expect(asked()).toHaveLength(1);
});

test("who only looks is offered no cure at a press", async () => {
  const { view } = answers();
  const cured = view.report.subjects.flatMap((s) =>
    (s.checks ?? []).filter((c) => c.cures?.some((e) => e.edits?.length)).map((c) => ({ s, c })),
  );
  expect(cured.length).toBeGreaterThan(0);
  await opened("strings", "viewer");
  expect(screen.queryAllByRole("button", { name: /^Make it/ })).toEqual([]);
});

const check = (more: Partial<Check>): Check => ({
  id: "string.voc_cold_v",
  figure: "string.voc_cold_v",
  title: "Open-circuit volts, coldest morning",
  stage: "strings",
  subject: ofString("A"),
  source: "690.7",
  unit: "V",
  verdict: "fail",
  ...more,
});

const figure: Figure = {
  id: "string.voc_cold_v",
  title: "Open-circuit volts, coldest morning",
  stage: "strings",
  subject: ofString("A"),
  source: "690.7",
  unit: "V",
  value: 620,
  working: [
    { label: "one module", value: 44.3, unit: "V", source: "data sheet" },
    { label: "t", value: -24, unit: "degC", source: "site.t_min_c" },
    { label: "string", value: 620.2, unit: "V", numbers: "14 × 44.3 V" },
  ],
} as unknown as Figure;

test("the slip gives value, working, limit, room and source", () => {
  render(
    <Slip
      report={{ figures: [figure] }}
      check={check({
        limit: { title: "inverter maximum", value: 600, at_most: true } as Check["limit"],
        margin: -20,
        margin_pct: -3.3,
      } as Partial<Check>)}
      onEdits={null}
    />,
  );
  const text = slip().getByRole("heading", { level: 2 }).parentElement?.parentElement?.textContent;
  expect(text).toContain("String A Open-circuit volts, coldest morning");
  expect(slip().getByText("14 × 44.3 V")).toBeTruthy();
  // A line that rests on another figure says which, in words.
  expect(slip().getByText("Lowest expected ambient")).toBeTruthy();
  expect(slip().queryByText("site.t_min_c")).toBeNull();
  expect(slip().getByText("at most, inverter maximum")).toBeTruthy();
  expect(text).toContain("−20.00 V");
  expect(text).toContain("Rests on 690.7");
});

test("what is missing is named, and a cure does its edits at a press", async () => {
  const done: unknown[] = [];
  const edits = [{ pointer: "/strings/0/n", value: 13 }];
  render(
    <Slip
      report={{ figures: [] }}
      check={check({
        missing: ["module.beta_voc_pct_k"],
        cures: [
          { text: "One module fewer", edits },
          { text: "Another inverter" },
        ] as Check["cures"],
      })}
      onEdits={(e) => done.push(e)}
    />,
  );
  // What stands in no list is said by its last part, and never as a path.
  expect(slip().getByText(/Missing:/).parentElement?.textContent).toContain("beta voc pct k");
  expect(slip().queryByText(/module\.beta/)).toBeNull();
  expect(slip().getByText(/Missing:/)).toBeTruthy();
  await userEvent.click(slip().getByRole("button", { name: "Make it 13 in series" }));
  expect(done).toEqual([edits]);
  // A cure without edits is advice.
  expect(slip().getAllByRole("button")).toHaveLength(1);
});

test("an alternative that does not hold is no stop, a superseded reading is read again", () => {
  expect(aside(check({ alternative: true }))).toBe("Not met");
  expect(aside(check({ alternative: true, verdict: "pass" }))).toBeUndefined();
  expect(aside(check({ alternative: true, subject: { kind: "reading", reading: "x" } }))).toBe(
    "Read again",
  );
  expect(aside(check({}))).toBeUndefined();
});
