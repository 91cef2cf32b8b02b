//! One string against the inverter's window, and what an input carries.

use serde_json::{Value, json};

use crate::bench::{holds, with};

/// 40 V, 33 V, 13 A, 12 A, 400 W modules; -0.25 and -0.30 %/°C. Coldest -15 °C: k = 1 + 0.0025 x 40
/// = 1.1. Flush, 35 °C: cells at 70 °C, Vmp x 0.865, Voc x 0.8875.
fn base() -> Value {
    json!({
        "module": { "voc_v": 40, "vmp_v": 33, "isc_a": 13, "imp_a": 12, "pmax_w": 400,
            "b_voc_pct_c": -0.25, "g_pmax_pct_c": -0.3, "max_system_v": 1000 },
        "inverter": { "vdc_max_v": 600, "start_v": 120, "mppt_min_v": 100, "mppt_max_v": 500,
            "mppt_isc_max_a": 30, "mppt_imp_max_a": 25, "mppt_w_max_w": 6000 },
        "site": { "t_min_c": -15, "t_max_c": 35, "mounting": "flush", "dc_ceiling_v": 600 },
        "n": 10
    })
}

fn string(change: Value, figures: Value, verdicts: Value) {
    holds("string", "na", with(&base(), change), figures, verdicts);
}

#[test]
fn the_lowest_limit_binds_and_is_named() {
    string(
        json!({}),
        json!({ "string.binding": "inverter.vdc_max_v", "string.limit_v": 600 }),
        json!({}),
    );
    string(
        json!({ "site": { "dc_ceiling_v": 500 } }),
        json!({ "string.binding": "site.dc_ceiling_v", "string.limit_v": 500 }),
        json!({}),
    );
    string(
        json!({ "module": { "max_system_v": 450 } }),
        json!({ "string.binding": "module.max_system_v", "string.limit_v": 450 }),
        json!({}),
    );
    // 10 x 40 x 1.1 = 440 V.
    string(
        json!({ "module": { "max_system_v": 440 } }),
        json!({ "string.voc_cold_margin_v": 0.0 }),
        json!({ "string.voc_cold_v": "pass" }),
    );
    string(
        json!({ "module": { "max_system_v": 439.9 } }),
        json!({ "string.voc_cold_margin_v": -0.1 }),
        json!({ "string.voc_cold_v": "fail" }),
    );
}

#[test]
fn without_any_limit_nothing_is_judged() {
    let none = json!({ "inverter": { "vdc_max_v": null }, "module": { "max_system_v": null },
        "site": { "dc_ceiling_v": null } });
    string(
        none,
        json!({ "string.voc_cold_v": 440, "string.limit_v": null, "string.n_max": null }),
        json!({ "string.voc_cold_v": "unknown" }),
    );
}

#[test]
fn cold_volts_by_each_method() {
    string(
        json!({ "method": "coefficient" }),
        json!({ "string.k_cold": 1.1, "string.voc_cold_v": 440 }),
        json!({}),
    );
    // -15 °C is in the row -15 to -11: 1.16; -15.1 takes the colder row.
    string(
        json!({ "method": "table" }),
        json!({ "string.k_cold": 1.16, "string.voc_cold_v": 464 }),
        json!({}),
    );
    string(
        json!({ "method": "table", "site": { "t_min_c": -15.1 } }),
        json!({ "string.k_cold": 1.18 }),
        json!({}),
    );
    string(
        json!({ "method": "table", "site": { "t_min_c": 25 } }),
        json!({ "string.k_cold": 1.0 }),
        json!({}),
    );
    string(
        json!({ "method": "table", "site": { "t_min_c": 24.5 } }),
        json!({ "string.k_cold": 1.02 }),
        json!({}),
    );
    string(
        json!({ "method": "table", "site": { "t_min_c": -40 } }),
        json!({ "string.k_cold": 1.25 }),
        json!({}),
    );
    string(
        json!({ "method": "table", "site": { "t_min_c": -40.5 } }),
        json!({ "string.k_cold": null }),
        json!({ "string.voc_cold_v": "unknown" }),
    );
    holds(
        "string",
        "iec",
        with(&base(), json!({ "method": "factor" })),
        json!({ "string.k_cold": 1.15, "string.voc_cold_v": 460 }),
        json!({}),
    );
}

#[test]
fn the_coefficient_of_vmp_goes_before_that_of_pmax() {
    // 10 x 33 x (1 - 0.0030 x 45) and x (1 - 0.0034 x 45).
    string(json!({}), json!({ "string.vmp_hot_v": 285.45 }), json!({}));
    string(
        json!({ "module": { "c_vmp_pct_c": -0.34 } }),
        json!({ "string.vmp_hot_v": 279.51 }),
        json!({}),
    );
    let none = json!({ "module": { "g_pmax_pct_c": null } });
    string(
        none,
        json!({ "string.vmp_hot_v": null, "string.vmp_cold_v": null, "string.voc_cold_v": 440 }),
        json!({ "string.vmp_hot_v": "unknown" }),
    );
}

