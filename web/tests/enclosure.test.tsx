// @vitest-environment happy-dom
/** The enclosure as it is drawn: picked, moved by keys, dragged; what must move is said. */
import { cleanup, fireEvent, render, screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, expect, test, vi } from "vitest";
import type { Bonding, EnclosureDrawing } from "../src/api/client";
import { BondMap } from "../src/drawing/BondMap";
import { EnclosureMap } from "../src/drawing/EnclosureMap";

const sitting = (device: string, left_ways: number, ways_n: number, fits = true) => ({
  device,
  what: "fuse" as const,
  left_ways,
  ways_n,
  placed: false,
  fits,
});

const DRAWING: EnclosureDrawing = {
  node: "CB1",
  rails: [
    { ways_n: 12, devices: [sitting("F1", 0, 1), sitting("F2", 1, 1), sitting("DISC", 4, 4)] },
    { ways_n: 12, devices: [sitting("X", 11.5, 2, false)] },
  ],
  without: [],
  entries: [],
};

afterEach(cleanup);

function drawn(canPlan = true) {
  const onPick = vi.fn();
  const onMove = vi.fn();
  render(
    <EnclosureMap
      drawing={DRAWING}
      picked={null}
      canPlan={canPlan}
      onPick={onPick}
      onMove={onMove}
    />,
  );
  return { onPick, onMove };
}

test("each device says its place, and one that does not fit that it must move", () => {
  drawn();
  const names = screen.getAllByRole("button").map((b) => b.getAttribute("aria-label"));
  expect(names).toEqual([
    "F1, Fuse, 1 ways, rail 1",
    "F2, Fuse, 1 ways, rail 1",
    "DISC, Fuse, 4 ways, rail 1",
    "X, Fuse, 2 ways, rail 2, must move",
  ]);
});

test("arrows move it by a way and from rail to rail, and never out at the left", async () => {
  const { onPick, onMove } = drawn();
  screen.getByRole("button", { name: /^F1/ }).focus();
  await userEvent.keyboard("{ArrowLeft}{ArrowRight}{ArrowDown}{ArrowUp}");
  expect(onMove.mock.calls).toEqual([
    ["F1", 1, 0],
    ["F1", 1, 1],
    ["F1", 2, 0],
    ["F1", 1, 0],
  ]);
  expect(onPick).toHaveBeenCalledWith("F1");
  await userEvent.keyboard("{Enter}");
  expect(onPick).toHaveBeenCalledTimes(5);
});

test("who may not plan picks and does not move", async () => {
  const { onPick, onMove } = drawn(false);
  screen.getByRole("button", { name: /^DISC/ }).focus();
  await userEvent.keyboard("{ArrowRight}{Enter}");
  expect(onMove).not.toHaveBeenCalled();
  expect(onPick).toHaveBeenCalledWith("DISC");
});

test("a drag puts it where it is let go, by half ways and whole rails", () => {
  const { onMove } = drawn();
  const own = screen.getByRole("button", { name: /^F2/ });
  own.setPointerCapture = () => undefined;
  fireEvent.pointerDown(own, { pointerId: 1, clientX: 100, clientY: 100 });
  // 53 px are 2.65 ways of 20 px; 120 px are a rail of 118.
  fireEvent.pointerMove(own, { pointerId: 1, clientX: 153, clientY: 220 });
  fireEvent.pointerUp(own, { pointerId: 1, clientX: 153, clientY: 220 });
  expect(onMove.mock.calls).toEqual([["F2", 2, 3.5]]);
  // A press that hardly moves is a press.
  fireEvent.pointerDown(own, { pointerId: 1, clientX: 100, clientY: 100 });
  fireEvent.pointerMove(own, { pointerId: 1, clientX: 102, clientY: 101 });
  fireEvent.pointerUp(own, { pointerId: 1, clientX: 102, clientY: 101 });
  expect(onMove).toHaveBeenCalledTimes(1);
});

const BONDING: Bonding = {
  parts: [
    {
      key: "frames e",
      kind: "frames",
      subject: { kind: "face", face: "e" },
      metal: true,
      verdict: "pass",
      next: "node RB",
      steps_n: 2,
    },
    {
      key: "node RB",
      kind: "case",
      subject: { kind: "node", node: "RB" },
      metal: true,
      verdict: "pass",
      next: "node MP",
      steps_n: 1,
    },
    {
      key: "node MP",
      kind: "panel",
      subject: { kind: "node", node: "MP" },
      metal: true,
      verdict: "pass",
      steps_n: 0,
    },
    {
      key: "frames w",
      kind: "frames",
      subject: { kind: "face", face: "w" },
      metal: true,
      verdict: "fail",
    },
  ],
  edges: [
    { from: "frames e", to: "node RB", by: "lugs", size: "6", insulated: false, known: true },
    { from: "node RB", to: "node MP", by: "earth_wire", size: "10", insulated: true, known: true },
  ],
};

test("the way of the picked part is drawn thick, and a part on its own stands apart", async () => {
  const onPick = vi.fn();
  const { container } = render(
    <BondMap bonding={BONDING} school="na" picked="frames e" onPick={onPick} name={(p) => p.key} />,
  );
  const thick = [...container.querySelectorAll("line")].filter(
    (l) => l.getAttribute("stroke-width") === "3.5",
  );
  expect(thick).toHaveLength(2);
  expect(container.textContent).toContain("lugs 6 AWG bare");
  expect(container.textContent).toContain("10 AWG insulated");
  const lone = screen.getByRole("button", { name: "frames w, frames and rails: Stop" });
  await userEvent.click(lone);
  expect(onPick.mock.calls[0]?.[0]).toMatchObject({ key: "frames w" });
  // It stands above all that comes down to the electrode.
  const top = (name: string) =>
    Number(screen.getByRole("button", { name }).querySelector("rect")?.getAttribute("y"));
  expect(top("frames w, frames and rails: Stop")).toBeLessThan(
    top("frames e, frames and rails: Holds"),
  );
  expect(top("node RB, case: Holds")).toBeLessThan(top("node MP, panel: Holds"));
});
