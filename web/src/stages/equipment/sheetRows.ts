/** The lines of a data sheet, as a maker prints them. */
import type { InverterSheet, ModuleSheet, Unit } from "../../api/client";

export type Row = readonly [label: string, value: number | string | null | undefined, unit: Unit];

export function moduleRows(m: ModuleSheet): Row[] {
  const r = m.ratings;
  return [
    ["Rated power Pmax", r.pmax_w, "W"],
    ["Open-circuit volts Voc", r.voc_v, "V"],
    ["Working volts Vmp", r.vmp_v, "V"],
    ["Short-circuit amps Isc", r.isc_a, "A"],
    ["Working amps Imp", r.imp_a, "A"],
    ["Coefficient of Voc", r.b_voc_pct_c, "%/K"],
    ["Coefficient of Vmp", r.c_vmp_pct_c, "%/K"],
    ["Coefficient of Pmax", r.g_pmax_pct_c, "%/K"],
    ["Coefficient of Isc", r.a_isc_pct_c, "%/K"],
    ["Largest system volts", r.max_system_v, "V"],
    ["Largest series fuse", r.series_fuse_a, "A"],
    ["Cells in series", r.cells_series_n, "n"],
    ["NMOT", r.nmot_c, "degC"],
    ["Weight", m.weight_kg, "kg" as Unit],
  ];
}

export function inverterRows(i: InverterSheet): Row[] {
  const inputs = i.mppts.flatMap((m, k): Row[] => {
    const of = `Input ${String(k + 1)}:`;
    return [
      [`${of} connectors`, m.connectors_n, "n"],
      [`${of} tracking from`, m.mppt_min_v, "V"],
      [`${of} tracking to`, m.mppt_max_v, "V"],
      [`${of} full power from`, m.full_power_min_v, "V"],
      [`${of} full power to`, m.full_power_max_v, "V"],
      [`${of} working amps`, m.mppt_imp_max_a, "A"],
      [`${of} short-circuit amps`, m.mppt_isc_max_a, "A"],
      [`${of} module watts`, m.mppt_w_max_w, "W"],
    ];
  });
  return [
    ["Largest DC volts", i.vdc_max_v, "V"],
    ["Start volts", i.start_v, "V"],
    ["Module watts in all", i.dc_w_max_w, "W"],
    ["AC output", i.ac_w, "W"],
    ["AC volts", i.ac_v, "V"],
    ["AC amps", i.ac_a, "A"],
    ["Phases", i.three_phase ? "three" : "one", "ratio"],
    ["Largest device on the output", i.max_ocpd_a, "A"],
    ["Switch on", i.switch_on === "ac_first" ? "AC first" : "DC first", "ratio"],
    ["Reconnects after", i.reconnect_s, "s" as Unit],
    ...inputs,
  ];
}
