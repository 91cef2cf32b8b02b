/** The demo jobs as the tests of the model read them. */
import { readFileSync } from "node:fs";
import type { Job, Library } from "../src/api/client";
import type { Draft } from "../src/model/editor";

const file = (name: string) =>
  JSON.parse(readFileSync(new URL(`../../data/demo/${name}.json`, import.meta.url), "utf8")) as {
    job: Job;
    library: Library;
  };

export const job = (name = "kestrel-lane"): Job => file(name).job;

export const draft = (name = "kestrel-lane"): Draft => {
  const { job, library } = file(name);
  return {
    job,
    library: { ...library, optimizers: library.optimizers ?? [], micros: library.micros ?? [] },
  };
};

export const company = (): Library =>
  JSON.parse(
    readFileSync(new URL("../../data/demo/library.json", import.meta.url), "utf8"),
  ) as Library;
