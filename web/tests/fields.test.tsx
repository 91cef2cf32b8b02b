// @vitest-environment happy-dom
/** The fields: what is typed is kept until it is left, what is wrong is said where it is. */
import { cleanup, render, screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, expect, test } from "vitest";
import { showFor } from "../src/model/shown";
import { problemAt } from "../src/ui/field";
import { NumberField } from "../src/ui/NumberField";
import { Pick } from "../src/ui/Pick";
import { TextField } from "../src/ui/TextField";
import { Tape, tapeColour } from "../src/ui/Tape";
import { Tick } from "../src/ui/Tick";

afterEach(() => {
  cleanup();
  showFor(null);
});

const box = () => screen.getByRole<HTMLInputElement>("textbox");

function number(props: Partial<React.ComponentProps<typeof NumberField>> = {}): (number | null)[] {
  const kept: (number | null)[] = [];
  render(
    <NumberField label="Voc" unit="V" value={39.4} onChange={(v) => kept.push(v)} {...props} />,
  );
  return kept;
}

test("a number is taken when the field is left, not letter by letter", async () => {
  const kept = number();
  await userEvent.clear(box());
  await userEvent.type(box(), "40.1");
  expect([kept, box().dataset["typing"]]).toEqual([[], "true"]);
  await userEvent.tab();
  expect(kept).toEqual([40.1]);
});

test("a decimal comma and a true minus are read", async () => {
  const kept = number({ value: null });
  await userEvent.type(box(), "−0,26{Enter}");
  expect(kept).toEqual([-0.26]);
});

test("an emptied field is nothing, not nought", async () => {
  const kept = number();
  await userEvent.clear(box());
  await userEvent.tab();
  expect(kept).toEqual([null]);
});

test("what is no number is said at the field and stays as typed", async () => {
  const kept = number();
  await userEvent.clear(box());
  await userEvent.type(box(), "4o{Enter}");
  expect(kept).toEqual([]);
  expect(box().value).toBe("4o");
  expect(screen.getByRole("alert").textContent).toBe("“4o” is no number");
  expect(box().getAttribute("aria-invalid")).toBe("true");
  expect(box().getAttribute("aria-describedby")).toBe(screen.getByRole("alert").id);
  await userEvent.keyboard("{Escape}");
  expect([box().value, screen.queryByRole("alert")]).toEqual(["39.4", null]);
});

test("feet are shown of metres and kept as metres", async () => {
  showFor("na");
  const kept = number({ value: 3.048, kept: "m", unit: "ft" });
  expect(box().value).toBe("10");
  await userEvent.clear(box());
  await userEvent.type(box(), "20{Enter}");
  // 20 ft × 0.3048 m/ft
  expect(kept[0]).toBeCloseTo(6.096, 9);
});

test("other units are read, and what is wrong is said in the one that was typed", async () => {
  showFor("iec", { own: { temperature: "f" }, company: {} });
  const problem = { path: "/t", message: "65 is greater than the maximum of 60", hint: "" };
  const kept = number({ label: "High", value: 65, kept: "degC", unit: undefined, problem });
  // 65 °C = 149 °F, 60 °C = 140 °F.
  expect(box().value).toBe("149");
  expect(screen.getByRole("alert").textContent).toBe(
    "149 °F is greater than the maximum of 140 °F",
  );
  await userEvent.clear(box());
  await userEvent.type(box(), "20 C{Enter}");
  expect(kept).toEqual([20]);
});

test("what is half typed is taken when the page goes and when the field goes", async () => {
  const kept = number();
  await userEvent.clear(box());
  await userEvent.type(box(), "41");
  window.dispatchEvent(new Event("pagehide"));
  expect(kept).toEqual([41]);
  cleanup();
  expect(kept).toEqual([41, 41]);
});

test("a text that is too long stays at its field and says so", async () => {
  const kept: string[] = [];
  render(<TextField label="Name" value="" most={5} onChange={(v) => kept.push(v)} />);
  await userEvent.type(box(), "Kestrel");
  await userEvent.tab();
  expect([kept, box().value]).toEqual([[], "Kestrel"]);
  expect(screen.getByRole("alert").textContent).toContain("2 too many");
  await userEvent.type(box(), "{Backspace}{Backspace}");
  await userEvent.tab();
  expect(kept).toEqual(["Kestr"]);
});

test("the same number again is no edit", async () => {
  const kept = number();
  await userEvent.clear(box());
  await userEvent.type(box(), "39.40{Enter}");
  expect(kept).toEqual([]);
});

test("a refusal names its place, with what would be right", () => {
  const problems = [
    { path: "/job/a", message: "is too large", hint: "at most 600" },
    { path: "/job/b", message: "is missing" },
  ] as Parameters<typeof problemAt>[0];
  number({ problem: problemAt(problems, "/job/a") });
  expect(screen.getByRole("alert").textContent).toBe("is too large: at most 600");
  expect(problemAt(problems, "/job/c")).toBeUndefined();
});

test("every field is found by its label, shown or not", () => {
  render(<TextField compact label="Name of place 1" value="North" onChange={() => undefined} />);
  expect(screen.getByLabelText<HTMLInputElement>("Name of place 1").value).toBe("North");
});

test("words are taken when the field is left, and only if they changed", async () => {
  const kept: string[] = [];
  render(<TextField label="Name" value="Shed" onChange={(v) => kept.push(v)} />);
  await userEvent.click(box());
  await userEvent.tab();
  expect(kept).toEqual([]);
  await userEvent.type(box(), " roof{Enter}");
  expect(kept).toEqual(["Shed roof"]);
});

test("a field that may not be edited cannot be", async () => {
  const kept = number({ readOnly: true });
  await userEvent.type(box(), "5{Enter}");
  expect([kept, box().value]).toEqual([[], "39.4"]);
});

test("one of a few and yes or no give what was chosen", async () => {
  const said: unknown[] = [];
  render(
    <>
      <Pick
        label="Place"
        value="a"
        options={[
          ["a", "Attic"],
          ["b", "Inside"],
        ]}
        onChange={(v) => said.push(v)}
      />
      <Tick label="Wet" checked={false} onChange={(v) => said.push(v)} />
    </>,
  );
  await userEvent.selectOptions(screen.getByLabelText("Place"), "Inside");
  await userEvent.click(screen.getByLabelText("Wet"));
  expect(said).toEqual(["b", true]);
});

test("a tape has the colour the core says, its letter and its bands", () => {
  const tapes = [
    { letter: "A", colour: "blue", hex: "#1F63B0", bands: 0 },
    { letter: "J", colour: "orange", hex: "#D26A00", bands: 2 },
  ];
  render(<Tape tapes={tapes} letter="J" />);
  expect(screen.getByRole("img").getAttribute("aria-label")).toBe("J, orange tape, 2 bands");
  expect(screen.getByRole("img").querySelectorAll("rect")).toHaveLength(3);
  expect([tapeColour(tapes, "A"), tapeColour(tapes, "Z")]).toEqual(["#1F63B0", "var(--ink-3)"]);
});
