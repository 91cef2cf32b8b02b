//! Revisions over the API: in pages, named, compared.

use diesel::RunQueryDsl;
use rocket::http::{Method, Status};
use serde_json::{Value, json};

use crate::bench::{Answer, Bench, Person};

async fn name(bench: &Bench, who: &Person, at: &str, name: &str) -> Answer {
    let body = json!({ "name": name }).to_string();
    bench.send(Some(who), Method::Put, &format!("{at}/name"), body).await
}

#[rocket::async_test]
async fn a_revision_is_named_by_who_plans_and_the_name_is_taken_away() {
    let bench = Bench::new().await;
    let (tomas, ines) = (bench.person("tomas").await, bench.person("ines").await);
    let id = bench.job(&tomas, "Quarry Cottage").await;
    let all = format!("/api/jobs/{id}/revisions");
    let first = format!("{all}/1");
    assert_eq!(name(&bench, &ines, &first, "mine").await.status, Status::Forbidden);
    assert_eq!(name(&bench, &tomas, &first, "  as offered ").await.json()["name"], "as offered");
    let line = |answer: Answer| answer.json()[0].clone();
    let listed = line(bench.get(&ines, &all).await);
    assert_eq!(
        (&listed["name"], &listed["named_by"]),
        (&json!("as offered"), &json!("Tomas Brandt"))
    );
    assert_eq!(name(&bench, &tomas, &first, "as built").await.status, Status::Ok);
    assert_eq!(line(bench.get(&ines, &all).await)["name"], "as built");
    let long = name(&bench, &tomas, &first, &"x".repeat(81)).await;
    assert_eq!((long.status, long.places()), (Status::UnprocessableEntity, vec!["/name".into()]));
    assert_eq!(name(&bench, &tomas, &format!("{all}/9"), "none").await.status, Status::NotFound);
    assert_eq!(name(&bench, &tomas, &first, "").await.status, Status::Ok);
    assert_eq!(line(bench.get(&ines, &all).await)["name"], Value::Null);
}

#[rocket::async_test]
async fn two_revisions_are_compared_place_by_place_and_verdict_by_verdict() {
    let bench = Bench::new().await;
    let tomas = bench.person("tomas").await;
    let id = bench.job(&tomas, "Kestrel Lane workshop").await;
    let view = bench.get(&tomas, &format!("/api/jobs/{id}")).await.json();
    let saved = bench.save(&tomas, &view, |b| b["job"]["strings"][0]["n"] = json!(14)).await;
    assert_eq!(saved.status, Status::Ok, "{}", saved.text);
    let at = |a: i32, b: i32| format!("/api/jobs/{id}/revisions/{a}/compare/{b}");
    let there = bench.get(&tomas, &at(1, 2)).await.json();
    let n = there["plan"].as_array().expect("places").iter().find(|p| p["path"][2] == "n");
    assert_eq!(n, Some(&json!({ "path": ["strings", "A", "n"], "from": 12, "to": 14 })));
    // 14 x 39.4 V x 1.1274 = 621.9 V against the dwelling's 600 V.
    let cold = |compared: &Value| {
        let all = compared["verdicts"].as_array().expect("verdicts").clone();
        let of = |v: &&Value| v["id"] == "string.voc_cold_v" && v["subject"]["string"] == "A";
        let found = all.iter().find(of).map(|v| (v["from"].clone(), v["to"].clone()));
        found.expect("it moved")
    };
    assert_eq!(cold(&there), (json!("pass"), json!("fail")));
    let back = bench.get(&tomas, &at(2, 1)).await.json();
    assert_eq!(cold(&back), (json!("fail"), json!("pass")));
    assert_eq!(back["before"], there["after"]);
    let same = bench.get(&tomas, &at(2, 2)).await.json();
    assert_eq!((&same["plan_n"], &same["verdicts_n"]), (&json!(0), &json!(0)));
    assert_eq!(bench.get(&tomas, &at(1, 3)).await.status, Status::NotFound);
}

#[rocket::async_test]
async fn many_revisions_come_five_hundred_at_a_time() {
    let bench = Bench::new().await;
    let tomas = bench.person("tomas").await;
    let id = bench.job(&tomas, "Quarry Cottage").await;
    let more = format!(
        "INSERT INTO job_revisions (job_id, revision, document, saved_by, version) \
         SELECT job_id, n, document, saved_by, version \
         FROM job_revisions, generate_series(2, 700) n WHERE job_id = '{id}' AND revision = 1"
    );
    diesel::sql_query(more).execute(&mut bench.database.connect()).expect("more revisions");
    let numbers = |answer: Answer| -> Vec<i64> {
        let lines = answer.json().as_array().expect("a list").clone();
        lines.iter().filter_map(|l| l["revision"].as_i64()).collect()
    };
    let newest = numbers(bench.get(&tomas, &format!("/api/jobs/{id}/revisions")).await);
    assert_eq!(newest, (201..=700).rev().collect::<Vec<_>>());
    let earlier = format!("/api/jobs/{id}/revisions?before=201");
    assert_eq!(numbers(bench.get(&tomas, &earlier).await), (1..=200).rev().collect::<Vec<_>>());
}
