//! Odd letters, odd addresses, servers that start together, a database of a newer program.

use std::time::Duration;

use diesel::{RunQueryDsl, sql_query};
use heliant_server::{demo, store};
use heliant_testing::TestDatabase;
use rocket::futures::StreamExt;
use rocket::http::{Method, Status};
use rocket::tokio::time::timeout;
use serde_json::json;

use crate::bench::Bench;

#[rocket::async_test]
async fn a_nul_is_refused_and_no_fault() {
    let bench = Bench::new().await;
    let mira = bench.person("mira").await;
    let id = bench.job(&mira, "Quarry Cottage").await;
    let view = bench.get(&mira, &format!("/api/jobs/{id}")).await.json();
    let saved = bench.save(&mira, &view, |b| b["job"]["notes"] = json!("a\u{0}b")).await;
    assert_eq!(saved.status, Status::UnprocessableEntity, "{}", saved.text);
    assert!(saved.text.contains("NUL"), "{}", saved.text);
    let new = json!({ "name": "a\u{0}b", "school": "na" });
    assert_eq!(bench.post(&mira, "/api/jobs", &new).await.status, Status::UnprocessableEntity);
    let entry = json!({ "name": "a\u{0}b", "sign_in": "c\u{0}d", "role": "field",
        "password": "0123456789" });
    let refused = bench.post(&mira, "/api/accounts", &entry).await;
    assert_eq!(refused.status, Status::UnprocessableEntity, "{}", refused.text);
    for path in ["/api/sheets/module/a%00b/consequences", "/api/jobs?find=a%00b"] {
        let answer = bench.get(&mira, path).await;
        assert!(answer.status.class().is_client_error(), "{path}: {}", answer.text);
    }
    let signed = bench.sign_in("a\u{0}b", "wrong").await;
    assert!(signed.status.class().is_client_error(), "{}", signed.text);
    // What looks like one and is none stays.
    let saved = bench.save(&mira, &view, |b| b["job"]["notes"] = json!("a\\u0000b")).await;
    assert_eq!(saved.status, Status::Ok, "{}", saved.text);
}

#[rocket::async_test]
async fn a_letter_that_grows_in_lower_case_is_refused_where_there_is_no_room() {
    let bench = Bench::new().await;
    let mira = bench.person("mira").await;
    let entry = |sign_in: String| {
        let mut entry = json!({ "name": "x", "role": "field", "password": "0123456789" });
        entry["sign_in"] = json!(sign_in);
        entry
    };
    // In lower case it is two.
    let long = bench.post(&mira, "/api/accounts", &entry("\u{130}".repeat(61))).await;
    assert_eq!(long.places(), ["/sign_in"], "{}", long.text);
    let short = bench.post(&mira, "/api/accounts", &entry("\u{130}nci".to_owned())).await;
    assert_eq!(short.status, Status::Ok, "{}", short.text);
    assert_eq!(bench.sign_in("\u{130}NCI", "0123456789").await.status, Status::Ok);
}

#[rocket::async_test]
async fn a_folder_among_the_front_ends_files_is_not_found() {
    let bench = Bench::new().await;
    for path in ["/assets", "/assets/"] {
        let answer = timeout(Duration::from_secs(5), bench.send(None, Method::Get, path, ""));
        assert_eq!(answer.await.expect("it answers").status, Status::NotFound, "{path}");
    }
}

#[rocket::async_test]
async fn live_updates_end_with_the_session() {
    let bench = Bench::new().await;
    let (tomas, stays) = (bench.person("tomas").await, bench.person("ines").await);
    let open = |who: &crate::bench::Person| {
        bench.client.get("/api/events").cookie(who.0.clone()).dispatch()
    };
    let (ended, still) = (open(&tomas).await, open(&stays).await);
    assert_eq!((ended.status(), still.status()), (Status::Ok, Status::Ok));
    let signed_out = bench.send(Some(&tomas), Method::Delete, "/api/session", "").await;
    assert_eq!(signed_out.status, Status::NoContent);
    let whole = timeout(Duration::from_secs(10), ended.into_bytes());
    assert!(whole.await.is_ok(), "the stream goes on without a session");
    let rest = timeout(Duration::from_millis(1500), still.into_bytes());
    assert!(rest.await.is_err(), "the other one ended too");
}

