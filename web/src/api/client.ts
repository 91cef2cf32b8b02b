/**
 * Calls to the server, typed by the API's own description. Every refusal is an RFC 9457 problem;
 * every other failure is "away".
 */
import createClient from "openapi-fetch";
import { spread, unpacked } from "../model/report";
import type { components, paths } from "./generated";

type S = components["schemas"];
export type Account = S["Account"];
/** What units are shown. */
export type Shown = S["Shown"];
export type ShownTo = S["ShownTo"];
export type Guests = S["Guests"];
/** A cure; where it was tried, with the cautions that come with it. */
export type TriedCure = Omit<S["TriedCure"], "cautions"> &
  Partial<Pick<S["TriedCure"], "cautions">>;
export type JobLine = S["JobLine"];
/** What is looked for in the list of jobs. */
export type JobsWanted = Omit<
  NonNullable<paths["/api/jobs"]["get"]["parameters"]["query"]>,
  "page"
>;
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
export type ModuleSheet = S["ModuleSheet"];
export type InverterSheet = S["InverterSheet"];
export type SheetRef = S["SheetRef"];
export type Cause = S["Cause"];
export type Tape = S["Tape"];
export type Edit = S["Edit"];
export type Counts = S["Counts"];
export type Choices = S["Choices"];
export type RevisionLine = S["RevisionLine"];
export type Compared = S["Compared"];
export type Role = S["Role"];
export type Plan = S["Plan"];
export type Circuit = S["Circuit"];
export type Leg = S["Leg"];
export type Node = S["Node"];
export type Device = S["Device"];
export type End = S["End"];
export type Part = S["Part"];
export type PlanWay = S["PlanWay"];
export type Command = S["Command"];
export type EnclosureDrawing = S["EnclosureDrawing"];
export type Board = S["Board"];
export type PanelChoice = S["PanelChoice"];
export type Bonding = S["Bonding"];
export type MetalPart = S["MetalPart"];
export type BondEdge = S["BondEdge"];
export type Demand = S["Demand"];
export type OneLineSheet = S["OneLineSheet"];
export type OneLineMark = S["Drawn"];
export type Label = S["Label"];
export type Fault = S["Fault"];
export type Route = S["Route"];
export type Wires = S["Wires"];
export type RouteRow = Omit<S["RouteRow"], "figures"> & { figures: Figure[] };
export type Rate = S["Rate"];
export type Reuse = S["Reuse"];
export type LaidIn = S["LaidIn"];
export type StockPiece = S["StockPiece"];
export type FaceMap = S["FaceMap"];
export type Placed = S["Placed"];
/** A place on a face, mm along the eave and up the slope. */
export type Point = [number, number];
/** A box on a face, mm: left, lower, right, upper. */
export type Area = [number, number, number, number];
/** A module of the draft, with its corners and exits. */
export interface RoofModule {
  key: string;
  area_mm: Area;
  plus_mm: Point | null;
  minus_mm: Point | null;
  landscape: boolean;
  turned: boolean;
  /** The string it is in, and its place there from 1. */
  string: string | null;
  place: number | null;
  reversed: boolean;
  /** It stays in its string when the face is routed again. */
  pinned: boolean;
  serial: string | null;
}
export interface RoofJoin {
  /** Place of the module before it, from 1. */
  place: number;
  after: string;
  before: string;
  from_mm: Point | null;
  to_mm: Point | null;
  verdict: Verdict;
  path_m: number | null;
  jumper_m: number | null;
}
interface RoofTail {
  from_mm: Point;
  to_mm: Point;
  wire_m: number;
}
export type RoofString = Omit<S["RoofString"], "tail_plus" | "tail_minus"> & {
  /** Modules it has on the map. */
  on_map_n: number;
  joins: RoofJoin[];
  tail_plus?: RoofTail | null;
  tail_minus?: RoofTail | null;
};
/** From one unit of a branch to the next, as it is drawn on a face. */
export interface RoofHop {
  /** Place of the unit before it, from 1. */
  place: number;
  after: string;
  from_mm: Point;
  to_mm: Point;
  verdict: Verdict;
  bridged: boolean;
}
/** A trunk on a face: from unit to unit, and from the box to each arm's first. */
export interface DrawnTrunk {
  letter: string;
  hops: RoofHop[];
  feeds: [Point, Point][];
}
export type RoofTrunk = S["RoofTrunk"];
export type RowShade = S["RowShade"];
export type FrameRows = S["FrameRows"];
export type Along = S["Along"];
/** A face of the roof map, its modules and joins put in their places. */
export type RoofFace = Omit<
  S["RoofFace"],
  "box_mm" | "extent_mm" | "outline_mm" | "poses" | "strings" | "obstructions" | "trunks" | "rails"
