//! Quick sums of the strings.

use crate::registry::{Input, Sum, choice, count, number, optional};
use crate::school::School;

const MOUNTINGS: &[&str] = &["flush", "raised", "ground"];

const WINDOW: &[Input] = &[
    count("n", "Modules in series", "12"),
    count("p", "Strings in parallel", "1"),
    number("module.voc_v", "Module Voc", "V", "39.4"),
    number("module.vmp_v", "Module Vmp", "V", "33.0"),
    number("module.isc_a", "Module Isc", "A", "13.85"),
    number("module.imp_a", "Module Imp", "A", "13.05"),
    number("module.pmax_w", "Module Pmax", "W", "430"),
    number("module.b_voc_pct_c", "Coefficient of Voc", "%/°C", "-0.26"),
    number("module.g_pmax_pct_c", "Coefficient of Pmax", "%/°C", "-0.30"),
    number("module.max_system_v", "Module system voltage", "V", "1000"),
    number("inverter.vdc_max_v", "Inverter: largest DC volts", "V", "600"),
    optional(number("inverter.start_v", "Inverter: start volts", "V", "110")),
    number("inverter.mppt_min_v", "Inverter: tracking from", "V", "90"),
    number("inverter.mppt_max_v", "Inverter: tracking up to", "V", "560"),
    optional(number(
        "inverter.mppt_isc_max_a",
        "Inverter: short-circuit amps of an input",
        "A",
        "30",
    )),
    number("site.t_min_c", "Coldest morning", "°C", "-24"),
    number("site.t_max_c", "Hottest air", "°C", "33"),
    choice("site.mounting", "Mounted", MOUNTINGS, "\"flush\""),
    number("site.dc_ceiling_v", "DC ceiling of the building", "V", "600"),
];

const WINDOW_ANSWERS: &[&str] =
    &["string.n_max", "string.n_min", "string.voc_cold_v", "string.vmp_hot_v"];

const FUSE: &[Input] = &[
    number("module.isc_a", "Module Isc", "A", "13.85"),
    number("module.series_fuse_a", "Module series fuse rating", "A", "25"),
    count("p", "Strings in parallel", "3"),
];

const FUSE_ANSWERS: &[&str] = &["string.fuse_needed", "string.fuse_a", "string.fuse_fault_a"];

pub(super) static SUMS: &[Sum] = &[
    Sum {
        name: "string-window",
        title: "String window",
        about: "How many in series between the cold and the hot day",
        school: School::Na,
        inputs: WINDOW,
        answers: WINDOW_ANSWERS,
        calculation: "string",
    },
    Sum {
        name: "string-window",
        title: "String window",
        about: "How many in series between the cold and the hot day",
        school: School::Iec,
        inputs: WINDOW,
        answers: WINDOW_ANSWERS,
        calculation: "string",
    },
    Sum {
        name: "string-fuse",
        title: "String fuse",
        about: "Whether parallel strings need fuses, and which",
        school: School::Na,
        inputs: FUSE,
        answers: FUSE_ANSWERS,
        calculation: "parallel",
    },
    Sum {
        name: "string-fuse",
        title: "String fuse",
        about: "Whether parallel strings need fuses, and which",
        school: School::Iec,
        inputs: FUSE,
        answers: FUSE_ANSWERS,
        calculation: "parallel",
    },
];
