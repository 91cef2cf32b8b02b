//! Design temperatures and the DC ceiling.

use serde_json::{Value, json};

use crate::bench::holds;

fn site(school: &str, inputs: Value, figures: Value, verdicts: Value) {
    holds("site", school, inputs, figures, verdicts);
}

#[test]
fn the_ceiling_goes_by_building_and_school() {
    for (school, building, volts) in [
        ("na", "dwelling_1_2", 600),
        ("na", "other_roof", 1000),
        ("na", "ground", 1500),
        ("iec", "building", 1000),
        ("iec", "ground", 1500),
    ] {
        site(
            school,
            json!({ "building": building }),
            json!({ "site.dc_ceiling_v": volts }),
            json!({}),
        );
    }
    site(
        "iec",
        json!({ "building": "dwelling_1_2" }),
        json!({ "site.dc_ceiling_v": null }),
        json!({}),
    );
}

#[test]
fn cells_are_hotter_than_the_air_by_the_mounting() {
    for (mounting, rise) in [("flush", 35), ("raised", 30), ("ground", 25)] {
        site(
            "na",
            json!({ "t_max_c": 30, "mounting": mounting }),
            json!({ "site.t_cell_hot_c": 30 + rise }),
            json!({}),
        );
    }
    site(
        "na",
        json!({ "t_max_c": 30, "mounting": "flush", "cell_rise_hot_c": 28 }),
        json!({ "site.t_cell_hot_c": 58 }),
        json!({}),
    );
}

#[test]
fn the_lowest_is_the_mean_of_the_years_and_the_highest_the_98th_percentile() {
    // (-10 - 14 - 12) / 3 = -12.
    site(
        "na",
        json!({ "yearly_min_c": [-10, -14, -12] }),
        json!({ "site.t_min_c": -12 }),
        json!({}),
    );
    site("na", json!({ "yearly_min_c": [-17.5] }), json!({ "site.t_min_c": -17.5 }), json!({}));
    // 0 to 100: place 0.98 x 100 = 98. Two values: 20 + 0.98 x 10 = 29.8.
    let ramp: Vec<u32> = (0..=100).rev().collect();
    site("na", json!({ "hottest_month_hourly_c": ramp }), json!({ "site.t_max_c": 98 }), json!({}));
    site(
        "na",
        json!({ "hottest_month_hourly_c": [30, 20] }),
        json!({ "site.t_max_c": 29.8 }),
        json!({}),
    );
}

#[test]
fn an_entry_more_than_three_degrees_off_its_record_cautions() {
    for (entered, verdict) in
        [(-12.0, "pass"), (-9.0, "pass"), (-15.0, "pass"), (-8.9, "warn"), (-15.1, "warn")]
    {
        site(
            "na",
            json!({ "yearly_min_c": [-12], "t_min_c_entered": entered }),
            json!({}),
            json!({ "site.t_min_c": verdict }),
        );
    }
    site(
        "na",
        json!({ "hottest_month_hourly_c": [31], "t_max_c_entered": 35 }),
        json!({}),
        json!({ "site.t_max_c": "warn" }),
    );
}
