import { afterEach, beforeEach, expect, test, vi } from "vitest";
import type { JobView } from "../src/api/client";
import { Editor } from "../src/model/editor";
import { setAt } from "../src/model/pointer";
import { broughtUp } from "../src/model/unsaved";
import { draft } from "./jobs";

const report = {
  school: "na",
  subjects: [],
  raceway_cuts: [],
  readings: [],
  counts: { pass: 0, warn: 0, fail: 0, unknown: 0 },
};

const view = (revision = 1, by = "Tomas"): JobView =>
  ({
    id: "job-1",
    version: 2,
    revision,
    saved_at: "",
    saved_by: by,
    ...draft(),
    report: { ...report, figures: [], checks: [] },
  }) as unknown as JobView;

interface Sent {
  base_revision: number;
  version: number;
  job: JobView["job"];
  library: JobView["library"];
}

/** The server's revisions, by number. */
const stored = new Map<number, JobView>();
let sent: Sent[] = [];
/** What the server answers to each save in turn; the last goes on. */
let answers: ((body: Sent) => Response | Promise<Response>)[] = [];

const json = (body: unknown, status = 200) => new Response(JSON.stringify(body), { status });
/** What a save answers: neither job nor data sheets, which were sent. */
const saves = (body: Sent) =>
  json({ revision: body.base_revision + 1, saved_at: "", saved_by: "Tomas", report });

interface Migrate {
  version: number;
  job: JobView["job"];
  library: JobView["library"];
}

/** What the server makes of a plan of another version. */
let migrates: (body: Migrate) => Response = () => json({}, 500);

