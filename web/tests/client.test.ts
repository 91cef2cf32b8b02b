/** A server that is full is asked again when it says; what is too much is told. */
import { afterEach, beforeEach, expect, test, vi } from "vitest";
import { api, Away, Refused } from "../src/api/client";

const problem = (kind: string, headers: Record<string, string> = {}) =>
  new Response(
    JSON.stringify({ type: `/problems/${kind}`, title: "Full", status: 503, detail: "" }),
    { status: 503, headers: { "content-type": "application/problem+json", ...headers } },
  );

beforeEach(() => {
  vi.useFakeTimers();
});
afterEach(() => {
  vi.useRealTimers();
  vi.unstubAllGlobals();
});

/** Answers one call after the other; how often it was asked. */
function answering(...answers: Response[]): () => number {
  let n = 0;
  vi.stubGlobal("fetch", () =>
    Promise.resolve(answers[Math.min(n++, answers.length - 1)]?.clone()),
  );
  return () => n;
}

test("a full server is asked again after the time it says", async () => {
  const asked = answering(
    problem("no-place", { "Retry-After": "2" }),
    new Response(JSON.stringify([]), { headers: { "content-type": "application/json" } }),
  );
  const revisions = api.revisions("kestrel");
  await vi.advanceTimersByTimeAsync(1900);
  expect(asked()).toBe(1);
  await vi.advanceTimersByTimeAsync(200);
  expect(await revisions).toEqual([]);
  expect(asked()).toBe(2);
});

test("one that stays full is away, and is not asked for ever", async () => {
  const asked = answering(problem("no-place", { "Retry-After": "1" }));
  const away = expect(api.revisions("kestrel")).rejects.toBeInstanceOf(Away);
  await vi.advanceTimersByTimeAsync(60_000);
  await away;
  expect(asked()).toBe(4);
});

test("what is too much to compute is refused and not tried again", async () => {
  const asked = answering(problem("too-much-work"));
  await expect(api.revisions("kestrel")).rejects.toBeInstanceOf(Refused);
  expect(asked()).toBe(1);
});
