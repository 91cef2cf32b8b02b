import { afterEach, beforeEach, expect, test, vi } from "vitest";
import type { JobView } from "../src/api/client";
import { Editor } from "../src/model/editor";
import { setAt } from "../src/model/pointer";
import { draft } from "./jobs";

const report = { figures: [], checks: [], counts: { pass: 0, warn: 0, fail: 0, unknown: 0 } };

const view = (revision = 1, by = "Tomas"): JobView =>
  ({ id: "job-1", revision, saved_at: "", saved_by: by, ...draft(), report }) as unknown as JobView;

interface Sent {
  base_revision: number;
  job: JobView["job"];
  library: JobView["library"];
}

let sent: Sent[] = [];
/** What the server answers to each save in turn; the last goes on. */
let answers: ((body: Sent) => Response | Promise<Response>)[] = [];

const json = (body: unknown, status = 200) => new Response(JSON.stringify(body), { status });
const saves = (body: Sent) => json({ ...view(body.base_revision + 1), job: body.job, library: body.library });

beforeEach(() => {
  sent = [];
  answers = [saves];
  const store = new Map<string, string>();
  vi.stubGlobal("localStorage", {
    getItem: (k: string) => store.get(k) ?? null,
    setItem: (k: string, v: string) => store.set(k, v),
    removeItem: (k: string) => store.delete(k),
  });
  vi.stubGlobal("fetch", (_: string, init: { body: string }) => {
    const body = JSON.parse(init.body) as Sent;
    sent.push(body);
    const answer = answers.length > 1 ? answers.shift() : answers[0];
    return Promise.resolve(answer?.(body) ?? json({}, 500));
  });
});

afterEach(() => {
  vi.unstubAllGlobals();
  vi.useRealTimers();
});

const count = (editor: Editor) => editor.get().draft.job.strings?.[0]?.n;
const put = (editor: Editor, n: number) => {
  editor.editJob((j) => setAt(j, "/strings/0/n", n));
};
const settled = async (editor: Editor, state: string) => {
  await vi.waitFor(() => {
    expect(editor.get().saving.state).toBe(state);
  });
};

test("an edit shows at once and is saved over the revision it started from", async () => {
  const editor = new Editor(view(4));
  put(editor, 11);
  expect(count(editor)).toBe(11);
  await settled(editor, "saved");
  expect(sent.map((s) => s.base_revision)).toEqual([4]);
  expect(editor.get().view.revision).toBe(5);
});

test("edits made while a save is under way go in the next one, together", async () => {
  const editor = new Editor(view());
  put(editor, 11);
  put(editor, 10);
  put(editor, 9);
  await settled(editor, "saved");
  expect(sent.map((s) => s.job.strings?.[0]?.n)).toEqual([11, 9]);
  expect(sent.map((s) => s.base_revision)).toEqual([1, 2]);
});

test("undo and redo go back and forth, a new edit ends the redoing", async () => {
  const editor = new Editor(view());
  put(editor, 11);
  put(editor, 10);
  editor.undo();
  expect([count(editor), editor.get().canRedo]).toEqual([11, true]);
  editor.undo();
  expect([count(editor), editor.get().canUndo]).toEqual([12, false]);
  editor.redo();
  expect(count(editor)).toBe(11);
  put(editor, 8);
  expect(editor.get().canRedo).toBe(false);
  await settled(editor, "saved");
  expect(sent.at(-1)?.job.strings?.[0]?.n).toBe(8);
});

test("an edit that changes nothing is none", () => {
  const editor = new Editor(view());
  editor.editJob((j) => j);
  expect([editor.get().canUndo, sent.length]).toEqual([false, 0]);
});

test("while the server is away the edit is kept in the browser and tried again", async () => {
  vi.useFakeTimers();
  answers = [() => json({}, 503), saves];
  const editor = new Editor(view());
  put(editor, 11);
  await vi.waitFor(() => {
    expect(editor.get().saving.state).toBe("away");
  });
  expect(localStorage.getItem("heliant.unsaved.job-1")).toContain('"n":11');
  await vi.advanceTimersByTimeAsync(1600);
  expect(editor.get().saving.state).toBe("saved");
  expect(localStorage.getItem("heliant.unsaved.job-1")).toBeNull();
  expect(count(editor)).toBe(11);
});

test("what a closed tab left behind is taken up again", async () => {
  localStorage.setItem(
    "heliant.unsaved.job-1",
    JSON.stringify({ base: 1, draft: { ...draft(), job: setAt(draft().job, "/strings/0/n", 9) } }),
  );
  const editor = new Editor(view());
  expect(count(editor)).toBe(9);
  await settled(editor, "saved");
  expect(sent[0]?.job.strings?.[0]?.n).toBe(9);
});

test("a refusal keeps what was typed and names its places", async () => {
  answers = [
    () =>
      json(
        {
          type: "/problems/invalid",
          title: "No",
          detail: "n",
          errors: [{ path: "/job/strings/0/n", message: "is too large" }],
        },
        422,
      ),
  ];
  const editor = new Editor(view());
  put(editor, 900);
  await settled(editor, "refused");
  const saving = editor.get().saving;
  expect(saving.state === "refused" ? saving.errors.map((e) => e.path) : []).toEqual(["/job/strings/0/n"]);
  expect(count(editor)).toBe(900);
});

const conflict = (current: JobView) => () =>
  json({ type: "/problems/conflict", title: "Late", detail: "", current }, 409);

test("of two versions the own one may stay: it goes over the other", async () => {
  const theirs = { ...view(7, "Mira"), job: setAt(draft().job, "/strings/0/n", 10) };
  answers = [conflict(theirs), saves];
  const editor = new Editor(view(6));
  put(editor, 11);
  await settled(editor, "conflict");
  editor.keepMine();
  await settled(editor, "saved");
  expect(sent.map((s) => s.base_revision)).toEqual([6, 7]);
  expect(count(editor)).toBe(11);
});

test("or the other one may stand: the own one is had back by undo", async () => {
  const theirs = { ...view(7, "Mira"), job: setAt(draft().job, "/strings/0/n", 10) };
  answers = [conflict(theirs), saves];
  const editor = new Editor(view(6));
  put(editor, 11);
  await settled(editor, "conflict");
  editor.takeTheirs();
  expect([count(editor), editor.get().view.revision, sent.length]).toEqual([10, 7, 1]);
  editor.undo();
  await settled(editor, "saved");
  expect([count(editor), sent.at(-1)?.base_revision]).toEqual([11, 7]);
});

test("a save whose answer was lost is no conflict with oneself", async () => {
  const lost: Sent[] = [];
  answers = [
    (body) => {
      lost.push(body);
      return json({}, 502);
    },
    (body) => conflict({ ...view(2), job: body.job, library: body.library })(),
  ];
  vi.useFakeTimers();
  const editor = new Editor(view());
  put(editor, 11);
  await vi.waitFor(() => {
    expect(lost).toHaveLength(1);
  });
  await vi.advanceTimersByTimeAsync(1600);
  expect([editor.get().saving.state, editor.get().view.revision]).toEqual(["saved", 2]);
});
