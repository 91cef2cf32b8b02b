//! What a string should read, whether it does, and if not why.

use serde_json::{Value, json};

use crate::bench::{holds, with};

/// Ten modules of 40 V, -0.25 %/°C, 13 A, +0.05 %/°C, at 1000 W/m² and 25 °C: the data sheet's own
/// values, so 400 V and 13 A.
fn reading(change: Value, figures: Value, verdicts: Value) {
    let module = json!({ "voc_v": 40, "isc_a": 13, "b_voc_pct_c": -0.25, "a_isc_pct_c": 0.05,
        "cells_series_n": 60, "nmot_c": 44 });
    let base = json!({ "module": module, "n": 10, "cell_c": 25, "irradiance_w_m2": 1000 });
    holds("test", "na", with(&base, change), figures, verdicts);
}

#[test]
fn at_standard_conditions_the_string_reads_its_data_sheet() {
    reading(
        json!({}),
        json!({ "test.voc_expected_v": 400, "test.isc_expected_a": 13, "test.t_cell_c": 25 }),
        json!({}),
    );
    // Three in parallel carry three times the current, and the same volts.
    reading(
        json!({ "p": 3 }),
        json!({ "test.voc_expected_v": 400, "test.isc_expected_a": 39 }),
        json!({}),
    );
}

#[test]
fn warmth_and_light_move_it() {
    // 45 °C: 10 x 40 x (1 - 0.05) = 380 V; 13 x (1 + 0.01) = 13.13 A.
    reading(
        json!({ "cell_c": 45 }),
        json!({ "test.voc_expected_v": 380, "test.isc_expected_a": 13.13 }),
        json!({}),
    );
    // Half the light: 0.026 x 60 x 1.1 x ln 0.5 = -1.18944 V a module; half the current.
    let volts = 10.0 * (40.0 + 0.026 * 60.0 * 1.1 * 0.5_f64.ln());
    reading(
        json!({ "irradiance_w_m2": 500 }),
        json!({ "test.voc_expected_v": volts, "test.isc_expected_a": 6.5 }),
        json!({}),
    );
    // Without the count of cells the light term is left out.
    reading(
        json!({ "irradiance_w_m2": 500, "module": { "cells_series_n": null } }),
        json!({ "test.voc_expected_v": 400 }),
        json!({}),
    );
}

#[test]
fn the_cell_is_taken_from_the_best_there_is() {
    // Back 40 °C at 800 W/m²: 40 + 2.4. Air 20 °C: 20 + (44 - 20)/800 x 800 = 44. The cell itself
    // goes first.
    let light = json!({ "cell_c": null, "irradiance_w_m2": 800 });
    reading(with(&light, json!({ "back_c": 40 })), json!({ "test.t_cell_c": 42.4 }), json!({}));
    reading(with(&light, json!({ "ambient_c": 20 })), json!({ "test.t_cell_c": 44 }), json!({}));
    reading(
        with(&light, json!({ "back_c": 40, "ambient_c": 20 })),
        json!({ "test.t_cell_c": 42.4 }),
        json!({}),
    );
    reading(
        with(&light, json!({ "cell_c": 30, "back_c": 40, "ambient_c": 20 })),
        json!({ "test.t_cell_c": 30 }),
        json!({}),
    );
    let unknown = with(
        &light,
        json!({ "ambient_c": 20, "module": { "nmot_c": null }, "measured_voc_v": 390 }),
    );
    reading(
        unknown,
        json!({ "test.t_cell_c": null, "test.voc_expected_v": null }),
        json!({ "test.voc_v": "unknown" }),
    );
}

#[test]
fn the_bands_are_five_and_ten_percent_and_half_a_module() {
    // Ten modules: half a module is 20 V, which is 5 % too. In 20 modules it is 2.5 %.
    for (volts, verdict) in [
        (400.0, "pass"),
        (380.1, "pass"),
        (380.0, "warn"),
        (379.0, "warn"),
        (360.0, "warn"),
        (359.9, "fail"),
        (419.9, "pass"),
        (420.0, "warn"),
        (441.0, "fail"),
    ] {
        reading(json!({ "measured_voc_v": volts }), json!({}), json!({ "test.voc_v": verdict }));
    }
    for (volts, verdict) in [(780.1, "pass"), (780.0, "warn"), (761.0, "warn"), (719.0, "fail")] {
        reading(
            json!({ "n": 20, "measured_voc_v": volts }),
            json!({}),
            json!({ "test.voc_v": verdict }),
        );
    }
}

