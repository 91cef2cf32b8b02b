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
    assert!(slip.answers[0].note.as_deref().is_some_and(|n| n.contains("No section")));
    // Three-phase takes its own column: 28 A at 4 mm² do not hold 32, 36 A at 6 mm² do.
    let slip = done(size, json!({ "device_a": 32, "three_phase": true }));
    assert_eq!(number(&slip, "circuit.size_min"), Some(6.0));
    // Two circuits together: 41 x 0.8 = 32.8 A.
    let slip = done(size, json!({ "device_a": 32, "circuits_n": 2 }));
    assert_eq!(number(&slip, "circuit.size_min"), Some(6.0));
    // Without the amps it is they that are asked for, not a larger cable.
    let slip = done(size, json!({ "device_a": null, "rated_a": null }));
    assert_eq!(slip.answers[0].missing, ["inverter.ac_a"]);
}

/// The words of a figure.
fn text_of(slip: &Slip, id: &str) -> Option<String> {
    match slip.figures.iter().rev().find(|f| f.id == id)?.value.as_ref()? {
        Value::Text(t) => Some(t.clone()),
        _ => None,
    }
}

#[test]
fn the_wire_of_a_quick_sum_stands_behind_the_device_it_needs() {
    let size = sum("wire-size", School::Na);
    // 16 A: 1.25 x 16 = 20 A, a 20 A breaker; 14 AWG carries 20 A at 75 °C and may have 15 A only
    // (240.4(D)): 12 AWG. 37 °C and four wires: 30 x 0.91 x 0.8 = 21.84 A.
    let ac = json!({ "kind": "inverter_out", "rated_a": 16, "t_max_c": 37, "place": "inside",
        "circuits_n": 2 });
    let slip = done(size, ac.clone());
    assert_eq!(number(&slip, "circuit.ocpd_a"), Some(20.0));
    assert_eq!(text_of(&slip, "circuit.size_min").as_deref(), Some("12"));
    // 60 °C terminals: 12 AWG has 20 A there, which holds 20 A.
    let with_60 = |change: Json| {
        let mut inputs = ac.as_object().expect("an object").clone();
        inputs.extend(change.as_object().expect("an object").clone());
        text_of(&done(size, Json::Object(inputs)), "circuit.size_min").expect("a size")
    };
    assert_eq!(with_60(json!({ "terminals": "60 °C" })), "12");
    // 20 A need a 25 A breaker: 10 AWG by 60 °C terminals as by the small-wire rule.
    assert_eq!(with_60(json!({ "rated_a": 20, "terminals": "60 °C" })), "10");
    // 7,700 W at 240 V: 32.08 A, 40.1 A design, a 45 A breaker; 8 AWG has 50 A.
    assert_eq!(with_60(json!({ "rated_a": null, "watts_w": 7700, "volts_v": 240 })), "8");
    // THWN is a 75 °C insulation: ten circuits, 20 wires x 0.5, 37 °C x 0.88.
    // 16 A need 16 / (0.5 x 0.88) = 36.4 A: 8 AWG with 50; THWN-2 35.2 of 90 °C: 10 AWG with 40.
    assert_eq!(with_60(json!({ "circuits_n": 10, "insulation": "THWN" })), "8");
    assert_eq!(with_60(json!({ "circuits_n": 10 })), "10");
    let none = done(size, json!({ "kind": "inverter_out", "isc_a": null }));
    assert_eq!(none.answers[0].missing, ["inverter.ac_a"]);
}

#[test]
fn a_wire_on_the_roof_is_open_until_its_clearance_is_known() {
    let size = sum("wire-size", School::Na);
    let on_the_roof = json!({ "isc_a": 11.2, "t_max_c": 38, "place": "roof_sun", "size": "12",
        "circuits_n": 2 });
    let heat = |slip: &Slip| {
        let check = slip.checks.iter().find(|c| c.id == "circuit.ampacity_derated_a");
        check.expect("a check").verdict.word()
    };
    // 14 A; 71 °C: 30 x 0.5 x 0.8 = 12 A; clear of the roof 30 x 0.91 x 0.8 = 21.84 A.
    assert_eq!(heat(&done(size, on_the_roof.clone())), "unknown");
    let mut clear = on_the_roof.as_object().expect("an object").clone();
    clear.insert("roof_clearance_in".into(), json!(1.0));
    assert_eq!(heat(&done(size, Json::Object(clear))), "pass");
}

#[test]
fn the_breaker_knows_three_phases_and_a_tt_system() {
    let breaker = sum("breaker", School::Iec);
    // 15,000 / (sqrt(3) x 400) = 21.65 A.
    let slip = done(
        breaker,
        json!({ "rated_a": null, "watts_w": 15000, "volts_v": 400, "three_phase": true }),
    );
    assert!((number(&slip, "ac.i_out_a").expect("amps") - 21.650_635).abs() < 1e-5);
    assert_eq!(number(&slip, "ac.ocpd_a"), Some(25.0));
    // 120 ohm x 300 mA = 36 V holds, 200 x 300 mA = 60 V does not; the loop is not asked.
    let tt = |ra: f64| {
        done(breaker, json!({ "earthing": "tt", "ra_ohm": ra, "rcd_ma": 300, "zs_ohm": 121 }))
    };
    let touch = |slip: &Slip| {
        slip.checks.iter().find(|c| c.id == "circuit.touch_v").expect("a check").verdict.word()
    };
    assert_eq!((touch(&tt(120.0)), touch(&tt(200.0))), ("pass", "fail"));
    assert!(tt(120.0).checks.iter().all(|c| c.id != "circuit.zs_ohm"));
}

#[test]
fn the_busbar_asks_at_which_end_and_for_the_loads() {
    let busbar = sum("busbar", School::Na);
    let word = |change: Json, id: &str| {
        let slip = done(busbar, change);
        slip.checks.iter().find(|c| c.id == id).expect("a check").verdict.word()
    };
    // 1.25 x 33.3 + 150 = 191.6 of 240.
    assert_eq!(word(json!({}), "panel.far_end_120"), "unknown");
    assert_eq!(word(json!({ "pv_sits": "opposite the main" }), "panel.far_end_120"), "pass");
    assert_eq!(word(json!({ "pv_sits": "elsewhere" }), "panel.far_end_120"), "fail");
    assert_eq!(word(json!({ "loads_a": null }), "panel.sum"), "unknown");
    assert_eq!(word(json!({ "loads_a": 0 }), "panel.sum"), "pass");
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

#[test]
fn a_size_that_no_table_holds_is_said_at_its_field() {
    for (name, changes, path, offers) in [
        ("wire-size", json!({ "size": "13" }), "/size", "14, 12, 10"),
        // A size there is, beyond the end of the tables.
        ("voltage-drop", json!({ "awg": "300" }), "/awg", "4/0, 250"),
        ("raceway-fill", json!({ "trade": "5/8" }), "/trade", "1/2"),
        ("raceway-fill", json!({ "wires.0.size": "9 AWG" }), "/wires.0.size", "10"),
    ] {
        let sum = sum(name, School::Na);
        let problems = run(sum, &with(sum, changes)).expect_err("there is no such size");
        assert_eq!(problems.len(), 1, "{problems:?}");
        assert_eq!(problems[0].path, path);
        assert!(problems[0].hint.contains(offers), "{:?}", problems[0]);
    }
}
