// @vitest-environment happy-dom
/** Passwords that change, and what a data sheet does, as far as it has been looked at. */
import { render, screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { expect, test } from "vitest";
import { Refused, type Consequences } from "../src/api/client";
import { NewPassword } from "../src/stages/people/NewPassword";
import { tally } from "../src/stages/library/ConcernedJobs";

const type = async (label: RegExp, text: string) => {
  await userEvent.type(screen.getByLabelText(label), text);
};

test("a password is typed twice, and what is refused stands at its field", async () => {
  const set: string[][] = [];
  let refuse = true;
  const onSet = (fresh: string, old: string) => {
    set.push([fresh, old]);
    const problem = { path: "/old", message: "is not the password so far", hint: "the one so far" };
    return refuse
      ? Promise.reject(new Refused(422, "invalid", "Not right", "", [problem], null))
      : Promise.resolve();
  };
  render(<NewPassword withOld onSet={onSet} done="It is changed." />);
  await type(/so far/, "what it was");
  await type(/ten characters/, "another-password");
  await type(/again/, "another-passw0rd");
  const button = screen.getByRole("button", { name: "Set the password" });
  await userEvent.click(button);
  expect(screen.getByRole("alert").textContent).toContain("the same twice");
  expect(set).toEqual([]);
  await userEvent.clear(screen.getByLabelText(/again/));
  await type(/again/, "another-password");
  await userEvent.click(button);
  expect((await screen.findByRole("alert")).textContent).toContain("is not the password so far");
  // Nothing typed is lost by a refusal.
  refuse = false;
  await userEvent.click(button);
  await screen.findByText("It is changed.");
  expect(set[1]).toEqual(["another-password", "what it was"]);
});

test("how many jobs a sheet concerns is counted, and how far the looking is", () => {
  const none: Consequences = {
    changes: [],
    of_n: 0,
    done_n: 0,
    older_n: 0,
    stops_n: 0,
    cautions_n: 0,
    jobs: [],
  };
  expect(tally(none)).toBe("No job holds an older revision.");
  const some = { ...none, of_n: 300, done_n: 120, older_n: 100, stops_n: 40, cautions_n: 10 };
  expect(tally(some)).toBe(
    "120 of 300 jobs looked at. 100 hold an older one: 40 would stop, 10 come to a caution, " +
      "50 hold as before.",
  );
  expect(tally({ ...some, done_n: 300 })).not.toContain("looked at");
});
