/** Calls to the server. Every refusal is an RFC 9457 problem; every other failure is "away". */
import type { components } from "./generated";

type S = components["schemas"];
export type Account = S["Account"];
export type JobLine = S["JobLine"];
export type Job = S["Job"];
export type Library = S["Library"];
export type Reading = S["ReadingValues"];
export type Problem = S["Problem"];
export type Verdict = S["Verdict"];
export type Stage = S["Stage"];
export type Check = S["Check"];
export type Unit = S["Unit"];
export type Subject = S["Subject"];
export type StringWindow = S["StringWindow"];
export type RacewayCut = S["RacewayCut"];
export type MeterStrip = S["MeterStrip"];
export type Run = S["Run"];
export type Segment = S["Segment"];
export type ModuleSheet = S["ModuleSheet"];
export type InverterSheet = S["InverterSheet"];
export type SheetRef = S["SheetRef"];
export type Cause = S["Cause"];
export type Tape = S["Tape"];
export type Edit = S["Edit"];
export type Counts = S["Counts"];
export type Choices = S["Choices"];
export type RevisionLine = S["RevisionLine"];
export type Role = S["Role"];
export type Leg = S["Leg"];
export type Route = S["Route"];
/** A number, a size or code, yes or no; absent when it cannot be had. */
export type Value = number | string | boolean | null | undefined;
export type Line = Omit<S["Line"], "value"> & { value: Value };
export type Figure = Omit<S["Figure"], "value" | "working"> & { value?: Value; working: Line[] };
export type Report = Omit<S["Report"], "figures"> & { figures: Figure[] };
export type JobView = Omit<S["JobView"], "report"> & { report: Report };
export type Field = S["Field"];
export type SheetKind = S["SheetKind"];
export type SheetLine = S["SheetLine"];
export type Judged = Omit<S["Judged"], "figures"> & { figures: Figure[] };
export type About = S["About"];
export type Consequences = S["Consequences"];
export type Change = S["Change"];
export type Stop = S["Stop"];
export type Imported = S["Imported"];
export type Watch = S["Watch"];
export type Repair = S["Repair"];
export type Ways = S["Ways"];
export type Way = S["Way"];
export type WaysAsk = S["WaysAsk"];
export type Note = S["Note"];
export type Sum = S["Sum"];
export type SumInput = S["Input"];
export type SumSlip = Omit<S["Slip"], "figures" | "answers"> & { figures: Figure[]; answers: Figure[] };
export type Weather = S["Weather"];
export type WeatherBin = S["WeatherBin"];
export type ColdBy = S["ColdBy"];
export type Preview = Omit<S["Preview"], "figures"> & { figures: Figure[] };

/** The server said no, and why. */
export class Refused extends Error {
  constructor(
    readonly status: number,
    readonly kind: string,
    title: string,
    readonly detail: string,
    readonly errors: Problem[],
    readonly current: JobView | null,
  ) {
    super(title);
  }
}

/** The server or its database does not answer: worth trying again. */
export class Away extends Error {}

/** What was refused, with every place. */
export interface Refusal {
  message: string;
  errors: Problem[];
}

export const refusal = (error: unknown): Refusal =>
  error instanceof Refused
    ? { message: error.message, errors: error.errors }
    : { message: "The server does not answer. Try again in a moment.", errors: [] };

/** Tries again three times, but never what the server refused. */
export const unlessRefused = (count: number, error: Error): boolean => !(error instanceof Refused) && count < 3;

