//! The job file: what is wrong is named, all of it, with its place and a hint; older versions are
//! brought up.

use heliant_core::job::{self, MAX_FILE_BYTES, Problem, json_schema};
use serde_json::{Value, json};

fn kestrel() -> Value {
    serde_json::from_str(include_str!("../../../data/demo/kestrel-lane.json"))
        .expect("the demo job is JSON")
}

/// The demo job with a value put at a place.
fn with(pointer: &str, value: Value) -> Value {
    let mut file = kestrel();
    let (parent, key) = pointer.rsplit_once('/').expect("a pointer");
    match file.pointer_mut(parent).expect("the place is there") {
        Value::Object(o) => {
            o.insert(key.to_owned(), value);
        }
        Value::Array(a) => a[key.parse::<usize>().expect("an index")] = value,
        other => panic!("{other} holds nothing"),
    }
    file
}

fn problems(file: Value) -> Vec<Problem> {
    job::read_value(file).map(|_| Vec::new()).unwrap_or_else(|p| p)
}

fn one_problem(pointer: &str, value: Value) -> Problem {
    let found = problems(with(pointer, value));
    assert_eq!(found.len(), 1, "{pointer}: {found:?}");
    found[0].clone()
}

#[test]
fn data_sheet_values_out_of_all_sense_are_named_at_the_field() {
    let ratings = "/library/modules/0/ratings";
    for (field, value) in [
        ("voc_v", json!(-39.4)),
        ("b_voc_pct_c", json!(0.3)),
        ("isc_a", json!(0)),
        ("pmax_w", json!(4.3e9)),
        ("cells_series_n", json!("54")),
        ("series_fuse_a", json!([25])),
    ] {
        let problem = one_problem(&format!("{ratings}/{field}"), value);
        assert_eq!(problem.path, format!("{ratings}/{field}"));
        assert!(!problem.message.is_empty() && !problem.hint.is_empty(), "{problem:?}");
    }
    let swapped = one_problem(&format!("{ratings}/vmp_v"), json!(41.0));
    assert!(
        swapped.message.contains("Vmp 41 V is not below Voc 39.4 V")
            && swapped.hint.contains("swapped"),
        "{swapped:?}"
    );
    let upside_down = one_problem("/library/inverters/0/mppts/0/mppt_min_v", json!(570));
    assert!(upside_down.message.contains("upside down"), "{upside_down:?}");
}

#[test]
fn counts_out_of_all_sense_are_named_at_the_field() {
    for n in [json!(0), json!(10_000), json!(-1), json!(7.5), json!("7"), Value::Null] {
        let problem = one_problem("/job/strings/1/n", n.clone());
        assert_eq!(problem.path, "/job/strings/1/n", "{n}");
    }
}

#[test]
fn names_may_be_of_any_script_but_not_empty_or_endless() {
    assert!(problems(with("/job/name", json!("Ремонт 屋根 שלום 🌞"))).is_empty());
    assert_eq!(one_problem("/job/name", json!("")).path, "/job/name");
    assert!(one_problem("/job/name", json!("x".repeat(121))).hint.contains("120"));
}

#[test]
fn an_unknown_field_is_refused_with_a_hint() {
    let problem = one_problem("/job/site/t_minimum_c", json!(-24));
    assert_eq!(problem.path, "/job/site/t_minimum_c");
    assert!(problem.hint.contains("t_min_c"), "{problem:?}");
}

#[test]
fn every_wrong_place_is_named_at_once() {
    let mut file = with("/job/strings/0/n", json!(0));
    file["job"]["site"]["t_min_c"] = json!("cold");
    file["library"]["modules"][0]["ratings"]["voc_v"] = json!(-1);
    file["job"]["plan"]["ways"]["DC1"]["colour"] = json!("red");
    let found = problems(file);
    let mut paths: Vec<&str> = found.iter().map(|p| p.path.as_str()).collect();
    paths.sort_unstable();
    assert_eq!(
        paths,
        [
            "/job/plan/ways/DC1/colour",
            "/job/site/t_min_c",
            "/job/strings/0/n",
            "/library/modules/0/ratings/voc_v"
        ]
    );
}

#[test]
fn references_have_to_lead_somewhere() {
    assert!(one_problem("/job/strings/0/face", json!("north")).hint.contains("se, sw"));
    assert!(one_problem("/job/strings/0/mppt", json!(3)).hint.contains("inputs 1 to 2"));
    assert!(one_problem("/job/strings/0/module/revision", json!(9)).message.contains("revision 9"));
    // B is gone then, and the circuit that begins there says so too.
    let twice = problems(with("/job/strings/1/letter", json!("A")));
    assert!(
        twice[0].message.contains("twice") && twice[1].path == "/job/plan/circuits/B/from",
        "{twice:?}"
    );
    assert!(
        one_problem("/job/plan/ways/DC1/parts/0/raceway/size", json!("5/8")).hint.contains("3/4")
    );
    assert!(one_problem("/job/plan/circuits/A/legs/0/wire/awg", json!("7")).hint.contains("8"));
    assert!(one_problem("/job/site/building", json!("building")).message.contains("other school"));
}

