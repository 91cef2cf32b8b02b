//! Quick sums of the runs.

use crate::registry::{Input, Sum, choice, count, flag, number, optional, text};
use crate::school::School;

const SURGE: &[Input] = &[
    choice("kind", "What it stands on", &["dwelling", "field", "service"], "\"dwelling\""),
    number("ng_per_km2_year", "Flashes to ground a km² and year", "", "2.3"),
    number("length_m", "DC cable", "m", "62"),
    number("array_to_inverter_m", "From array to inverter along it", "m", "12"),
    optional(number("ucpv_v", "Volts the device stands", "V", "600")),
    optional(number("voc_cold_v", "String on the coldest morning", "V", "557")),
];

const SURGE_ANSWERS: &[&str] = &["spd.needed", "spd.both_ends", "spd.l_crit_m"];

const KINDS: &[&str] = &["pv_string", "pv_output", "inverter_out", "micro_branch", "ac_feeder"];
const PLACES: &[&str] = &[
    "under_modules",
    "roof_sun",
    "roof_shade",
    "attic",
    "inside",
    "cavity",
    "garage",
    "outside_wall_sun",
    "outside_wall_shade",
    "sheltered",
    "underground",
];

const METHODS: &[&str] = &["raceway", "cable", "free_air"];

const WIRE_NA: &[Input] = &[
    choice("kind", "Circuit", KINDS, "\"pv_string\""),
    optional(number("isc_a", "Module Isc (pv)", "A", "13.85")),
    optional(number("bifacial_gain", "Bifacial gain (pv), as a fraction", "", "")),
    optional(count("p", "Strings on this wire (pv)", "1")),
    optional(number("rated_a", "Rated output (ac)", "A", "")),
    optional(number("watts_w", "or rated watts (ac)", "W", "")),
    optional(number("volts_v", "at volts (ac)", "V", "")),
    flag("three_phase", "Three-phase (ac)"),
    optional(number("ocpd_a", "Fuse or breaker; ac: else the next standard size", "A", "")),
    choice(
        "insulation",
        "Insulation",
        &["THWN-2", "XHHW-2", "USE-2", "THWN", "THHN", "PV", "NM"],
        "\"THWN-2\"",
    ),
    choice("material", "Metal", &["cu", "al"], "\"cu\""),
    optional(choice("terminals", "Terminals marked for", &["60 °C", "75 °C"], "\"75 °C\"")),
    number("t_max_c", "Hottest air", "°C", "33"),
    choice("place", "Hottest place on the way", PLACES, "\"attic\""),
    optional(choice("method", "How it lies there", METHODS, "\"raceway\"")),
    optional(number("roof_clearance_in", "Above the roof, where it lies on one", "in", "")),
    optional(count("circuits_n", "Circuits together there, this one too", "1")),
    optional(text("size", "Size to check; the smallest is found besides", "AWG", "\"\"")),
];

const WIRE_NA_ANSWERS: &[&str] =
    &["circuit.size_min", "circuit.ocpd_a", "circuit.i_design_a", "circuit.ampacity_a"];

const WIRE_IEC: &[Input] = &[
    choice("kind", "Circuit", KINDS, "\"inverter_out\""),
    optional(number("isc_a", "Module Isc (pv)", "A", "")),
    optional(number("bifacial_gain", "Bifacial gain (pv), as a fraction", "", "")),
    optional(count("p", "Strings in parallel (pv)", "")),
    optional(number("rated_a", "Rated output (ac)", "A", "26.1")),
    optional(number("watts_w", "or rated watts (ac)", "W", "")),
    optional(number("volts_v", "at volts (ac)", "V", "")),
    flag("three_phase", "Three-phase (ac)"),
    optional(number("device_a", "Fuse or breaker; ac: else the next standard size", "A", "32")),
    choice("cable", "Cable", &["solar", "pvc70", "xlpe90"], "\"pvc70\""),
    choice(
        "install",
        "How it lies",
        &[
            "free_air",
            "on_surface",
            "two_touching",
            "method_a1",
            "method_a2",
            "method_b1",
            "method_b2",
            "method_c",
            "in_insulation",
        ],
        "\"method_b1\"",
    ),
    number("ambient_c", "Hottest there", "°C", "30"),
    optional(count("circuits_n", "Circuits together there, this one too", "1")),
    optional(number("mm2", "Section to check; else the smallest is found", "mm²", "")),
];

