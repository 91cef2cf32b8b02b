/**
 * The job in hand: edits at once, saves behind them one by one. Nothing that was typed is lost:
 * while the server is away the edit stays here and in the browser's store and is tried again; a
 * conflict keeps both versions.
 */
import {
  api,
  Away,
  Refused,
  type Job,
  type JobView,
  type Outcome,
  type Problem,
} from "../api/client";
import { merged } from "./merge";
import { differences } from "./pointer";
import { whatMoved } from "./report";
import { keepSteps, steps } from "./undoing";
import { forget, keep, unsaved, type Draft } from "./unsaved";

export type { Draft };

export type Saving =
  | { state: "saved" }
  | { state: "saving" }
  | { state: "away" }
  | { state: "refused"; message: string; errors: Problem[] }
  | { state: "conflict"; theirs: JobView };

export interface Snapshot {
  view: JobView;
  draft: Draft;
  saving: Saving;
  moved: string | null;
  canUndo: boolean;
  canRedo: boolean;
}

const alike = (one: Draft, other: Draft): boolean =>
  differences(one.job, other.job).length === 0 &&
  differences(one.library, other.library).length === 0;

/** A state to go back or on to; a number stands for a revision that has to be fetched. */
type Step = Draft | number;

export class Editor {
  private listeners = new Set<() => void>();
  private past: Step[] = [];
  private future: Step[] = [];
  /** The revision that holds a state. */
  private saved = new WeakMap<Draft, number>();
  private stepping = false;
  private draft: Draft;
  private saving: Saving = { state: "saved" };
  private moved: string | null = null;
  private running = false;
  private timer: ReturnType<typeof setTimeout> | null = null;
  private snapshot: Snapshot;

  /**
   * `said` is what is to be told on opening. `still`: a job that is only looked at, as it stood at
   * an earlier revision.
   */
  constructor(
    private view: JobView,
    said: string | null = null,
    private readonly still = false,
  ) {
    this.moved = said;
    this.draft = { job: view.job, library: view.library };
    this.saved.set(this.draft, view.revision);
    if (!still) ({ past: this.past, future: this.future } = steps(view.id, view.revision));
    this.snapshot = this.make();
    if (still) return;
    const kept = unsaved(view.id);
    if (kept && alike(kept.draft, view)) {
      // It was saved as the page went, and only the answer was lost.
      forget(view.id);
    } else if (kept) {
      this.past.push(this.draft);
      this.draft = kept.draft;
      if (kept.base === view.revision) void this.flush();
      else this.saving = { state: "conflict", theirs: view };
      this.snapshot = this.make();
    }
  }

  subscribe = (listener: () => void): (() => void) => {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  };

  get = (): Snapshot => this.snapshot;

  private make(): Snapshot {
    return {
      view: this.view,
      draft: this.draft,
      saving: this.saving,
      moved: this.moved,
      canUndo: this.past.length > 0,
      canRedo: this.future.length > 0,
    };
  }

  private tell(): void {
    this.snapshot = this.make();
    for (const listener of this.listeners) listener();
  }

  edit(change: (draft: Draft) => Draft): void {
    if (this.still) return;
    const next = change(this.draft);
    if (next === this.draft) return;
    this.past.push(this.draft);
    this.future = [];
    this.move(next);
  }

  editJob(change: (job: Job) => Job): void {
    this.edit((draft) => {
      const job = change(draft.job);
      return job === draft.job ? draft : { ...draft, job };
    });
  }

  undo(): void {
    this.step(this.past, this.future);
  }

  redo(): void {
    this.step(this.future, this.past);
  }

  private step(from: Step[], to: Step[]): void {
    const state = this.stepping ? undefined : from.at(-1);
    if (state === undefined) return;
    const go = (draft: Draft) => {
      from.pop();
      to.push(this.draft);
      this.move(draft);
    };
    if (typeof state === "number") void this.fetched(state, go);
    else go(state);
  }

  /** A state of before a reload. */
  private async fetched(revision: number, go: (draft: Draft) => void): Promise<void> {
    const here = this.draft;
    this.stepping = true;
    try {
      const { job, library } = await api.revision(this.view.id, revision);
      const draft = { job, library };
      this.saved.set(draft, revision);
      // Whoever edits meanwhile goes on from there.
      if (this.draft === here) go(draft);
    } catch {
      this.moved = `Revision ${String(revision)} cannot be fetched now: try again`;
      this.tell();
    } finally {
      this.stepping = false;
    }
  }

  /** Keeps what can be undone over a reload: what was saved, by its revision. */
  private remember(): void {
    const numbers = (all: Step[]) =>
      all.flatMap((s) => (typeof s === "number" ? [s] : (this.saved.get(s) ?? [])));
    const { id, revision } = this.view;
    keepSteps(id, { at: revision, past: numbers(this.past), future: numbers(this.future) });
  }

