//! Quick sums at the meter.

use crate::registry::{Input, Sum, count, number, optional};
use crate::school::School;

const EXPECTED: &[Input] = &[
    count("n", "Modules in series", "12"),
    number("module.voc_v", "Module Voc", "V", "39.4"),
    number("module.b_voc_pct_c", "Coefficient of Voc", "%/°C", "-0.26"),
    number("module.isc_a", "Module Isc", "A", "13.85"),
    optional(number("module.a_isc_pct_c", "Coefficient of Isc", "%/°C", "0.045")),
    optional(count("module.cells_series_n", "Cells in series", "54")),
    number("irradiance_w_m2", "Light on the modules", "W/m²", "800"),
    number("back_c", "Back of a module", "°C", "40"),
    optional(number("measured_voc_v", "Volts read", "V", "")),
];

const EXPECTED_ANSWERS: &[&str] = &["test.voc_expected_v", "test.isc_expected_a", "test.t_cell_c"];

pub(super) static SUMS: &[Sum] = &[
    Sum {
        name: "expected-volts",
        title: "Expected volts",
        about: "What a string reads now",
        school: School::Na,
        inputs: EXPECTED,
        answers: EXPECTED_ANSWERS,
        calculation: "test",
    },
    Sum {
        name: "expected-volts",
        title: "Expected volts",
        about: "What a string reads now",
        school: School::Iec,
        inputs: EXPECTED,
        answers: EXPECTED_ANSWERS,
        calculation: "test",
    },
];