> & {
  box_mm?: Point | null;
  extent_mm: Area;
  outline_mm?: [Point, Point, Point, Point] | null;
  modules: RoofModule[];
  strings: RoofString[];
  trunks: DrawnTrunk[];
  rails: { rails_mm: Area[]; lugs_mm: Point[]; bond_mm: Area[] };
  obstructions: (Omit<S["RoofObstruction"], "area_mm"> & { area_mm: Area })[];
};
export type Fill = S["Fill"];
export type Reroute = S["Reroute"];
export type Rerouted = S["Rerouted"];
/** A number, a size or code, yes or no; absent when it cannot be had. */
export type Value = number | string | boolean | null | undefined;
export type Line = Omit<S["Line"], "value"> & { value: Value };
export type Figure = Omit<S["Figure"], "value" | "working"> & { value?: Value; working?: Line[] };
export type PackedReport = S["PackedReport"];
export type PackedLimit = S["PackedLimit"];
/** Everything computed of a job, as the screens read it. */
export type Report = Omit<PackedReport, "subjects"> & { figures: Figure[]; checks: Check[] };
export type JobView = Omit<S["JobView"], "report"> & { report: Report };
/** What a save or a reading came to; job and data sheets are as they were sent. */
export type Outcome = Omit<S["Outcome"], "report"> & { report: Report };
export type Field = S["Field"];
export type SheetKind = S["SheetKind"];
export type SheetLine = S["SheetLine"];
export type SheetPage = S["SheetPage"];
export type Judged = Omit<S["Judged"], "figures"> & { figures: Figure[] };
export type About = S["About"];
export type Consequences = S["Consequences"];
export type PackView = S["PackView"];
export type LookedAt = S["LookedAt"];
export type AccountLine = S["AccountLine"];
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
export type SumSlip = Omit<S["Slip"], "figures" | "answers"> & {
  figures: Figure[];
  answers: Figure[];
};
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
export const unlessRefused = (count: number, error: Error): boolean =>
  !(error instanceof Refused) && count < 3;

/** How often a call waits for a place to be computed in, where the server says for how long. */
const WAITS = 3;

/** Asks again where the server is full and says when: nothing was written. */
async function patiently(request: Request): Promise<Response> {
  for (let n = 0; ; n++) {
    // Looked up at each call: tests put their own in its place.
    const answer = await globalThis.fetch(n < WAITS ? request.clone() : request);
    const wait = Number(answer.headers.get("Retry-After"));
    if (answer.status !== 503 || !(wait > 0) || n >= WAITS) return answer;
    await new Promise((again) => setTimeout(again, wait * 1000));
  }
}

const http = createClient<paths>({
  baseUrl: (globalThis as { location?: Location }).location?.origin ?? "http://localhost",
  fetch: patiently,
});

interface Answer<T> {
  data?: T;
  error?: unknown;
  response: Response;
}

