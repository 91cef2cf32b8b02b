//! Job files with anything anywhere, and commands of any kind: refused with places or evaluated
//! whole, never a panic, and a command that is refused changes nothing.

use heliant_core::evaluate_with;
use heliant_core::figure::Recording;
use heliant_core::job::{self, Command, Job, commanded};
use proptest::prelude::*;
use serde_json::{Value, json};

const DEMO: [&str; 5] = [
    include_str!("../../../data/demo/quarry-cottage.json"),
    include_str!("../../../data/demo/kestrel-lane.json"),
    include_str!("../../../data/demo/pinyon-street.json"),
    include_str!("../../../data/demo/saltmarsh-nursery.json"),
    include_str!("../../../data/demo/tern-bay.json"),
];

/// What is put in place of a value. Some of them found something once: a NUL, a letter that grows
/// in lower case, a number without room behind it, a date that is none, a thing that names itself.
fn odd(n: usize) -> Value {
    let all = [
        json!(null),
        json!(0),
        json!(-1),
        json!(1),
        json!(1e308),
        json!(-1e-308),
        json!(9999),
        json!(4_294_967_296_u64),
        json!(0.1),
        json!(true),
        json!(""),
        json!("A"),
        json!("a\u{0}b"),
        json!("\u{130}".repeat(61)),
        json!("2026-02-30T10:00:00Z"),
        json!("x".repeat(5000)),
        json!([]),
        json!([[[]]]),
        json!({}),
        json!({ "": null }),
        json!({ "node": "INV1", "device": "INV1" }),
    ];
    all[n % all.len()].clone()
}

/// Every place of a document.
fn places(value: &Value, at: &str, found: &mut Vec<String>) {
    found.push(at.to_owned());
    match value {
        Value::Object(fields) => {
            for (key, value) in fields {
                let key = key.replace('~', "~0").replace('/', "~1");
                places(value, &format!("{at}/{key}"), found);
            }
        }
        Value::Array(list) => {
            for (i, value) in list.iter().enumerate() {
                places(value, &format!("{at}/{i}"), found);
            }
        }
        _ => {}
    }
}

/// Puts something odd somewhere, takes something out, or copies one part over another.
fn mutate(file: &mut Value, (what, at, with): (u8, usize, usize)) {
    let mut found = Vec::new();
    places(file, "", &mut found);
    let place = &found[at % found.len()];
    let other = file.pointer(&found[with % found.len()]).cloned().unwrap_or_default();
    match what % 4 {
        0 | 1 => {
            if let Some(value) = file.pointer_mut(place) {
                *value = odd(with);
            }
        }
        2 => {
            if let Some(value) = file.pointer_mut(place) {
                *value = other;
            }
        }
        _ => {
            let Some((parent, key)) = place.rsplit_once('/') else { return };
            match file.pointer_mut(parent) {
                Some(Value::Object(fields)) => {
                    fields.remove(&key.replace("~1", "/").replace("~0", "~"));
                }
                Some(Value::Array(list)) => {
                    list.pop();
                }
                _ => {}
            }
        }
    }
}

fn evaluated(file: &Value) {
    match job::read(&file.to_string()) {
        Ok(opened) => {
            let job::JobFile { job, library, readings, .. } = opened.file;
            let report = evaluate_with(&job, &library, &readings, Recording::Everything);
            assert!(
                report.figures.iter().all(|f| f.value.is_some()
                    || !f.working.is_empty()
                    || !f.missing.is_empty()
                    || f.note.is_some()),
                "a figure says why it is open"
            );
        }
        Err(problems) => assert!(!problems.is_empty(), "refused, and no place is named"),
    }
}

fn command() -> impl Strategy<Value = Command> {
    let key = prop_oneof![
        Just("INV1"),
        Just("MP"),
        Just("BOX"),
        Just("DC1"),
        Just("AC1"),
        Just("A"),
        Just("B"),
        Just("NEW"),
        Just("roof"),
        Just(""),
    ];
    let keys = prop::collection::vec(key, 5);
    (0_usize..14, keys, 0_usize..4).prop_map(|(n, k, after)| {
        let value = match n {
            0 => json!({ "do": "settle" }),
            1 => json!({ "do": "add_node", "node": k[0], "kind": "pull_box" }),
            2 => json!({ "do": "retire_node", "node": k[0] }),
            3 => json!({ "do": "add_way", "way": k[0], "from": k[1], "to": k[2] }),
            4 => json!({ "do": "split_way", "way": k[0], "after": after, "node": k[1],
                "kind": "pull_box", "rest": k[2] }),
            5 => json!({ "do": "join_ways", "node": k[0] }),
            6 => json!({ "do": "retire_way", "way": k[0] }),
            7 => json!({ "do": "retire_circuit", "circuit": k[0] }),
            8 => json!({ "do": "retire_device", "node": k[0], "device": k[1] }),
            9 => json!({ "do": "reroute", "circuit": k[0], "leg": after, "via": [k[1], k[2]] }),
            _ => json!({ "do": "reroute", "circuit": k[0], "leg": 0, "via": [k[1], k[1], k[1]] }),
        };
        serde_json::from_value(value).expect("a command")
    })
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 400, ..ProptestConfig::default() })]

    #[test]
    fn anything_anywhere_in_a_job_file_is_refused_or_evaluated(
        demo in 0_usize..5,
        changes in prop::collection::vec((any::<u8>(), any::<usize>(), any::<usize>()), 1..6),
    ) {
        let mut file: Value = serde_json::from_str(DEMO[demo]).expect("the demo job");
        for change in changes {
            mutate(&mut file, change);
        }
        evaluated(&file);
    }

    #[test]
    fn commands_in_any_order_keep_a_plan_whole(
        demo in 0_usize..5,
        commands in prop::collection::vec(command(), 1..12),
    ) {
        let opened = job::read(DEMO[demo]).expect("the demo job").file;
        let mut now: Job = opened.job;
        for command in &commands {
            if let Ok((next, _)) = commanded(&now, command) {
                now = next;
            }
        }
        let file = job::JobFile::new(now, opened.library, opened.readings);
        let text = serde_json::to_string(&file).expect("JSON");
        prop_assert!(job::read(&text).is_ok(), "{commands:?}: {:?}", job::read(&text).err());
        evaluated(&serde_json::from_str(&text).expect("JSON"));
    }
}

/// Each odd value in each field of the smallest job, one at a time: the seeds, every time.
#[test]
fn each_odd_value_in_each_field_of_a_job() {
    let file: Value = serde_json::from_str(DEMO[0]).expect("the demo job");
    let mut found = Vec::new();
    places(&file["job"], "/job", &mut found);
    places(&file["readings"], "/readings", &mut found);
    for place in found.iter().step_by(3) {
        for n in 0..21 {
            let mut other = file.clone();
            if let Some(value) = other.pointer_mut(place) {
                *value = odd(n);
            }
            evaluated(&other);
        }
    }
}