#[test]
fn what_is_no_job_file_is_said() {
    for text in ["", "{", "[]", "null", "\"x\"", "{\"version\": 2}", "NaN", "{\"job\": NaN}"] {
        let found = job::read(text).expect_err(text);
        assert!(!found.is_empty(), "{text}");
    }
    let large = format!("{{\"format\": \"{}\"}}", "x".repeat(40 * 1024 * 1024));
    let found = job::read(&large).expect_err("40 MB");
    assert!(found[0].message.contains(&MAX_FILE_BYTES.to_string()), "{found:?}");
    assert!(job::read(&"[".repeat(100_000)).is_err(), "deep nesting is refused, not a crash");
}

#[test]
fn a_byte_order_mark_does_no_harm() {
    assert!(job::read(&format!("\u{feff}{}", kestrel())).is_ok());
}

/// A job as version 2 wrote it.
fn version_2() -> Value {
    serde_json::from_str(include_str!("judged/base/na-string.json")).expect("JSON")
}

#[test]
fn version_1_is_brought_up_and_the_changes_are_listed() {
    let mut old = version_2();
    old["version"] = json!(1);
    let root = old.as_object_mut().expect("an object");
    root.remove("readings");
    let job = root["job"].as_object_mut().expect("a job");
    let inverters = job.remove("inverters").expect("inverters");
    job.insert("inverter".to_owned(), inverters[0].clone());
    for string in job["strings"].as_array_mut().expect("strings") {
        let string = string.as_object_mut().expect("a string");
        let n = string.remove("n").expect("n");
        string.insert("modules_n".to_owned(), n);
    }
    let opened = job::read_value(old).expect("version 1 reads");
    // Readings, inverters, three strings; then runs and panel into the plan.
    assert_eq!(opened.changes.len(), 1 + 1 + 3 + 2, "{:?}", opened.changes);
    assert!(
        opened.changes.iter().any(|c| c.contains("/job/strings/2/modules_n")),
        "{:?}",
        opened.changes
    );
    let mut now = job::read_value(version_2()).expect("version 2 reads").file;
    now.readings.clear();
    assert_eq!(opened.file, now);
}

#[test]
fn an_unknown_version_is_refused() {
    let problem = one_problem("/version", json!(8));
    assert!(problem.path == "/version" && problem.message.contains("1 to 7"), "{problem:?}");
}

#[test]
fn a_time_zone_is_one_that_there_is() {
    let zone = |name: &str| problems(with("/job/time_zone", json!(name)));
    assert!(zone("America/Denver").is_empty());
    for wrong in ["Mountain time", "utc+7", ""] {
        let [problem] = &zone(wrong)[..] else { panic!("{wrong:?}: {:?}", zone(wrong)) };
        assert_eq!(
            (problem.path.as_str(), problem.hint.as_str()),
            ("/job/time_zone", "as Europe/Berlin")
        );
    }
}

#[test]
fn a_file_of_version_3_is_read_as_it_is() {
    let mut old = with("/version", json!(3));
    let job = old["job"].as_object_mut().expect("a job");
    for newer in ["customer", "contact", "time_zone"] {
        job.remove(newer);
    }
    let opened = job::read_value(old).expect("it reads");
    assert_eq!((opened.file.version, opened.changes.len()), (7, 0));
    assert_eq!((opened.file.job.customer.as_str(), opened.file.job.time_zone), ("", None));
}

#[test]
fn a_withdrawn_reading_stays_and_counts_for_nothing() {
    let text = include_str!("../../../data/demo/kestrel-lane.json");
    let mut file = job::read(text).expect("it reads").file;
    let stands = |file: &job::JobFile| {
        let report = heliant_core::evaluate(&file.job, &file.library, &file.readings);
        let stands = report.readings.iter().filter(|r| !r.superseded);
        let stands: Vec<String> = stands.map(|r| r.reading.values.string.to_string()).collect();
        (stands, report.readings.len())
    };
    let before = stands(&file);
    assert_eq!(before.1, file.readings.len());
    let last = file.readings.last_mut().expect("a reading");
    let letter = last.values.string.to_string();
    last.withdrawn = Some(job::Withdrawn {
        at: "2026-10-15T08:00:00Z".to_owned(),
        by: "Ines Rowe".to_owned(),
        reason: "the probe sat on the frame".to_owned(),
    });
    let after = stands(&file);
    assert_eq!(after.1, before.1, "it stays on record");
    let left = before.0.iter().filter(|l| **l != letter).collect::<Vec<_>>();
    assert_eq!(after.0.iter().collect::<Vec<_>>(), left, "only {letter} was withdrawn");
    let report = heliant_core::evaluate(&file.job, &file.library, &file.readings);
    let open = report.checks.iter().find(|c| {
        c.id == "test.taken"
            && c.subject == heliant_core::figure::Subject::string(&letter.as_str().into())
    });
    assert!(open.is_some(), "{letter} is not read any more");
    // It comes through a file and back.
    let again = job::read(&file.to_text()).expect("it reads").file;
    assert_eq!(again.readings, file.readings);
}

#[test]
fn the_published_schema_is_current() {
    let published = include_str!("../../../docs/heliant-job.schema.json");
    let published: Value = serde_json::from_str(published).expect("is JSON");
    let made = serde_json::to_value(json_schema()).expect("a schema is JSON");
    assert!(published == made, "write it anew: ./heliant schema > docs/heliant-job.schema.json");
}

#[test]
fn a_file_of_more_values_than_any_job_has_is_not_read() {
    let file = format!("[{}1]", "1,".repeat(1_000_001));
    let problems = job::read(&file).expect_err("no job file");
    assert_eq!(problems[0].message.split(' ').nth(3), Some("1000001"), "{problems:?}");
}
