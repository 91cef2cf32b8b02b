/**
 * Edits that are more than one value: adding and taking away parts of a job, with everything that
 * refers to them.
 */
import type { Edit, Job, Library, SheetRef } from "../api/client";
import type { Draft } from "./editor";
import { branchIn, branchOut, inverterOut, stringIn, stringOut } from "./plan";
import { apply } from "./pointer";
import { takeOff } from "./roof";

export type JobString = NonNullable<Job["strings"]>[number];

export type JobBranch = NonNullable<Job["branches"]>[number];

export const branches = (job: Job): JobBranch[] => job.branches ?? [];
export const strings = (job: Job): JobString[] => job.strings ?? [];
export const inverters = (job: Job) => job.inverters ?? [];

export const sameSheet = (a: SheetRef, b: SheetRef): boolean =>
  a.sheet === b.sheet && a.revision === b.revision;
export const sheetRef = (s: SheetRef): SheetRef => ({ sheet: s.sheet, revision: s.revision });
export const sheetKey = (s: SheetRef): string => `${s.sheet}/${String(s.revision)}`;
export const sheetName = (s: { model: string; revision: number }): string =>
  `${s.model} rev ${String(s.revision)}`;

/** By maker and model, and of each the newest revision first. */
const inOrder = <T extends SheetRef & { maker: string; model: string }>(sheets: T[]): T[] => {
  const name = (s: T) => `${s.maker} ${s.model} ${s.sheet}`.toLowerCase();
  return sheets.sort((a, b) => name(a).localeCompare(name(b)) || b.revision - a.revision);
};

/** Whether a newer revision of a sheet is among them. */
export const outdated = (s: SheetRef, all: readonly SheetRef[]): boolean =>
  all.some((o) => o.sheet === s.sheet && o.revision > s.revision);

/** The data sheets of the job and of the company, each once; the job's own copy goes first. */
export function bothLibraries(own: Library, company: Library | undefined): Library {
  const join = <T extends SheetRef & { maker: string; model: string }>(a: T[], b: T[]) =>
    inOrder([...a, ...b.filter((x) => !a.some((y) => sameSheet(x, y)))]);
  return {
    modules: join(own.modules, company?.modules ?? []),
    inverters: join(own.inverters, company?.inverters ?? []),
    optimizers: join(own.optimizers, company?.optimizers ?? []),
    micros: join(own.micros, company?.micros ?? []),
    fuses: join(own.fuses, company?.fuses ?? []),
    isolators: join(own.isolators, company?.isolators ?? []),
    surges: join(own.surges, company?.surges ?? []),
    breakers: join(own.breakers, company?.breakers ?? []),
    combiners: join(own.combiners, company?.combiners ?? []),
    enclosures: join(own.enclosures, company?.enclosures ?? []),
  };
}

/** The data sheets the devices and enclosures of a plan refer to. */
function inNodes(job: Job): SheetRef[] {
  const nodes = Object.values(job.plan?.nodes ?? {});
  return nodes.flatMap((n) => [
    ...(n.enclosure ? [n.enclosure] : []),
    ...Object.values(n.devices ?? {}).flatMap((d) => (d.sheet ? [d.sheet] : [])),
  ]);
}

/** A job holds the data sheets it uses, and no others. */
export function withSheets(job: Job, known: Library): Draft {
  const devices = inNodes(job);
  const used = <T extends SheetRef>(all: T[], refs: (SheetRef | null | undefined)[]): T[] =>
    all.filter((s) => refs.some((r) => r != null && sameSheet(r, s)));
  return {
    job,
    library: {
      modules: used(known.modules, [
        ...strings(job).map((s) => s.module),
        ...branches(job).map((b) => b.module),
      ]),
      inverters: used(
        known.inverters,
        inverters(job).map((i) => i.sheet),
      ),
      optimizers: used(
        known.optimizers,
        strings(job).map((s) => s.optimizer),
      ),
      micros: used(
        known.micros,
        branches(job).map((b) => b.micro),
      ),
      fuses: used(known.fuses, devices),
      isolators: used(known.isolators, devices),
      surges: used(known.surges, devices),
      breakers: used(known.breakers, devices),
      combiners: used(known.combiners, devices),
      enclosures: used(known.enclosures, devices),
    },
  };
}

/** Edits the core worked out, with the data sheets they bring in. */
export const applyPlan = (draft: Draft, edits: Edit[], known: Library): Draft =>
  withSheets(apply(draft.job, edits), known);

/** One module from a string to another. */
export function moveModule(draft: Draft, from: number, to: number): Draft {
  const giving = strings(draft.job)[from];
  if (from === to || !giving || giving.n < 2 || !strings(draft.job)[to]) return draft;
  const by = (i: number) => (i === from ? -1 : i === to ? 1 : 0);
  return {
    ...draft,
    job: {
      ...draft.job,
      strings: strings(draft.job).map((s, i) => (by(i) === 0 ? s : { ...s, n: s.n + by(i) })),
    },
  };
}

/** The first free letter: A to Z, then AA and on. */
export function nextLetter(job: Job): string {
  const taken = new Set([...strings(job), ...branches(job)].map((s) => s.letter));
  for (let i = 0; ; i++) {
    const letter =
      i < 26
        ? String.fromCharCode(65 + i)
        : String.fromCharCode(64 + Math.floor(i / 26), 65 + (i % 26));
    if (!taken.has(letter)) return letter;
  }
}

const nextId = (taken: string[], stem: string): string => {
  let i = 1;
  while (taken.includes(`${stem}${String(i)}`)) i++;
  return `${stem}${String(i)}`;
};

