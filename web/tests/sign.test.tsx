// @vitest-environment happy-dom
/** The ± key of a phone: what stands in the field changes its sign and is taken. */
import { cleanup, render, screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, expect, test, vi } from "vitest";
import { NumberField } from "../src/ui/NumberField";

vi.mock("../src/ui/useNarrow", () => ({ useNarrow: () => true }));

afterEach(cleanup);

const box = () => screen.getByRole<HTMLInputElement>("textbox");
const press = () => userEvent.click(screen.getByRole("button", { name: "Voc: change the sign" }));

function volts(value: number | null): (number | null)[] {
  const kept: (number | null)[] = [];
  render(<NumberField label="Voc" unit="V" signed value={value} onChange={(v) => kept.push(v)} />);
  return kept;
}

test("it is taken without going back into the field", async () => {
  const kept = volts(258.1);
  await press();
  expect(kept).toEqual([-258.1]);
});

test("a sign alone waits for its number", async () => {
  const kept = volts(null);
  await press();
  expect([kept, box().value]).toEqual([[], "−"]);
  await userEvent.type(box(), "{End}258{Enter}");
  expect(kept).toEqual([-258]);
});
