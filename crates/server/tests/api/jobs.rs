//! Jobs: saving, conflicts, revisions, import and export, bad input, the pack.

use diesel::RunQueryDsl;
use heliant_server::packed::PackedReport;
use rocket::http::{Method, Status};
use serde_json::{Value, json};

use crate::bench::{Bench, Person, found};

async fn kestrel(bench: &Bench, who: &Person) -> Value {
    let id = bench.job(who, "Kestrel Lane workshop").await;
    bench.get(who, &format!("/api/jobs/{id}")).await.json()
}

fn number(view: &Value, id: &str, subject: &str) -> f64 {
    let of = json!({ "kind": "string", "string": subject });
    found(view, &of, "figures", id)["value"].as_f64().expect("a number")
}

#[rocket::async_test]
async fn a_save_is_a_revision_with_who_and_when_and_moves_the_verdicts() {
    let bench = Bench::new().await;
    let tomas = bench.person("tomas").await;
    let view = kestrel(&bench, &tomas).await;
    let answer = bench.save(&tomas, &view, |b| b["job"]["strings"][0]["n"] = json!(14)).await;
    assert_eq!(answer.status, Status::Ok, "{}", answer.text);
    let saved = answer.json();
    // 14 x 39.4 x 1.1274 = 621.87 V, over 600 V.
    assert!((number(&saved, "string.voc_cold_v", "A") - 621.87).abs() < 0.01);
    assert_eq!(
        (saved["revision"].as_i64(), saved["saved_by"].as_str()),
        (Some(2), Some("Tomas Brandt"))
    );
    let path = format!("/api/jobs/{}", view["id"].as_str().expect("an id"));
    let revisions = bench.get(&tomas, &format!("{path}/revisions")).await.json();
    assert_eq!(
        revisions
            .as_array()
            .expect("a list")
            .iter()
            .map(|r| r["revision"].as_i64())
            .collect::<Vec<_>>(),
        [Some(2), Some(1)]
    );
    let first = bench.get(&tomas, &format!("{path}/revisions/1")).await.json();
    assert_eq!(first["job"]["strings"][0]["n"], 12, "the first revision is as it was");
    let line = bench.get(&tomas, "/api/jobs").await.json()["jobs"][0].clone();
    assert_eq!(
        (line["name"].as_str(), line["revision"].as_i64()),
        (Some("Kestrel Lane workshop"), Some(2)),
        "touched last, listed first"
    );
    assert_eq!(line["counts"], saved["report"]["counts"]);
}

#[rocket::async_test]
async fn a_stale_save_is_a_conflict_with_both_versions_and_nothing_written() {
    let bench = Bench::new().await;
    let (mira, tomas) = (bench.person("mira").await, bench.person("tomas").await);
    let view = kestrel(&bench, &mira).await;
    assert_eq!(
        bench.save(&tomas, &view, |b| b["job"]["notes"] = json!("by Tomas")).await.status,
        Status::Ok
    );
    let late = bench.save(&mira, &view, |b| b["job"]["notes"] = json!("by Mira")).await;
    assert_eq!(late.status, Status::Conflict);
    let problem = late.json();
    assert_eq!(problem["type"], "/problems/conflict");
    assert_eq!(
        (problem["current"]["revision"].as_i64(), problem["current"]["job"]["notes"].as_str()),
        (Some(2), Some("by Tomas"))
    );
    assert_eq!(kestrel(&bench, &mira).await["revision"], 2);
    let over = bench
        .save(&mira, &problem["current"], |b| b["job"]["notes"] = json!("by Mira"))
        .await
        .json();
    let stands = kestrel(&bench, &mira).await;
    assert_eq!(
        (over["revision"].as_i64(), stands["job"]["notes"].as_str()),
        (Some(3), Some("by Mira"))
    );
}

