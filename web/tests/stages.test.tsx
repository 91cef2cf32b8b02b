// @vitest-environment happy-dom
/** The stages as they register themselves, and what opens with them. */
import { screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { expect, test } from "vitest";
import { built, covers, verdictOf } from "../src/shell/stage";
import { STAGES } from "../src/stages/registry";
import { showFor } from "../src/model/shown";
import { unpacked } from "../src/model/report";
import type { JobView } from "../src/api/client";
import { answering, answers, calls, json, opened } from "./rig";

const view = (): JobView => {
  const { view: packed } = answers();
  return { ...packed, report: unpacked(packed.report) };
};
const open = STAGES.filter(built);

test("every folder with a stage registers it, in the order of the work", () => {
  const folders = [
    "site",
    "equipment",
    "strings",
    "roof",
    "runs",
    "protection",
    "earth",
    "test",
    "handover",
  ];
  expect(open.map((s) => s.key)).toEqual(folders);
  expect(STAGES.map((s) => s.at)).toEqual([...STAGES.map((s) => s.at)].sort((a, b) => a - b));
  expect(new Set(STAGES.map((s) => s.key)).size).toBe(STAGES.length);
  for (const s of open) expect(s.safety, s.key).toMatch(/\.$/);
});

test("each tells one figure of the job", () => {
  showFor("na");
  const told = Object.fromEntries(open.map((s) => [s.key, s.telling(view())]));
  expect(told["site"]).toMatch(/^−\d+ to \d+ °C$/);
  expect(told["strings"]).toBe("3 strings, 26 modules");
  expect(told["runs"]).toMatch(/ft$/);
  expect(told["protection"]).toBe("3 devices");
  expect(told["earth"]).toBe("7 of 7 parts bonded");
  expect(told["test"]).toBe("2 of 3 strings");
  expect(told["handover"]).toBe(`revision ${String(answers().view.revision)}`);
});

test("an empty job tells what it lacks", () => {
  const { job, report, ...rest } = view();
  const plan = { nodes: {}, ways: {}, circuits: {} };
  const bare = { ...job, strings: [], branches: [], plan, inverters: [] };
  const empty: JobView = {
    ...rest,
    job: bare,
    library: { ...rest.library, inverters: [], micros: [] },
    report: {
      ...report,
      figures: [],
      checks: [],
      readings: [],
      stages: [],
      roof: [],
      bonding: { parts: [], edges: [] },
    },
  };
  expect(open.slice(0, 8).map((s) => s.telling(empty))).toEqual([
    "temperatures open",
    "no inverter yet",
    "no strings yet",
    "no map yet",
    "no circuits yet",
    "no devices yet",
    "no parts yet",
    "0 of 0 strings",
  ]);
  // Nothing was judged: that is not good.
  expect(open.slice(0, 8).map((s) => verdictOf(empty, s))).toEqual(Array(8).fill("unknown"));
});

test("hand over looks at the checks of every stage, the others at their own", () => {
  const [site, handover] = [open[0], open[8]];
  if (!site || !handover) throw new Error("nine stages are built");
  expect([covers(site, "site"), covers(site, "runs"), covers(handover, "runs")]).toEqual([
    true,
    false,
    true,
  ]);
  expect(verdictOf(view(), handover)).toBe(answers().view.report.verdict);
});

test("the earth is called ground where that is its name", () => {
  const earth = STAGES.find((s) => s.key === "earth");
  expect([earth?.name("na"), earth?.name("iec")]).toEqual(["Ground", "Earth"]);
});

test("the way of the current shows every stage, and the one that is open", async () => {
  await opened("strings");
  const drop = screen.getByRole("navigation", { name: "Stages of the job" });
  expect(within(drop).getAllByRole("listitem")).toHaveLength(STAGES.length);
  expect(within(drop).getByRole("link", { current: "page" }).textContent).toContain("Strings");
  expect(within(drop).getAllByText("not built yet")).toHaveLength(1);
});

test("keys step from stage to stage, past those that are not built", async () => {
  await opened("strings");
  await userEvent.keyboard("]]]]]");
  expect(await screen.findByRole("heading", { name: "Test", level: 2 })).toBeTruthy();
  await userEvent.keyboard("[[[[[[[[[[[[");
  expect(await screen.findByRole("heading", { name: "Equipment", level: 2 })).toBeTruthy();
});

test("a stage that does not exist opens the strings", async () => {
  await opened("attic");
  expect(await screen.findByRole("heading", { name: "Strings", level: 2 })).toBeTruthy();
});

test("find or do goes to a check by its words", async () => {
  await opened("site");
  await userEvent.keyboard("/");
  await userEvent.type(
    await screen.findByRole("combobox", { name: "Find or do" }),
    "string b cold",
  );
  await userEvent.keyboard("{Enter}");
  expect(await screen.findByRole("heading", { name: "Strings", level: 2 })).toBeTruthy();
  expect(screen.getByTestId("slip").textContent).toContain("String B");
});

test("a job that cannot be had says why", async () => {
  answering(({ path }) =>
    path === "/api/jobs/kestrel"
      ? json({ type: "/problems/not-found", title: "No such job", detail: "It is gone" }, 404)
      : undefined,
  );
  await expect(opened("site")).rejects.toThrow();
  expect(screen.getByText(/No such job: It is gone/)).toBeTruthy();
  expect(calls.filter((c) => c.method === "PUT")).toEqual([]);
  await waitFor(() => {
    expect(screen.getByRole("link", { name: "All jobs" })).toBeTruthy();
  });
});
