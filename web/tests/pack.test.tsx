// @vitest-environment happy-dom
/** The pack on the screen: what is said of it on the way, asked for, taken back, opened. */
import { screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { expect, test } from "vitest";
import type { PackView } from "../src/api/client";
import { waitingFor } from "../src/shell/Pack";
import { answering, calls, json, opened } from "./rig";

const base: PackView = {
  state: "queued",
  revision: 3,
  ahead_n: 0,
  phase: "",
  appendices_n: 0,
  first: false,
  press: { state: "ready" },
};

test("what a pack waits for is said as it is", () => {
  expect(waitingFor(base)).toBe("It is next.");
  expect(waitingFor({ ...base, ahead_n: 4 })).toBe("It waits: 4 before it.");
  const setting: PackView = { ...base, state: "setting", phase: "setting", since_s: 3.4 };
  expect(waitingFor(setting)).toBe("Setting its pages, 3 s so far.");
  expect(waitingFor({ ...setting, last_s: 9.1 })).toContain("The last one of this job took 9 s.");
  const second: PackView = { ...setting, phase: "setting 2 5" };
  expect(waitingFor(second)).toBe("Setting its pages, document 2 of 5, 3 s so far.");
  const building: PackView = { ...base, press: { state: "building", done_n: 120, of_n: 310 } };
  expect(waitingFor(building)).toContain("about 4 minutes");
  expect(waitingFor(building)).toContain("120 of 310 packages are done");
  expect(waitingFor({ ...base, press: { state: "missing" } })).toContain("not there");
});

test("a pack is asked for from the top, taken back, asked for again and opened", async () => {
  const user = userEvent.setup();
  let state: PackView["state"] = "none";
  answering(({ method, path }) => {
    if (path !== "/api/jobs/kestrel/pack") return undefined;
    if (method === "POST") state = "queued";
    if (method === "DELETE") {
      state = "none";
      return new Response(null, { status: 204 });
    }
    return json({ ...base, state });
  });
  await opened("handover");
  await user.click(await screen.findByRole("button", { name: "Print pack" }));
  // Opened from the top it is asked for at once, and once.
  const dialog = await screen.findByRole("dialog");
  await waitFor(() => {
    expect(dialog.textContent).toContain("It is next.");
  });
  const asked = () => calls.filter((c) => c.method === "POST" && c.path.endsWith("/pack")).length;
  expect(asked()).toBe(1);
  await user.click(screen.getByRole("button", { name: "Cancel it" }));
  await user.click(await screen.findByRole("button", { name: "Set the pack" }));
  await screen.findByRole("button", { name: "Cancel it" });
  expect(asked()).toBe(2);
  state = "ready";
  const link = await screen.findByRole("link", { name: "Open the pack (PDF)" }, { timeout: 4000 });
  expect(link.getAttribute("href")).toBe("/api/jobs/kestrel/pack.pdf");
});

test("why a pack could not be set is said, and it can be tried again", async () => {
  answering(({ path }) =>
    path === "/api/jobs/kestrel/pack"
      ? json({ ...base, state: "failed", problem: "It takes more than 5 minutes to set." })
      : undefined,
  );
  await opened("handover");
  const pack = await screen.findByTestId("pack");
  await waitFor(() => {
    expect(pack.textContent).toContain("It takes more than 5 minutes to set.");
  });
  expect(screen.getByRole("button", { name: "Set it again" })).toBeTruthy();
});
