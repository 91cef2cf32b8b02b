//! The sun and the clear sky.

use serde_json::json;

use crate::bench::holds;

#[test]
fn what_stands_level_looks_at_the_zenith() {
    // On a level face the sun is as far from the normal as from the zenith.
    let noon = json!({ "year": 2026, "month": 6, "day": 21, "hour_ut": 12.0, "lat_deg": 0,
        "lon_deg": 0, "tilt_deg": 0, "face_azimuth_deg": 0 });
    let case = json!([{ "id": "level", "group": "sun", "school": "iec", "about": "", "inputs": noon,
        "expected": { "figures": { "sun.zenith_deg": 23.44, "sun.aoi_deg": 23.44 },
            "verdicts": {} }, "tolerance": { "rel": 0, "abs": 0.15 } }]);
    let case = &heliant_core::cases::parse(&case.to_string()).expect("a case")[0];
    // At the solstice the sun stands over 23.44° north; the equation of time moves noon by under
    // two minutes.
    assert_eq!(heliant_core::cases::run(case), Ok(heliant_core::cases::Outcome::Passed));
}

#[test]
fn a_day_that_is_not_in_the_calendar_has_no_sun() {
    let none = json!({ "year": 2026, "month": 2, "day": 29, "hour_ut": 12.0, "lat_deg": 50,
        "lon_deg": 8, "tilt_deg": 30, "face_azimuth_deg": 180 });
    holds(
        "sun",
        "iec",
        none,
        json!({ "sun.zenith_deg": null, "sun.azimuth_deg": null, "sun.aoi_deg": null,
            "sun.clear_w_m2": null }),
        json!({}),
    );
}

#[test]
fn at_night_a_clear_sky_gives_nothing() {
    let night = json!({ "year": 2026, "month": 1, "day": 5, "hour_ut": 0.5, "lat_deg": 50,
        "lon_deg": 8, "tilt_deg": 30, "face_azimuth_deg": 180 });
    holds("sun", "iec", night, json!({ "sun.clear_w_m2": 0 }), json!({}));
}
