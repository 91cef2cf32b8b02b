//! The running volts while a string is plugged together.

use heliant_core::figure::Verdict;
use heliant_core::job::{self, JobFile, ReadingValues};
use heliant_core::stages::test::{Running, RunningAsk, plugging_in};

fn kestrel() -> JobFile {
    job::read(include_str!("../../../data/demo/kestrel-lane.json"))
        .expect("the demo job reads")
        .file
}

/// String B in 800 W/m² at cells of 40 °C: 37.5014 V a module (cases/cumulative.json).
fn ran(readings: &[Option<f64>]) -> Running {
    let file = kestrel();
    let values = ReadingValues {
        string: "B".into(),
        irradiance_w_m2: Some(800.0),
        cell_c: Some(40.0),
        ..ReadingValues::default()
    };
    let ask = RunningAsk { values, readings_v: readings.to_vec() };
    plugging_in(&file.job, &file.library, &ask).expect("a string of the job")
}

#[test]
fn each_module_has_its_volts() {
    let running = ran(&[]);
    assert_eq!(running.expected_v.len(), 7);
    assert!((running.expected_v[0] - 37.5014).abs() < 1e-3, "{}", running.expected_v[0]);
    assert!((running.expected_v[6] - 7.0 * 37.5014).abs() < 1e-2);
    // Nothing was read: that is not good.
    assert_eq!((running.verdict, running.first_bad_n), (Verdict::Unknown, None));
    assert_eq!(running.missing, ["readings_v"]);
}

#[test]
fn the_reading_that_is_off_names_its_module_and_why() {
    let told = |readings: &[f64]| {
        let running = ran(&readings.iter().map(|v| Some(*v)).collect::<Vec<_>>());
        let verdict = running.verdict;
        (verdict, running.first_bad_n, running.reason.unwrap_or_default())
    };
    assert_eq!(told(&[37.4, 75.1, 112.4]), (Verdict::Pass, None, String::new()));
    let fails = |readings: &[f64], k: usize, text: &str| {
        assert_eq!(told(readings), (Verdict::Fail, Some(k), text.to_owned()));
    };
    fails(
        &[37.4, 75.1, 75.0],
        3,
        "After 3 it reads 75.0 V, 112.5 V are expected: module 3 adds nothing, its joint is \
         open or it is left out.",
    );
    fails(
        &[37.4, 0.2],
        2,
        "After 2 it reads 0.2 V, 75.0 V are expected: module 2 takes one away, its leads are the \
         wrong way round.",
    );
    fails(
        &[-37.4],
        1,
        "After 1 it reads -37.4 V, 37.5 V are expected: the meter's leads or the module's are the \
         wrong way round.",
    );
    fails(
        &[37.4, 112.4],
        2,
        "After 2 it reads 112.4 V, 75.0 V are expected: more than one module came with it.",
    );
    // (55.0 - 37.4) / 37.5014 = 0.47 of a module.
    fails(
        &[37.4, 55.0],
        2,
        "After 2 it reads 55.0 V, 75.0 V are expected: module 2 adds 0.47 of a module.",
    );
}

#[test]
fn a_reading_left_out_is_passed_over() {
    let running = ran(&[Some(37.4), None, Some(75.0)]);
    assert_eq!(running.first_bad_n, Some(3));
    let text = running.reason.expect("why");
    assert!(text.ends_with("; the one before was not read."), "{text}");
}

#[test]
fn without_light_nothing_is_expected_and_nothing_is_good() {
    let file = kestrel();
    let values = ReadingValues { string: "B".into(), ..ReadingValues::default() };
    let ask = RunningAsk { values, readings_v: vec![Some(37.0)] };
    let running = plugging_in(&file.job, &file.library, &ask).expect("a string of the job");
    assert!(running.expected_v.is_empty());
    assert_eq!(running.verdict, Verdict::Unknown);
    assert!(running.missing.contains(&"irradiance_w_m2"), "{:?}", running.missing);
    let ask = RunningAsk {
        values: ReadingValues { string: "Z".into(), ..ReadingValues::default() },
        ..RunningAsk::default()
    };
    assert!(plugging_in(&file.job, &file.library, &ask).is_none());
}