#[test]
fn each_cause_has_its_signature() {
    for (volts, cause, count) in [
        (-400.0, "reversed_pair", 1),
        (-21.0, "reversed_pair", 1),
        (-19.0, "open_circuit", 0),
        (0.0, "open_circuit", 0),
        (20.0, "open_circuit", 0),
        (800.0, "strings_in_series", 2),
        (819.0, "strings_in_series", 2),
        (440.0, "extra_module", 1),
        (449.0, "extra_module", 1),
        (480.0, "extra_module", 2),
        (460.0, "unclear", 0),
        (415.0, "ok", 0),
        (400.0, "ok", 0),
        (393.0, "ok", 0),
        (390.0, "bypass_section", 1),
        (377.0, "bypass_section", 1),
        (360.0, "missing_or_bypassed", 1),
        (369.0, "missing_or_bypassed", 1),
        (320.0, "missing_or_bypassed", 2),
        (340.0, "unclear", 0),
    ] {
        reading(
            json!({ "measured_voc_v": volts }),
            json!({ "diagnosis.cause": cause, "diagnosis.modules_n": count }),
            json!({}),
        );
    }
    reading(json!({ "measured_voc_v": -400 }), json!({}), json!({ "test.voc_v": "fail" }));
}

#[test]
fn amps_need_light_that_is_strong_and_steady() {
    for (amps, verdict, cause) in [
        (13.0, "pass", "ok"),
        (12.35, "pass", "ok"),
        (12.3, "warn", "shade_soiling_or_joint"),
        (11.6, "fail", "shade_soiling_or_joint"),
        (13.66, "warn", "unclear"),
        (26.0, "fail", "parallel_pair"),
        (23.4, "fail", "parallel_pair"),
    ] {
        reading(
            json!({ "measured_isc_a": amps }),
            json!({ "diagnosis.isc_cause": cause }),
            json!({ "test.isc_a": verdict }),
        );
    }
    // 400 W/m² is enough, 399 is not.
    reading(
        json!({ "irradiance_w_m2": 400, "measured_isc_a": 5.2 }),
        json!({}),
        json!({ "test.isc_a": "pass" }),
    );
    reading(
        json!({ "irradiance_w_m2": 399, "measured_isc_a": 5.2 }),
        json!({}),
        json!({ "test.isc_a": "unknown" }),
    );
    // 975 to 1025 is 5 % of the mean, 974 to 1026 is more.
    let moved = |first: f64, last: f64| {
        json!({ "measured_isc_a": 13,
        "irradiance_first_w_m2": first, "irradiance_last_w_m2": last })
    };
    reading(moved(975.0, 1025.0), json!({}), json!({ "test.isc_a": "pass" }));
    reading(moved(974.0, 1026.0), json!({}), json!({ "test.isc_a": "unknown" }));
}

#[test]
fn in_the_dark_nothing_is_expected() {
    let dark = json!({ "irradiance_w_m2": 0, "measured_voc_v": 300, "measured_isc_a": 1 });
    reading(
        dark,
        json!({ "test.voc_expected_v": null, "test.isc_expected_a": null }),
        json!({ "test.voc_v": "unknown", "test.isc_a": "unknown" }),
    );
}

fn rcd(change: Value, times: &str, bond: &str) {
    let base = json!({ "ms_at_1x": 120, "ms_at_5x": 20, "bond_ohm": 0.2 });
    let verdicts = json!({ "test.rcd": times, "test.continuity_ohm": bond });
    for school in ["na", "iec"] {
        holds("rcd", school, with(&base, change.clone()), json!({}), verdicts.clone());
    }
}

#[test]
fn a_residual_current_device_trips_in_time_at_both_currents() {
    rcd(json!({}), "pass", "pass");
    // On the limit it still holds; a hair above it does not.
    rcd(json!({ "ms_at_1x": 300 }), "pass", "pass");
    rcd(json!({ "ms_at_1x": 300.1 }), "fail", "pass");
    rcd(json!({ "ms_at_5x": 40 }), "pass", "pass");
    rcd(json!({ "ms_at_5x": 40.1 }), "fail", "pass");
    // Not tested at five times: only what was is judged.
    rcd(json!({ "ms_at_5x": null }), "pass", "pass");
    rcd(json!({ "ms_at_1x": 301, "ms_at_5x": null }), "fail", "pass");
}

#[test]
fn a_bonding_path_has_half_an_ohm_at_most() {
    rcd(json!({ "bond_ohm": 0.5 }), "pass", "pass");
    rcd(json!({ "bond_ohm": 0.501 }), "pass", "fail");
}
