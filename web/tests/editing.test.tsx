// @vitest-environment happy-dom
/** Editing a job on its screens: what goes to the server, what is said when it does not take it. */
import { screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { expect, test } from "vitest";
import type { Job } from "../src/api/client";
import { answering, answers, calls, json, opened } from "./rig";

const saves = () => calls.filter((c) => c.method === "PUT");
const sentJob = (n = -1): Job => saves().at(n)?.body["job"] as unknown as Job;

/** The field of a string's count in the table. */
const count = (letter: string) =>
  screen.getByRole<HTMLInputElement>("textbox", {
    name: new RegExp(`^(Modules|In series|Count).*\\b${letter}\\b`, "i"),
  });

async function type(field: HTMLInputElement, text: string): Promise<void> {
  await userEvent.clear(field);
  await userEvent.type(field, `${text}{Enter}`);
}

test("a count goes to the server over its revision, and what it moved is said", async () => {
  await opened("strings");
  await type(count("B"), "8");
  await waitFor(() => {
    expect(saves()).toHaveLength(1);
  });
  const { view } = answers();
  expect(saves()[0]?.body["base_revision"]).toBe(view.revision);
  expect(saves()[0]?.body["version"]).toBe(view.version);
  expect(sentJob().strings?.map((s) => s.n)).toEqual([12, 8, 7]);
  expect(await screen.findByText(`Revision ${String(view.revision + 1)}, saved`)).toBeTruthy();
  expect(screen.getByTestId("moved").textContent).toContain("B: 7 to 8 modules");
});

test("it is taken back by keyboard, and that is saved too", async () => {
  await opened("strings");
  await type(count("B"), "8");
  await screen.findByTestId("moved");
  count("B").blur();
  await userEvent.keyboard("{Control>}z{/Control}");
  await waitFor(() => {
    expect(saves()).toHaveLength(2);
  });
  expect(sentJob().strings?.map((s) => s.n)).toEqual([12, 7, 7]);
});

test("what the server refuses stays as typed, and is said at its field", async () => {
  answering(({ method }) =>
    method === "PUT"
      ? json(
          {
            type: "/problems/invalid",
            title: "Not valid",
            detail: "see errors",
            errors: [{ path: "/job/strings/1/n", message: "is too large", hint: "at most 200" }],
          },
          422,
        )
      : undefined,
  );
  await opened("strings");
  await type(count("B"), "900");
  expect((await screen.findByRole("alert")).textContent).toBe("is too large: at most 200");
  expect([count("B").value, count("B").getAttribute("aria-invalid")]).toEqual(["900", "true"]);
  await userEvent.click(screen.getByText("Not saved: String B, modules in series"));
  const said = await screen.findByRole("dialog");
  expect(said.textContent).toContain(
    "String B, modules in series: is too large; at most 200 Go to it",
  );
  await userEvent.click(screen.getByText("Go to it"));
  await waitFor(() => {
    expect(document.activeElement).toBe(count("B"));
  });
});

test("while the server is away it is said, and the edit is kept in the browser", async () => {
  answering(({ method }) => (method === "PUT" ? json({}, 503) : undefined));
  await opened("strings");
  await type(count("B"), "8");
  expect(await screen.findByText(/Not saved: the server is away/)).toBeTruthy();
  expect(localStorage.getItem("heliant.unsaved.kestrel")).toContain('"version":');
});

test("a conflict shows both versions; mine can go over theirs", async () => {
  const { view } = answers();
  const strings = view.job.strings?.map((s) => (s.letter === "C" ? { ...s, n: 6 } : s));
  const theirs = {
    ...view,
    revision: view.revision + 4,
    saved_by: "Mira Voss",
    job: { ...view.job, strings },
  };
  let late = true;
  answering(({ method }) => {
    if (method !== "PUT" || !late) return undefined;
    late = false;
    const conflict = { type: "/problems/conflict", title: "Late", detail: "", current: theirs };
    return json(conflict, 409);
  });
  await opened("strings");
  await type(count("B"), "8");
  const dialog = await screen.findByRole("dialog", { name: "Mira Voss saved in between" });
  expect(within(dialog).getByText("strings/2/n")).toBeTruthy();
  await userEvent.click(within(dialog).getAllByRole("button")[0] as HTMLElement);
  await waitFor(() => {
    expect(saves()).toHaveLength(2);
  });
  expect(saves()[1]?.body["base_revision"]).toBe(theirs.revision);
  expect(sentJob().strings?.map((s) => s.n)).toEqual([12, 8, 7]);
});

test("who only looks finds fields that cannot be typed in", async () => {
  await opened("strings", "viewer");
  expect(count("B").readOnly).toBe(true);
  await userEvent.type(count("B"), "9{Enter}");
  expect(saves()).toEqual([]);
});
