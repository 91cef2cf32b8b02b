//! A cure that carries edits cures: each can be made, what comes out is a job still, and the check
//! it stood at is better than before.

use heliant_core::figure::{Check, Verdict};
use heliant_core::job::{self, JobFile, applied};
use heliant_core::{Report, evaluate};
use serde_json::{Value, json};

/// Puts a fault into a job.
type Fault = fn(&mut Value);

fn report(file: &JobFile) -> Report {
    evaluate(&file.job, &file.library, &file.readings)
}

fn rank(verdict: Verdict) -> u8 {
    match verdict {
        Verdict::Pass => 0,
        Verdict::Warn => 1,
        Verdict::Unknown => 2,
        Verdict::Fail => 3,
    }
}

/// Tries every cure with edits; gives the ids of the checks that were cured.
fn tried(file: &JobFile) -> Vec<&'static str> {
    let mut cured = Vec::new();
    for check in report(file).checks {
        for cure in check.cures.iter().filter(|c| !c.edits.is_empty()) {
            let said =
                || format!("{} of {}: {} {:?}", check.id, check.subject, cure.text, cure.edits);
            let job = applied(&file.job, &cure.edits).unwrap_or_else(|| panic!("{}", said()));
            let file = JobFile { job, ..file.clone() };
            assert_eq!(job::validate(&file), [], "{}", said());
            let after = report(&file);
            let same = |c: &&Check| c.id == check.id && c.subject == check.subject;
            let after = after.checks.iter().find(same).map_or(Verdict::Pass, |c| c.verdict);
            assert!(rank(after) < rank(check.verdict), "{} leaves {after:?}", said());
            cured.push(check.id);
        }
    }
    cured
}

fn changed(text: &str, change: impl FnOnce(&mut Value)) -> JobFile {
    let mut file: Value = serde_json::from_str(text).expect("JSON");
    change(&mut file["job"]);
    job::read_value(file).unwrap_or_else(|p| panic!("{p:#?}")).file
}

const KESTREL: &str = include_str!("../../../data/demo/kestrel-lane.json");
const PINYON: &str = include_str!("../../../data/demo/pinyon-street.json");
const QUARRY: &str = include_str!("../../../data/demo/quarry-cottage.json");
const TERN: &str = include_str!("../../../data/demo/tern-bay.json");

#[test]
fn every_cure_of_the_demo_jobs_can_be_taken() {
    let mut cured: Vec<_> =
        [KESTREL, PINYON, QUARRY, TERN].iter().flat_map(|t| tried(&changed(t, |_| {}))).collect();
    cured.sort_unstable();
    cured.dedup();
    // A raceway that is too full, and a main that is too large.
    for id in ["raceway.fill_pct", "panel.rule"] {
        assert!(cured.contains(&id), "{id} in {cured:?}");
    }
}

#[test]
fn cures_of_faults_put_in_can_be_taken() {
    let faults: [(&str, &str, Fault); 6] = [
        ("circuit.ampacity_terminal_a", KESTREL, |j| {
            j["plan"]["circuits"]["AC1"]["legs"][0]["wire"]["awg"] = json!("14");
        }),
        ("circuit.vdrop_pct", KESTREL, |j| {
            j["plan"]["ways"]["DC1"]["parts"][0]["length_m"] = json!(150);
        }),
        ("string.voc_cold_v", KESTREL, |j| j["strings"][0]["n"] = json!(16)),
        ("circuit.ocpd_installed", PINYON, |j| {
            j["plan"]["circuits"]["A"]["legs"][0]["wire"]["awg"] = json!("14");
        }),
        ("circuit.iz_a", QUARRY, |j| {
            j["plan"]["circuits"]["AC1"]["legs"][0]["wire"]["mm2"] = json!(1.5);
        }),
        ("raceway.fill_pct", QUARRY, |j| {
            for (_, way) in j["plan"]["ways"].as_object_mut().expect("ways") {
                for part in way["parts"].as_array_mut().expect("parts") {
                    if part["raceway"].is_object() {
                        part["raceway"]["size"] = json!("16");
                    }
                }
            }
            j["plan"]["circuits"]["AC1"]["legs"][0]["wire"]["mm2"] = json!(16);
        }),
    ];
    for (id, text, fault) in faults {
        let cured = tried(&changed(text, fault));
        assert!(cured.contains(&id), "{id} in {cured:?}");
    }
}
