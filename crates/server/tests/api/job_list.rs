//! The list of jobs over the API: found, narrowed, sorted, put away, deleted by the owner.

use diesel::connection::SimpleConnection;
use diesel::{QueryableByName, RunQueryDsl, sql_query};
use rocket::http::{Method, Status};
use serde_json::json;

use crate::bench::{Answer, Bench, Person};

async fn names(bench: &Bench, who: &Person, query: &str) -> Vec<String> {
    let page = bench.get(who, &format!("/api/jobs?{query}")).await;
    assert_eq!(page.status, Status::Ok, "{}", page.text);
    let jobs = page.json()["jobs"].as_array().expect("a list").clone();
    jobs.iter().map(|j| j["name"].as_str().unwrap_or_default().to_owned()).collect()
}

async fn put_away(bench: &Bench, who: &Person, id: &str, archived: bool) -> Answer {
    let body = json!({ "archived": archived }).to_string();
    bench.send(Some(who), Method::Put, &format!("/api/jobs/{id}/archived"), body).await
}

#[rocket::async_test]
async fn a_job_is_found_by_address_and_notes_narrowed_and_sorted() {
    let bench = Bench::new().await;
    let (mira, tomas) = (bench.person("mira").await, bench.person("tomas").await);
    let id = bench.job(&mira, "Quarry Cottage").await;
    let view = bench.get(&mira, &format!("/api/jobs/{id}")).await.json();
    let saved = bench.save(&mira, &view, |b| {
        b["job"]["notes"] = json!("Key under the mat\nask for Wendelin");
        b["job"]["address"] = json!("7 Fern Row");
    });
    assert_eq!(saved.await.status, Status::Ok);
    let only = vec!["Quarry Cottage".to_owned()];
    for query in ["find=wendelin", "find=fern+mat", "find=cottage+voss", "by=Mira+Voss"] {
        assert_eq!(names(&bench, &tomas, query).await, only, "{query}");
    }
    assert!(names(&bench, &tomas, "find=wendelin+nobody").await.is_empty());
    let mut all = names(&bench, &tomas, "order=name").await;
    assert_eq!(all.len(), heliant_server::demo::JOBS.len());
    let by_name = all.clone();
    all.sort_by_key(|n| n.to_lowercase());
    assert_eq!(by_name, all);
    let of = |key: &'static str, query: &'static str| {
        let (bench, tomas) = (&bench, tomas.clone());
        async move {
            let page = bench.get(&tomas, &format!("/api/jobs?{query}")).await.json();
            let jobs = page["jobs"].as_array().expect("a list").clone();
            jobs.iter().map(|j| j[key].as_str().unwrap_or_default().to_owned()).collect::<Vec<_>>()
        }
    };
    let iec = of("school", "school=iec").await;
    assert!(!iec.is_empty() && iec.iter().all(|s| s == "iec"), "{iec:?}");
    let worst = of("verdict", "order=verdict").await;
    let rank = |v: &String| ["fail", "unknown", "warn", "pass"].iter().position(|w| w == v);
    assert!(worst.is_sorted_by_key(rank), "{worst:?}");
    let open = of("verdict", "verdict=unknown").await;
    assert_eq!(open.len(), worst.iter().filter(|v| *v == "unknown").count());
    let people = bench.get(&tomas, "/api/jobs").await.json()["people"].clone();
    assert_eq!(people, json!(["Mira Voss", "Tomas Brandt"]));
}

#[rocket::async_test]
async fn a_job_waits_until_somebody_decides_about_the_newer_data_sheet() {
    let bench = Bench::new().await;
    let tomas = bench.person("tomas").await;
    // Quarry Cottage holds revision 1 of its inverter; the company has 2.
    assert_eq!(names(&bench, &tomas, "waits=true").await, ["Quarry Cottage"]);
    let id = bench.job(&tomas, "Quarry Cottage").await;
    let view = bench.get(&tomas, &format!("/api/jobs/{id}")).await.json();
    let kept = json!([{ "kind": "inverter", "sheet": "marrow-h6", "revision": 1, "newer": 2,
        "reason": "it was bought already" }]);
    let saved = bench.save(&tomas, &view, |b| b["job"]["kept_sheets"] = kept).await;
    assert_eq!(saved.status, Status::Ok, "{}", saved.text);
    assert!(names(&bench, &tomas, "waits=true").await.is_empty());
}

#[rocket::async_test]
async fn a_job_is_put_away_and_taken_back_as_it_was() {
    let bench = Bench::new().await;
    let (tomas, ines) = (bench.person("tomas").await, bench.person("ines").await);
    let id = bench.job(&tomas, "Quarry Cottage").await;
    let before = bench.get(&tomas, &format!("/api/jobs/{id}")).await.text;
    assert_eq!(put_away(&bench, &ines, &id, true).await.status, Status::Forbidden);
    assert_eq!(put_away(&bench, &tomas, &id, true).await.status, Status::Ok);
    assert!(!names(&bench, &tomas, "").await.contains(&"Quarry Cottage".to_owned()));
    assert_eq!(names(&bench, &tomas, "archived=true").await, ["Quarry Cottage"]);
    assert_eq!(bench.get(&tomas, &format!("/api/jobs/{id}")).await.text, before);
    assert_eq!(put_away(&bench, &tomas, &id, false).await.status, Status::Ok);
    assert!(names(&bench, &tomas, "").await.contains(&"Quarry Cottage".to_owned()));
    let nobody = "00000000-0000-0000-0000-000000000000";
    assert_eq!(put_away(&bench, &tomas, nobody, true).await.status, Status::NotFound);
}