#[rocket::async_test]
async fn of_two_saves_at_once_one_wins_and_one_is_told() {
    let bench = Bench::new().await;
    let tomas = bench.person("tomas").await;
    let view = kestrel(&bench, &tomas).await;
    let saves = (0..6)
        .map(|i| bench.save(&tomas, &view, move |b| b["job"]["notes"] = json!(format!("{i}"))));
    let answers: Vec<Status> =
        rocket::futures::future::join_all(saves).await.into_iter().map(|a| a.status).collect();
    assert_eq!(answers.iter().filter(|s| **s == Status::Ok).count(), 1, "{answers:?}");
    assert_eq!(answers.iter().filter(|s| **s == Status::Conflict).count(), 5, "{answers:?}");
}

#[rocket::async_test]
async fn bad_values_are_named_at_their_place_and_nothing_is_written() {
    let bench = Bench::new().await;
    let tomas = bench.person("tomas").await;
    let view = kestrel(&bench, &tomas).await;
    let answer = bench
        .save(&tomas, &view, |b| {
            b["job"]["strings"][0]["n"] = json!(10_000);
            b["job"]["name"] = json!("");
            b["library"]["modules"][0]["ratings"]["b_voc_pct_c"] = json!(0.3);
            b["job"]["site"]["t_min"] = json!(-3);
        })
        .await;
    assert_eq!(
        (answer.status, answer.header("Content-Type")),
        (Status::UnprocessableEntity, Some("application/problem+json"))
    );
    let mut places = answer.places();
    places.sort_unstable();
    assert_eq!(
        places,
        [
            "/job/name",
            "/job/site/t_min",
            "/job/strings/0/n",
            "/library/modules/0/ratings/b_voc_pct_c"
        ]
    );
    assert_eq!(kestrel(&bench, &tomas).await["revision"], 1);
}

#[rocket::async_test]
async fn bodies_that_are_none_are_refused() {
    let bench = Bench::new().await;
    let tomas = bench.person("tomas").await;
    let view = kestrel(&bench, &tomas).await;
    let path = format!("/api/jobs/{}", view["id"].as_str().expect("an id"));
    for body in [
        "",
        "{",
        "[]",
        "null",
        "{\"base_revision\": \"one\"}",
        "{\"base_revision\": 1}",
        "{\"base_revision\": 99999999999}",
    ] {
        let answer = bench.send(Some(&tomas), Method::Put, &path, body).await;
        assert_eq!(answer.status, Status::UnprocessableEntity, "{body}: {}", answer.text);
    }
    let large = bench
        .send(Some(&tomas), Method::Post, "/api/jobs/import", " ".repeat(40 * 1024 * 1024))
        .await;
    assert_eq!(
        (large.status, large.json()["type"].clone()),
        (Status::PayloadTooLarge, json!("/problems/too-large"))
    );
    let small = bench.send(Some(&tomas), Method::Post, "/api/jobs", " ".repeat(100 * 1024)).await;
    assert_eq!(small.status, Status::PayloadTooLarge, "a small request has a small limit");
    assert!(bench.get(&tomas, "/api/jobs/not-an-id").await.status.class().is_client_error());
    let nowhere = "/api/jobs/00000000-0000-4000-8000-000000000000";
    assert_eq!(bench.get(&tomas, nowhere).await.status, Status::NotFound);
    assert_eq!(
        bench
            .save(
                &tomas,
                &json!({"id": "00000000-0000-4000-8000-000000000000", "revision": 1,
                    "job": view["job"], "library": view["library"]}),
                |_| {}
            )
            .await
            .status,
        Status::NotFound
    );
    let empty = bench.post(&tomas, "/api/jobs", &json!({ "name": "  ", "school": "na" })).await;
    assert_eq!(
        (empty.status, empty.places()),
        (Status::UnprocessableEntity, vec!["/job/name".to_owned()])
    );
}

