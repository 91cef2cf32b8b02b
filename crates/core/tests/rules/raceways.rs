//! How full a raceway is.

use serde_json::{Value, json};

use crate::bench::{holds, with};

fn wires(size: &str, n: u32) -> Value {
    json!([{ "kind": "thhn", "size": size, "n": n }])
}

#[test]
fn one_two_and_more_wires_have_their_own_limit() {
    for (n, limit) in [(1, 53), (2, 31), (3, 40), (12, 40)] {
        holds(
            "fill",
            "na",
            json!({ "kind": "emt", "trade": "2", "wires": wires("10", n) }),
            json!({ "raceway.limit_pct": limit }),
            json!({}),
        );
    }
    // Two kinds count together: one and one are two.
    let mixed =
        json!([{ "kind": "thhn", "size": "10", "n": 1 }, { "kind": "thhn", "size": "12", "n": 1 }]);
    holds(
        "fill",
        "na",
        json!({ "kind": "emt", "trade": "2", "wires": mixed }),
        json!({ "raceway.limit_pct": 31, "raceway.wires_in2": 0.0344 }),
        json!({}),
    );
}

#[test]
fn a_nipple_is_up_to_24_inches() {
    let base = json!({ "kind": "emt", "trade": "1/2", "wires": wires("8", 4) });
    // 4 x 0.0366 / 0.304 = 48.16 %.
    let fill = 4.0 * 0.0366 / 0.304 * 100.0;
    holds(
        "fill",
        "na",
        with(&base, json!({ "length_in": 24 })),
        json!({ "raceway.fill_pct": fill, "raceway.limit_pct": 60 }),
        json!({ "raceway.fill_pct": "pass" }),
    );
    holds(
        "fill",
        "na",
        with(&base, json!({ "length_in": 24.5 })),
        json!({ "raceway.limit_pct": 40 }),
        json!({ "raceway.fill_pct": "fail" }),
    );
}

#[test]
fn the_smallest_size_of_the_same_kind_is_named() {
    // 4 x 0.0366 = 0.1464: 3/4 EMT holds 0.2132, PVC 80 3/4 0.1636, 1/2 flexible 0.1268.
    for (kind, size) in [("emt", "3/4"), ("pvc80", "3/4"), ("fmc", "3/4"), ("rmc", "3/4")] {
        holds(
            "fill",
            "na",
            json!({ "kind": kind, "trade": "1/2", "wires": wires("8", 4) }),
            json!({ "raceway.size": size }),
            json!({ "raceway.fill_pct": "fail" }),
        );
    }
    // Nothing is large enough: no size.
    holds(
        "fill",
        "na",
        json!({ "kind": "lfmc", "trade": "2", "wires": wires("250", 9) }),
        json!({ "raceway.size": null }),
        json!({ "raceway.fill_pct": "fail" }),
    );
}

#[test]
fn a_measured_diameter_goes_before_the_table() {
    // pi / 4 x 0.2^2 x 3 / 0.533.
    let measured = json!([{ "kind": "thhn", "size": "10", "n": 3, "od_in": 0.2 }]);
    let fill = std::f64::consts::PI / 4.0 * 0.04 * 3.0 / 0.533 * 100.0;
    holds(
        "fill",
        "na",
        json!({ "kind": "emt", "trade": "3/4", "wires": measured }),
        json!({ "raceway.fill_pct": fill }),
        json!({}),
    );
}

#[test]
fn the_iec_space_factor_is_a_setting() {
    let base = json!({ "kind": "medium", "size_mm": 20, "wires": [{ "kind": "solar", "mm2": 4,
        "n": 4 }] });
    // 4 x 5.5² / 16.9² = 42.37 %.
    let fill = 4.0 * 5.5 * 5.5 / (16.9 * 16.9) * 100.0;
    holds(
        "fill",
        "iec",
        base.clone(),
        json!({ "raceway.fill_pct": fill, "raceway.size": 25 }),
        json!({ "raceway.fill_pct": "fail" }),
    );
    holds(
        "fill",
        "iec",
        with(&base, json!({ "limit_pct": 45 })),
        json!({ "raceway.size": 20 }),
        json!({ "raceway.fill_pct": "pass" }),
    );
    // Heavy 20: 15.8 mm inside.
    holds(
        "fill",
        "iec",
        with(&base, json!({ "kind": "heavy", "size_mm": 25 })),
        json!({ "raceway.fill_pct": 4.0 * 5.5 * 5.5 / (20.6 * 20.6) * 100.0 }),
        json!({ "raceway.fill_pct": "pass" }),
    );
}

#[test]
fn three_like_cables_can_jam() {
    // 1.05 x 0.824 / od: 0.309 gives 2.80, 0.270 gives 3.2044.
    let jam = |od: f64| {
        json!({ "kind": "emt", "trade": "3/4", "wires": wires("10", 3),
        "jam_od_in": od })
    };
    holds(
        "fill",
        "na",
        jam(0.309),
        json!({ "raceway.jam_ratio": 2.8 }),
        json!({ "raceway.jam_ratio": "warn" }),
    );
    holds("fill", "na", jam(0.3091), json!({}), json!({ "raceway.jam_ratio": "pass" }));
    holds(
        "fill",
        "na",
        jam(0.28),
        json!({ "raceway.jam_ratio": 3.09 }),
        json!({ "raceway.jam_ratio": "warn" }),
    );
    holds("fill", "na", jam(0.27), json!({}), json!({ "raceway.jam_ratio": "pass" }));
}