#[derive(QueryableByName)]
struct Rows {
    #[diesel(sql_type = diesel::sql_types::BigInt)]
    n: i64,
}

#[rocket::async_test]
async fn the_owner_deletes_a_job_by_its_name_and_nothing_else_goes() {
    let bench = Bench::new().await;
    let (mira, tomas) = (bench.person("mira").await, bench.person("tomas").await);
    let id = bench.job(&mira, "Kestrel Lane workshop").await;
    let at = |name: &str| format!("/api/jobs/{id}?name={name}");
    let delete = |who: Person, path: String| {
        let bench = &bench;
        async move { bench.send(Some(&who), Method::Delete, &path, "").await }
    };
    let right = at("Kestrel+Lane+workshop");
    assert_eq!(delete(tomas.clone(), right.clone()).await.status, Status::Forbidden);
    let wrong = delete(mira.clone(), at("Kestrel")).await;
    assert_eq!((wrong.status, wrong.places()), (Status::UnprocessableEntity, vec!["/name".into()]));
    let all = names(&bench, &mira, "").await.len();
    assert_eq!(delete(mira.clone(), right.clone()).await.status, Status::NoContent);
    assert_eq!(names(&bench, &mira, "").await.len(), all - 1);
    assert_eq!(bench.get(&mira, &format!("/api/jobs/{id}")).await.status, Status::NotFound);
    assert_eq!(delete(mira.clone(), right).await.status, Status::NotFound);
    let mut db = bench.database.connect();
    for table in ["job_revisions", "readings"] {
        let rows = format!("SELECT count(*) AS n FROM {table} WHERE job_id = '{id}'");
        assert_eq!(sql_query(rows).get_result::<Rows>(&mut db).expect("a count").n, 0, "{table}");
    }
    // What belongs to the others is only ever added to, as before.
    let refused = db.batch_execute("DELETE FROM job_revisions").expect_err("it is refused");
    assert!(refused.to_string().contains("only ever added"), "{refused}");
    let id = bench.job(&mira, "Quarry Cottage").await;
    let other = format!(
        "BEGIN; SELECT set_config('heliant.deleting', '{id}', true); DELETE FROM job_revisions \
         WHERE job_id <> '{id}'"
    );
    assert!(db.batch_execute(&other).is_err(), "only of the job that is named");
}

#[rocket::async_test]
async fn a_customer_is_found_and_a_template_begins_a_job() {
    let bench = Bench::new().await;
    let (tomas, ines) = (bench.person("tomas").await, bench.person("ines").await);
    let id = bench.job(&tomas, "Kestrel Lane workshop").await;
    // The customer and the contact of a demo job.
    assert_eq!(names(&bench, &tomas, "find=whitlow").await, ["Kestrel Lane workshop"]);
    assert_eq!(names(&bench, &tomas, "find=caretaker").await, ["Tern Bay school hall"]);
    let before = names(&bench, &tomas, "").await.len();
    let path = format!("/api/jobs/{id}/template");
    let called = json!({ "name": "Two faces, one inverter" });
    assert_eq!(bench.post(&ines, &path, &called).await.status, Status::Forbidden);
    assert_eq!(bench.post(&tomas, &path, &json!({ "name": "" })).await.places(), ["/job/name"]);
    let made = bench.post(&tomas, &path, &called).await.json();
    assert_eq!(names(&bench, &tomas, "").await.len(), before, "a template is no job");
    assert_eq!(names(&bench, &tomas, "templates=true").await, ["Two faces, one inverter"]);
    let new = json!({ "name": "Lark Street", "school": "iec", "template": made["id"],
        "customer": "Robin Amsel", "time_zone": "America/Chicago" });
    let begun = bench.post(&tomas, "/api/jobs", &new).await;
    assert_eq!(begun.status, Status::Ok, "{}", begun.text);
    let job = format!("/api/jobs/{}", begun.json()["id"].as_str().expect("an id"));
    let view = bench.get(&tomas, &job).await.json();
    let (begun, first) = (&view["job"], bench.get(&tomas, &format!("/api/jobs/{id}")).await.json());
    assert_eq!((&begun["school"], &begun["customer"]), (&json!("na"), &json!("Robin Amsel")));
    assert_eq!(begun["time_zone"], "America/Chicago");
    assert_eq!(begun["strings"], first["job"]["strings"]);
    // What belongs to one site alone is not carried along.
    assert!(begun["address"].is_null() && begun["contact"].is_null(), "{begun}");
    assert!(!begun["roof"].to_string().contains("serial"), "{}", begun["roof"]);
    assert_eq!(view["report"]["readings_n"], 0);
    // Another job is no template.
    let job_as_template = json!({ "name": "x", "school": "na", "template": id });
    let refused = bench.post(&tomas, "/api/jobs", &job_as_template).await;
    assert_eq!(refused.status, Status::NotFound);
    let nowhere = json!({ "name": "x", "school": "na", "time_zone": "Nowhere/Land" });
    assert_eq!(bench.post(&tomas, "/api/jobs", &nowhere).await.places(), ["/job/time_zone"]);
}
