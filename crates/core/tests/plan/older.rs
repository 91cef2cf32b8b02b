//! Runs of version 2 as nodes, ways and circuits.

use heliant_core::job::{self, CircuitKind, JobFile, NodeKind};
use serde_json::{Value, json};

use crate::{number, report};

fn old() -> Value {
    serde_json::from_str(include_str!("../judged/base/na-string.json")).expect("JSON")
}

fn opened(file: Value) -> JobFile {
    job::read_value(file).unwrap_or_else(|p| panic!("{p:#?}")).file
}

/// What each circuit goes over.
fn paths(file: &JobFile) -> Vec<(String, Vec<String>)> {
    let of = |c: &job::Circuit| {
        c.legs.iter().flat_map(|l| l.via.iter().map(ToString::to_string)).collect::<Vec<_>>()
    };
    file.job.plan.circuits.iter().map(|(k, c)| (k.to_string(), of(c))).collect()
}

#[test]
fn a_run_becomes_a_way_and_a_circuit_for_each_string() {
    let file = opened(old());
    let plan = &file.job.plan;
    assert_eq!(plan.ways["DC1"].parts.len(), 3);
    assert_eq!((&*plan.ways["DC1"].to, &*plan.ways["AC1"].from), ("INV1", "INV1"));
    assert_eq!(&*plan.ways["AC1"].to, "MP");
    let each = [("A", "DC1"), ("AC1", "AC1"), ("B", "DC1"), ("C", "DC1")];
    let each: Vec<_> = each.iter().map(|(c, w)| ((*c).to_owned(), vec![(*w).to_owned()])).collect();
    assert_eq!(paths(&file), each);
    assert_eq!(plan.nodes["MP"].panel.as_ref().and_then(|p| p.bus_a), Some(200.0));
}

#[test]
fn runs_that_follow_one_another_are_legs_of_one_circuit() {
    let mut file = old();
    let runs = file["job"]["runs"].as_array_mut().expect("runs");
    let mut second = runs[1].clone();
    second["id"] = json!("AC1b");
    runs.push(second);
    let mut inner = runs[0].clone();
    inner["id"] = json!("DC2");
    runs.push(inner);
    let file = opened(file);
    let plan = &file.job.plan;
    assert_eq!(plan.circuits["AC1"].legs.len(), 2);
    assert!(!plan.circuits.contains_key("AC1b"));
    assert_eq!(plan.ways["AC1"].to, plan.ways["AC1b"].from);
    assert_eq!(plan.ways["DC1"].to, plan.ways["DC2"].from);
    assert_eq!((&*plan.ways["DC2"].to, plan.circuits["B"].legs.len()), ("INV1", 2));
    // Twice the way, twice the drop: 2 x 2 x 19.5 m x 0.778 ohm/kft x 13.05 A.
    let r = report(&file);
    let once = 2.0 * 19.5 * 0.778 / 304.8 * 13.05;
    assert!((number(&r, "circuit.vdrop_v", "A") - 2.0 * once).abs() < 1e-9);
}

#[test]
fn a_combiner_stands_between_strings_and_their_output() {
    let mut file = old();
    let runs = file["job"]["runs"].as_array_mut().expect("runs");
    let mut output = runs[0].clone();
    (output["id"], output["kind"]) = (json!("OUT"), json!("pv_output"));
    output["strings"] = json!(["B", "C"]);
    runs.push(output);
    let plan = opened(file).job.plan;
    let combiner = plan.circuits["OUT"].from.node.clone().expect("it begins at a node");
    assert_eq!(plan.nodes[&combiner].kind, NodeKind::Combiner);
    for letter in ["B", "C"] {
        let end = plan.circuits[letter].to.as_ref().and_then(|e| e.node.as_ref());
        assert_eq!(end, Some(&combiner), "{letter}");
    }
    assert_eq!(plan.circuits["A"].to, None);
}

#[test]
fn home_runs_and_feeders_are_circuits() {
    let text = include_str!("../judged/base/na-micro.json");
    let file = job::read(text).expect("version 2 reads").file;
    let plan = &file.job.plan;
    for letter in ["A", "B", "C"] {
        let c = &plan.circuits[letter];
        assert_eq!((c.kind, c.legs[0].wire.awg.as_deref()), (CircuitKind::MicroBranch, Some("10")));
    }
    let feeder = &plan.circuits["FEEDER"];
    assert_eq!((feeder.kind, feeder.legs.len()), (CircuitKind::AcFeeder, 0));
    // 31 units of 1.38 A; 1.25 x 42.78 = 53.5 A: 60 A.
    let r = report(&file);
    assert!((number(&r, "ac.i_out_a", "FEEDER") - 31.0 * 1.38).abs() < 1e-9);
    assert!((number(&r, "ac.ocpd_a", "FEEDER") - 60.0).abs() < 1e-9);
}

#[test]
fn keys_that_cannot_stand_in_an_address_are_written_anew() {
    let mut file = old();
    file["job"]["runs"][0]["id"] = json!("roof/inverter");
    file["job"]["runs"][1]["id"] = json!("roof~inverter");
    let keys: Vec<String> = opened(file).job.plan.ways.keys().map(ToString::to_string).collect();
    assert_eq!(keys, ["roof-inverter", "roof-inverter-2"]);
}

#[test]
fn what_is_no_plan_of_version_2_is_said() {
    let mut file = old();
    file["job"]["runs"][0]["kind"] = json!("water");
    let found = job::read_value(file).expect_err("no such kind");
    assert!(found[0].message.contains("water"), "{found:?}");
    let mut file = old();
    file["job"]["plan"] = json!({});
    assert!(job::read_value(file).is_err(), "nothing is thrown away in silence");
}