/** The body of an answer; every other outcome is thrown. */
async function taken<T>(call: Promise<Answer<T>>): Promise<T> {
  let answer: Answer<T>;
  try {
    answer = await call;
  } catch {
    throw new Away("The server does not answer");
  }
  const { data, error, response } = answer;
  if (response.ok) return data as T;
  const problem = (typeof error === "object" && error !== null ? error : {}) as Partial<
    S["ProblemBody"]
  >;
  // What is too much to compute is so the next time too.
  const away = response.status === 503 && problem.type !== "/problems/too-much-work";
  if (away || response.status === 502) throw new Away("The database does not answer");
  throw new Refused(
    response.status,
    (problem.type ?? "").replace("/problems/", ""),
    problem.title ?? `The server answered ${String(response.status)}`,
    problem.detail ?? "",
    problem.errors ?? [],
    problem.current ? viewed(problem.current) : null,
  );
}

const viewed = (view: S["JobView"]): JobView => ({ ...view, report: unpacked(view.report) });
const outcome = (said: S["Outcome"]): Outcome => ({ ...said, report: unpacked(said.report) });

/** A body that is a file's text and goes out as it is. */
const asText = <T>(text: string) => ({
  body: text as T,
  bodySerializer: (body: T) => body as string,
});

type School = Job["school"];
type Inputs = Record<string, unknown>;
const job = (id: string) => ({ params: { path: { id } } });
const at = (id: string, revision: number) => ({ params: { path: { id, revision } } });
const sheet = (kind: SheetKind, sheet: string) => ({ params: { path: { kind, sheet } } });
const sum = (name: string, school: School, inputs: Inputs) => ({
  params: { path: { name } },
  body: { school, inputs: inputs as Record<string, never> },
});

