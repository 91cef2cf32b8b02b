//! What earlier versions of the program kept: it opens, is brought up, and is saved in the present
//! form. A newer form is refused in words.

use diesel::connection::SimpleConnection;
use diesel::{PgConnection, RunQueryDsl, sql_query};
use heliant_core::job::VERSION;
use heliant_server::{demo, store};
use heliant_testing::TestDatabase;
use rocket::http::{Method, Status};
use serde_json::{Value, json};

use crate::bench::{Bench, Person};

/// A database of the version whose documents carried no format version.
const WITHOUT_VERSIONS: &str = include_str!("../data/without-versions.sql");

/// A server over that database.
async fn grown() -> Bench {
    let database = TestDatabase::new();
    database.connect().batch_execute(WITHOUT_VERSIONS).expect("the dump runs");
    store::migrate(&database.url()).expect("the migrations run");
    assert!(!demo::load(&database.url()).expect("it answers"), "it holds its own data");
    Bench { client: Bench::server(&database).await, database }
}

#[derive(diesel::QueryableByName)]
struct Number {
    #[diesel(sql_type = diesel::sql_types::BigInt)]
    n: i64,
}

fn number(db: &mut PgConnection, query: &str) -> i64 {
    sql_query(query).get_result::<Number>(db).unwrap_or_else(|e| panic!("{query}: {e}")).n
}

async fn view(bench: &Bench, who: &Person, name: &str) -> Value {
    let id = bench.job(who, name).await;
    let answer = bench.get(who, &format!("/api/jobs/{id}")).await;
    assert_eq!(answer.status, Status::Ok, "{}", answer.text);
    answer.json()
}

#[rocket::async_test]
async fn every_job_of_an_older_database_opens_whole() {
    let bench = grown().await;
    let mira = bench.person("mira").await;
    let lines = bench.get(&mira, "/api/jobs").await.json()["jobs"].clone();
    assert_eq!(lines.as_array().map(Vec::len), Some(4));
    for line in lines.as_array().into_iter().flatten() {
        let name = line["name"].as_str().expect("a name");
        let seen = view(&bench, &mira, name).await;
        assert_eq!(seen["version"], VERSION, "{name}");
        // Rules that were put right may move a verdict; nothing that was judged may be gone.
        let judged = |counts: &Value| -> u64 {
            ["pass", "warn", "fail", "unknown"].iter().filter_map(|v| counts[v].as_u64()).sum()
        };
        assert!(judged(&seen["report"]["counts"]) >= judged(&line["counts"]), "{name}");
        let path = format!("/api/jobs/{}", line["id"].as_str().expect("an id"));
        assert_eq!(bench.get(&mira, &format!("{path}/revisions/1")).await.status, Status::Ok);
        assert_eq!(bench.get(&mira, &format!("{path}/export")).await.status, Status::Ok);
        assert_eq!(bench.get(&mira, &format!("{path}/watch")).await.status, Status::Ok);
    }
    assert_eq!(bench.get(&mira, "/api/sheets").await.status, Status::Ok);
    let library = bench.get(&mira, "/api/library").await.json();
    assert!(library["modules"].as_array().is_some_and(|m| m.len() > 1));
}

#[rocket::async_test]
async fn an_older_job_is_saved_in_the_present_form_and_its_readings_stay() {
    let bench = grown().await;
    let tomas = bench.person("tomas").await;
    let before = view(&bench, &tomas, "Kestrel Lane workshop").await;
    assert_eq!(before["revision"], 2);
    // Two of the demo file, one that was taken.
    assert_eq!(before["report"]["readings"].as_array().map(Vec::len), Some(3));
    let saved = bench.save(&tomas, &before, |b| b["job"]["notes"] = json!("Saved again.")).await;
    assert_eq!(saved.status, Status::Ok, "{}", saved.text);
    assert_eq!(saved.json()["report"]["readings"].as_array().map(Vec::len), Some(3));
    let mut db = bench.database.connect();
    let versions = "SELECT version::bigint AS n FROM job_revisions r \
        JOIN jobs j ON j.id = r.job_id \
        WHERE j.name LIKE 'Kestrel%' AND r.revision =";
    assert_eq!(number(&mut db, &format!("{versions} 3")), i64::from(VERSION));
    assert_eq!(number(&mut db, &format!("{versions} 1")), 2, "what was kept stays as it was");
    let path = format!("/api/jobs/{}/readings", before["id"].as_str().expect("an id"));
    let reading = json!({ "string": "B", "irradiance_w_m2": 700, "back_c": 30, "voc_v": 270 });
    assert_eq!(bench.post(&tomas, &path, &reading).await.status, Status::Ok);
}

