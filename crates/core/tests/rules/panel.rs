//! The busbar rules and the output device.

use serde_json::{Value, json};

use crate::bench::{holds, with};

/// 200 A bus, 150 A main, 40 A inverter on a 50 A breaker: 1.25 x 40 + 150 = 200 A.
fn panel(change: Value, figures: Value, verdicts: Value) {
    let base = json!({ "bus_a": 200, "main_a": 150, "load_breakers_a": [50, 50, 30],
        "pv_breaker_a": 50, "inverter_a": 40, "pv_at_far_end": true, "load_calc_a": 120 });
    holds("panel", "na", with(&base, change), figures, verdicts);
}

#[test]
fn each_rule_has_its_figure_and_its_verdict() {
    let figures = json!({ "panel.sum_a": 180, "panel.limit_120_a": 240,
        "panel.far_end_120_a": 200, "panel.bus_125_a": 200, "panel.far_end_120_breaker_a": 200 });
    let verdicts = json!({ "panel.sum": "pass", "panel.far_end_120": "pass",
        "panel.bus_125": "pass", "panel.far_end_120_breaker": "pass",
        "panel.breaker_count_agrees": "pass" });
    panel(json!({}), figures, verdicts);
    panel(
        json!({ "inverter_a": 40.1 }),
        json!({}),
        json!({ "panel.bus_125": "fail", "panel.far_end_120": "pass" }),
    );
    panel(
        json!({ "load_breakers_a": [50, 50, 50] }),
        json!({ "panel.sum_a": 200 }),
        json!({ "panel.sum": "pass" }),
    );
    panel(json!({ "load_breakers_a": [50, 50, 51] }), json!({}), json!({ "panel.sum": "fail" }));
    // A panel without loads is written as such.
    panel(
        json!({ "load_breakers_a": [0] }),
        json!({ "panel.sum_a": 50 }),
        json!({ "panel.sum": "pass" }),
    );
}

#[test]
fn loads_nobody_entered_leave_the_sum_open_unless_it_fails_without_them() {
    let open = json!({ "panel.sum_a": null });
    panel(json!({ "load_breakers_a": [] }), open.clone(), json!({ "panel.sum": "unknown" }));
    panel(
        json!({ "load_breakers_a": [], "pv_breaker_a": 201 }),
        open,
        json!({ "panel.sum": "fail" }),
    );
}

#[test]
fn an_end_nobody_said_is_judged_at_both() {
    // At the far end 200 of 240 passes, elsewhere the rule fails: open.
    panel(
        json!({ "pv_at_far_end": null }),
        json!({ "panel.far_end_120_a": 200 }),
        json!({ "panel.far_end_120": "unknown", "panel.far_end_120_breaker": "unknown",
            "panel.bus_125": "pass" }),
    );
    // 1.25 x 40 + 191 = 241: it fails at either end.
    panel(
        json!({ "pv_at_far_end": null, "main_a": 191 }),
        json!({}),
        json!({ "panel.far_end_120": "fail", "panel.bus_125": "fail" }),
    );
}

#[test]
fn the_120_rule_wants_the_far_end() {
    panel(
        json!({ "pv_at_far_end": false }),
        json!({ "panel.far_end_120_a": 200 }),
        json!({ "panel.far_end_120": "fail", "panel.far_end_120_breaker": "fail",
            "panel.bus_125": "pass" }),
    );
}

#[test]
fn counting_the_breaker_may_disagree() {
    // 1.25 x 40 + 190 = 240 passes 240; 60 + 190 = 250 does not.
    panel(
        json!({ "main_a": 190, "pv_breaker_a": 60 }),
        json!({}),
        json!({ "panel.far_end_120": "pass", "panel.far_end_120_breaker": "fail",
            "panel.breaker_count_agrees": "warn" }),
    );
}

#[test]
fn a_smaller_main_has_to_carry_the_load() {
    // 240 - 1.25 x 60 = 165: 150 A.
    panel(
        json!({ "main_a": 200, "inverter_a": 60 }),
        json!({ "panel.smaller_main_a": 150 }),
        json!({ "panel.smaller_main": "pass" }),
    );
    panel(
        json!({ "main_a": 200, "inverter_a": 60, "load_calc_a": 151 }),
        json!({}),
        json!({ "panel.smaller_main": "fail" }),
    );
    panel(
        json!({ "main_a": 200, "inverter_a": 60, "load_calc_a": null }),
        json!({}),
        json!({ "panel.smaller_main": "unknown" }),
    );
    // 240 - 1.25 x 190 = 2.5: no standard breaker.
    panel(
        json!({ "inverter_a": 190 }),
        json!({ "panel.smaller_main_a": null }),
        json!({ "panel.smaller_main": "fail" }),
    );
}

#[test]
fn what_is_not_known_is_open() {
    panel(
        json!({ "bus_a": null }),
        json!({ "panel.limit_120_a": null }),
        json!({ "panel.sum": "unknown", "panel.far_end_120": "unknown",
            "panel.bus_125": "unknown" }),
    );
    panel(
        json!({ "inverter_a": null }),
        json!({ "panel.far_end_120_a": null }),
        json!({ "panel.far_end_120": "unknown" }),
    );
}

#[test]
fn the_output_device_is_the_next_standard_size() {
    // na: 1.25 x 32 = 40 exactly; 33.3 x 1.25 = 41.6: 45.
    let ac = |school: &str, inputs: Value, figures: Value, verdicts: Value| {
        holds("ac", school, inputs, figures, verdicts)
    };
    ac("na", json!({ "rated_a": 32 }), json!({ "ac.ocpd_a": 40 }), json!({}));
    ac("na", json!({ "rated_a": 32.01 }), json!({ "ac.ocpd_a": 45 }), json!({}));
    ac(
        "na",
        json!({ "rated_a": 33.3, "maker_max_ocpd_a": 40 }),
        json!({ "ac.ocpd_a": 45 }),
        json!({ "ac.ocpd_a": "fail" }),
    );
    ac(
        "iec",
        json!({ "rated_a": 25 }),
        json!({ "ac.ocpd_a": 25 }),
        json!({ "ac.network": "warn" }),
    );
    ac(
        "iec",
        json!({ "rated_a": 16 }),
        json!({ "ac.ocpd_a": 16 }),
        json!({ "ac.network": "pass" }),
    );
    ac(
        "iec",
        json!({ "rated_a": 16.1 }),
        json!({ "ac.ocpd_a": 20 }),
        json!({ "ac.network": "warn" }),
    );
    ac("iec", json!({ "rated_a": 126 }), json!({ "ac.ocpd_a": null }), json!({}));
    // 11 kW at 400 V on three phases: 11000 / (sqrt(3) x 400) = 15.88 A.
    ac(
        "iec",
        json!({ "watts_w": 11000, "volts_v": 400, "three_phase": true }),
        json!({ "ac.i_out_a": 11000.0 / (3.0_f64.sqrt() * 400.0) }),
        json!({ "ac.network": "pass" }),
    );
    // B 20: 0.95 x 230 / (5 x 20) = 2.185 ohm.
    ac(
        "iec",
        json!({ "rated_a": 18, "curve": "B", "u0_v": 230, "zs_ohm": 2.185 }),
        json!({ "circuit.zs_max_ohm": 2.185 }),
        json!({ "circuit.zs_ohm": "pass" }),
    );
    ac(
        "iec",
        json!({ "rated_a": 18, "curve": "B", "u0_v": 230, "zs_ohm": 2.19 }),
        json!({}),
        json!({ "circuit.zs_ohm": "fail" }),
    );
}