#[test]
fn servers_that_start_together_load_the_demo_once() {
    let database = TestDatabase::new();
    let starts: Vec<_> = (0..4)
        .map(|_| {
            let url = database.url();
            std::thread::spawn(move || {
                store::migrate(&url)?;
                demo::load(&url)
            })
        })
        .collect();
    let loaded: Vec<bool> =
        starts.into_iter().map(|s| s.join().expect("no panic").expect("it starts")).collect();
    assert_eq!(loaded.iter().filter(|l| **l).count(), 1, "{loaded:?}");
    let accounts: Vec<Name> = sql_query("SELECT sign_in AS name FROM accounts")
        .load(&mut database.connect())
        .expect("accounts");
    assert_eq!(accounts.len(), demo::PEOPLE.len());
}

#[derive(diesel::QueryableByName)]
struct Name {
    #[diesel(sql_type = diesel::sql_types::Text)]
    #[expect(dead_code, reason = "only counted")]
    name: String,
}

#[test]
fn a_database_of_a_newer_program_is_refused_and_stays_as_it_is() {
    let database = TestDatabase::new();
    store::migrate(&database.url()).expect("the migrations run");
    sql_query("INSERT INTO __diesel_schema_migrations (version) VALUES ('99990101000000')")
        .execute(&mut database.connect())
        .expect("as if a newer one had been there");
    let refused = store::migrate(&database.url()).expect_err("it is newer");
    assert!(refused.contains("newer version") && refused.contains("99990101000000"), "{refused}");
}

#[rocket::async_test]
async fn the_application_needs_no_more_than_rows() {
    let database = TestDatabase::new();
    store::migrate(&database.url()).expect("the migrations run");
    let role = format!("limited_{}", std::process::id());
    sql_query(format!("CREATE ROLE {role} LOGIN PASSWORD 'limited'"))
        .execute(&mut database.connect())
        .expect("a role");
    let owner = database.url();
    let (_, rest) = owner.split_once('@').expect("an address with a role");
    let own = format!("postgres://{role}:limited@{rest}");
    store::let_in(&owner, &own).expect("let in");
    assert!(demo::load(&own).expect("the demo data loads"));
    let bench = Bench::with_database(database, |s| s.database_url.clone_from(&own)).await;
    let tomas = bench.person("tomas").await;
    let id = bench.job(&tomas, "Quarry Cottage").await;
    let view = bench.get(&tomas, &format!("/api/jobs/{id}")).await.json();
    assert_eq!(
        bench.save(&tomas, &view, |b| b["job"]["notes"] = "x".into()).await.status,
        Status::Ok
    );
    let mut db =
        <diesel::PgConnection as diesel::Connection>::establish(&own).expect("it connects");
    for statement in [
        "DROP TABLE readings",
        "TRUNCATE readings",
        "ALTER TABLE readings DISABLE TRIGGER ALL",
        "DELETE FROM readings",
        "DELETE FROM __diesel_schema_migrations",
        "CREATE TABLE mine (n int)",
        "CREATE ROLE more",
    ] {
        assert!(sql_query(statement).execute(&mut db).is_err(), "{statement}");
    }
}

#[rocket::async_test]
async fn a_listener_that_does_not_read_holds_nobody_up() {
    let bench = Bench::new().await;
    let tomas = bench.person("tomas").await;
    // A stream that is open and not read.
    let silent = bench.client.get("/api/events").cookie(tomas.0.clone()).dispatch().await;
    let id = bench.job(&tomas, "Quarry Cottage").await;
    let mut view = bench.get(&tomas, &format!("/api/jobs/{id}")).await.json();
    let saves = rocket::futures::stream::iter(0..5);
    let mut saves = Box::pin(saves);
    while let Some(i) = saves.next().await {
        let saved = bench.save(&tomas, &view, |b| b["job"]["notes"] = json!(format!("{i}"))).await;
        assert_eq!(saved.status, Status::Ok, "{}", saved.text);
        view["revision"] = saved.json()["revision"].clone();
    }
    drop(silent);
}
