//! Quick sums: each runs with its samples, agrees with the worked figures, and says what is wrong
//! with its inputs.

use heliant_core::figure::Value;
use heliant_core::job;
use heliant_core::school::School;
use heliant_core::sums::{Slip, Sum, all, find, into_job, run, sample};
use serde_json::{Map, Value as Json, json};

fn sum(name: &str, school: School) -> &'static Sum {
    find(name, school).unwrap_or_else(|| panic!("{name} is declared"))
}

fn with(sum: &'static Sum, changes: Json) -> Map<String, Json> {
    let mut inputs = sample(sum);
    inputs.extend(changes.as_object().expect("an object").clone());
    inputs
}

fn done(sum: &'static Sum, changes: Json) -> Slip {
    run(sum, &with(sum, changes)).unwrap_or_else(|p| panic!("{}: {p:?}", sum.name))
}

fn number(slip: &Slip, id: &str) -> Option<f64> {
    slip.figures.iter().rev().find(|f| f.id == id)?.value.as_ref()?.number()
}

#[test]
fn every_sum_runs_with_its_samples_and_answers() {
    for sum in all().iter().copied() {
        let slip = done(sum, json!({}));
        assert!(!slip.answers.is_empty(), "{} {:?}", sum.name, sum.school);
        let first = &slip.answers[0];
        assert_eq!(
            first.id, sum.answers[0],
            "{} {:?}: the foremost answer is there",
            sum.name, sum.school
        );
        assert!(first.value.is_some(), "{} {:?}: {first:?}", sum.name, sum.school);
        assert!(
            slip.text.contains(first.title) && slip.text.contains("last word"),
            "{}",
            slip.text
        );
        let keys: std::collections::HashSet<&str> = sum.inputs.iter().map(|i| i.key).collect();
        assert_eq!(keys.len(), sum.inputs.len(), "{}: each input once", sum.name);
    }
}

#[test]
fn both_schools_have_the_sums_people_ask_for() {
    for name in
        ["string-window", "wire-size", "raceway-fill", "voltage-drop", "breaker", "expected-volts"]
    {
        for school in [School::Na, School::Iec] {
            assert!(find(name, school).is_some(), "{name} {school:?}");
        }
    }
}

#[test]
fn the_window_agrees_with_the_first_worked_example() {
    // Worked example 1: 11 x 45.6 x 1.1107 = 557.127 V.
    let window = sum("string-window", School::Na);
    let slip = done(
        window,
        json!({ "n": 11, "module.voc_v": 45.6, "module.b_voc_pct_c": -0.27,
            "site.t_min_c": -16.0 }),
    );
    assert!((number(&slip, "string.voc_cold_v").expect("a value") - 557.127_12).abs() < 1e-6);
    // 600 / 50.648 = 11.8.
    assert_eq!(number(&slip, "string.n_max"), Some(11.0));
}

#[test]
fn the_smallest_cable_is_found_by_trying() {
    let size = sum("wire-size", School::Iec);
    // Method B, PVC: 32 A at 4 mm², 41 A at 6 mm²; group of one, 30 °C.
    let slip = done(size, json!({ "device_a": 32, "rated_a": 26.1 }));
    assert_eq!(number(&slip, "circuit.size_min"), Some(4.0));
    let slip = done(size, json!({ "device_a": 40, "rated_a": 33.0 }));
    assert_eq!(number(&slip, "circuit.size_min"), Some(6.0));
    // A section that is given is checked as it is.
    let slip = done(size, json!({ "device_a": 40, "rated_a": 33.0, "mm2": 4 }));
    assert!(slip.checks.iter().any(|c| c.verdict == heliant_core::figure::Verdict::Fail));
    // Nothing in the table carries 400 A: open, with the last try shown.
    let slip = done(size, json!({ "device_a": 400, "rated_a": 390.0 }));
    assert_eq!(number(&slip, "circuit.size_min"), None);
}

#[test]
fn a_line_of_wires_without_a_count_is_none() {
    let fill = sum("raceway-fill", School::Na);
    // Four 10 AWG and a ground, all 0.0211 in²: 5 x 0.0211 / 0.533 = 19.79 %. Without the ground:
    // 15.83 %.
    let five = done(fill, json!({}));
    assert!(
        (number(&five, "raceway.fill_pct").expect("a value") - 5.0 * 0.0211 / 0.533 * 100.0).abs()
            < 1e-6
    );
    let four = done(fill, json!({ "wires.1.n": null }));
    assert!(
        (number(&four, "raceway.fill_pct").expect("a value") - 4.0 * 0.0211 / 0.533 * 100.0).abs()
            < 1e-6
    );
}

#[test]
fn wrong_inputs_are_named_one_by_one() {
    let drop = sum("voltage-drop", School::Na);
    let mut inputs = with(drop, json!({ "amps_a": "many", "material": "tin", "lenght_ft": 12 }));
    inputs.remove("volts_v");
    let problems = run(drop, &inputs).expect_err("four are wrong");
    let said: Vec<(&str, &str)> =
        problems.iter().map(|p| (p.path.as_str(), p.hint.as_str())).collect();
    assert_eq!(
        said,
        [
            ("/lenght_ft", "did you mean `length_ft`?"),
            ("/material", "one of cu, al"),
            ("/amps_a", "a number"),
            ("/volts_v", "enter it"),
        ]
    );
    let window = sum("string-window", School::Na);
    let problems = run(window, &with(window, json!({ "n": 11.5 }))).expect_err("half a module");
    assert_eq!((problems[0].path.as_str(), problems[0].hint.as_str()), ("/n", "a whole number"));
}

#[test]
fn a_sum_becomes_a_job_that_says_the_same() {
    let window = sum("string-window", School::Na);
    let inputs = with(window, json!({ "p": 2 }));
    let file = into_job(window, &inputs).expect("in order");
    assert!(job::validate(&file).is_empty());
    assert_eq!(
        file.job.strings.iter().map(|s| (s.letter.as_str(), s.n)).collect::<Vec<_>>(),
        [("A", 12), ("B", 12)]
    );
    let report = heliant_core::evaluate(&file.job, &file.library, &[]);
    let slip = run(window, &inputs).expect("in order");
    let cold = report
        .figure("string.voc_cold_v", "A")
        .and_then(|f| f.value.as_ref())
        .and_then(Value::number);
    assert_eq!(cold, number(&slip, "string.voc_cold_v"));
    assert!(file.job.notes.contains("Most modules in series = 13"), "{}", file.job.notes);
    // One without equipment keeps its slip.
    let file =
        into_job(sum("voltage-drop", School::Iec), &sample(sum("voltage-drop", School::Iec)))
            .expect("in order");
    assert!(file.job.strings.is_empty() && file.job.notes.contains("Voltage drop in percent"));
}
