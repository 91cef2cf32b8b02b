/** The demo jobs as the tests of the model read them. */
import { readFileSync } from "node:fs";
import type { Job, Library } from "../src/api/client";
import type { Draft } from "../src/model/editor";

const file = (name: string) =>
  JSON.parse(readFileSync(new URL(`../../data/demo/${name}.json`, import.meta.url), "utf8")) as {
    job: Job;
    library: Library;
  };

/** What a server always says of a library, where a file leaves a list out. */
const NO_SHEETS = {
  modules: [],
  inverters: [],
  optimizers: [],
  micros: [],
  fuses: [],
  isolators: [],
  surges: [],
  breakers: [],
  combiners: [],
  enclosures: [],
};

export const job = (name = "kestrel-lane"): Job => file(name).job;

export const draft = (name = "kestrel-lane"): Draft => {
  const { job, library } = file(name);
  return {
    job,
    library: {
      ...NO_SHEETS,
      ...library,
    },
  };
};

export const company = (): Library =>
  JSON.parse(
    readFileSync(new URL("../../data/demo/library.json", import.meta.url), "utf8"),
  ) as Library;