async function call<T>(method: string, path: string, body?: unknown): Promise<T> {
  let response: Response;
  try {
    response = await fetch(`/api${path}`, {
      method,
      headers: body === undefined ? {} : { "content-type": "application/json" },
      body: body === undefined ? null : typeof body === "string" ? body : JSON.stringify(body),
    });
  } catch {
    throw new Away("The server does not answer");
  }
  if (response.status === 204) return undefined as T;
  if (response.ok) return (await response.json()) as T;
  if (response.status === 503 || response.status === 502) throw new Away("The database does not answer");
  const problem = (await response.json().catch(() => ({}))) as Partial<S["ProblemBody"]>;
  throw new Refused(
    response.status,
    (problem.type ?? "").replace("/problems/", ""),
    problem.title ?? `The server answered ${String(response.status)}`,
    problem.detail ?? "",
    problem.errors ?? [],
    (problem.current as JobView | null | undefined) ?? null,
  );
}

export const api = {
  who: () => call<Account>("GET", "/session"),
  signIn: (sign_in: string, password: string) => call<Account>("POST", "/session", { sign_in, password }),
  signOut: () => call<undefined>("DELETE", "/session"),
  jobs: () => call<JobLine[]>("GET", "/jobs"),
  createJob: (name: string, school: "na" | "iec") => call<{ id: string }>("POST", "/jobs", { name, school }),
  importJob: (text: string) => call<{ id: string; changes: string[] }>("POST", "/jobs/import", text),
  duplicateJob: (id: string) => call<{ id: string }>("POST", `/jobs/${id}/duplicate`),
  job: (id: string) => call<JobView>("GET", `/jobs/${id}`),
  save: (id: string, base_revision: number, job: Job, library: Library) =>
    call<JobView>("PUT", `/jobs/${id}`, { base_revision, job, library }),
  revisions: (id: string) => call<RevisionLine[]>("GET", `/jobs/${id}/revisions`),
  library: () => call<Library>("GET", "/library"),
  choices: (school: Job["school"]) => call<Choices>("GET", `/choices/${school}`),
  tryPlan: (job: Job, library: Library) => call<Report>("POST", "/try", { job, library }),
  ways: (job: Job, library: Library, ask: WaysAsk | null) => call<Ways>("POST", "/ways", { job, library, ask }),
  watch: (id: string) => call<Watch[]>("GET", `/jobs/${id}/watch`),
  sheets: () => call<SheetLine[]>("GET", "/sheets"),
  sheetFields: (kind: SheetKind) => call<Field[]>("GET", `/sheets/${kind}/fields`),
  judgeSheet: (entry: S["JudgeSheet"]) => call<Judged>("POST", "/sheets/judge", entry),
  addSheet: (entry: S["NewSheet"]) => call<Consequences>("POST", "/sheets", entry),
  consequences: (kind: SheetKind, sheet: string) =>
    call<Consequences>("GET", `/sheets/${kind}/${encodeURIComponent(sheet)}/consequences`),
  retireSheet: (kind: SheetKind, sheet: string, retired: boolean) =>
    call<undefined>("POST", `/sheets/${kind}/${encodeURIComponent(sheet)}/retire`, { retired }),
  importSheets: (entry: S["ImportSheets"]) => call<Imported>("POST", "/sheets/import", entry),
  sums: () => call<Sum[]>("GET", "/sums"),
  doSum: (name: string, school: Job["school"], inputs: Record<string, unknown>) =>
    call<SumSlip>("POST", `/sums/${name}`, { school, inputs }),
  sumToJob: (name: string, school: Job["school"], inputs: Record<string, unknown>) =>
    call<{ id: string }>("POST", `/sums/${name}/job`, { school, inputs }),
  weather: (text: string) => call<Weather>("POST", "/weather", text),
  demoWeather: async () => (await fetch("/api/weather/demo")).text(),
  accounts: () => call<Account[]>("GET", "/accounts"),
  addAccount: (entry: S["AccountEntry"]) => call<Account>("POST", "/accounts", entry),
  changeAccount: (id: string, change: S["AccountChange"]) => call<Account>("PATCH", `/accounts/${id}`, change),
  preview: (id: string, reading: Reading) => call<Preview>("POST", `/jobs/${id}/readings/preview`, reading),
  addReading: (id: string, reading: Reading) => call<JobView>("POST", `/jobs/${id}/readings`, reading),
};
