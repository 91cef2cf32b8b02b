//! Answers without workings, and the second call that gives them.

use rocket::http::Status;
use serde_json::{Value, json};

use crate::bench::{Bench, Person};

/// Figures of an answer, over all subjects.
fn figures_n(view: &Value) -> usize {
    let subjects = view["report"]["subjects"].as_array().expect("subjects");
    let n = |list: &Value| list.as_array().map_or(0, Vec::len);
    subjects.iter().map(|s| n(&s["figures"]) * (1 + n(&s["also"]))).sum()
}

fn worked(figures: &Value) -> usize {
    let figures = figures.as_array().expect("figures");
    figures.iter().filter(|f| f["working"].as_array().is_some_and(|w| !w.is_empty())).count()
}

async fn kestrel(bench: &Bench, who: &Person) -> Value {
    let id = bench.job(who, "Kestrel Lane workshop").await;
    bench.get(who, &format!("/api/jobs/{id}")).await.json()
}

/// The demo job grown to 100 strings of ten on 50 inverters.
fn large(body: &mut Value) {
    let job = &mut body["job"];
    let (string, inverter) = (job["strings"][0].clone(), job["inverters"][0].clone());
    let mut inverters = Vec::new();
    let mut strings = Vec::new();
    for i in 0..50 {
        let mut one = inverter.clone();
        one["id"] = json!(format!("INV{i}"));
        inverters.push(one);
    }
    for i in 0..100_u8 {
        let mut one = string.clone();
        let letter = [b'A' + i / 26, b'A' + i % 26];
        one["letter"] = json!(String::from_utf8_lossy(&letter));
        one["n"] = json!(10);
        one["inverter"] = json!(format!("INV{}", i / 2));
        one["mppt"] = json!(i % 2 + 1);
        strings.push(one);
    }
    job["inverters"] = json!(inverters);
    job["strings"] = json!(strings);
    let mut grown: heliant_core::job::Job = serde_json::from_value(job.clone()).expect("a job");
    heliant_core::job::settle(&mut grown, &mut Vec::new());
    *job = json!(grown);
}

fn without_map(body: &mut Value) {
    body["job"]["roof"] = json!({});
    for string in body["job"]["strings"].as_array_mut().expect("strings") {
        string["modules"] = json!([]);
        string["reversed"] = json!([]);
    }
}

#[rocket::async_test]
async fn a_save_answers_short_and_without_workings() {
    let bench = Bench::new().await;
    let tomas = bench.person("tomas").await;
    let view = kestrel(&bench, &tomas).await;
    // With 26 modules drawn on its roof, then without.
    let saved = bench.save(&tomas, &view, |b| b["job"]["notes"] = json!("x")).await;
    assert_eq!(saved.status, Status::Ok, "{}", saved.text);
    assert!(!saved.text.contains("\"working\"") && figures_n(&saved.json()) > 100);
    // With its protection and its bonding, two stages of some thirty checks.
    assert!(saved.text.len() < 40_000, "{} bytes for Kestrel Lane", saved.text.len());
    let view = kestrel(&bench, &tomas).await;
    let saved = bench.save(&tomas, &view, without_map).await;
    assert_eq!(saved.status, Status::Ok, "{}", saved.text);
    assert!(saved.text.len() < 33_000, "{} bytes without its map", saved.text.len());
    let view = kestrel(&bench, &tomas).await;
    let saved = bench.save(&tomas, &view, large).await;
    assert_eq!(saved.status, Status::Ok, "{}", saved.text);
    assert!(saved.text.len() < 500_000, "{} bytes for 1,000 modules", saved.text.len());
    assert!(saved.json()["report"]["string_windows"].as_array().is_some_and(|w| w.len() == 50));
}

#[rocket::async_test]
async fn workings_are_given_of_a_subject_of_a_stage_and_of_all() {
    let bench = Bench::new().await;
    let ines = bench.person("ines").await;
    let view = kestrel(&bench, &ines).await;
    let path = format!("/api/jobs/{}/revisions/1/workings", view["id"].as_str().expect("an id"));
    let ask = async |query: &str| bench.get(&ines, &format!("{path}{query}")).await;
    let subject = json!({ "kind": "string", "string": "A" });
    let encoded: String = subject
        .to_string()
        .bytes()
        .map(|b| {
            if b.is_ascii_alphanumeric() { char::from(b).to_string() } else { format!("%{b:02X}") }
        })
        .collect();
    let of_a = ask(&format!("?subject={encoded}")).await.json();
    let figures = of_a.as_array().expect("figures");
    assert!(figures.len() > 8 && figures.iter().all(|f| f["subject"] == subject));
    let cold = figures.iter().find(|f| f["id"] == "string.voc_cold_v").expect("cold volts");
    assert!(cold["working"].to_string().contains("12 × 39.4 × 1.1274"), "{cold}");
    let runs = ask("?stage=runs").await.json();
    assert!(runs.as_array().expect("figures").iter().all(|f| f["stage"] == "runs"));
    assert!(worked(&runs) > 20);
    let all = ask("").await.json();
    assert_eq!(all.as_array().map(Vec::len), Some(figures_n(&view)));
    for (query, place) in [("?stage=roofs", "/stage"), ("?subject=A", "/subject")] {
        let refused = ask(query).await;
        assert_eq!(
            (refused.status, refused.places()),
            (Status::UnprocessableEntity, vec![place.into()])
        );
    }
    let path = path.replace("/1/", "/7/");
    assert_eq!(bench.get(&ines, &path).await.status, Status::NotFound);
}

