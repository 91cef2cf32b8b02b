// @vitest-environment happy-dom
/** Protection and earth on screen: what is pressed, and what goes out. */
import { screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { beforeEach, expect, test } from "vitest";
import type { Demand, Fault, Job, Label } from "../src/api/client";
import { planOf } from "../src/model/plan";
import { answering, answers, calls, json, opened } from "./rig";

/** The job as the last save sent it. */
function saved(): Job {
  const last = calls.filter((c) => c.method === "PUT").at(-1);
  if (!last) throw new Error("nothing was saved");
  return last.body["job"] as Job;
}

async function enter(field: HTMLElement, text: string): Promise<void> {
  await userEvent.clear(field);
  await userEvent.type(field, text);
  await userEvent.tab();
}

const FAULTS: Fault[] = [
  {
    kind: "frame_to_pole",
    at: { kind: "string", string: "A" },
    verdict: "warn",
    amps_a: 0,
    live: [{ kind: "string", string: "A" }],
    lines: ["The strings float.", "The frames are bonded."],
  },
  {
    kind: "line_to_case",
    at: { kind: "circuit", circuit: "AC1" },
    verdict: "pass",
    clears: { kind: "circuit", circuit: "AC1" },
    amps_a: 668.4,
    seconds_s: 0.1,
    live: [],
    lines: ["The loop drives 668 A."],
  },
  {
    kind: "string_short",
    at: { kind: "string", string: "B" },
    verdict: "pass",
    clears: { kind: "device", node: "CB1", device: "F1" },
    amps_a: 34.6,
    seconds_s: 3600,
    live: [{ kind: "string", string: "B" }],
    lines: ["Its fuse opens."],
  },
  {
    kind: "surge",
    at: { kind: "inverter", inverter: "INV1" },
    verdict: "warn",
    clears: { kind: "node", node: "RB" },
    live: [],
    lines: ["Most of it goes to earth."],
  },
];

const LABELS: Label[] = [
  {
    kind: "dc_switch",
    place: "INV1",
    subject: { kind: "node", node: "INV1" },
    lines: ["PV DC DISCONNECT", "at most 534 V, 18 A"],
    size_mm: [90, 40],
    n: 1,
    source: "690.7(D)",
    open: false,
  },
  {
    kind: "dc_raceway",
    place: "DC1",
    subject: { kind: "way", way: "DC1", part: 1 },
    lines: ["PV POWER SOURCE, DC"],
    size_mm: [100, 20],
    n: 8,
    source: "690.31(D)(2)",
    open: true,
  },
];

const SHEET = {
  size_mm: [279.4, 215.9],
  text_mm: 2.1,
  marks: [
    {
      layer: "circuits",
      mark: {
        kind: "line",
        points_mm: [
          [20, 180],
          [90, 180],
        ],
        closed: false,
      },
      subject: { kind: "circuit", circuit: "AC1" },
    },
    {
      layer: "symbols",
      mark: { kind: "circle", at_mm: [40, 180], r_mm: 2 },
      subject: { kind: "node", node: "RB" },
    },
    {
      layer: "words",
      mark: { kind: "text", at_mm: [40, 184], size_mm: 2.1, anchor: "middle", text: "EMT 1" },
      subject: { kind: "circuit", circuit: "AC1" },
    },
    {
      layer: "frame",
      mark: { kind: "text", at_mm: [200, 10], size_mm: 3, anchor: "start", text: "Kestrel Lane" },
    },
  ],
};

beforeEach(() => {
  answering(({ path }) => {
    if (path.endsWith("/faults")) return json(FAULTS);
    if (path.endsWith("/labels")) return json(LABELS);
    if (path.endsWith("/one-line")) return json({ sheets: [SHEET, SHEET] });
    if (path.endsWith("/cures")) return json([]);
    return undefined;
  });
});

const tab = async (name: string): Promise<void> => {
  await userEvent.click(screen.getByRole("tab", { name: new RegExp(`^${name}`) }));
};

test("ways to bring PV onto a panel stand side by side", async () => {
  await opened("protection");
  await tab("Panels");
  const table = screen.getByRole("table", { name: "Ways to bring PV onto MP" });
  const rows = within(table).getAllByRole("row").slice(1);
  expect(rows.map((r) => within(r).getByRole("button").textContent)).toEqual([
    "Sum rule",
    "120 % rule, far end",
    "100 % rule",
    "A smaller main",
    "A larger panel",
  ]);
  // 1.25 x 33.3 + 150 = 191.6 of 240 A.
  expect(rows[1]?.textContent).toContain("191.6");
  expect(rows[1]?.textContent).toContain("240.0");
  expect(rows[1]?.textContent).toContain("as it stands");
  expect(rows[3]?.textContent).toContain("the utility switches off");
  const bus = screen.getByRole("group", { name: /^Panel MP: bus 200 A, main 150 A/ });
  expect(within(bus).getByRole("button", { name: "AC1: 33.3 A on 45 A" })).toBeTruthy();
  expect(bus.textContent).toContain("14 ways free");
});

test("a panel says its bus, its ways, the end of its breaker and its electrode", async () => {
  await opened("protection");
  await tab("Panels");
  await enter(screen.getByRole("textbox", { name: "Main breaker" }), "175");
  await waitFor(() => {
    expect(planOf(saved()).nodes["MP"]?.panel?.main_a).toBe(175);
  });
  await enter(screen.getByRole("textbox", { name: "MP breaks, with its main and loads" }), "22");
  await waitFor(() => {
    expect(planOf(saved()).nodes["MP"]?.panel?.breaking_ka).toBe(22);
  });
  const end = screen.getByRole("combobox", { name: "PV breaker opposite the main" });
  await userEvent.selectOptions(end, "not known");
  await userEvent.selectOptions(
    screen.getByRole("combobox", { name: "Main of MP feeds the middle of the bus" }),
    "yes",
  );
  // Only a bus fed in the middle has ends to choose from.
  await userEvent.selectOptions(
    await screen.findByRole("combobox", { name: "PV breaker of MP at one end of the bus" }),
    "no",
  );
  await userEvent.selectOptions(
    screen.getByRole("combobox", { name: "An electrode is connected at MP" }),
    "no",
  );
  await waitFor(() => {
    const own = planOf(saved()).nodes["MP"];
    expect(own?.panel).toMatchObject({
      pv_at_far_end: null,
      centre_fed: true,
      pv_at_one_end: false,
    });
    expect(own?.earthed?.electrode).toBe(false);
  });
});

test("a connection before the main is compared, and taken back", async () => {
  await opened("protection");
  await tab("Panels");
  const chosen = () =>
    screen.getByRole("combobox", { name: "PV of MP is connected before the main" });
  await userEvent.selectOptions(chosen(), "no");
  await enter(await screen.findByRole("textbox", { name: /^Rating of the service at MP/ }), "200");
  await userEvent.selectOptions(
    screen.getByRole("combobox", { name: "Wire of the connection before the main of MP" }),
    "6 AWG",
  );
  await waitFor(() => {
    expect(planOf(saved()).nodes["MP"]?.panel?.supply_side).toMatchObject({
      chosen: false,
      service_a: 200,
      awg: "6",
    });
  });
  await userEvent.selectOptions(chosen(), "not known");
  await waitFor(() => {
    expect(planOf(saved()).nodes["MP"]?.panel?.supply_side).toBeNull();
  });
});

test("a load is entered appliance by appliance", async () => {
  await opened("protection");
  await tab("Panels");
  await enter(screen.getByRole("textbox", { name: "Floor of MP" }), "200");
  await enter(screen.getByRole("textbox", { name: "An appliance on MP" }), "range");
  await userEvent.click(screen.getByRole("button", { name: "Add it" }));
  await enter(await screen.findByRole("textbox", { name: "range, nameplate" }), "9600");
  await waitFor(() => {
    expect(planOf(saved()).nodes["MP"]?.panel?.loads).toMatchObject({
      floor_m2: 200,
      appliances: [{ name: "range", va: 9600 }],
    });
  });
  await userEvent.click(screen.getByRole("button", { name: "Take out range" }));
  await waitFor(() => {
    expect(planOf(saved()).nodes["MP"]?.panel?.loads?.appliances).toEqual([]);
  });
});

test("a device gets its data sheet, which the job then holds", async () => {
  await opened("protection");
  const place = screen.getByTestId("place-MP");
  await userEvent.click(within(place).getByRole("button", { name: /P1.*Breaker/ }));
  const form = screen.getByTestId("device-MP-P1");
  expect(within(form).getByRole("textbox", { name: /Breaks, of P1.*sheet says 10/ })).toBeTruthy();
  const sheet = within(form).getByRole("combobox", { name: "Data sheet of P1 in MP" });
  await userEvent.selectOptions(sheet, "Alder P60");
  await waitFor(() => {
    expect(planOf(saved()).nodes["MP"]?.devices?.["P1"]).toMatchObject({
      sheet: { sheet: "alder-60", revision: 1 },
      amps_a: 60,
      breaking_ka: null,
    });
  });
  const library = calls.filter((c) => c.method === "PUT").at(-1)?.body["library"] as {
    breakers: { sheet: string }[];
  };
  expect(library.breakers.map((b) => b.sheet)).toEqual(["alder-60"]);
});

test("a transformer says what it is around, which way it points, and its ratio", async () => {
  await opened("protection");
  const place = screen.getByTestId("place-MP");
  await userEvent.click(within(place).getByRole("button", { name: /CT.*Current transformer/ }));
  const form = screen.getByTestId("device-MP-CT");
  const pick = async (name: string, line: string) => {
    await userEvent.selectOptions(within(form).getByRole("combobox", { name }), line);
  };
  await pick("CT in MP measures", "what is made");
  await pick("CT in MP is around", "circuit AC1");
  await pick("Arrow of CT in MP toward the grid", "no");
  await enter(
    within(form).getByRole("textbox", { name: /^Entered in the meter for CT in MP/ }),
    "100",
  );
  await waitFor(() => {
    expect(planOf(saved()).nodes["MP"]?.devices?.["CT"]?.ct).toEqual({
      measures: "production",
      around: "AC1",
      toward_grid: false,
      wanted_toward_grid: true,
      primary_a: 200,
      entered_a: 100,
    });
  });
});

test("devices are added and taken out by the core", async () => {
  answering(({ path }) => {
    if (path !== "/api/command") return undefined;
    return json({ job: answers().view.job, changes: ["device P2 added in MP"] });
  });
  await opened("protection");
  const place = screen.getByTestId("place-MP");
  await enter(within(place).getByRole("textbox", { name: "Key of a new device in MP" }), "P2");
  await userEvent.selectOptions(
    within(place).getByRole("combobox", { name: "What the new device in MP is" }),
    "Fuse",
  );
  await userEvent.click(within(place).getByRole("button", { name: "Add the device" }));
  expect(await within(place).findByText("device P2 added in MP.")).toBeTruthy();
  expect(calls.find((c) => c.path === "/api/command")?.body["command"]).toEqual({
    do: "add_device",
    node: "MP",
    device: "P2",
    what: "fuse",
  });
});

test("a demand is put in from what a party usually asks, edited and taken out", async () => {
  await opened("protection");
  await tab("Parties");
  const network = screen.getByTestId("party-network");
  await userEvent.click(
    within(network).getByRole("button", { name: "A demand of the network operator" }),
  );
  await userEvent.click(
    await screen.findByRole("menuitem", { name: "A visible and lockable disconnect" }),
  );
  const key = "network-ac-disconnect";
  await waitFor(() => {
    expect(saved().demands?.[key]).toEqual({ party: "network", what: "ac_disconnect" });
  });
  await enter(screen.getByRole("textbox", { name: `Who said ${key}` }), "the desk");
  await userEvent.selectOptions(
    screen.getByRole("combobox", { name: `A breaker will do for ${key}` }),
    "no",
  );
  await waitFor(() => {
    const own = saved().demands?.[key] as Demand;
    expect([own.said_by, own.breaker_will_do]).toEqual(["the desk", false]);
  });
  await userEvent.click(screen.getByRole("button", { name: `Take out demand ${key}` }));
  await waitFor(() => {
    expect(saved().demands).toEqual({});
  });
});

test("a fault says what opens, at what amps, how fast, and what stays live", async () => {
  await opened("protection");
  await tab("If it fails");
  const article = await screen.findByTestId("fault");
  expect(article.textContent).toContain("a frame touches a pole");
  expect(article.textContent).toContain("Not cleared, held");
  expect(within(article).getByText("nothing")).toBeTruthy();
  const what = screen.getByRole("combobox", { name: "What if" });
  await userEvent.selectOptions(what, "a line touches a case");
  expect(article.textContent).toContain("668.4");
  expect(article.textContent).toContain("100 ms");
  await userEvent.selectOptions(what, "a string is shorted");
  expect(article.textContent).toContain("F1 in CB1");
  expect(article.textContent).toContain("60 min");
  // What it is about is marked out on the diagram.
  await userEvent.selectOptions(what, "a line touches a case");
  const diagram = await screen.findByRole("group", { name: "One-line diagram" });
  const own = within(diagram).getByRole("button", { name: "Circuit AC1" });
  expect(own.getAttribute("aria-pressed")).toBe("true");
  expect(within(diagram).getByRole("button", { name: "RB" }).getAttribute("aria-pressed")).toBe(
    "false",
  );
});

test("what clears a fault with a doubt is not said to be held", async () => {
  await opened("protection");
  await tab("If it fails");
  const what = await screen.findByRole("combobox", { name: "What if" });
  await userEvent.selectOptions(what, "a surge comes down the cable");
  expect(screen.getByTestId("fault").textContent).toContain("Cleared, with a caution");
});

test("the diagram opens slips, turns its sheets and is taken away as files", async () => {
  await opened("protection");
  await tab("One-line");
  const diagram = await screen.findByRole("group", { name: "One-line diagram" });
  await userEvent.click(within(diagram).getByRole("button", { name: "Circuit AC1" }));
  expect((await screen.findByTestId("slip")).textContent).toContain("Circuit AC1");
  // Frame and title block are for paper.
  expect(diagram.textContent).not.toContain("Kestrel Lane");
  await userEvent.click(screen.getByRole("button", { name: "Further" }));
  const pdf = screen.getByRole("link", { name: "PDF" });
  expect(pdf.getAttribute("href")).toBe("/api/jobs/kestrel/one-line/pdf?paper=letter&sheet=2");
  await userEvent.selectOptions(screen.getByRole("combobox", { name: "Paper" }), "A4");
  await waitFor(() => {
    const asked = calls.filter((c) => c.path.endsWith("/one-line"));
    expect(asked.map((c) => c.query.get("paper"))).toEqual(["letter", "a4"]);
  });
});

test("labels stand by place, and one with an open figure says so", async () => {
  await opened("protection");
  await tab("Labels");
  const list = await screen.findByRole("list", { name: "Labels by place" });
  const [first, second] = within(list).getAllByRole("listitem");
  expect(first?.textContent).toContain("at most 534 V, 18 A");
  expect(first?.textContent).not.toContain("open");
  expect(second?.textContent).toContain("8 pieces · 100 × 20 mm");
  expect(second?.textContent).toContain("A figure in it is open");
  expect(screen.getByText(/^9 labels in 2 places/)).toBeTruthy();
  const svg = screen.getByRole("link", { name: /SVG of the label PV POWER SOURCE/ });
  expect(svg.getAttribute("href")).toBe("/api/jobs/kestrel/labels/svg?label=2");
});

test("practice is set where it acts", async () => {
  await opened("protection");
  await tab("Practice");
  await userEvent.selectOptions(
    screen.getByRole("combobox", { name: "Rapid shutdown by" }),
    "an array listed for it",
  );
  await enter(screen.getByRole("textbox", { name: "Fault current of the supply" }), "12");
  await waitFor(() => {
    expect(saved().protection).toMatchObject({ shutdown: "listed_array", fault_ka: 12 });
  });
  // The loop and the electrode are of the other school.
  expect(screen.queryByRole("combobox", { name: "Earthing of the supply" })).toBeNull();
});

test("the bonding graph opens a part, and what is said of it is kept", async () => {
  await opened("earth");
  expect(screen.getByRole("heading", { name: "Ground", level: 2 })).toBeTruthy();
  const graph = screen.getByRole("group", { name: /^Bonding/ });
  const frames = within(graph).getByRole("button", {
    name: /^south-east, frames and rails: Holds/,
  });
  await userEvent.click(frames);
  expect(frames.getAttribute("aria-pressed")).toBe("true");
  await userEvent.selectOptions(
    screen.getByRole("combobox", {
      name: "south-east: a conductor leads from its lugs to the box",
    }),
    "no",
  );
  await waitFor(() => {
    expect(saved().roof?.["se"]?.rails?.bonded).toBe(false);
  });
  within(graph)
    .getByRole("button", { name: /^RB, case/ })
    .focus();
  await userEvent.keyboard("{Enter}");
  await userEvent.selectOptions(
    screen.getByRole("combobox", { name: "RB: its case is on the earth wire" }),
    "no",
  );
  await waitFor(() => {
    expect(planOf(saved()).nodes["RB"]?.earthed?.bonded).toBe(false);
  });
});

test("a backup output is said whole, and taken back", async () => {
  await opened("earth");
  await userEvent.selectOptions(
    screen.getByRole("combobox", { name: "The job has a backup output" }),
    "yes",
  );
  await userEvent.selectOptions(
    await screen.findByRole("combobox", { name: "Board it feeds" }),
    "MP",
  );
  await enter(screen.getByRole("textbox", { name: "Current it drives into a fault" }), "40");
  await waitFor(() => {
    expect(saved().protection?.backup).toMatchObject({ board: "MP", fault_a: 40 });
  });
  await userEvent.selectOptions(
    screen.getByRole("combobox", { name: "The job has a backup output" }),
    "no",
  );
  await waitFor(() => {
    expect(saved().protection?.backup).toBeNull();
  });
});

test("a viewer looks and changes nothing", async () => {
  await opened("protection", "viewer");
  expect(screen.queryByRole("button", { name: "Add the device" })).toBeNull();
  await tab("Panels");
  expect(screen.getByRole("textbox", { name: "Busbar rating" }).hasAttribute("readonly")).toBe(
    true,
  );
  await tab("Parties");
  expect(screen.queryByRole("button", { name: /^A demand of/ })).toBeNull();
});