  private move(draft: Draft): void {
    this.draft = draft;
    keep(this.view, draft);
    if (this.saving.state === "conflict") this.tell();
    else void this.flush();
  }

  private get dirty(): boolean {
    return this.draft.job !== this.view.job || this.draft.library !== this.view.library;
  }

  private async flush(): Promise<void> {
    if (this.running) {
      this.tell();
      return;
    }
    this.running = true;
    while (this.dirty) {
      const sent = this.draft;
      // While the server is away the sign stays until a save has gone through.
      if (this.saving.state !== "away") this.saving = { state: "saving" };
      this.tell();
      try {
        const { id, revision, version } = this.view;
        this.took(await api.save(id, { base_revision: revision, version, ...sent }), sent);
      } catch (error) {
        if (!this.failed(error, sent)) break;
      }
    }
    this.running = false;
    this.tell();
  }

  private took(saved: Outcome, sent: Draft): void {
    this.moved = whatMoved(this.view, { job: sent.job, report: saved.report });
    this.view = { ...this.view, ...saved, ...sent };
    this.saving = { state: "saved" };
    this.saved.set(sent, saved.revision);
    this.remember();
    if (this.dirty) keep(this.view, this.draft);
    else forget(this.view.id);
  }

  /** Two edits of different things on the roof map stand side by side: ours goes on over theirs. */
  private joined(theirs: JobView): boolean {
    if (differences(this.view.library, theirs.library).length > 0) return false;
    const job = merged(this.view.job, this.draft.job, theirs.job);
    if (!job) return false;
    this.moved = `Joined with revision ${String(theirs.revision)} by ${theirs.saved_by}`;
    this.view = theirs;
    this.past = [];
    this.future = [];
    this.draft = { job, library: this.draft.library };
    keep(this.view, this.draft);
    return true;
  }

  /** Whether it is worth going on at once: only where something newer was typed meanwhile. */
  private failed(error: unknown, sent: Draft): boolean {
    if (error instanceof Refused && error.kind === "conflict" && error.current) {
      const { job, library } = error.current;
      // The save had gone through and only its answer was lost: what stands there is what was sent.
      if (alike(sent, { job, library })) {
        this.took(error.current, sent);
        return true;
      }
      if (this.joined(error.current)) return true;
      this.saving = { state: "conflict", theirs: error.current };
      return false;
    }
    if (error instanceof Refused) {
      this.saving = {
        state: "refused",
        message: `${error.message}. ${error.detail}`,
        errors: error.errors,
      };
      return this.draft !== sent;
    }
    this.saving = { state: "away" };
    if (this.timer === null) {
      this.timer = setTimeout(() => {
        this.timer = null;
        void this.flush();
      }, 1500);
    }
    if (!(error instanceof Away)) console.error(error);
    return false;
  }

  /** Somebody else saved or read: take it in, unless something of ours waits. */
  async refresh(heard: { revision?: number; what?: "saved" | "read" }): Promise<void> {
    if (this.dirty || this.running) return;
    // Our own save comes back as an event too.
    if (
      heard.what === "saved" &&
      heard.revision !== undefined &&
      heard.revision <= this.view.revision
    )
      return;
    try {
      const fresh = await api.job(this.view.id);
      if (this.dirty || this.running) return;
      if (fresh.revision !== this.view.revision) {
        this.past = [];
        this.future = [];
        this.moved = `Revision ${String(fresh.revision)} by ${fresh.saved_by}`;
      }
      this.replace(fresh);
    } catch {
      // The next event or edit looks again.
    }
  }

  /** What a reading came to; where somebody has saved meanwhile, the whole job is fetched. */
  read(outcome: Outcome): void {
    if (outcome.revision === this.view.revision) this.replace({ ...this.view, ...outcome });
    else void this.refresh({});
  }

  private replace(view: JobView): void {
    const clean = !this.dirty;
    this.view = view;
    if (clean) {
      this.draft = { job: view.job, library: view.library };
      this.saved.set(this.draft, view.revision);
    }
    this.tell();
  }

  /**
   * Conflict: ours goes over theirs as the next revision; theirs stays in the list of revisions.
   */
  keepMine(): void {
    if (this.saving.state !== "conflict") return;
    this.view = this.saving.theirs;
    this.saving = { state: "saving" };
    void this.flush();
  }

  /** Conflict: theirs stands; ours can be had back by undo. */
  takeTheirs(): void {
    if (this.saving.state !== "conflict") return;
    const mine = this.draft;
    this.view = this.saving.theirs;
    this.past.push(mine);
    this.draft = { job: this.view.job, library: this.view.library };
    this.saved.set(this.draft, this.view.revision);
    this.saving = { state: "saved" };
    forget(this.view.id);
    this.tell();
  }
}
