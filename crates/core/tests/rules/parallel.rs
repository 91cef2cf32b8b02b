//! String fuses and combiners.

use serde_json::{Value, json};

use crate::bench::{holds, with};

/// 12 A modules with a series fuse rating of 20 A.
fn parallel(school: &str, change: Value, figures: Value, verdicts: Value) {
    let base = json!({ "module": { "isc_a": 12, "series_fuse_a": 20 }, "p": 3 });
    holds("parallel", school, with(&base, change), figures, verdicts);
}

#[test]
fn two_strings_cannot_feed_a_fault_that_matters() {
    // 1 x 1.25 x 12 = 15 A, under 20 A.
    let figures =
        json!({ "string.fuse_fault_a": 15, "string.fuse_needed": false, "string.fuse_a": null });
    parallel("na", json!({ "p": 2 }), figures, json!({}));
    parallel(
        "iec",
        json!({ "p": 2 }),
        json!({ "string.fuse_fault_a": 12, "string.fuse_needed": false }),
        json!({}),
    );
    parallel(
        "na",
        json!({ "p": 1 }),
        json!({ "string.fuse_fault_a": 0, "string.fuse_needed": false }),
        json!({}),
    );
}

#[test]
fn three_need_one_and_the_schools_size_it_differently() {
    // na: 2 x 15 = 30 A; 1.5625 x 12 = 18.75: 20 A. iec: 24 A; 18 to 28.8 and at most 20: 20 A.
    parallel(
        "na",
        json!({}),
        json!({ "string.fuse_fault_a": 30, "string.fuse_needed": true, "string.fuse_a": 20 }),
        json!({ "string.fuse_a": "pass" }),
    );
    parallel(
        "iec",
        json!({}),
        json!({ "string.fuse_fault_a": 24, "string.fuse_needed": true, "string.fuse_a": 20 }),
        json!({ "string.fuse_a": "pass" }),
    );
}

#[test]
fn where_no_standard_fuse_lies_between_it_fails() {
    // na: 1.5625 x 13 = 20.3: 25 A is over the 20 A rating. iec: 19.5 to 20: 20 A fits.
    let strong = json!({ "module": { "isc_a": 13 } });
    parallel(
        "na",
        strong.clone(),
        json!({ "string.fuse_needed": true, "string.fuse_a": null }),
        json!({ "string.fuse_a": "fail" }),
    );
    parallel("iec", strong, json!({ "string.fuse_a": 20 }), json!({ "string.fuse_a": "pass" }));
    // iec: from 21 A on none is at most 20 A.
    parallel(
        "iec",
        json!({ "module": { "isc_a": 14 } }),
        json!({ "string.fuse_a": null }),
        json!({ "string.fuse_a": "fail" }),
    );
}

#[test]
fn the_wire_and_what_the_inverter_feeds_back_count() {
    // 15 A and 5 A back is 20 A: just the rating; 5.1 A is over it.
    parallel(
        "na",
        json!({ "p": 2, "backfeed_a": 5 }),
        json!({ "string.fuse_fault_a": 20, "string.fuse_needed": false }),
        json!({}),
    );
    parallel(
        "na",
        json!({ "p": 2, "backfeed_a": 5.1 }),
        json!({ "string.fuse_needed": true }),
        json!({}),
    );
    parallel(
        "na",
        json!({ "p": 2, "wire_ampacity_a": 15 }),
        json!({ "string.fuse_needed": false }),
        json!({}),
    );
    parallel(
        "na",
        json!({ "p": 2, "wire_ampacity_a": 14.9 }),
        json!({ "string.fuse_needed": true }),
        json!({}),
    );
}

#[test]
fn without_the_rating_it_is_open_unless_the_wire_says_so() {
    let none = json!({ "p": 2, "module": { "series_fuse_a": null } });
    parallel(
        "na",
        none.clone(),
        json!({ "string.fuse_needed": null }),
        json!({ "string.fuse_needed": "unknown" }),
    );
    parallel(
        "na",
        with(&none, json!({ "wire_ampacity_a": 10 })),
        json!({ "string.fuse_needed": true }),
        json!({}),
    );
    parallel(
        "na",
        json!({ "module": { "isc_a": null } }),
        json!({ "string.fuse_fault_a": null, "string.fuse_needed": null, "circuit.i_max_a": null }),
        json!({ "string.fuse_needed": "unknown" }),
    );
}

#[test]
fn bifacial_gain_counts_everywhere() {
    // 12 x 1.1 = 13.2 A: 2 x 1.25 x 13.2 = 33; 1.25 x 3 x 13.2 = 49.5.
    let figures = json!({ "string.fuse_fault_a": 33, "circuit.i_max_a": 49.5 });
    parallel("na", json!({ "module": { "bifacial_gain": 0.1 } }), figures, json!({}));
}

#[test]
fn a_combiner_keeps_a_spare_way() {
    parallel(
        "na",
        json!({ "combiner_inputs_n": 4 }),
        json!({}),
        json!({ "combiner.inputs": "pass" }),
    );
    parallel(
        "na",
        json!({ "combiner_inputs_n": 3 }),
        json!({}),
        json!({ "combiner.inputs": "fail" }),
    );
    parallel(
        "na",
        json!({ "combiner_inputs_n": 3, "spare_n": 0 }),
        json!({}),
        json!({ "combiner.inputs": "pass" }),
    );
    parallel(
        "na",
        json!({ "combiner_inputs_n": 4, "spare_n": 2 }),
        json!({}),
        json!({ "combiner.inputs": "fail" }),
    );
}
