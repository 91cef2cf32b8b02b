//! Whole jobs, from the file to the report. Expected values come from the arithmetic beside them.

use heliant_core::figure::{Value, Verdict};
use heliant_core::job::{self, JobFile, ReadingValues};
use heliant_core::{Report, evaluate};

const KESTREL: &str = include_str!("../../../data/demo/kestrel-lane.json");
const QUARRY: &str = include_str!("../../../data/demo/quarry-cottage.json");

fn open(text: &str) -> JobFile {
    job::read(text).expect("a demo job reads").file
}

fn report(file: &JobFile) -> Report {
    evaluate(&file.job, &file.library, &file.readings)
}

fn near(report: &Report, id: &str, subject: &str, wanted: f64) {
    let figure = report.figure(id, subject).unwrap_or_else(|| panic!("no {id} of {subject}"));
    let Some(Value::Number(got)) = figure.value else {
        panic!("{id} of {subject} has no number: {:?}", figure.missing)
    };
    assert!(
        (got - wanted).abs() <= 0.0005 * wanted.abs() + 1e-9,
        "{id} of {subject}: {got}, wanted {wanted}"
    );
}

fn verdict(report: &Report, id: &str, subject: &str) -> Verdict {
    report.check(id, subject).unwrap_or_else(|| panic!("no check {id} of {subject}")).verdict
}

#[test]
fn kestrel_lane_strings() {
    let r = report(&open(KESTREL));
    near(&r, "site.t_cell_hot_c", "site", 33.0 + 35.0);
    let k_cold = 1.0 - 0.26 / 100.0 * (-24.0 - 25.0);
    near(&r, "string.k_cold", "A", k_cold);
    near(&r, "string.voc_cold_v", "A", 12.0 * 39.4 * 1.1274);
    near(&r, "string.vmp_hot_v", "B", 7.0 * 33.0 * (1.0 - 0.30 / 100.0 * (68.0 - 25.0)));
    assert_eq!(verdict(&r, "string.voc_cold_v", "A"), Verdict::Pass);
    // 201.2 V tracks (90) but is under full power (240).
    assert_eq!(verdict(&r, "string.vmp_hot_v", "B"), Verdict::Warn);
    near(&r, "mppt.isc_a", "INV1/2", 2.0 * 13.85);
    // 1.25 x 27.7 = 34.6 A against 30 A.
    assert_eq!(verdict(&r, "mppt.isc_max_a", "INV1/2"), Verdict::Warn);
    near(&r, "mppt.power_w", "INV1/2", 14.0 * 430.0);
    near(&r, "inverter.power_dc_w", "INV1", 26.0 * 430.0);
    near(&r, "inverter.dc_ac_ratio", "INV1", 11180.0 / 8000.0);
}

#[test]
fn kestrel_lane_runs_count_the_ground_wire() {
    let r = report(&open(KESTREL));
    // No DC fuse: 1.5625 x 13.85 = 21.6 A stands in, the 30 A row: 10 AWG. Six 8 AWG and that in
    // 3/4 EMT.
    near(&r, "raceway.fill_pct", "DC1/1", (6.0 * 0.0366 + 0.0211) / 0.533 * 100.0);
    assert_eq!(verdict(&r, "raceway.fill_pct", "DC1/1"), Verdict::Fail);
    let cures = &r.check("raceway.fill_pct", "DC1/1").expect("the check").cures;
    assert!(
        cures.iter().any(|c| c
            .edits
            .iter()
            .any(|e| e.pointer == "/plan/ways/DC1/parts/0/raceway/size" && e.value == "1")),
        "{cures:?}"
    );
    // Garage, EMT 1.
    near(&r, "raceway.fill_pct", "DC1/3", (6.0 * 0.0366 + 0.0211) / 0.864 * 100.0);
    assert_eq!(verdict(&r, "raceway.fill_pct", "DC1/3"), Verdict::Pass);
    // AC: 33.3 A, 1.25 x 33.3 = 41.6 A, next size 45 A.
    near(&r, "ac.ocpd_a", "AC1", 45.0);
    near(&r, "panel.far_end_120_a", "MP", 1.25 * 33.3 + 150.0);
    assert_eq!(verdict(&r, "panel.far_end_120", "MP"), Verdict::Pass);
    let cut = r.raceway_cuts.iter().find(|c| c.subject.to_string() == "DC1/1").expect("the cut");
    assert_eq!(cut.wires.len(), 7, "two wires a string, and the ground");
    assert!((r.route.length_m - (6.1 + 9.4 + 4.0 + 7.2)).abs() < 1e-9);
}

