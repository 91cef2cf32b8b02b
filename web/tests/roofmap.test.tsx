// @vitest-environment happy-dom
/** The roof map on its screen: by key, by button, by scanner; what the server is asked. */
import { screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { expect, test } from "vitest";
import type { Job } from "../src/api/client";
import { answering, answers, calls, json, opened } from "./rig";

const saved = (): Job =>
  calls.filter((c) => c.method === "PUT").at(-1)?.body["job"] as unknown as Job;
const string = (letter: string) => saved().strings?.find((s) => s.letter === letter);
const asked = (path: string) => calls.filter((c) => c.path === path).map((c) => c.body["ask"]);
const map = () => screen.getByTestId("roof-map-sw");
const module = (name: string) => map().querySelector(`[data-name='${name}']`);

/** The map with one module picked by walking to it. */
async function at(...keys: string[]): Promise<void> {
  await opened("roof");
  map().focus();
  await userEvent.keyboard("{ArrowRight}");
  for (const key of keys) await userEvent.keyboard(key);
}

test("every module stands there with its signs, and the wrong joins in red", async () => {
  await opened("roof");
  expect(map().querySelectorAll("[data-module]")).toHaveLength(14);
  expect(map().querySelectorAll("[data-join]")).toHaveLength(12);
  const red = [...map().querySelectorAll("[data-join]")].filter((j) =>
    j.innerHTML.includes("var(--stop)"),
  );
  expect(red.map((j) => j.getAttribute("data-join"))).toEqual(["B4", "B5"]);
  expect(within(map()).getByText("eave kept free, 3.0 ft")).toBeTruthy();
  // What the report says, not what the screen adds up.
  expect(screen.getByText(/14 modules · .* ft of jumpers and tails/)).toBeTruthy();
});

test("arrows walk, and what is picked is read out", async () => {
  await at();
  expect(screen.getByText("C1", { selector: "[aria-live]" })).toBeTruthy();
  await userEvent.keyboard("{ArrowRight}{ArrowUp}");
  expect(screen.getByText("B2", { selector: "[aria-live]" })).toBeTruthy();
  await userEvent.keyboard("{Escape}");
  expect(screen.getAllByText("No module picked", { selector: "[aria-live]" })).toHaveLength(2);
});

test("T turns what is picked, with its joins", async () => {
  await at("{ArrowRight}", "t");
  await waitFor(() => {
    expect(string("C")?.reversed).toEqual(["sw-002"]);
  });
  expect(saved().roof?.["sw"]?.modules?.["sw-002"]?.turned).toBe(true);
});

test("several are picked with shift, and come off the map together", async () => {
  await at("{Shift>}{ArrowRight}{/Shift}", "{Delete}");
  await waitFor(() => {
    expect(string("C")?.modules).toHaveLength(5);
  });
  expect(Object.keys(saved().roof?.["sw"]?.modules ?? {})).toHaveLength(12);
});

test("alt and an arrow move by a centimetre", async () => {
  await at("{Alt>}{ArrowUp}{/Alt}");
  await waitFor(() => {
    expect(saved().roof?.["sw"]?.modules?.["sw-001"]).toMatchObject({ x_mm: 1200, y_mm: 2360 });
  });
});

test("P pins a module to its string, and frees it again", async () => {
  await at("p");
  await waitFor(() => {
    expect(string("C")?.pinned).toEqual(["sw-001"]);
  });
  expect(screen.getByText("C1, pinned", { selector: "[aria-live]" })).toBeTruthy();
  await userEvent.keyboard("{Shift>}{ArrowRight}{/Shift}p");
  await waitFor(() => {
    expect(string("C")?.pinned).toEqual(["sw-001", "sw-002"]);
  });
  await userEvent.click(screen.getByRole("button", { name: /^Pin or free/ }));
  await waitFor(() => {
    expect(string("C")?.pinned).toEqual([]);
  });
});

test("J joins to the string that is worked on", async () => {
  await opened("roof");
  await userEvent.click(screen.getByRole("button", { name: /^C, green tape/, pressed: false }));
  await userEvent.click(screen.getByRole("button", { name: "Loosen C" }));
  await waitFor(() => {
    expect(string("C")?.modules).toEqual([]);
  });
  map().focus();
  await userEvent.keyboard("{ArrowRight}j{ArrowRight}j");
  await waitFor(() => {
    expect(string("C")?.modules).toEqual(["sw-001", "sw-002"]);
  });
});

test("enter opens the slip of a module's join", async () => {
  await at("{ArrowUp}", "{ArrowRight}{ArrowRight}{ArrowRight}", "{Enter}");
  const slip = screen.getByRole("complementary", { name: "Slip" });
  expect(within(slip).getByText("Join B4 to B5")).toBeTruthy();
  expect(within(slip).getByText(/\+ of B4 meets \+ of B5/)).toBeTruthy();
});

test("plus looks closer, and the whole face comes back", async () => {
  await at("+");
  const near = map().getAttribute("viewBox");
  await userEvent.click(screen.getByRole("button", { name: "Whole face" }));
  expect(map().getAttribute("viewBox")).not.toBe(near);
  expect(screen.queryByRole("button", { name: "Whole face" })).toBeNull();
  expect(module("B5")?.querySelector("title")?.textContent).toBe("B5, turned");
});

test("a routing is asked with what stays, and says what it came to", async () => {
  const { view } = answers();
  const sum = (wire_m: number, jumpers_n: number) => ({ wire_m, jumpers_n, turned_n: 2 });
  answering(({ path }) =>
    path === "/api/roof/route"
      ? json({
          job: view.job,
          before: sum(12.5, 3),
          after: sum(8.25, 1),
          bound_m: 8,
          gap_pct: 3.125,
        })
      : undefined,
  );
  await opened("roof");
  await userEvent.click(screen.getByRole("checkbox", { name: "String B stays as it is" }));
  const sheet = screen.getByRole("heading", { name: "south-west" }).closest("section");
  if (!sheet) throw new Error("a face has its sheet");
  await userEvent.click(within(sheet).getByRole("button", { name: /^Route all/ }));
  const told = await screen.findByText(/^Routed: /);
  expect(told.textContent).toBe(
    "Routed: 2 jumpers less, 13.9 ft of wire less; 27.1 ft of wire, 1 jumper, 2 turned." +
      " That is at most 3.1 % above the least there can be.",
  );
  expect(asked("/api/roof/route")).toEqual([{ face: "sw", keep: ["B"], may_turn: true }]);
});

test("what cannot be laid is said, and the map stays", async () => {
  answering(({ path }) =>
    path === "/api/roof/fill"
      ? json(
          {
            type: "/problems/invalid",
            title: "Not right",
            status: 422,
            detail: "",
            errors: [
              { path: "/job/roof/sw", message: "no module finds room", hint: "a larger face" },
            ],
          },
          422,
        )
      : undefined,
  );
  await opened("roof");
  const sheet = screen.getByRole("heading", { name: "south-west" }).closest("section");
  if (!sheet) throw new Error("a face has its sheet");
  await userEvent.click(within(sheet).getByRole("button", { name: "Lay 14" }));
  expect(await screen.findByText("no module finds room. a larger face.")).toBeTruthy();
  expect(map().querySelectorAll("[data-module]")).toHaveLength(14);
});

test("a pasted column of serials is entered from the module at hand on", async () => {
  await opened("roof");
  const field = screen.getByRole("textbox", { name: "Serial number, south-west" });
  await userEvent.click(field);
  await userEvent.paste("BM1\nBM2\nBM3");
  await waitFor(() => {
    expect(saved().roof?.["sw"]?.modules?.["sw-003"]?.serial).toBe("BM3");
  });
  expect(screen.getByText("C1, C2, C3 entered.")).toBeTruthy();
  await userEvent.paste("BM9\nBM9");
  expect(screen.getByText("BM9 is there twice.")).toBeTruthy();
});
