// @vitest-environment happy-dom
/** The focus goes on where a line was taken out, and never falls to the page. */
import { cleanup, render, screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { useState } from "react";
import { afterEach, expect, test } from "vitest";
import { useFocusKept } from "../src/shell/useFocusKept";

afterEach(cleanup);

function Lines() {
  useFocusKept();
  const [lines, setLines] = useState(["A", "B"]);
  return (
    <main>
      <ul>
        {lines.map((l) => (
          <li key={l}>
            <button
              type="button"
              onClick={() => {
                setLines(lines.filter((o) => o !== l));
              }}
            >
              Take out {l}
            </button>
          </li>
        ))}
      </ul>
    </main>
  );
}

test("a line that is taken out hands the focus to what is left of the list", async () => {
  render(<Lines />);
  screen.getByRole("button", { name: "Take out B" }).focus();
  await userEvent.keyboard("{Enter}");
  await waitFor(() => {
    expect(document.activeElement).toBe(screen.getByRole("button", { name: "Take out A" }));
  });
  // The last one leaves the list itself.
  await userEvent.keyboard("{Enter}");
  await waitFor(() => {
    expect(document.activeElement).toBe(screen.getByRole("list"));
  });
});