#[test]
fn the_hot_end_fails_below_tracking_and_cautions_below_full_power() {
    string(
        json!({ "inverter": { "mppt_min_v": 285.45 } }),
        json!({}),
        json!({ "string.vmp_hot_v": "pass" }),
    );
    string(
        json!({ "inverter": { "mppt_min_v": 285.5 } }),
        json!({}),
        json!({ "string.vmp_hot_v": "fail" }),
    );
    string(
        json!({ "inverter": { "full_power_min_v": 285.5 } }),
        json!({}),
        json!({ "string.vmp_hot_v": "warn" }),
    );
    string(
        json!({ "inverter": { "full_power_min_v": 285 } }),
        json!({}),
        json!({ "string.vmp_hot_v": "pass" }),
    );
    string(
        json!({ "inverter": { "mppt_min_v": null } }),
        json!({}),
        json!({ "string.vmp_hot_v": "unknown" }),
    );
}

#[test]
fn the_cold_end_of_the_working_volts_only_cautions() {
    // 10 x 33 x (1 + 0.003 x 40) = 369.6 V.
    string(
        json!({ "inverter": { "mppt_max_v": 369.6 } }),
        json!({ "string.vmp_cold_v": 369.6 }),
        json!({ "string.vmp_cold_v": "pass" }),
    );
    string(
        json!({ "inverter": { "mppt_max_v": 369 } }),
        json!({}),
        json!({ "string.vmp_cold_v": "warn" }),
    );
}

#[test]
fn it_has_to_start_on_the_hottest_day() {
    // 10 x 40 x 0.8875 = 355 V.
    string(
        json!({ "inverter": { "start_v": 355 } }),
        json!({ "string.voc_hot_v": 355 }),
        json!({ "string.voc_hot_v": "pass" }),
    );
    string(
        json!({ "inverter": { "start_v": 356 } }),
        json!({}),
        json!({ "string.voc_hot_v": "fail" }),
    );
    string(
        json!({ "inverter": { "start_v": null } }),
        json!({}),
        json!({ "string.voc_hot_v": "unknown" }),
    );
}

#[test]
fn the_fewest_follow_the_harder_of_tracking_and_start() {
    // 100 / 28.545 = 3.50: 4; 120 / 35.5 = 3.38: 4; 200 / 35.5 = 5.63: 6.
    string(json!({}), json!({ "string.n_min": 4, "string.n_max": 13 }), json!({}));
    string(json!({ "inverter": { "start_v": 200 } }), json!({ "string.n_min": 6 }), json!({}));
    string(json!({ "inverter": { "mppt_min_v": 200 } }), json!({ "string.n_min": 8 }), json!({}));
    // 600 / 44 = 13.6; 616 / 44 is 14 exactly.
    string(
        json!({ "inverter": { "vdc_max_v": 616 }, "site": { "dc_ceiling_v": 1000 } }),
        json!({ "string.n_max": 14 }),
        json!({}),
    );
}

#[test]
fn the_mounting_or_the_entry_makes_the_cells_hot() {
    string(
        json!({ "site": { "mounting": "raised" } }),
        json!({ "site.t_cell_hot_c": 65 }),
        json!({}),
    );
    string(
        json!({ "site": { "mounting": "ground" } }),
        json!({ "site.t_cell_hot_c": 60 }),
        json!({}),
    );
    string(
        json!({ "site": { "cell_rise_hot_c": 20 } }),
        json!({ "site.t_cell_hot_c": 55 }),
        json!({}),
    );
    string(
        json!({ "site": { "mounting": null } }),
        json!({ "site.t_cell_hot_c": null, "string.vmp_hot_v": null }),
        json!({ "string.vmp_hot_v": "unknown" }),
    );
}

#[test]
fn an_input_carries_amps_and_watts_of_all_its_strings() {
    let two = json!({ "p": 2 });
    // 26 A of 30 holds, 1.25 x 26 = 32.5 cautions, 24 A of 25 holds, 8000 W of 6000 fails.
    let figures = json!({ "mppt.isc_a": 26, "mppt.isc_max_a": 32.5, "mppt.imp_a": 24,
        "mppt.lost_pct": 0, "mppt.power_w": 8000 });
    let verdicts = json!({ "mppt.isc_a": "pass", "mppt.isc_max_a": "warn", "mppt.imp_a": "pass",
        "mppt.power_w": "fail" });
    string(two.clone(), figures, verdicts);
    // Bifacial gain 10 %: 28.6 A; 26.4 A of 25: 5.303 % lost.
    let gain = with(&two, json!({ "module": { "bifacial_gain": 0.1 } }));
    let lost = (1.0 - 25.0 / 26.4) * 100.0;
    string(
        gain,
        json!({ "mppt.isc_a": 28.6, "mppt.imp_a": 26.4, "mppt.lost_pct": lost }),
        json!({ "mppt.imp_a": "warn", "mppt.isc_a": "pass" }),
    );
    string(
        with(&two, json!({ "inverter": { "mppt_isc_max_a": 25.9 } })),
        json!({}),
        json!({ "mppt.isc_a": "fail" }),
    );
    string(
        with(&two, json!({ "inverter": { "mppt_w_max_w": 8000 } })),
        json!({}),
        json!({ "mppt.power_w": "pass" }),
    );
    let bare = json!({ "inverter": { "mppt_isc_max_a": null, "mppt_imp_max_a": null,
        "mppt_w_max_w": null } });
    string(
        bare,
        json!({}),
        json!({ "mppt.isc_a": "unknown", "mppt.imp_a": "unknown", "mppt.power_w": "unknown" }),
    );
}
