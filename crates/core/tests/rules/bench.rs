//! One calculation, asked as a case file asks it.

use heliant_core::cases::{Outcome, parse, run};
use serde_json::{Value, json};

/// Runs one calculation and compares the figures and verdicts named; both schools say theirs.
pub fn holds(group: &str, school: &str, inputs: Value, figures: Value, verdicts: Value) {
    let case = json!([{
        "id": format!("{group} of {inputs}"), "group": group, "school": school, "about": "",
            "inputs": inputs,
        "expected": { "figures": figures, "verdicts": verdicts }, "tolerance": { "rel": 1e-6 },
    }]);
    let case = &parse(&case.to_string()).expect("a case")[0];
    match run(case).expect("inputs of the group") {
        Outcome::Passed => {}
        Outcome::Failed(differences) => panic!("{}", differences.join("\n")),
        Outcome::Skipped => panic!("{group} is not built"),
    }
}

/// An object with some fields put in or taken out (null).
pub fn with(base: &Value, change: Value) -> Value {
    let mut out = base.clone();
    for (key, value) in change.as_object().expect("an object") {
        match (out.get_mut(key), value) {
            (Some(old), Value::Object(_)) if old.is_object() => *old = with(old, value.clone()),
            _ => out[key.as_str()] = value.clone(),
        }
    }
    out
}
