/** Kinds of data sheets in words, and what an empty one holds. */
import type { SheetKind } from "../../api/client";

const head = { sheet: "", revision: 1, maker: "", model: "", demo: false };

export const KINDS: Record<
  SheetKind,
  { one: string; many: string; empty: Record<string, unknown> }
> = {
  module: { one: "module", many: "modules", empty: { ...head, ratings: {} } },
  inverter: { one: "inverter", many: "inverters", empty: { ...head, mppts: [{}] } },
  optimizer: { one: "optimizer", many: "optimizers", empty: { ...head, ratings: {} } },
  micro: { one: "microinverter", many: "microinverters", empty: { ...head, trunk: {} } },
};
