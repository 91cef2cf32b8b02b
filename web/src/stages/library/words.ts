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
  fuse: { one: "fuse", many: "fuses", empty: head },
  isolator: { one: "isolator", many: "isolators", empty: head },
  surge: { one: "surge device", many: "surge devices", empty: head },
  breaker: { one: "breaker", many: "breakers", empty: head },
  combiner: { one: "combiner", many: "combiners", empty: head },
  enclosure: { one: "enclosure", many: "enclosures", empty: head },
};
