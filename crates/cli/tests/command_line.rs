//! The command line as somebody uses it: what it prints and how it exits.

use std::fs;
use std::path::{Path, PathBuf};
use std::process::{Command, Output};

fn root() -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).join("../..")
}

fn heliant(arguments: &[&str]) -> Output {
    Command::new(env!("CARGO_BIN_EXE_heliant")).args(arguments).output().expect("the command runs")
}

fn out(output: &Output) -> String {
    String::from_utf8_lossy(&output.stdout).into_owned()
}

fn err(output: &Output) -> String {
    String::from_utf8_lossy(&output.stderr).into_owned()
}

/// A folder that goes away with the test.
struct Folder(PathBuf);

impl Folder {
    fn new(name: &str) -> Self {
        let dir = std::env::temp_dir().join(format!("heliant-cli-{}-{name}", std::process::id()));
        fs::create_dir_all(&dir).expect("a folder for the test");
        Folder(dir)
    }

    fn file(&self, name: &str, text: &str) -> String {
        let path = self.0.join(name);
        fs::write(&path, text).expect("a file for the test");
        path.display().to_string()
    }
}

impl Drop for Folder {
    fn drop(&mut self) {
        let _ = fs::remove_dir_all(&self.0);
    }
}

fn demo(name: &str) -> String {
    root().join("data/demo").join(name).display().to_string()
}

#[test]
fn check_exits_1_where_something_stops_and_shows_the_working() {
    let output = heliant(&["check", &demo("kestrel-lane.json")]);
    assert_eq!(output.status.code(), Some(1), "the raceway of the demo job is overfull");
    let text = out(&output);
    // 12 x 39.4 x 1.1274 = 533.03
    assert!(
        text.contains("12 × 39.4 × 1.1274") && text.contains("string.voc_cold_v = 533.0"),
        "{text}"
    );
    assert!(text.contains("STOP     DC1/1 · Fill of the raceway"), "{text}");
    assert!(text.contains("cure: EMT 1 holds them."), "{text}");
    assert!(text.contains("5 stop, 3 caution, 2 open"), "{text}");
}

#[test]
fn check_exits_0_where_nothing_stops() {
    let output = heliant(&["check", &demo("quarry-cottage.json")]);
    assert_eq!(output.status.code(), Some(0), "{}", out(&output));
}

#[test]
fn check_as_json_is_the_report() {
    let output = heliant(&["check", &demo("kestrel-lane.json"), "--format", "json"]);
    let report: serde_json::Value = serde_json::from_str(&out(&output)).expect("one JSON document");
    assert_eq!(report["counts"]["fail"], 5);
    assert!(report["figures"].as_array().is_some_and(|f| {
        f.iter().any(|f| f["id"] == "string.voc_cold_v" && f["working"][0]["label"] == "n")
    }));
}

#[test]
fn check_exits_2_and_names_every_wrong_place() {
    let folder = Folder::new("wrong");
    let text = fs::read_to_string(demo("kestrel-lane.json")).expect("the demo job");
    let wrong = text
        .replace("\"n\": 12", "\"n\": 0")
        .replace("\"t_min_c\"", "\"tmin\"")
        .replace("\"voc_v\": 39.4", "\"voc_v\": \"39.4\"");
    let path = folder.file("wrong.json", &wrong);
    let output = heliant(&["check", &path]);
    assert_eq!(output.status.code(), Some(2));
    let said = err(&output);
    for place in ["/job/strings/0/n", "/job/site/tmin", "/library/modules/0/ratings/voc_v"] {
        assert!(said.contains(place), "{place} in {said}");
    }
    assert!(said.contains("did you mean `t_min_c`?"), "{said}");
    let json = heliant(&["check", &path, "--format", "json"]);
    let problems: serde_json::Value = serde_json::from_str(&out(&json)).expect("JSON");
    assert_eq!(
        (json.status.code(), problems["problems"].as_array().map(Vec::len)),
        (Some(2), Some(3))
    );
}

#[test]
fn files_that_are_none_are_refused_without_a_panic() {
    let folder = Folder::new("none");
    let large = folder.file("large.json", &" ".repeat(40 * 1024 * 1024));
    let binary = folder.0.join("binary.json");
    fs::write(&binary, [0xff, 0xfe, 0x00, 0x80]).expect("a file for the test");
    let nan = folder.file("nan.json", "{\"job\": NaN}");
    for path in [
        large,
        binary.display().to_string(),
        nan,
        "/nowhere/job.json".to_owned(),
        folder.0.display().to_string(),
    ] {
        let output = heliant(&["check", &path]);
        assert_eq!(output.status.code(), Some(2), "{path}");
        assert!(
            !err(&output).is_empty() && !err(&output).contains("panicked"),
            "{path}: {}",
            err(&output)
        );
    }
}