beforeEach(() => {
  sent = [];
  stored.clear();
  answers = [saves];
  const store = new Map<string, string>();
  vi.stubGlobal("localStorage", {
    getItem: (k: string) => store.get(k) ?? null,
    setItem: (k: string, v: string) => store.set(k, v),
    removeItem: (k: string) => store.delete(k),
  });
  vi.stubGlobal("fetch", async (request: Request) => {
    const asked = /\/revisions\/(\d+)$/.exec(request.url)?.[1];
    if (asked !== undefined) {
      const then = stored.get(Number(asked));
      return then ? json({ ...then, report }) : json({}, 503);
    }
    const body = (await request.json()) as Sent;
    if (request.url.endsWith("/api/migrate")) return migrates(body as unknown as Migrate);
    sent.push(body);
    const answer = answers.length > 1 ? answers.shift() : answers[0];
    return answer?.(body) ?? json({}, 500);
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

test("undo and redo survive a reload, by the revisions that hold the states", async () => {
  const first = new Editor(view());
  put(first, 11);
  await settled(first, "saved");
  put(first, 10);
  await settled(first, "saved");
  first.undo();
  await settled(first, "saved");
  expect([first.get().view.revision, count(first)]).toEqual([4, 11]);
  stored.set(1, view(1));
  stored.set(3, { ...view(3), job: setAt(view(3).job, "/strings/0/n", 10) });

  const again = () => {
    const now = first.get().view;
    return new Editor({ ...view(now.revision), job: now.job, library: now.library });
  };
  const reloaded = again();
  expect([reloaded.get().canUndo, reloaded.get().canRedo]).toEqual([true, true]);
  reloaded.redo();
  await vi.waitFor(() => {
    expect(count(reloaded)).toBe(10);
  });
  await settled(reloaded, "saved");
  // Back over the reload: in hand first, then the one that is fetched.
  reloaded.undo();
  expect(count(reloaded)).toBe(11);
  await settled(reloaded, "saved");
  reloaded.undo();
  await vi.waitFor(() => {
    expect(count(reloaded)).toBe(12);
  });
  expect(reloaded.get().canUndo).toBe(false);
});

test("steps of a job that somebody else saved since are worth nothing", async () => {
  const first = new Editor(view());
  put(first, 11);
  await settled(first, "saved");
  expect(new Editor(view(3)).get().canUndo).toBe(false);
});

test("a step whose revision cannot be fetched stays, and it is said", async () => {
  const first = new Editor(view());
  put(first, 11);
  await settled(first, "saved");
  stored.clear();
  const reloaded = new Editor({ ...view(2), job: first.get().view.job });
  reloaded.undo();
  await vi.waitFor(() => {
    expect(reloaded.get().moved).toBe("Revision 1 cannot be fetched now: try again");
  });
  expect([count(reloaded), reloaded.get().canUndo]).toEqual([11, true]);
});

test("a revision that is looked at takes no edit and leaves what is unsaved alone", () => {
  answers = [() => new Promise<Response>(() => undefined)];
  put(new Editor(view(4)), 11);
  const looked = new Editor(view(2), null, true);
  put(looked, 9);
  expect([count(looked), looked.get().saving.state, looked.get().canUndo]).toEqual([
    12,
    "saved",
    false,
  ]);
  expect(count(new Editor(view(4)))).toBe(11);
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
  expect(saving.state === "refused" ? saving.errors.map((e) => e.path) : []).toEqual([
    "/job/strings/0/n",
  ]);
  expect(count(editor)).toBe(900);
});

const conflict = (current: JobView) => () =>
  json(
    { type: "/problems/conflict", title: "Late", detail: "", current: { ...current, report } },
    409,
  );

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

const store = (kept: unknown) => {
  localStorage.setItem("heliant.unsaved.job-1", JSON.stringify(kept));
};

test("an unsaved edit carries its format's version, in the store and when it is sent", async () => {
  answers = [() => json({}, 503)];
  vi.useFakeTimers();
  const editor = new Editor(view(3));
  put(editor, 11);
  await vi.waitFor(() => {
    expect(editor.get().saving.state).toBe("away");
  });
  expect(sent[0]?.version).toBe(2);
  const text = localStorage.getItem("heliant.unsaved.job-1") ?? "";
  expect(JSON.parse(text)).toMatchObject({ version: 2, base: 3 });
});

test("one of an older version goes through the migrating reader first", async () => {
  const asked: number[] = [];
  migrates = ({ version, job, library }) => {
    asked.push(version);
    return json({ version: 2, job: setAt(job, "/strings/0/n", 7), library });
  };
  store({ version: 1, base: 1, draft: draft() });
  expect(await broughtUp(view())).toBeNull();
  const editor = new Editor(view());
  await settled(editor, "saved");
  expect([asked, sent[0]?.job.strings?.[0]?.n, count(editor)]).toEqual([[1], 7, 7]);
});

test("one without a version is of the format before versions, and is taken as it is", async () => {
  store({ base: 1, draft: { ...draft(), job: setAt(draft().job, "/strings/0/n", 9) } });
  expect(await broughtUp(view())).toBeNull();
  const editor = new Editor(view());
  expect(count(editor)).toBe(9);
  await settled(editor, "saved");
});

test("one that no reader takes is put aside with a sentence, and not thrown away", async () => {
  migrates = () => json({ type: "/problems/newer", title: "Written by a newer version" }, 422);
  store({ version: 9, base: 1, draft: draft() });
  const said = await broughtUp(view());
  expect(said).toContain("Written by a newer version");
  expect(localStorage.getItem("heliant.unsaved.job-1")).toBeNull();
  expect(localStorage.getItem("heliant.unreadable.job-1")).toContain('"version":9');
  expect(new Editor(view(), said).get().moved).toBe(said);
});

test("while the server is away it stays where it is", async () => {
  migrates = () => json({}, 503);
  store({ version: 1, base: 1, draft: draft() });
  await expect(broughtUp(view())).rejects.toThrow();
  expect(localStorage.getItem("heliant.unsaved.job-1")).toContain('"version":1');
});

test("a reading that answers of another revision fetches the whole job", async () => {
  const fresh = { ...view(5, "Mira"), report };
  const asked: string[] = [];
  vi.stubGlobal("fetch", (request: Request) => {
    asked.push(new URL(request.url).pathname);
    return Promise.resolve(json(fresh));
  });
  const editor = new Editor(view(1));
  const said = { revision: 1, saved_at: "", saved_by: "", report: editor.get().view.report };
  editor.read(said);
  expect(asked).toEqual([]);
  editor.read({ ...said, revision: 5 });
  await vi.waitFor(() => {
    expect(editor.get().view.revision).toBe(5);
  });
  expect(asked).toEqual(["/api/jobs/job-1"]);
});