#[rocket::async_test]
async fn readings_at_once_are_all_kept_and_the_list_counts_every_one() {
    let bench = Bench::new().await;
    let ines = bench.person("ines").await;
    let view = kestrel(&bench, &ines).await;
    let path = format!("/api/jobs/{}/readings", view["id"].as_str().expect("an id"));
    let post = |i: i32| {
        let (bench, ines, path) = (&bench, &ines, &path);
        let letter = ["A", "B", "C"][i as usize % 3];
        let reading =
            json!({ "string": letter, "irradiance_w_m2": 700, "back_c": 30, "voc_v": 200 + i });
        async move { bench.post(ines, path, &reading).await.status }
    };
    let answers = rocket::futures::future::join_all((0..6).map(post)).await;
    assert!(answers.iter().all(|s| *s == Status::Ok), "{answers:?}");
    let now = kestrel(&bench, &ines).await;
    assert_eq!(now["report"]["readings"].as_array().map(Vec::len), Some(2 + 6));
    let line = bench.get(&ines, "/api/jobs").await.json()["jobs"][0].clone();
    assert_eq!(line["counts"], now["report"]["counts"], "the list knows all of them");
}

#[rocket::async_test]
async fn a_save_beside_readings_knows_every_one_of_them() {
    let bench = Bench::new().await;
    let tomas = bench.person("tomas").await;
    let view = kestrel(&bench, &tomas).await;
    let path = format!("/api/jobs/{}/readings", view["id"].as_str().expect("an id"));
    let reading = json!({ "string": "A", "irradiance_w_m2": 700, "back_c": 30, "voc_v": 100 });
    let (saved, read) = rocket::futures::future::join(
        bench.save(&tomas, &view, |b| b["job"]["strings"][0]["n"] = json!(11)),
        bench.post(&tomas, &path, &reading),
    )
    .await;
    assert_eq!((saved.status, read.status), (Status::Ok, Status::Ok));
    let now = kestrel(&bench, &tomas).await;
    assert_eq!(now["revision"], 2);
    let line = bench.get(&tomas, "/api/jobs").await.json()["jobs"][0].clone();
    assert_eq!(line["counts"], now["report"]["counts"]);
}

/// Answers the front end's own tests read, kept where they are: the two agree on their shape
/// because both read this file. `HELIANT_UPDATE=1` writes it anew.
#[rocket::async_test]
async fn the_front_end_is_tested_with_what_the_server_answers() {
    let bench = Bench::new().await;
    let tomas = bench.person("tomas").await;
    let mut view = kestrel(&bench, &tomas).await;
    let (id, revision) = (view["id"].as_str().expect("id").to_owned(), view["revision"].clone());
    let subject = "%7B%22kind%22:%22string%22,%22string%22:%22B%22%7D";
    let asked = format!("/api/jobs/{id}/revisions/{revision}/workings?subject={subject}");
    let workings = bench.get(&tomas, &asked).await.json();
    let school = format!("/api/choices/{}", view["job"]["school"].as_str().expect("school"));
    let choices = bench.get(&tomas, &school).await.json();
    let company = bench.get(&tomas, "/api/library").await.json();
    // What is of this run alone.
    view["id"] = json!("kestrel");
    view["saved_at"] = json!("2026-01-01T12:00:00Z");
    for reading in view["report"]["readings"].as_array_mut().expect("readings") {
        if reading["reading"].get("taken_at").is_some() {
            reading["reading"]["taken_at"] = json!("2026-01-01T12:00:00Z");
        }
    }
    let answers = json!({
        "view": view, "workings": workings, "choices": choices, "company": company,
    });
    let path = concat!(env!("CARGO_MANIFEST_DIR"), "/../../web/tests/data/answers.json");
    if std::env::var_os("HELIANT_UPDATE").is_some() {
        let text = serde_json::to_string_pretty(&answers).expect("prints");
        std::fs::write(path, text + "\n").expect("is written");
    }
    let kept = std::fs::read_to_string(path).expect("is there");
    let kept: Value = serde_json::from_str(&kept).expect("is JSON");
    for part in ["view", "workings", "choices", "company"] {
        assert_eq!(answers[part], kept[part], "{part}: HELIANT_UPDATE=1 writes it anew");
    }
}

#[rocket::async_test]
async fn cures_are_tried_before_they_are_offered() {
    let bench = Bench::new().await;
    let tomas = bench.person("tomas").await;
    let id = bench.job(&tomas, "Kestrel Lane workshop").await;
    let view = bench.get(&tomas, &format!("/api/jobs/{id}")).await.json();
    // Sixteen of BM-430 are far above 600 V on the coldest morning: 16 x 39.4 x 1.1274 = 710.7 V.
    let saved = bench.save(&tomas, &view, |b| b["job"]["strings"][0]["n"] = json!(16)).await;
    assert_eq!(saved.status, Status::Ok, "{}", saved.text);
    let subject = "%7B%22kind%22:%22string%22,%22string%22:%22A%22%7D";
    let path = format!("/api/jobs/{id}/revisions/2/cures?subject={subject}");
    let cured = bench.get(&tomas, &path).await;
    assert_eq!(cured.status, Status::Ok, "{}", cured.text);
    let cured = cured.json();
    let cold =
        cured["checks"].as_array().expect("a list").iter().find(|c| c["id"] == "string.voc_cold_v");
    let cures = cold.expect("the check")["cures"].as_array().expect("a list").clone();
    let shorter = cures.iter().find(|c| c["edits"][0]["pointer"] == "/strings/A/n");
    // 600 V / (39.4 V x 1.1274) = 13.5: thirteen in series hold.
    assert_eq!(shorter.expect("a shorter string")["edits"][0]["value"], 13);
    let none = bench.get(&tomas, &format!("/api/jobs/{id}/revisions/2/cures?subject=x")).await;
    assert_eq!(none.places(), ["/subject"]);
}
