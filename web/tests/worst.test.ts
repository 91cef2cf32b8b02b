/** The slip of a verdict shows what is worst now, not what was worst when it was pressed. */
import { expect, test } from "vitest";
import type { Check, Verdict } from "../src/api/client";
import { checkOf, worstKey } from "../src/model/report";

const check = (id: string, verdict: Verdict, string = "A", stage: Check["stage"] = "strings") =>
  ({ id, verdict, stage, subject: { kind: "string", string } }) as Check;

test("another check that becomes the worst takes the slip over", () => {
  const before = [check("cold", "pass"), check("hot", "warn"), check("cold", "fail", "B")];
  const key = worstKey(before.slice(0, 2));
  expect(checkOf({ checks: before }, key)?.id).toBe("hot");
  const after = [check("cold", "fail"), check("hot", "warn"), check("cold", "fail", "B")];
  expect(checkOf({ checks: after }, key)).toBe(after[0]);
  // Of another stage it is not asked, and one that only shows an alternative does not count.
  const other = [check("cold", "pass"), check("way", "fail", "A", "runs")];
  expect(checkOf({ checks: other }, key)?.id).toBe("cold");
  const aside = [check("hot", "warn"), { ...check("cold", "fail"), alternative: true }];
  expect(checkOf({ checks: aside }, key)?.id).toBe("hot");
  expect(checkOf({ checks: [] }, key)).toBeUndefined();
});

test("a check that was picked itself stays picked", () => {
  const checks = [check("cold", "fail"), check("hot", "warn")];
  expect(checkOf({ checks }, "hot@string:A")?.id).toBe("hot");
});
