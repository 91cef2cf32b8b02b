/** The description of the API is an OpenAPI document by the rules of that format itself. */
import { Validator } from "@seriousme/openapi-schema-validator";
import { readFileSync } from "node:fs";
import { expect, test } from "vitest";

type Document = Record<string, unknown>;
const read = () => JSON.parse(readFileSync("src/api/openapi.json", "utf8")) as Document;

test("the description of the API is valid", async () => {
  const validator = new Validator();
  const { valid, errors } = await validator.validate(read());
  expect(errors ?? []).toEqual([]);
  expect(valid).toBe(true);
  expect(validator.version).toBe("3.1");
});

test("an answer that says nothing of itself is found", async () => {
  const broken = read();
  const paths = broken["paths"] as Record<string, Record<string, Document>>;
  const responses = paths["/api/health"]?.["get"]?.["responses"] as Record<string, Document>;
  delete responses["200"]?.["description"];
  expect((await new Validator().validate(broken)).valid).toBe(false);
});
