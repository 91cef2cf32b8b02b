//! Optimizer strings and microinverter branches.

use serde_json::{Value, json};

use crate::bench::{holds, with};

/// 400 W modules of 40 V, 13 A; devices for 50 V, 14 A, 450 W, 12 A out, 8 to 20 on 4800 W at 400
/// V. k = 1.1 at -15 °C.
fn optimizer(change: Value, figures: Value, verdicts: Value) {
    let base = json!({
        "module": { "voc_v": 40, "isc_a": 13, "pmax_w": 400, "b_voc_pct_c": -0.25 },
        "optimizer": { "in_v_max_v": 50, "in_isc_max_a": 14, "in_w_max_w": 450, "out_a_max_a": 12,
            "n_min": 8, "n_max": 20, "string_w_max_w": 4800, "string_v": 400, "safety_v": 1 },
        "site": { "t_min_c": -15 }, "n": 12
    });
    holds("optimizer", "iec", with(&base, change), figures, verdicts);
}

/// 1.5 A units at 240 V on a 20 A breaker, ten of them end-fed over sections of 0.01 ohm.
fn micro(change: Value, figures: Value, verdicts: Value) {
    let base = json!({ "unit_a": 1.5, "volts_v": 240, "breaker_a": 20, "arms_n": [10],
        "section_ohm": 0.01 });
    holds("micro", "na", with(&base, change), figures, verdicts);
}

#[test]
fn a_string_of_optimizers_has_a_count_watts_and_amps() {
    // 12 x 400 = 4800 W, 12 A: both exactly on the limit.
    let figures = json!({ "optimizer.voc_cold_v": 44, "string.opt_n": 12,
        "string.opt_power_w": 4800, "string.opt_current_a": 12, "string.safety_v": 12 });
    let all = json!({ "optimizer.voc_cold_v": "pass", "optimizer.isc_a": "pass",
        "optimizer.power_w": "pass", "string.opt_n": "pass", "string.opt_power_w": "pass",
        "string.opt_current_a": "pass" });
    optimizer(json!({}), figures, all);
    optimizer(
        json!({ "n": 13 }),
        json!({}),
        json!({ "string.opt_power_w": "fail", "string.opt_current_a": "fail",
            "string.opt_n": "pass" }),
    );
    for (n, verdict) in [(7, "fail"), (8, "pass"), (20, "pass"), (21, "fail")] {
        optimizer(json!({ "n": n }), json!({}), json!({ "string.opt_n": verdict }));
    }
}

#[test]
fn one_module_has_to_suit_one_device() {
    optimizer(
        json!({ "optimizer": { "in_v_max_v": 44 } }),
        json!({}),
        json!({ "optimizer.voc_cold_v": "pass" }),
    );
    optimizer(
        json!({ "optimizer": { "in_v_max_v": 43.9 } }),
        json!({}),
        json!({ "optimizer.voc_cold_v": "fail" }),
    );
    optimizer(
        json!({ "module": { "isc_a": 14.1 } }),
        json!({}),
        json!({ "optimizer.isc_a": "fail" }),
    );
    optimizer(
        json!({ "module": { "pmax_w": 451 } }),
        json!({}),
        json!({ "optimizer.power_w": "fail" }),
    );
    optimizer(
        json!({ "module": { "b_voc_pct_c": null } }),
        json!({ "optimizer.voc_cold_v": null }),
        json!({ "optimizer.voc_cold_v": "unknown" }),
    );
    optimizer(
        json!({ "site": { "t_min_c": null } }),
        json!({}),
        json!({ "optimizer.voc_cold_v": "unknown" }),
    );
}

#[test]
fn a_branch_is_as_long_as_its_breaker_and_its_maker_allow() {
    // floor(0.8 x 20 / 1.5) = 10; 1.6 A units: 16 / 1.6 is 10 exactly.
    micro(
        json!({}),
        json!({ "branch.i_a": 15, "branch.n_max": 10 }),
        json!({ "branch.n": "pass" }),
    );
    micro(json!({ "unit_a": 1.6 }), json!({ "branch.n_max": 10 }), json!({ "branch.n": "pass" }));
    micro(json!({ "arms_n": [11] }), json!({}), json!({ "branch.n": "fail" }));
    micro(json!({ "maker_max_n": 9 }), json!({ "branch.n_max": 9 }), json!({ "branch.n": "fail" }));
    micro(json!({ "share": 1.0 }), json!({ "branch.n_max": 13 }), json!({}));
    micro(
        json!({ "unit_a": null }),
        json!({ "branch.i_a": null, "branch.n_max": null }),
        json!({ "branch.n": "unknown" }),
    );
}

#[test]
fn the_rise_goes_with_the_square_of_the_arm() {
    // 1.5 x 0.01 x 10 x 11 / 2 = 0.825 V; in two arms of five 1.5 x 0.01 x 5 x 6 / 2 = 0.225 V.
    micro(json!({}), json!({ "branch.rise_trunk_pct": 82.5 / 240.0 }), json!({}));
    micro(
        json!({ "arms_n": [5, 5] }),
        json!({ "branch.rise_trunk_pct": 22.5 / 240.0, "branch.i_a": 15 }),
        json!({}),
    );
    micro(
        json!({ "arms_n": [7, 3] }),
        json!({ "branch.rise_trunk_pct": 1.5 * 0.01 * 28.0 / 240.0 * 100.0 }),
        json!({}),
    );
}

#[test]
fn every_run_to_the_panel_adds_its_own() {
    // 10 AWG, 100 ft: 2 x 100 x 1.24/1000 x 15 = 3.72 V; with the trunk 4.545 V of 240: 1.894 %.
    let run = json!([{ "awg": "10", "length_ft": 100 }]);
    micro(
        json!({ "runs": run }),
        json!({ "branch.rise_total_pct": 454.5 / 240.0 }),
        json!({ "branch.rise_total_pct": "pass" }),
    );
    let two =
        json!([{ "awg": "10", "length_ft": 100 }, { "awg": "8", "length_ft": 20, "amps_a": 30 }]);
    let total = (0.825 + 3.72 + 2.0 * 20.0 * 0.000_778 * 30.0) / 240.0 * 100.0;
    micro(
        json!({ "runs": two }),
        json!({ "branch.rise_total_pct": total }),
        json!({ "branch.rise_total_pct": "warn" }),
    );
    micro(
        json!({ "runs": run, "limit_pct": 1.5 }),
        json!({}),
        json!({ "branch.rise_total_pct": "warn" }),
    );
}

#[test]
fn branches_together_share_a_breaker() {
    // na: 3 x 15 = 45, 1.25 x 45 = 56.25: 60 A. iec: 45: 50 A.
    micro(json!({ "branches_n": 3 }), json!({ "ac.i_out_a": 45, "ac.ocpd_a": 60 }), json!({}));
    let iec = json!({ "unit_a": 1.5, "volts_v": 230, "breaker_a": 20, "arms_n": [10],
        "section_ohm": 0.01, "branches_n": 3 });
    holds("micro", "iec", iec, json!({ "ac.i_out_a": 45, "ac.ocpd_a": 50 }), json!({}));
}

#[test]
fn the_module_has_to_suit_the_unit() {
    let module = |most: f64| {
        json!({ "module": { "voc_v": 40, "b_voc_pct_c": -0.25 },
        "t_min_c": -15, "unit_v_max_v": most })
    };
    micro(module(44.0), json!({ "micro.voc_cold_v": 44 }), json!({ "micro.voc_cold_v": "pass" }));
    micro(module(43.0), json!({}), json!({ "micro.voc_cold_v": "fail" }));
}