#[test]
fn a_cure_does_what_it_says() {
    let mut file = open(KESTREL);
    let before = report(&file);
    let edit =
        before.check("raceway.fill_pct", "DC1/1").expect("the check").cures[0].edits[0].clone();
    let mut job = serde_json::to_value(&file.job).expect("a job is JSON");
    *job.pointer_mut(&edit.pointer).expect("the place is there") = edit.value;
    file.job = serde_json::from_value(job).expect("still a job");
    let after = report(&file);
    assert_eq!(verdict(&after, "raceway.fill_pct", "DC1/1"), Verdict::Pass);
    assert_eq!(after.counts.fail + 1, before.counts.fail);
}

#[test]
fn a_reading_two_modules_short_is_named() {
    let r = report(&open(KESTREL));
    let judged =
        r.readings.iter().find(|j| j.reading.values.string == "B").expect("a reading of B");
    // Cells 39.6 + 3 x 0.618 = 41.454 °C; one module 36.93 V, seven 258.5 V; 185.1 V is 1.99
    // modules short.
    near(&r, "test.t_cell_c", &judged.reading.id, 39.6 + 3.0 * 0.618);
    assert_eq!(judged.causes[0].code, "missing_or_bypassed");
    assert_eq!(verdict(&r, "test.voc_v", &judged.reading.id), Verdict::Fail);
    // C was not read yet: open, never good.
    assert_eq!(verdict(&r, "test.taken", "C"), Verdict::Unknown);
}

#[test]
fn a_later_reading_takes_the_place_of_the_first() {
    let mut file = open(KESTREL);
    let stops = report(&file).counts.fail;
    let mut second = file.readings[1].clone();
    second.id = "second".into();
    second.values = ReadingValues { voc_v: Some(258.0), ..second.values };
    file.readings.push(second);
    let r = report(&file);
    assert_eq!(r.counts.fail + 1, stops, "the reading that was wrong no longer counts");
    assert!(r.readings[1].superseded && !r.readings[2].superseded);
}

#[test]
fn quarry_cottage_in_the_iec_school() {
    let r = report(&open(QUARRY));
    // BM-440: 14 x 39.7 x (1 + 0.0025 x 33) = 601.65 V against 650 V of the inverter.
    near(&r, "string.voc_cold_v", "A", 14.0 * 39.7 * (1.0 + 0.25 / 100.0 * 33.0));
    assert_eq!(verdict(&r, "string.voc_cold_v", "A"), Verdict::Pass);
    assert!(
        r.checks.iter().all(|c| {
            !c.id.starts_with("panel.")
                || ["panel.ways_n", "panel.breaking_a", "panel.board_a"].contains(&c.id)
        }),
        "busbar rules are the other school's"
    );
    assert!(
        r.figures.iter().any(|f| f.id == "circuit.iz_a"),
        "the IEC conductor figures are there"
    );
}

#[test]
fn an_empty_job_is_open_not_good() {
    let r = evaluate(
        &heliant_core::job::Job::new("New", heliant_core::school::School::Na),
        &Default::default(),
        &[],
    );
    assert_eq!(r.verdict, Verdict::Unknown);
    for stage in &r.stages {
        let has_checks = stage.counts != Default::default();
        assert!(!has_checks || stage.verdict == Verdict::Unknown, "{stage:?}");
    }
    assert!(
        r.checks.iter().filter(|c| c.verdict == Verdict::Unknown).all(|c| !c.missing.is_empty()),
        "what is open says what is missing"
    );
}

#[test]
fn a_missing_coefficient_leaves_only_what_rests_on_it_open() {
    let mut file = open(KESTREL);
    file.library.modules[0].ratings.b_voc_pct_c = None;
    let r = report(&file);
    assert_eq!(verdict(&r, "string.voc_cold_v", "A"), Verdict::Unknown);
    assert!(
        r.check("string.voc_cold_v", "A")
            .expect("the check")
            .missing
            .iter()
            .any(|m| m.contains("b_voc"))
    );
    near(&r, "string.vmp_hot_v", "A", 12.0 * 33.0 * 0.871);
}

#[test]
fn the_same_inputs_give_the_same_bytes() {
    for text in [KESTREL, QUARRY] {
        let file = open(text);
        let first = serde_json::to_string(&report(&file)).expect("a report is JSON");
        let again = open(&file.to_text());
        assert_eq!(again, file, "a file survives writing and reading");
        assert_eq!(serde_json::to_string(&report(&again)).expect("a report is JSON"), first);
    }
}
