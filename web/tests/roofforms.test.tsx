// @vitest-environment happy-dom
/** What is entered about a face, the tools of the map, serial numbers of the whole job. */
import { fireEvent, screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { expect, test } from "vitest";
import type { Job } from "../src/api/client";
import { answering, answers, calls, json, opened } from "./rig";

const saved = (): Job =>
  calls.filter((c) => c.method === "PUT").at(-1)?.body["job"] as unknown as Job;
const face = () => saved().roof?.["sw"];

/** What else there is to say of the south-west face. */
async function details(): Promise<ReturnType<typeof within>> {
  await opened("roof");
  const sheet = screen.getByRole("heading", { name: "south-west" }).closest("section");
  const own = sheet?.querySelector("details");
  if (!own) throw new Error("a face has its details");
  own.open = true;
  return within(own);
}

const type = async (field: HTMLElement, text: string) => {
  await userEvent.clear(field);
  await userEvent.type(field, `${text}{Enter}`);
};

test("rails are said by length, direction and what bonds", async () => {
  const own = await details();
  await type(own.getByLabelText("Between attachments, at most"), "6");
  await waitFor(() => {
    // Six feet.
    expect(face()?.rails?.span_m).toBeCloseTo(1.8288, 9);
  });
  await userEvent.selectOptions(own.getByLabelText("Clamps bond, by their sheet"), "no");
  await waitFor(() => {
    expect(face()?.rails?.clamps_bond).toBe(false);
  });
  await userEvent.selectOptions(own.getByLabelText("Splices bond, by their sheet"), "not said");
  await userEvent.click(own.getByLabelText("They run up the slope"));
  await waitFor(() => {
    expect(face()?.rails).toMatchObject({ splices_bond: null, up_slope: true, piece_m: 4.2 });
  });
});

test("something in the way is put on, measured and taken off again", async () => {
  const own = await details();
  await userEvent.click(own.getByRole("button", { name: "Something in the way" }));
  await waitFor(() => {
    expect(Object.keys(face()?.obstructions ?? {})).toEqual(["o-1"]);
  });
  await type(own.getByLabelText("Name"), "chimney");
  await type(own.getByLabelText("Clear around it"), "2");
  await waitFor(() => {
    expect(face()?.obstructions?.["o-1"]).toMatchObject({ name: "chimney", clearance_mm: 609.6 });
  });
  await userEvent.click(own.getByRole("button", { name: "Take out chimney" }));
  await waitFor(() => {
    expect(face()?.obstructions).toEqual({});
  });
});

test("frames in rows, what is kept free, and a crossing to the other face", async () => {
  const own = await details();
  await userEvent.click(own.getByLabelText(/^Frames on the ground/));
  await waitFor(() => {
    expect(face()?.rows).toEqual({ n: 2, gap_m: 3 });
  });
  await type(own.getByLabelText("Rows"), "3");
  await type(own.getByLabelText("Level gap between rows"), "20");
  await type(own.getByLabelText("Ridge"), "3");
  await userEvent.click(own.getByRole("button", { name: "To south-east" }));
  await waitFor(() => {
    expect(face()?.rows?.n).toBe(3);
    expect(face()?.rows?.gap_m).toBeCloseTo(6.096, 9);
    expect(face()?.free?.ridge_m).toBeCloseTo(0.9144, 9);
    // In the middle of the ridge, to be moved: 10.4 m wide, 7 m up.
    expect(face()?.crossings?.["se"]?.from_mm).toEqual([5200, 7000]);
  });
  await type(own.getByLabelText("Over the gap"), "5");
  await type(own.getByLabelText("Comes to south-east, up the slope"), "10");
  await waitFor(() => {
    expect(face()?.crossings?.["se"]?.over_m).toBeCloseTo(1.524, 9);
    expect(face()?.crossings?.["se"]?.to_mm[1]).toBeCloseTo(3048, 6);
  });
  await userEvent.click(own.getByRole("button", { name: "No crossing to south-east" }));
  await userEvent.click(own.getByLabelText(/^Frames on the ground/));
  await waitFor(() => {
    expect(face()?.crossings).toEqual({});
    expect(face()?.rows).toBeNull();
  });
});

test("settings of the map: paths, slack, jumpers in stock", async () => {
  await opened("roof");
  await userEvent.selectOptions(
    screen.getByLabelText("Fire service’s paths kept free"),
    "not said",
  );
  await type(screen.getByLabelText(/^Slack at each join/), "0.15");
  await type(screen.getByLabelText(/^Jumpers in stock/), "0.5 1.5 3");
  await waitFor(() => {
    expect(saved().settings).toMatchObject({
      fire_paths: null,
      lead_slack_m: 0.15,
      jumpers_m: [0.5, 1.5, 3],
    });
  });
  // What is no length is named, and the list stays as it was.
  await type(screen.getByLabelText(/^Jumpers in stock/), "0.5 long");
  expect(await screen.findByText(/“long” is no length/)).toBeTruthy();
  expect(saved().settings?.jumpers_m).toEqual([0.5, 1.5, 3]);
});

test("several are brought into one row, and one more lies beside the last", async () => {
  await opened("roof");
  screen.getByTestId("roof-map-sw").focus();
  await userEvent.keyboard("{ArrowRight}{Shift>}{ArrowUp}{/Shift}");
  await userEvent.click(screen.getByRole("button", { name: "Into one column" }));
  await waitFor(() => {
    expect(face()?.modules?.["sw-008"]?.x_mm).toBe(1200);
  });
  const more = screen.getAllByRole("button", { name: "A module more" });
  await userEvent.click(more[1] as HTMLElement);
  await waitFor(() => {
    expect(face()?.modules?.["sw-015"]).toMatchObject({ x_mm: 9278, y_mm: 4092 });
  });
});

test("the box is moved to where it takes less wire", async () => {
  await opened("roof");
  const offers = screen.getAllByText(/the box would take .* of wire less elsewhere/);
  expect(offers[1]?.textContent).toContain("21.4 ft");
  const move = screen.getAllByRole("button", { name: "Move the box there" });
  await userEvent.click(move[1] as HTMLElement);
  await waitFor(() => {
    expect(face()?.box_mm).toEqual([7840, 4953]);
  });
});

test("a string is asked to run as one says, all others staying", async () => {
  const { view } = answers();
  const sum = { wire_m: 9.5, jumpers_n: 0, turned_n: 0 };
  answering(({ path }) =>
    path === "/api/roof/route"
      ? json({ job: view.job, before: sum, after: sum, bound_m: 0, gap_pct: null })
      : undefined,
  );
  await opened("roof");
  await userEvent.selectOptions(screen.getByLabelText("How string C runs"), "every_second");
  expect(await screen.findByText(/as much wire as before/)).toBeTruthy();
  const asked = calls.find((c) => c.path === "/api/roof/route")?.body["ask"];
  const keep = ["A", "B"];
  expect(asked).toEqual({ face: "sw", keep, may_turn: true, along: "every_second" });
});

test("a serial is found on its face, in another job, or on no map; and cleared", async () => {
  const elsewhere = [{ serial: "BM-8", job: "tern", name: "Tern Bay" }];
  answering(({ path, body }) =>
    path.endsWith("/serials")
      ? json((body["serials"] as string[]).includes("BM-8") ? elsewhere : [])
      : undefined,
  );
  await opened("roof");
  const field = screen.getByRole("textbox", { name: "Serial number, south-west" });
  await userEvent.type(field, "BM-1{Enter}");
  expect(await screen.findByText("C1 entered.")).toBeTruthy();
  const find = screen.getByLabelText("Find a serial");
  const said = () => screen.getByTestId("serial-said").textContent;
  await type(find, "BM-1");
  expect(said()).toBe("BM-1 is C1 on south-west.");
  await type(find, "BM-8");
  await waitFor(() => {
    expect(said()).toBe("BM-8 is in Tern Bay");
  });
  expect(screen.getByRole("link", { name: "Tern Bay" }).getAttribute("href")).toBe(
    "/jobs/tern/roof",
  );
  await type(find, "BM-9");
  await waitFor(() => {
    expect(said()).toBe("BM-9 is on no map.");
  });
  // One that another job has is entered, and said.
  await userEvent.type(field, "BM-8{Enter}");
  expect(await screen.findByText("Entered, but BM-8 is in Tern Bay already.")).toBeTruthy();
  await userEvent.click(screen.getByRole("button", { name: /^C1 *BM-1/ }));
  await userEvent.click(screen.getByRole("button", { name: "Clear C1" }));
  await waitFor(() => {
    expect(face()?.modules?.["sw-001"]?.serial).toBeNull();
  });
});

test("a CSV of serials is taken in whole or not at all", async () => {
  await opened("roof");
  const input = screen.getByLabelText(/^Take in a CSV/);
  const take = (text: string) => {
    fireEvent.change(input, { target: { files: [new File([text], "serials.csv")] } });
  };
  take("place,serial\nC1,BM-1\nA1,BM-2\nZ9,BM-3");
  expect(await screen.findByText("Line 4: no module Z9 on the map.")).toBeTruthy();
  take("place,serial\nC1,BM-1\nA1,BM-1");
  expect(await screen.findByText("BM-1 is there twice: nothing was taken over.")).toBeTruthy();
  expect(calls.some((c) => c.method === "PUT")).toBe(false);
  take("place,serial\nC1,BM-1\nA1,BM-2");
  expect(await screen.findByText("2 serials taken over.")).toBeTruthy();
  await waitFor(() => {
    expect(face()?.modules?.["sw-001"]?.serial).toBe("BM-1");
    expect(saved().roof?.["se"]?.modules?.["se-007"]?.serial).toBe("BM-2");
  });
});

test("rows say when they shade one another, on the day that is asked", async () => {
  const { view } = answers();
  const day = (month: number, shaded_h: number) => ({
    month,
    day: 21,
    sun_h: [7.4, 16.6],
    shaded: [[7.4, 7.4 + shaded_h]],
    shaded_h,
    gap_min_m: 5.2,
  });
  const roof = (view.report as never as { roof: Record<string, unknown>[] }).roof;
  Object.assign(roof[1] ?? {}, {
    rows: { n: 3, slope_m: 7, gap_m: 4, height_m: 3.5, shortest: day(12, 4.6) },
  });
  answering(({ path, method }) =>
    path === "/api/jobs/kestrel" && method === "GET"
      ? json(view)
      : path === "/api/roof/shade"
        ? json(day(2, 1.5))
        : undefined,
  );
  await opened("roof");
  expect(screen.getByTestId("shade-sw").textContent).toContain("4.6 h in shade");
  expect(screen.getByRole("img", { name: "In shade: 7:24 to 12:00, sun time" })).toBeTruthy();
  await userEvent.selectOptions(screen.getByLabelText("Month"), "February");
  await waitFor(() => {
    expect(screen.getByTestId("shade-sw").textContent).toContain("1.5 h in shade");
  });
  const asked = calls.find((c) => c.path === "/api/roof/shade")?.body["ask"];
  expect(asked).toEqual({ face: "sw", month: 2, day: 21 });
});
