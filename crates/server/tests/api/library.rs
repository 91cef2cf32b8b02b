//! Data sheets of the company, what forms may offer, files from other versions and installations.

use rocket::http::{Method, Status};
use serde_json::{Value, json};

use crate::bench::Bench;

fn kestrel() -> Value {
    serde_json::from_str(heliant_server::demo::JOBS[1]).expect("the demo job")
}

fn revisions(library: &Value, kind: &str, sheet: &str) -> Vec<i64> {
    let sheets = library[kind].as_array().expect("a list");
    sheets.iter().filter(|s| s["sheet"] == sheet).filter_map(|s| s["revision"].as_i64()).collect()
}

#[rocket::async_test]
async fn every_revision_of_a_data_sheet_stays() {
    let bench = Bench::new().await;
    let tomas = bench.person("tomas").await;
    let library = bench.get(&tomas, "/api/library").await.json();
    assert_eq!(revisions(&library, "modules", "brightmoor-bm-430"), [1, 2]);
    assert_eq!(revisions(&library, "inverters", "stellan-s8-2"), [3, 4]);
    assert!(
        library["modules"].as_array().expect("a list").iter().all(|m| m["demo"] == true),
        "demo sheets say so"
    );
}

#[rocket::async_test]
async fn an_import_brings_its_data_sheets_and_changes_none_that_is_there() {
    let bench = Bench::new().await;
    let tomas = bench.person("tomas").await;
    let mut file = kestrel();
    // Another installation has another idea of revision 2, and a revision 7 besides.
    file["library"]["modules"][0]["ratings"]["voc_v"] = json!(39.9);
    let mut newer = file["library"]["modules"][0].clone();
    newer["revision"] = json!(7);
    file["library"]["modules"].as_array_mut().expect("a list").push(newer);
    file["job"]["strings"][0]["module"]["revision"] = json!(7);
    let made = bench.post(&tomas, "/api/jobs/import?offer=true", &file).await;
    assert_eq!(made.status, Status::Ok, "{}", made.text);
    let library = bench.get(&tomas, "/api/library").await.json();
    // Its own revision 2 becomes the next that neither has.
    assert_eq!(revisions(&library, "modules", "brightmoor-bm-430"), [1, 2, 7, 8]);
    let second = library["modules"]
        .as_array()
        .expect("a list")
        .iter()
        .find(|m| m["sheet"] == "brightmoor-bm-430" && m["revision"] == 2)
        .expect("there");
    assert_eq!(second["ratings"]["voc_v"], 39.4, "the company's revision 2 is as it was");
    let view = bench
        .get(&tomas, &format!("/api/jobs/{}", made.json()["id"].as_str().expect("an id")))
        .await
        .json();
    assert_eq!(
        view["library"]["modules"][0]["ratings"]["voc_v"], 39.9,
        "the job keeps what it was planned with"
    );
}

/// A job as version 2 wrote it.
const VERSION_2: &str = include_str!("../../../core/tests/judged/base/na-string.json");

#[rocket::async_test]
async fn a_file_of_an_older_version_says_what_was_changed() {
    let bench = Bench::new().await;
    let tomas = bench.person("tomas").await;
    let text = VERSION_2.replace("\"version\": 2", "\"version\": 1");
    let text = text.replace("\"n\":", "\"modules_n\":");
    let made = bench.send(Some(&tomas), Method::Post, "/api/jobs/import", text).await;
    assert_eq!(made.status, Status::Ok, "{}", made.text);
    let changes = made.json()["changes"].as_array().expect("a list").len();
    // Three strings; runs and panel into the plan; a module and an inverter that the company knows
    // with other values.
    assert_eq!(changes, 3 + 2 + 2, "{}", made.text);
}

#[rocket::async_test]
async fn imported_readings_keep_who_took_them_and_when() {
    let bench = Bench::new().await;
    let tomas = bench.person("tomas").await;
    let made = bench.post(&tomas, "/api/jobs/import", &kestrel()).await.json();
    let view = bench
        .get(&tomas, &format!("/api/jobs/{}", made["id"].as_str().expect("an id")))
        .await
        .json();
    let first = &view["report"]["readings"][0]["reading"];
    assert_eq!(
        (first["by"].as_str(), first["at"].as_str()),
        (Some("Ines Rowe"), Some("2026-10-14T17:36:00Z"))
    );
}

#[rocket::async_test]
async fn forms_are_offered_what_the_school_has() {
    let bench = Bench::new().await;
    let ines = bench.person("ines").await;
    let na = bench.get(&ines, "/api/choices/na").await.json();
    assert!(
        na["awg"].as_array().is_some_and(|a| a.contains(&json!("1/0"))) && na["mm2"] == json!([])
    );
    let iec = bench.get(&ines, "/api/choices/iec").await.json();
    assert!(
        iec["mm2"].as_array().is_some_and(|a| a.contains(&json!(4.0))) && iec["awg"] == json!([])
    );
    assert_eq!(bench.get(&ines, "/api/choices/other").await.status, Status::NotFound);
}

#[rocket::async_test]
async fn a_new_job_is_empty_open_and_the_callers() {
    let bench = Bench::new().await;
    let tomas = bench.person("tomas").await;
    let made = bench
        .post(&tomas, "/api/jobs", &json!({ "name": " Dune house ", "school": "iec" }))
        .await
        .json();
    let view = bench
        .get(&tomas, &format!("/api/jobs/{}", made["id"].as_str().expect("an id")))
        .await
        .json();
    assert_eq!(
        (view["job"]["name"].as_str(), view["saved_by"].as_str(), view["revision"].as_i64()),
        (Some("Dune house"), Some("Tomas Brandt"), Some(1))
    );
    assert_eq!(view["report"]["verdict"], "unknown", "nothing entered is not good");
    let line = bench.get(&tomas, "/api/jobs").await.json()["jobs"][0].clone();
    assert_eq!((line["school"].as_str(), line["verdict"].as_str()), (Some("iec"), Some("unknown")));
    for body in [
        json!({ "name": "x", "school": "other" }),
        json!({ "name": "x" }),
        json!({ "name": "x", "school": "na", "owner": "me" }),
    ] {
        assert_eq!(
            bench.post(&tomas, "/api/jobs", &body).await.status,
            Status::UnprocessableEntity,
            "{body}"
        );
    }
}

#[rocket::async_test]
async fn an_older_revision_shows_its_own_plan_with_the_readings_since() {
    let bench = Bench::new().await;
    let tomas = bench.person("tomas").await;
    let id = bench.job(&tomas, "Kestrel Lane workshop").await;
    let view = bench.get(&tomas, &format!("/api/jobs/{id}")).await.json();
    bench.save(&tomas, &view, |b| b["job"]["strings"][2]["n"] = json!(8)).await;
    bench
        .post(
            &tomas,
            &format!("/api/jobs/{id}/readings"),
            &json!({ "string": "C", "irradiance_w_m2": 600, "back_c": 39, "voc_v": 295 }),
        )
        .await;
    let first = bench.get(&tomas, &format!("/api/jobs/{id}/revisions/1")).await.json();
    assert_eq!(
        (first["revision"].as_i64(), first["job"]["strings"][2]["n"].as_i64()),
        (Some(1), Some(7))
    );
    assert_eq!(first["report"]["readings"].as_array().map(Vec::len), Some(3));
    assert_eq!(
        bench.get(&tomas, &format!("/api/jobs/{id}/revisions/9")).await.status,
        Status::NotFound
    );
}