#[test]
fn an_older_version_says_what_it_changed() {
    let folder = Folder::new("older");
    let older = root().join("crates/core/tests/judged/base/iec-hybrid.json");
    let text = fs::read_to_string(older).expect("a job of version 2");
    let path = folder.file(
        "older.json",
        &text.replace("\"version\": 2", "\"version\": 1").replace("\"n\": 14", "\"modules_n\": 14"),
    );
    let output = heliant(&["check", &path]);
    assert_eq!(output.status.code(), Some(0), "{}", err(&output));
    assert!(err(&output).contains("migrated /job/strings/0/modules_n: now n"), "{}", err(&output));
    // The same in the current version, as a file.
    let now = heliant(&["migrate", &path]);
    assert_eq!(now.status.code(), Some(0), "{}", err(&now));
    assert!(err(&now).contains("/job/runs: now its ways and circuits"), "{}", err(&now));
    let text = out(&now);
    assert!(text.contains("\"version\": 7") && text.contains("\"circuits\""), "{text}");
    let again = heliant(&["migrate", &folder.file("now.json", &text)]);
    assert_eq!((out(&again), err(&again)), (text, String::new()), "nothing is left to change");
    assert_eq!(heliant(&["migrate", "nowhere.json"]).status.code(), Some(2));
}