const WIRE_IEC_ANSWERS: &[&str] = &["circuit.size_min", "circuit.iz_a", "circuit.need_a"];

const FILL_NA: &[Input] = &[
    choice("kind", "Raceway", &["emt", "rmc", "imc", "pvc40", "pvc80", "fmc", "lfmc"], "\"emt\""),
    optional(text("trade", "Trade size to check", "", "\"3/4\"")),
    choice("wires.0.kind", "Wires", &["thhn", "xhhw", "pv"], "\"thhn\""),
    text("wires.0.size", "Size", "AWG", "\"10\""),
    count("wires.0.n", "How many", "4"),
    optional(choice("wires.1.kind", "Earth wire", &["thhn", "xhhw"], "\"thhn\"")),
    optional(text("wires.1.size", "Size of the earth wire", "AWG", "\"10\"")),
    optional(count("wires.1.n", "How many earth wires", "1")),
    optional(number("length_in", "Length, where it is a nipple", "in", "")),
    optional(number("jam_od_in", "Diameter of one of three like cables", "in", "")),
];

const FILL_IEC: &[Input] = &[
    choice("kind", "Conduit", &["medium", "heavy"], "\"medium\""),
    optional(number("size_mm", "Size to check", "mm", "20")),
    choice("wires.0.kind", "Cables", &["solar", "pvc70", "xlpe90"], "\"solar\""),
    number("wires.0.mm2", "Section", "mm²", "6"),
    count("wires.0.n", "How many", "4"),
    optional(choice("wires.1.kind", "Protective conductor", &["pvc70", "xlpe90"], "\"pvc70\"")),
    optional(number("wires.1.mm2", "Its section", "mm²", "6")),
    optional(count("wires.1.n", "How many", "1")),
    optional(number("limit_pct", "Space factor", "%", "40")),
];

const FILL_ANSWERS: &[&str] = &["raceway.size", "raceway.fill_pct", "raceway.limit_pct"];

const VDROP_NA: &[Input] = &[
    text("awg", "Size", "AWG", "\"10\""),
    choice("material", "Metal", &["cu", "al"], "\"cu\""),
    number("length_ft", "One way", "ft", "88"),
    number("amps_a", "Amps", "A", "13.05"),
    number("volts_v", "Volts", "V", "396"),
    flag("three_phase", "Three-phase"),
    number("limit_pct", "Limit", "%", "2"),
];

const VDROP_IEC: &[Input] = &[
    number("mm2", "Section", "mm²", "6"),
    choice("cable", "Cable", &["solar", "pvc70", "xlpe90"], "\"solar\""),
    number("length_m", "One way", "m", "24"),
    number("amps_a", "Amps", "A", "13.26"),
    number("volts_v", "Volts", "V", "464.8"),
    flag("three_phase", "Three-phase"),
    number("limit_pct", "Limit", "%", "3"),
];

const VDROP_ANSWERS: &[&str] = &["circuit.vdrop_pct", "circuit.vdrop_v", "circuit.loss_w"];

const AC_NA: &[Input] = &[
    optional(number("rated_a", "Rated output", "A", "33.3")),
    optional(number("watts_w", "or rated watts", "W", "")),
    optional(number("volts_v", "at volts", "V", "")),
    flag("three_phase", "Three-phase"),
    optional(number("maker_max_ocpd_a", "Largest device the maker allows", "A", "50")),
];