/**
 * A new string like the last one, or of the module given; its circuit goes where those of its
 * inverter go.
 */
export function addString(draft: Draft, known: Library, module: SheetRef | undefined): Draft {
  const { job } = draft;
  const last = strings(job).at(-1);
  const face = last?.face ?? job.site.faces[0]?.id;
  const inverter = last?.inverter ?? inverters(job)[0]?.id;
  const sheet = module ?? last?.module;
  if (face === undefined || inverter === undefined || sheet === undefined) return draft;
  const letter = nextLetter(job);
  const added: JobString = {
    letter,
    face,
    inverter,
    module: sheetRef(sheet),
    n: last?.n ?? 8,
    mppt: last?.mppt ?? 1,
  };
  return withSheets(stringIn({ ...job, strings: [...strings(job), added] }, letter), known);
}

/** Takes a string out with its circuit. Its readings stay in the records. */
export function removeString(draft: Draft, letter: string): Draft {
  const { job } = draft;
  const rest = strings(job).filter((s) => s.letter !== letter);
  return withSheets(stringOut({ ...job, strings: rest }, letter), draft.library);
}

export function changeString(
  draft: Draft,
  index: number,
  change: Partial<JobString>,
  known: Library,
): Draft {
  const job = {
    ...draft.job,
    strings: strings(draft.job).map((s, i) => (i === index ? { ...s, ...change } : s)),
  };
  return withSheets(job, known);
}

/** The same change of several strings, as one edit. */
export function changeStrings(
  draft: Draft,
  letters: ReadonlySet<string>,
  change: Partial<JobString>,
  known: Library,
): Draft {
  const changed = (s: JobString) => (letters.has(s.letter) ? { ...s, ...change } : s);
  return withSheets({ ...draft.job, strings: strings(draft.job).map(changed) }, known);
}

/** Takes several strings out, as one edit. */
export const removeStrings = (draft: Draft, letters: ReadonlySet<string>): Draft =>
  [...letters].reduce(removeString, draft);

/** A branch like the last one, or of the first data sheets there are. */
export function addBranch(draft: Draft, known: Library): Draft {
  const { job } = draft;
  const last = branches(job).at(-1);
  const face = last?.face ?? job.site.faces[0]?.id;
  const module = last?.module ?? strings(job)[0]?.module ?? known.modules[0];
  const micro = last?.micro ?? known.micros[0];
  if (face === undefined || !module || !micro) return draft;
  const added: JobBranch = {
    letter: nextLetter(job),
    face,
    module: sheetRef(module),
    micro: sheetRef(micro),
    arms_n: last?.arms_n ?? [10],
    breaker_a: last?.breaker_a ?? 20,
    phase: last?.phase == null ? null : (last.phase % 3) + 1,
  };
  return withSheets(branchIn({ ...job, branches: [...branches(job), added] }, added.letter), known);
}

export function changeBranch(
  draft: Draft,
  index: number,
  change: Partial<JobBranch>,
  known: Library,
): Draft {
  const job = {
    ...draft.job,
    branches: branches(draft.job).map((b, i) => (i === index ? { ...b, ...change } : b)),
  };
  return withSheets(job, known);
}

export const removeBranch = (draft: Draft, letter: string, known: Library): Draft =>
  withSheets(
    branchOut(
      { ...draft.job, branches: branches(draft.job).filter((b) => b.letter !== letter) },
      letter,
    ),
    known,
  );

/** Every string gets this module. */
export function setModule(draft: Draft, known: Library, module: SheetRef): Draft {
  const job = {
    ...draft.job,
    strings: strings(draft.job).map((s) => ({ ...s, module: sheetRef(module) })),
  };
  return withSheets(job, known);
}

export function addInverter(draft: Draft, known: Library, sheet: SheetRef): Draft {
  const id = nextId(
    inverters(draft.job).map((i) => i.id),
    "INV",
  );
  return withSheets(
    { ...draft.job, inverters: [...inverters(draft.job), { id, sheet: sheetRef(sheet) }] },
    known,
  );
}

export function swapInverter(draft: Draft, known: Library, id: string, sheet: SheetRef): Draft {
  const swapped = inverters(draft.job).map((i) =>
    i.id === id ? { ...i, sheet: sheetRef(sheet) } : i,
  );
  return withSheets({ ...draft.job, inverters: swapped }, known);
}

/** Takes out an inverter with nothing on it, and its output. */
export function removeInverter(draft: Draft, id: string): Draft {
  const { job } = draft;
  const rest = inverters(job).filter((i) => i.id !== id);
  return withSheets(inverterOut({ ...job, inverters: rest }, id), draft.library);
}

export function addFace(job: Job): Job {
  const id = nextId(
    job.site.faces.map((f) => f.id),
    "face",
  );
  const face = {
    id,
    name: `Face ${String(job.site.faces.length + 1)}`,
    tilt_deg: 30,
    azimuth_deg: 180,
  };
  return { ...job, site: { ...job.site, faces: [...job.site.faces, face] } };
}

/** Takes out a face with nothing on it, its map too. */
export function removeFace(job: Job, id: string): Job {
  const gone = Object.keys(job.roof?.[id]?.modules ?? {});
  const maps = Object.entries(job.roof ?? {}).filter(([face]) => face !== id);
  const bare = gone.length > 0 ? takeOff(job, id, gone) : job;
  return {
    ...bare,
    site: { ...bare.site, faces: bare.site.faces.filter((f) => f.id !== id) },
    roof: Object.fromEntries(maps),
  };
}