export const api = {
  who: () => taken<Account>(http.GET("/api/session")),
  signIn: (sign_in: string, password: string) =>
    taken<Account>(http.POST("/api/session", { body: { sign_in, password } })),
  signOut: () => taken<unknown>(http.DELETE("/api/session")),
  /** A page of the jobs that are as wanted; all of them where nothing is said. */
  jobs: (wanted: JobsWanted = {}, page = 0) =>
    taken<S["JobPage"]>(http.GET("/api/jobs", { params: { query: { ...wanted, page } } })),
  archiveJob: (id: string, archived: boolean) =>
    taken(http.PUT("/api/jobs/{id}/archived", { ...job(id), body: { archived } })),
  /** For good; the name is what the job is called. */
  deleteJob: (id: string, name: string) =>
    taken<unknown>(http.DELETE("/api/jobs/{id}", { params: { path: { id }, query: { name } } })),
  createJob: (body: S["NewJob"]) => taken(http.POST("/api/jobs", { body })),
  /** A copy of a job without what belongs to one site, to begin others from. */
  makeTemplate: (id: string, name: string) =>
    taken(http.POST("/api/jobs/{id}/template", { ...job(id), body: { name } })),
  shown: () => taken<ShownTo>(http.GET("/api/shown")),
  setShown: (body: Shown) => taken<ShownTo>(http.PUT("/api/shown", { body })),
  setCompanyShown: (body: Shown) => taken<ShownTo>(http.PUT("/api/shown/company", { body })),
  /** Who sees a job besides the company. */
  guests: (id: string) => taken<Guests>(http.GET("/api/jobs/{id}/guests", job(id))),
  /** Gives a seat that shows a revision, the present one where none is named; or takes it back. */
  giveSeat: (id: string, account: string, given: boolean, revision: number | null) =>
    taken<Guests>(
      http.PUT("/api/jobs/{id}/seats/{account}", {
        params: { path: { id, account } },
        body: { given, revision },
      }),
    ),
  makeJobLink: (id: string, until: string, revision: number | null) =>
    taken(http.POST("/api/jobs/{id}/links", { ...job(id), body: { until, revision } })),
  endJobLink: (id: string, link: string) =>
    taken<unknown>(http.DELETE("/api/jobs/{id}/links/{link}", { params: { path: { id, link } } })),
  openLink: (token: string) => taken(http.POST("/api/session/link", { body: { token } })),
  withdrawReading: async (id: string, reading: string, reason: string) =>
    outcome(
      await taken(
        http.POST("/api/jobs/{id}/readings/{reading}/withdraw", {
          params: { path: { id, reading } },
          body: { reason },
        }),
      ),
    ),
  lookAtJobFile: (text: string) =>
    taken<LookedAt>(http.POST("/api/jobs/import/look", asText<S["JobFile"]>(text))),
  /** Makes a job of a file; its data sheets go into the library where they are offered. */
  importJob: (text: string, offer: boolean) =>
    taken(
      http.POST("/api/jobs/import", {
        ...asText<S["JobFile"]>(text),
        params: { query: { offer } },
      }),
    ),
  duplicateJob: (id: string) => taken(http.POST("/api/jobs/{id}/duplicate", job(id))),
  job: async (id: string) => viewed(await taken(http.GET("/api/jobs/{id}", job(id)))),
  save: async (id: string, body: S["SaveJob"]) =>
    outcome(await taken(http.PUT("/api/jobs/{id}", { ...job(id), body }))),
  /** Workings of one subject of a job, as it stood at a revision with the readings it has now. */
  workings: (id: string, revision: number, subject: Subject) =>
    taken(
      http.GET("/api/jobs/{id}/revisions/{revision}/workings", {
        params: { path: { id, revision }, query: { subject: JSON.stringify(subject) } },
      }),
    ) as Promise<Figure[]>,
  /** What would mend the checks of a subject, each tried. */
  cures: (id: string, revision: number, subject: Subject) =>
    taken<S["Cures"]>(
      http.GET("/api/jobs/{id}/revisions/{revision}/cures", {
        params: { path: { id, revision }, query: { subject: JSON.stringify(subject) } },
      }),
    ),
  /** The one-line diagram, as the job stood at a revision. */
  oneLine: (id: string, revision: number, paper: "a4" | "letter") =>
    taken<S["OneLine"]>(
      http.GET("/api/jobs/{id}/revisions/{revision}/one-line", {
        params: { path: { id, revision }, query: { paper } },
      }),
    ),
  labels: (id: string, revision: number) =>
    taken<Label[]>(http.GET("/api/jobs/{id}/revisions/{revision}/labels", at(id, revision))),
  faults: (id: string, revision: number) =>
    taken<Fault[]>(http.GET("/api/jobs/{id}/revisions/{revision}/faults", at(id, revision))),
  /** A plan of an older version of the format, brought up to the present one. */
  migrate: (version: number, draft: { job: Job; library: Library }) =>
    taken(
      http.POST("/api/migrate", {
        body: {
          version,
          job: draft.job as unknown as Record<string, never>,
          library: draft.library as unknown as Record<string, never>,
        },
      }),
    ),
  /** An edit of the plan that keeps its references whole. */
  command: (job: Job, command: Command) =>
    taken(http.POST("/api/command", { body: { job, command } })),
  /** How the pack of a job as it is now stands. */
  pack: (id: string) => taken<PackView>(http.GET("/api/jobs/{id}/pack", job(id))),
  askPack: (id: string) => taken<PackView>(http.POST("/api/jobs/{id}/pack", job(id))),
  /** Puts what waits of a job before all other packs. */
  putPackFirst: (id: string) => taken<PackView>(http.PUT("/api/jobs/{id}/pack/first", job(id))),
  cancelPack: (id: string) => taken<unknown>(http.DELETE("/api/jobs/{id}/pack", job(id))),
  /** Revisions, the newest first; those before one where it is named. */
  revisions: (id: string, before?: number) =>
    taken<RevisionLine[]>(
      http.GET("/api/jobs/{id}/revisions", {
        params: { path: { id }, query: before === undefined ? {} : { before } },
      }),
    ),
  revision: async (id: string, revision: number) =>
    viewed(await taken(http.GET("/api/jobs/{id}/revisions/{revision}", at(id, revision)))),
  nameRevision: (id: string, revision: number, name: string) =>
    taken(
      http.PUT("/api/jobs/{id}/revisions/{revision}/name", {
        ...at(id, revision),
        body: { name },
      }),
    ),
  compareRevisions: (id: string, revision: number, other: number) =>
    taken<Compared>(
      http.GET("/api/jobs/{id}/revisions/{revision}/compare/{other}", {
        params: { path: { id, revision, other } },
      }),
    ),
  library: () => taken<Library>(http.GET("/api/library")),
  choices: (school: School) =>
    taken<Choices>(http.GET("/api/choices/{school}", { params: { path: { school } } })),
  tryPlan: async (job: Job, library: Library) =>
    unpacked(await taken(http.POST("/api/try", { body: { job, library } }))),
  ways: (job: Job, library: Library, ask: WaysAsk | null) =>
    taken<Ways>(http.POST("/api/ways", { body: { job, library, ask } })),
  /** The smallest wires that hold: of the circuits named, or of the legs without one. */
  wires: (job: Job, library: Library, circuits: string[]) =>
    taken<Wires>(http.POST("/api/wires", { body: { job, library, circuits } })),
  /** A circuit in thinner and thicker wire. */
  wireOptions: (job: Job, library: Library, circuit: string) =>
    taken<S["WireOptions"]>(http.POST("/api/wires/options", { body: { job, library, circuit } })),
  /** Ways to share one budget of voltage drop, with the wires they ask for. */
  shareBudget: (job: Job, library: Library, budget_pct: number) =>
    taken<S["BudgetShares"]>(
      http.POST("/api/wires/budget", { body: { job, library, budget_pct } }),
    ),
  /** The route that is drawn and those that are kept, side by side. */
  compareRoutes: (job: Job, library: Library) =>
    taken<S["Routes"]>(http.POST("/api/routes", { body: { job, library } })),
  /** Cable that is there, held against every leg. */
  reuse: (job: Job, library: Library) =>
    taken<Reuse[]>(http.POST("/api/reuse", { body: { job, library } })),
  /** A raceway with a circuit of another way in it. */
  laidIn: (job: Job, library: Library, what: { way: string; part: number; circuit: string }) =>
    taken<LaidIn>(http.POST("/api/laid-in", { body: { job, library, ...what } })),
  /** A raceway in the size before, its own, and the size behind. */
  racewaySizes: (job: Job, library: Library, what: { way: string; part: number }) =>
    taken(http.POST("/api/raceway-sizes", { body: { job, library, ...what } })),
  /** The company's prices and times. */
  rates: () => taken<S["AllRates"]>(http.GET("/api/rates")),
  setRate: (key: string, value: number | null) =>
    taken<S["AllRates"]>(
      http.PUT("/api/rates/{key}", { params: { path: { key } }, body: { value } }),
    ),
  /** A face laid full of modules. */
  fillFace: (job: Job, library: Library, ask: Fill) =>
    taken(http.POST("/api/roof/fill", { body: { job, library, ask } })),
  /** The strings of a face routed over it. */
  routeFace: (job: Job, library: Library, ask: Reroute) =>
    taken<Rerouted>(http.POST("/api/roof/route", { body: { job, library, ask } })),
  /** When rows of frames shade one another on a day of the year. */
  rowShade: (job: Job, library: Library, ask: S["ShadeDay"]) =>
    taken<RowShade>(http.POST("/api/roof/shade", { body: { job, library, ask } })),
  /** Which of these serial numbers are in another job. */
  serialsElsewhere: (id: string, serials: string[]) =>
    taken<S["SerialElsewhere"][]>(
      http.POST("/api/jobs/{id}/serials", { ...job(id), body: { serials } }),
    ),
  watch: (id: string) => taken<Watch[]>(http.GET("/api/jobs/{id}/watch", job(id))),
  /** Makers and documents that sheets were entered from, the latest first. */
  knownWords: () => taken(http.GET("/api/sheets/known")),
  sheets: (find = "", page = 0) =>
    taken<SheetPage>(http.GET("/api/sheets", { params: { query: { find, page } } })),
  sheetHistory: (kind: SheetKind, key: string) =>
    taken<SheetLine[]>(http.GET("/api/sheets/{kind}/{sheet}/revisions", sheet(kind, key))),
  sheetFields: (kind: SheetKind) =>
    taken<Field[]>(http.GET("/api/sheets/{kind}/fields", { params: { path: { kind } } })),
  judgeSheet: (body: S["JudgeSheet"]) =>
    taken(http.POST("/api/sheets/judge", { body })) as Promise<Judged>,
  addSheet: (body: S["NewSheet"]) => taken<S["KeptSheet"]>(http.POST("/api/sheets", { body })),
  consequences: (kind: SheetKind, key: string, page: number) =>
    taken<Consequences>(
      http.GET("/api/sheets/{kind}/{sheet}/consequences", {
        params: { path: { kind, sheet: key }, query: { page } },
      }),
    ),
  retireSheet: (kind: SheetKind, key: string, retired: boolean) =>
    taken(
      http.POST("/api/sheets/{kind}/{sheet}/retire", { ...sheet(kind, key), body: { retired } }),
    ),
  importSheets: (body: S["ImportSheets"]) =>
    taken<Imported>(http.POST("/api/sheets/import", { body })),
  sums: () => taken<Sum[]>(http.GET("/api/sums")),
  doSum: (name: string, school: School, inputs: Inputs) =>
    taken(http.POST("/api/sums/{name}", sum(name, school, inputs))) as Promise<SumSlip>,
  sumToJob: (name: string, school: School, inputs: Inputs) =>
    taken(http.POST("/api/sums/{name}/job", sum(name, school, inputs))),
  weather: (text: string) => taken<Weather>(http.POST("/api/weather", asText<string>(text))),
  demoWeather: () => taken<string>(http.GET("/api/weather/demo", { parseAs: "text" })),
  changePassword: (old: string, fresh: string) =>
    taken<unknown>(http.PUT("/api/session/password", { body: { old, new: fresh } })),
  resetPassword: (token: string, password: string) =>
    taken<unknown>(http.POST("/api/session/reset", { body: { token, password } })),
  accounts: () => taken<AccountLine[]>(http.GET("/api/accounts")),
  /** Forgets the wrong passwords for a name. */
  unlock: (id: string) => taken<unknown>(http.POST("/api/accounts/{id}/unlock", job(id))),
  /** A link by which somebody sets a new password, once. */
  passwordLink: (id: string) =>
    taken<S["PasswordLink"]>(http.POST("/api/accounts/{id}/password-link", job(id))),
  addAccount: (body: S["AccountEntry"]) => taken<Account>(http.POST("/api/accounts", { body })),
  changeAccount: (id: string, body: S["AccountChange"]) =>
    taken<Account>(http.PATCH("/api/accounts/{id}", { ...job(id), body })),
  /** What a string should read after each of its modules, and the first that is wrong. */
  running: (id: string, body: S["RunningAsk"]) =>
    taken(http.POST("/api/jobs/{id}/readings/running", { ...job(id), body })),
  /** A page of the readings of a job, the newest first, with what is said of each. */
  readings: async (id: string, page: number, school: School) => {
    const query = { params: { path: { id }, query: { page } } };
    const { subjects, ...rest } = await taken(http.GET("/api/jobs/{id}/readings", query));
    return { ...rest, checks: spread(subjects, school).checks };
  },
  preview: (id: string, body: Reading) =>
    taken(http.POST("/api/jobs/{id}/readings/preview", { ...job(id), body })) as Promise<Preview>,
  /** Adds a reading; sent again under the same key it is added once. */
  addReading: async (id: string, body: Reading, { key, at }: { key: string; at: string }) =>
    outcome(
      await taken(
        http.POST("/api/jobs/{id}/readings", {
          params: { path: { id }, query: { key, at } },
          body,
        }),
      ),
    ),
};
