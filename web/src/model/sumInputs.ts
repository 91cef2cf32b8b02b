/** The inputs of quick sums in the browser's store: a reload loses none. */
import type { Sum } from "../api/client";
import type { Values } from "./paste";

const storeKey = (sum: Sum): string => `heliant.sum.${sum.school}.${sum.name}`;

export function keepInputs(sum: Sum, values: Values): void {
  try {
    localStorage.setItem(storeKey(sum), JSON.stringify(values));
  } catch (error) {
    console.warn("the browser's store is full", error);
  }
}

/** What was typed last, of the inputs the sum still takes. */
export function keptInputs(sum: Sum): Values {
  try {
    const kept = JSON.parse(localStorage.getItem(storeKey(sum)) ?? "{}") as Values;
    const known = sum.inputs.filter((i) => i.key in kept);
    return Object.fromEntries(known.map((i) => [i.key, kept[i.key]]));
  } catch {
    return {};
  }
}
