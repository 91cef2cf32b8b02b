//! Whole jobs, judged: what a licensed person would say of a job, and what it must never say. Each
//! is a job file with edits; most wrong answers come from how a job is put together, not from a
//! formula.

use heliant_core::{evaluate, job};
use regex::Regex;
use serde::Deserialize;
use serde_json::{Value, json};

#[derive(Deserialize)]
struct Judgement {
    id: String,
    about: String,
    base: String,
    edits: Vec<Change>,
    expect: Expect,
}

#[derive(Deserialize)]
struct Change {
    op: String,
    path: String,
    from: Option<String>,
    value: Option<Value>,
}

#[derive(Default, Deserialize)]
#[serde(default)]
struct Expect {
    refused: bool,
    verdict: Vec<String>,
    some: Vec<Like>,
    none: Vec<Like>,
    figures: Vec<Figured>,
}

#[derive(Debug, Deserialize)]
struct Like {
    id: String,
    #[serde(default)]
    subject: String,
    #[serde(default)]
    verdict: Vec<String>,
}

#[derive(Debug, Deserialize)]
struct Figured {
    id: String,
    #[serde(default)]
    subject: String,
    value: Value,
}

/// Makes one change, in the manner of JSON Patch; a copy may override members.
fn change(document: &mut Value, c: &Change) {
    let copied = c.from.as_ref().map(|from| {
        let mut copy = document.pointer(from).expect("what is copied is there").clone();
        for (key, value) in c.value.iter().flat_map(|v| v.as_object().into_iter().flatten()) {
            copy[key] = value.clone();
        }
        copy
    });
    let value = copied.or_else(|| c.value.clone());
    let (host, key) = c.path.rsplit_once('/').expect("a path has a last part");
    match document.pointer_mut(host).unwrap_or_else(|| panic!("nothing at {host}")) {
        Value::Array(list) => match (c.op.as_str(), key) {
            ("remove", key) => {
                list.remove(key.parse().expect("a place"));
            }
            (_, "-") => list.push(value.expect("a value")),
            ("replace", key) => list[key.parse::<usize>().expect("a place")] = value.expect("one"),
            (_, key) => list.insert(key.parse().expect("a place"), value.expect("a value")),
        },
        Value::Object(members) if c.op == "remove" => {
            members.remove(key);
        }
        // Null is a value too, which the reader takes for none.
        host => host[key] = value.unwrap_or_default(),
    }
}

fn like(check: &Value, want: &Like) -> bool {
    let matches =
        |pattern: &str, text: &str| Regex::new(pattern).expect("a pattern").is_match(text);
    let verdict = check["verdict"].as_str().expect("a verdict");
    matches(&want.id, check["id"].as_str().expect("an id"))
        && matches(&want.subject, &check["subject"].to_string())
        && (want.verdict.is_empty() || want.verdict.iter().any(|v| v == verdict))
}

fn same(got: &Value, want: &Value) -> bool {
    match (got.as_f64(), want.as_f64()) {
        (Some(a), Some(b)) => (a - b).abs() <= 0.001 * b.abs(),
        _ => got == want,
    }
}

/// What a report does not meet.
fn unmet(report: &Value, expect: &Expect) -> Vec<String> {
    let mut wrong = Vec::new();
    let verdict = report["verdict"].as_str().expect("a verdict");
    if !expect.verdict.is_empty() && !expect.verdict.iter().any(|v| v == verdict) {
        wrong.push(format!("the job's verdict is {verdict}, wanted {:?}", expect.verdict));
    }
    let checks: Vec<&Value> = report["checks"]
        .as_array()
        .expect("checks")
        .iter()
        .filter(|c| c["alternative"] != true)
        .collect();
    for want in &expect.some {
        if !checks.iter().any(|c| like(c, want)) {
            wrong.push(format!("no check like {want:?}"));
        }
    }
    for want in &expect.none {
        for c in checks.iter().filter(|c| like(c, want)) {
            wrong.push(format!("{} of {} is {}", c["id"], c["subject"], c["verdict"]));
        }
    }
    for want in &expect.figures {
        let id = Regex::new(&format!("{}$", want.id)).expect("a pattern");
        let subject = Regex::new(&want.subject).expect("a pattern");
        let figures = report["figures"].as_array().expect("figures").iter();
        let own = figures.filter(|f| {
            id.is_match(f["id"].as_str().expect("an id"))
                && subject.is_match(&f["subject"].to_string())
        });
        let values: Vec<&Value> = own.map(|f| &f["value"]).collect();
        if !values.iter().any(|v| same(v, &want.value)) {
            wrong.push(format!("{want:?}: got {values:?}"));
        }
    }
    wrong
}

fn judged(name: &str) -> Vec<String> {
    let folder = concat!(env!("CARGO_MANIFEST_DIR"), "/tests/judged/");
    let read = |name: &str| {
        let text = std::fs::read_to_string(format!("{folder}{name}")).expect("the file is there");
        serde_json::from_str::<Value>(&text).expect("JSON")
    };
    let judgements: Vec<Judgement> = serde_json::from_value(read(name)).expect("judgements");
    assert!(!judgements.is_empty());
    let mut wrong = Vec::new();
    for j in judgements {
        let mut document = read(&j.base);
        for c in &j.edits {
            change(&mut document, c);
        }
        let opened = job::read(&document.to_string());
        let file = match opened {
            Ok(opened) => opened.file,
            Err(_) if j.expect.refused => continue,
            Err(problems) => panic!("{}: {problems:?}", j.id),
        };
        let report = evaluate(&file.job, &file.library, &file.readings);
        let report = json!({ "verdict": report.verdict, "checks": report.checks,
            "figures": report.figures });
        for line in unmet(&report, &j.expect) {
            wrong.push(format!("{} ({}): {line}", j.id, j.about));
        }
    }
    wrong
}

#[test]
fn whole_jobs_are_judged_as_a_licensed_person_would() {
    let wrong = judged("judgements.json");
    assert!(wrong.is_empty(), "{}", wrong.join("\n"));
}

#[test]
fn what_comes_through_every_device_is_judged_in_metric_jobs() {
    let wrong = judged("iec3-whole.json");
    assert!(wrong.is_empty(), "{}", wrong.join("\n"));
}

#[test]
fn what_comes_through_every_device_is_judged_in_north_american_jobs() {
    let wrong = judged("na3-whole.json");
    assert!(wrong.is_empty(), "{}", wrong.join("\n"));
}
