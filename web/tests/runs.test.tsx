// @vitest-environment happy-dom
/** The plan's graph on its screen: what is edited in place, what goes to the core as a command. */
import { screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { expect, test } from "vitest";
import type { Job } from "../src/api/client";
import { planOf } from "../src/model/plan";
import { answering, answers, calls, json, opened } from "./rig";

const saved = (): Job =>
  calls.filter((c) => c.method === "PUT").at(-1)?.body["job"] as unknown as Job;
const commands = () => calls.filter((c) => c.path === "/api/command").map((c) => c.body["command"]);

async function enter(field: HTMLElement, text: string): Promise<void> {
  await userEvent.clear(field);
  await userEvent.type(field, `${text}{Enter}`);
}

test("every way shows its parts, and what lies in it in tapes", async () => {
  await opened("runs");
  const drawn = screen.getByTestId("route-map");
  for (const node of ["RB", "INV1", "MP"]) expect(within(drawn).getByText(node)).toBeTruthy();
  // Three nodes and four parts.
  expect(within(drawn).getAllByRole("button")).toHaveLength(7);
  const way = screen.getByRole("button", { name: /^DC1/, expanded: true });
  const sheet = way.closest("section");
  if (!sheet) throw new Error("a way has its sheet");
  for (const tape of ["A", "B", "C"]) expect(within(sheet).getByText(tape)).toBeTruthy();
});

test("a length and a wire are edited in their place alone", async () => {
  await opened("runs");
  await enter(screen.getByRole("textbox", { name: "Length of part 2 of DC1" }), "10");
  await waitFor(() => {
    expect(planOf(saved()).ways.DC1?.parts?.[1]?.length_m).toBeCloseTo(3.048, 6);
  });
  await userEvent.selectOptions(screen.getByRole("combobox", { name: "Wire of B, AWG" }), "6");
  await waitFor(() => {
    expect(planOf(saved()).circuits.B?.legs?.[0]?.wire.awg).toBe("6");
  });
  expect(planOf(saved()).circuits.A?.legs?.[0]?.wire.awg).toBe("8");
});

test("a box behind a part is a command, and what it changed is said", async () => {
  const { view } = answers();
  answering(({ path }) =>
    path === "/api/command"
      ? json({ job: { ...view.job, notes: "split" }, changes: ["way DC1 split at BOX-2"] })
      : undefined,
  );
  await opened("runs");
  await userEvent.click(screen.getByRole("button", { name: "A box behind part 1 of DC1" }));
  expect(await screen.findByText("way DC1 split at BOX-2.")).toBeTruthy();
  expect(commands()[0]).toEqual({
    do: "split_way",
    way: "DC1",
    after: 1,
    node: "BOX-2",
    kind: "junction_box",
    rest: "DC1-2",
  });
  await waitFor(() => {
    expect(saved().notes).toBe("split");
  });
});

test("ways that do not meet change nothing and are said", async () => {
  const refused = {
    type: "/problems/invalid",
    title: "Something entered is not right",
    detail: "",
    errors: [{ path: "", message: "way AC1 does not meet DC1", hint: "in their order" }],
  };
  answering(({ path }) => (path === "/api/command" ? json(refused, 422) : undefined));
  await opened("runs");
  await enter(screen.getByRole("textbox", { name: "Ways of A, with commas" }), "DC1, AC1");
  expect(await screen.findByText("way AC1 does not meet DC1: in their order")).toBeTruthy();
  expect(commands()[0]).toMatchObject({ do: "reroute", circuit: "A", via: ["DC1", "AC1"] });
  expect(calls.filter((c) => c.method === "PUT")).toHaveLength(0);
});

test("what is taken out and put in goes as a command too", async () => {
  answering(({ path }) => (path === "/api/command" ? json({}, 503) : undefined));
  await opened("runs");
  await userEvent.click(screen.getByRole("button", { name: "Take out circuit B" }));
  await userEvent.click(screen.getByRole("button", { name: "Take out node MP" }));
  await userEvent.click(screen.getByRole("button", { name: "Take out DC1" }));
  await enter(screen.getByRole("textbox", { name: "Key of a new node" }), "SOFFIT");
  await userEvent.click(screen.getByRole("button", { name: "Add the node" }));
  await waitFor(() => {
    expect(commands()).toEqual([
      { do: "retire_circuit", circuit: "B" },
      { do: "retire_node", node: "MP" },
      { do: "retire_way", way: "DC1" },
      { do: "add_node", node: "SOFFIT", kind: "junction_box" },
    ]);
  });
  expect(await screen.findByText(/^The server does not answer/)).toBeTruthy();
});

test("the edition of the code is said", async () => {
  await opened("runs");
  const edition = screen.getByRole("combobox", { name: "Edition of the code" });
  await userEvent.selectOptions(edition, "2017");
  await waitFor(() => {
    expect(saved().settings?.edition).toBe("2017");
  });
});

test("what is taken by habit is ticked with the name of who looked", async () => {
  const { view } = answers();
  await opened("handover");
  const [first] = view.report.assumptions;
  if (!first) throw new Error("the demo job takes something by habit");
  await userEvent.click(screen.getByRole("checkbox", { name: first.text }));
  await waitFor(() => {
    expect(saved().confirmed?.map((c) => c.assumption)).toEqual([first.key]);
  });
  expect(saved().confirmed?.[0]?.by).not.toBe("");
});