#[rocket::async_test]
async fn a_document_of_version_1_is_brought_up_when_it_is_read() {
    let bench = Bench::new().await;
    let mira = bench.person("mira").await;
    // As version 1 wrote it: one inverter, counts under another name.
    let older = "WITH d AS (SELECT j.id, r.document AS doc FROM jobs j JOIN job_revisions r \
            ON r.job_id = j.id WHERE j.name LIKE 'Kestrel%'), \
        s AS (SELECT jsonb_agg((e - 'n') || jsonb_build_object('modules_n', e -> 'n')) AS strings \
            FROM d, jsonb_array_elements(d.doc -> 'job' -> 'strings') AS e) \
        INSERT INTO job_revisions (job_id, revision, document, saved_by, version) \
        SELECT d.id, 2, jsonb_set(d.doc #- '{job,inverters}', '{job}', \
            (d.doc -> 'job') - 'inverters' - 'plan' || jsonb_build_object( \
                'inverter', d.doc -> 'job' -> 'inverters' -> 0, 'strings', s.strings)), \
            'Mira Voss', 1 FROM d, s";
    let mut db = bench.database.connect();
    assert_eq!(sql_query(older).execute(&mut db).expect("it is put in"), 1);
    db.batch_execute("UPDATE jobs SET revision = 2 WHERE name LIKE 'Kestrel%'").expect("moved");
    let seen = view(&bench, &mira, "Kestrel Lane workshop").await;
    assert_eq!(
        (seen["revision"].as_i64(), seen["job"]["strings"][0]["n"].as_i64()),
        (Some(2), Some(12))
    );
    assert_eq!(seen["job"]["inverters"].as_array().map(Vec::len), Some(1));
    assert_eq!(bench.save(&mira, &seen, |_| ()).await.status, Status::Ok);
}

#[rocket::async_test]
async fn what_a_newer_program_wrote_is_refused_in_words_and_kept() {
    let bench = Bench::new().await;
    let mira = bench.person("mira").await;
    let id = bench.job(&mira, "Quarry Cottage").await;
    let newer = format!(
        "INSERT INTO job_revisions (job_id, revision, document, saved_by, version) \
         SELECT job_id, 2, '{{\"unheard\": true}}', 'Mira Voss', {} FROM job_revisions \
         WHERE job_id = '{id}'; UPDATE jobs SET revision = 2 WHERE id = '{id}'",
        VERSION + 1
    );
    bench.database.connect().batch_execute(&newer).expect("it is put in");
    let answer = bench.get(&mira, &format!("/api/jobs/{id}")).await;
    assert_eq!(answer.status, Status::Conflict, "{}", answer.text);
    assert_eq!(answer.json()["type"], "/problems/written-by-newer");
    assert!(answer.json()["detail"].as_str().is_some_and(|d| d.contains("Nothing is lost")));
    let first = bench.get(&mira, &format!("/api/jobs/{id}/revisions/1")).await;
    assert_eq!(first.status, Status::Ok, "what can be read still is");
}

#[rocket::async_test]
async fn an_edit_a_browser_kept_in_an_older_form_is_brought_up_and_can_be_saved() {
    let bench = Bench::new().await;
    let tomas = bench.person("tomas").await;
    let view = view(&bench, &tomas, "Kestrel Lane workshop").await;
    let mut job = view["job"].clone();
    let inverter = job["inverters"][0].clone();
    let fields = job.as_object_mut().expect("an object");
    fields.remove("inverters");
    fields.remove("plan");
    fields.insert("inverter".to_owned(), inverter);
    for string in job["strings"].as_array_mut().expect("strings") {
        let n = string["n"].clone();
        let fields = string.as_object_mut().expect("an object");
        fields.remove("n");
        fields.insert("modules_n".to_owned(), n);
    }
    let old = json!({ "version": 1, "job": job, "library": view["library"] });
    let brought = bench.post(&tomas, "/api/migrate", &old).await;
    assert_eq!(brought.status, Status::Ok, "{}", brought.text);
    assert_eq!(brought.json()["job"]["strings"], view["job"]["strings"]);
    assert_eq!(brought.json()["job"]["inverters"], view["job"]["inverters"]);
    // A save that says of which version it is, is brought up on the way.
    let saved = bench
        .save(&tomas, &view, |b| {
            b["job"] = old["job"].clone();
            b["version"] = json!(1);
        })
        .await;
    assert_eq!(saved.status, Status::Ok, "{}", saved.text);
    let unknown = json!({ "version": 99, "job": view["job"], "library": view["library"] });
    let refused = bench.post(&tomas, "/api/migrate", &unknown).await;
    assert_eq!(
        (refused.status, refused.places()),
        (Status::UnprocessableEntity, vec!["/version".into()])
    );
    let nobody = bench.send(None, Method::Post, "/api/migrate", old.to_string()).await;
    assert_eq!(nobody.status, Status::Unauthorized);
}