#[test]
fn cases_count_and_name_what_is_not_built() {
    let own = heliant(&["cases", &root().join("cases").display().to_string()]);
    assert_eq!(own.status.code(), Some(0), "{}", out(&own));
    assert!(out(&own).trim_end().ends_with("0 failed, 0 skipped"), "{}", out(&own));

    let folder = Folder::new("cases");
    let case = |id: &str, group: &str, inputs: &str, figures: &str| {
        format!(
            r#"{{"id": "{id}", "group": "{group}", "school": "na", "about": "", "inputs": {inputs},
                "expected": {{"figures": {figures}, "verdicts": {{}}}}, "tolerance": {{}}}}"#
        )
    };
    // 1.25 x 47.5 + 200 = 259.375, worked example 13; 260 is 0.24 % off.
    let panel = r#"{"bus_a": 200, "main_a": 200, "load_breakers_a": [], "pv_breaker_a": 60,
        "inverter_a": 47.5}"#;
    let good = case("good", "panel", panel, r#"{"panel.bus_125_a": 259.375}"#);
    let bad = case("bad", "panel", panel, r#"{"panel.bus_125_a": 260}"#);
    let later = case("later", "cut", "{}", "{}");
    folder.file("a.json", &format!("[{good}, {bad}, {later}]"));
    let output = heliant(&["cases", &folder.0.display().to_string()]);
    assert_eq!(output.status.code(), Some(1));
    let text = out(&output);
    assert!(
        text.contains("skipped group cut: not built yet")
            && text.trim_end().ends_with("1 passed, 1 failed, 1 skipped"),
        "{text}"
    );
    assert!(
        text.contains("bad figure panel.bus_125_a: wanted 260, got 259.375")
            && text.contains("1.25 × 47.5"),
        "{text}"
    );

    folder.file("b.json", &format!("[{good}]"));
    let twice = heliant(&["cases", &folder.0.display().to_string()]);
    assert_eq!(twice.status.code(), Some(2));
    assert!(err(&twice).contains("case `good` is also in"), "{}", err(&twice));
}

#[test]
fn schema_is_a_schema() {
    let output = heliant(&["schema"]);
    let schema: serde_json::Value = serde_json::from_str(&out(&output)).expect("JSON");
    assert_eq!(schema["$schema"], "https://json-schema.org/draft/2020-12/schema");
    assert!(schema["$defs"]["JobString"]["properties"]["n"]["maximum"].is_number());
}

fn sum(arguments: &[&str], input: &str) -> Output {
    use std::io::Write as _;
    use std::process::Stdio;
    let mut child = Command::new(env!("CARGO_BIN_EXE_heliant"))
        .arg("sum")
        .args(arguments)
        .stdin(Stdio::piped())
        .stdout(Stdio::piped())
        .stderr(Stdio::piped())
        .spawn()
        .expect("the command runs");
    // One that refuses its arguments may be gone before it reads.
    let _ = child.stdin.take().expect("a pipe").write_all(input.as_bytes());
    child.wait_with_output().expect("it ends")
}

#[test]
fn a_sum_takes_and_gives_json() {
    let samples = sum(&["voltage-drop", "--school", "iec", "--inputs"], "");
    assert_eq!(samples.status.code(), Some(0), "{}", err(&samples));
    let slip = sum(&["voltage-drop", "--school", "iec"], &out(&samples));
    assert_eq!(slip.status.code(), Some(0), "{}", err(&slip));
    let slip: serde_json::Value = serde_json::from_str(&out(&slip)).expect("JSON");
    assert_eq!(slip["answers"][0]["id"], "circuit.vdrop_pct");
    // 24 m of 6 mm² solar cable at 70 °C: 2 x 24 x 3.39e-3 x 1.1965 x 13.26 A = 2.5817 V of 464.8
    // V.
    let drop = slip["answers"][0]["value"].as_f64().expect("a number");
    assert!((drop - 2.0 * 24.0 * 3.39e-3 * 1.1965 * 13.26 / 464.8 * 100.0).abs() < 1e-6, "{drop}");
    let text = sum(&["voltage-drop", "--school", "iec", "--format", "text"], &out(&samples));
    assert!(out(&text).contains("Voltage drop in percent = 0.555"), "{}", out(&text));
}

#[test]
fn a_sum_that_stops_or_is_asked_wrongly_says_so_by_its_exit() {
    let samples: serde_json::Value =
        serde_json::from_str(&out(&sum(&["string-window", "--inputs"], ""))).expect("JSON");
    let mut long = samples.clone();
    long["n"] = 14.into();
    // 14 x 39.4 x 1.1274 = 621.9 V over 600 V.
    assert_eq!(sum(&["string-window"], &long.to_string()).status.code(), Some(1));
    let mut wrong = samples;
    wrong["n"] = "twelve".into();
    let refused = sum(&["string-window", "--format", "text"], &wrong.to_string());
    assert_eq!(
        (
            refused.status.code(),
            err(&refused)
                .contains("/n: Modules in series: \"twelve\" is not right (a whole number)")
        ),
        (Some(2), true),
        "{}",
        err(&refused)
    );
    let json = sum(&["string-window"], &wrong.to_string());
    assert!(out(&json).contains("\"path\":\"/n\""), "{}", out(&json));
    let none = sum(&["string-window", "--format", "text"], "twelve");
    assert!(none.status.code() == Some(2) && err(&none).contains("--inputs"), "{}", err(&none));
    let unknown = sum(&["cake"], "{}");
    assert!(
        unknown.status.code() == Some(2) && err(&unknown).contains("wire-size"),
        "{}",
        err(&unknown)
    );
}

#[test]
fn the_sums_of_a_school_are_listed() {
    let na = out(&sum(&[], ""));
    let iec = out(&sum(&["--school", "iec"], ""));
    assert!(
        na.contains("busbar") && !iec.contains("busbar"),
        "the busbar rules are of one school: {iec}"
    );
    assert!(na.lines().count() >= 8 && iec.lines().count() >= 8);
}

/// A face of three modules in one string; the last may lie further off.
fn question(last_x_mm: f64) -> String {
    let module = |id: &str, x: f64| serde_json::json!({ "id": id, "x_mm": x, "y_mm": 0 });
    serde_json::json!({
        "module": {
            "width_mm": 1134, "length_mm": 1722, "exit_plus_mm": [816.48, 861],
            "exit_minus_mm": [317.52, 861], "lead_plus_m": 1.2, "lead_minus_m": 1.2
        },
        "slack_m": 0.1, "stock_m": [0.5, 1], "may_turn": true,
        "faces": [{
            "id": "S", "box_mm": [0, 861],
            "modules": [module("M1", 0.0), module("M2", 1154.0), module("M3", last_x_mm)],
            "strings": [{ "letter": "A", "n": 3 }]
        }]
    })
    .to_string()
}

#[test]
fn route_answers_in_json_or_names_the_module_that_cannot_be_reached() {
    let folder = Folder::new("route");
    let output = heliant(&["route", &folder.file("face.json", &question(2308.0))]);
    assert_eq!(output.status.code(), Some(0), "{}", err(&output));
    let answer: serde_json::Value = serde_json::from_str(&out(&output)).expect("JSON");
    let face = &answer["faces"][0];
    // Ends at M1 and M2, whose - turned lies nearer: (1154 + 317.52) mm to the box, + 0.1 - 1.2 m.
    assert!((face["wire_m"].as_f64().expect("m") - 0.37152).abs() < 1e-6, "{face}");
    assert_eq!((&face["wire_m"], &answer["wire_m"]), (&face["bound_m"], &face["wire_m"]));
    assert_eq!(face["strings"][0]["modules"].as_array().map(Vec::len), Some(3));
    assert_eq!(face["jumpers_n"], 0);

    // 9 m off: leads of 2.3 m and a jumper of 1 m do not bridge it.
    let output = heliant(&["route", &folder.file("far.json", &question(10_154.0))]);
    assert_eq!(output.status.code(), Some(1));
    assert!(err(&output).contains("M3 cannot be reached"), "{}", err(&output));
    assert_eq!(out(&output), "", "nothing half-written");
}

#[test]
fn route_exits_2_on_a_wrong_question() {
    let folder = Folder::new("route-wrong");
    let wrong = question(2308.0).replace("\"n\":3", "\"n\":4");
    let output = heliant(&["route", &folder.file("wrong.json", &wrong)]);
    assert_eq!(output.status.code(), Some(2));
    assert!(err(&output).contains("4 modules in strings, 3 on the face"), "{}", err(&output));
    let unknown = question(2308.0).replace("\"slack_m\"", "\"slak_m\"");
    let output = heliant(&["route", &folder.file("unknown.json", &unknown)]);
    assert_eq!(output.status.code(), Some(2));
    assert!(err(&output).contains("slak_m"), "{}", err(&output));
    assert_eq!(heliant(&["route", "nowhere.json"]).status.code(), Some(2));
}