#[rocket::async_test]
async fn export_and_import_give_the_same_report_byte_for_byte() {
    let (here, there) = (Bench::new().await, Bench::new().await);
    let (mira, tomas) = (here.person("mira").await, there.person("tomas").await);
    let export = here
        .get(&mira, &format!("/api/jobs/{}/export", here.job(&mira, "Kestrel Lane workshop").await))
        .await;
    assert_eq!(
        export.header("Content-Disposition"),
        Some("attachment; filename=\"kestrel-lane-workshop.heliant.json\"")
    );
    let made =
        there.send(Some(&tomas), Method::Post, "/api/jobs/import", export.text.clone()).await;
    assert_eq!(made.status, Status::Ok, "{}", made.text);
    let id = made.json()["id"].as_str().expect("an id").to_owned();
    let again = there.get(&tomas, &format!("/api/jobs/{id}/export")).await;
    // Only the mark of who brought the readings in is more.
    let mark = "\"brought_by\": \"Tomas Brandt\",";
    assert!(again.text.contains(mark) && !export.text.contains("brought_by"));
    let unmarked: Vec<&str> = again.text.lines().filter(|l| !l.contains(mark)).collect();
    assert_eq!(unmarked.join("\n"), export.text.trim_end());
    let reports = |text: &str| {
        let file = heliant_core::job::read(text).expect("an export reads").file;
        let report = heliant_core::evaluate(&file.job, &file.library, &file.readings);
        serde_json::to_string(&PackedReport::from(report)).expect("a report is JSON")
    };
    let unmarked = reports(&unmarked.join("\n"));
    assert_eq!(unmarked, reports(&export.text));
    let view = there.get(&tomas, &format!("/api/jobs/{id}")).await.json();
    assert_eq!(
        view["report"],
        serde_json::from_str::<Value>(&reports(&again.text)).expect("JSON"),
        "the API shows the same report"
    );
}

#[rocket::async_test]
async fn an_import_that_is_wrong_leaves_nothing_behind() {
    let bench = Bench::new().await;
    let mira = bench.person("mira").await;
    let mut file: Value =
        serde_json::from_str(heliant_server::demo::JOBS[1]).expect("the demo job");
    file["job"]["strings"][1]["face"] = json!("north");
    file["library"]["modules"][0]["sheet"] = json!("other");
    let answer = bench.post(&mira, "/api/jobs/import", &file).await;
    assert_eq!(answer.status, Status::UnprocessableEntity);
    assert!(answer.places().contains(&"/job/strings/1/face".to_owned()), "{}", answer.text);
    assert_eq!(
        bench.get(&mira, "/api/jobs").await.json()["jobs"].as_array().map(Vec::len),
        Some(heliant_server::demo::JOBS.len())
    );
    assert!(!bench.get(&mira, "/api/library").await.text.contains("\"other\""));
}

#[rocket::async_test]
async fn a_copy_leaves_the_readings_where_they_were_taken() {
    let bench = Bench::new().await;
    let mira = bench.person("mira").await;
    let id = bench.job(&mira, "Kestrel Lane workshop").await;
    let copy = bench.post(&mira, &format!("/api/jobs/{id}/duplicate"), &json!({})).await.json();
    let view = bench
        .get(&mira, &format!("/api/jobs/{}", copy["id"].as_str().expect("an id")))
        .await
        .json();
    assert_eq!(view["job"]["name"], "Kestrel Lane workshop (copy)");
    assert_eq!(view["report"]["readings"], json!([]));
}

#[rocket::async_test]
async fn revisions_stay_as_they_were_whatever_is_tried() {
    let bench = Bench::new().await;
    let mut db = bench.database.connect();
    for statement in [
        "UPDATE job_revisions SET saved_by = 'x'",
        "DELETE FROM job_revisions",
        "UPDATE readings SET taken_by = 'x'",
        "DELETE FROM readings",
    ] {
        let refused = diesel::sql_query(statement).execute(&mut db).expect_err(statement);
        assert!(refused.to_string().contains("only ever added"), "{statement}: {refused}");
    }
}