const AC_IEC: &[Input] = &[
    optional(number("rated_a", "Rated output", "A", "26.1")),
    optional(number("watts_w", "or rated watts", "W", "")),
    optional(number("volts_v", "at volts", "V", "")),
    flag("three_phase", "Three-phase"),
    optional(number("maker_max_ocpd_a", "Largest device the maker allows", "A", "40")),
    optional(choice("curve", "Trip curve", &["B", "C", "D"], "\"B\"")),
    optional(number("u0_v", "Volts to earth", "V", "230")),
    optional(number("zs_ohm", "Loop impedance read", "ohm", "")),
    optional(choice("earthing", "Earthing system", &["tn", "tt"], "\"tn\"")),
    optional(number("ra_ohm", "Earth electrode (tt)", "ohm", "")),
    optional(number("rcd_ma", "RCD (tt)", "mA", "")),
];

const AC_ANSWERS: &[&str] = &["ac.ocpd_a", "ac.i_out_a", "circuit.zs_max_ohm", "circuit.touch_v"];

const PANEL: &[Input] = &[
    number("bus_a", "Busbar", "A", "200"),
    number("main_a", "Main breaker", "A", "150"),
    number("inverter_a", "Inverter output", "A", "33.3"),
    optional(number("loads_a", "Load breakers, all together; 0 where there are none", "A", "180")),
    optional(number("pv_breaker_a", "PV breaker; else the next standard size", "A", "45")),
    choice(
        "pv_sits",
        "The PV breaker sits",
        &["opposite the main", "elsewhere", "not known"],
        "\"not known\"",
    ),
    optional(number("load_calc_a", "Load calculation", "A", "")),
];

const PANEL_ANSWERS: &[&str] = &["panel.far_end_120_a", "panel.bus_125_a", "panel.smaller_main_a"];

pub(super) static SUMS: &[Sum] = &[
    Sum {
        name: "wire-size",
        title: "Wire size",
        about: "The smallest wire that carries it",
        school: School::Na,
        inputs: WIRE_NA,
        answers: WIRE_NA_ANSWERS,
        calculation: "wire_sum",
    },
    Sum {
        name: "wire-size",
        title: "Cable size",
        about: "The smallest cable that carries it",
        school: School::Iec,
        inputs: WIRE_IEC,
        answers: WIRE_IEC_ANSWERS,
        calculation: "cable_sum",
    },
    Sum {
        name: "voltage-drop",
        title: "Voltage drop",
        about: "Volts and watts lost on the way",
        school: School::Na,
        inputs: VDROP_NA,
        answers: VDROP_ANSWERS,
        calculation: "vdrop",
    },
    Sum {
        name: "voltage-drop",
        title: "Voltage drop",
        about: "Volts and watts lost on the way",
        school: School::Iec,
        inputs: VDROP_IEC,
        answers: VDROP_ANSWERS,
        calculation: "vdrop",
    },
    Sum {
        name: "raceway-fill",
        title: "Raceway fill",
        about: "Whether the wires fit, every wire counted",
        school: School::Na,
        inputs: FILL_NA,
        answers: FILL_ANSWERS,
        calculation: "fill",
    },
    Sum {
        name: "raceway-fill",
        title: "Conduit fill",
        about: "Whether the cables fit, every one counted",
        school: School::Iec,
        inputs: FILL_IEC,
        answers: FILL_ANSWERS,
        calculation: "fill",
    },
    Sum {
        name: "breaker",
        title: "Breaker",
        about: "The device of an inverter's output",
        school: School::Na,
        inputs: AC_NA,
        answers: AC_ANSWERS,
        calculation: "ac",
    },
    Sum {
        name: "breaker",
        title: "Breaker",
        about: "The device of an inverter's output, and its loop",
        school: School::Iec,
        inputs: AC_IEC,
        answers: AC_ANSWERS,
        calculation: "ac",
    },
    Sum {
        name: "busbar",
        title: "Busbar",
        about: "Which rule lets the inverter onto the panel",
        school: School::Na,
        inputs: PANEL,
        answers: PANEL_ANSWERS,
        calculation: "busbar_sum",
    },
    Sum {
        name: "surge-devices",
        title: "Surge devices",
        about: "Whether the DC cable needs them, at one end or both",
        school: School::Iec,
        inputs: SURGE,
        answers: SURGE_ANSWERS,
        calculation: "spd",
    },
];
