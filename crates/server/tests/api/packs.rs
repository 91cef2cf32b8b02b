//! The pack: asked for, set in the background by one press, kept by revision, cancelled.

use std::time::{Duration, Instant};

use diesel::RunQueryDsl;
use heliant_server::press::{PressSettings, Readiness};
use heliant_testing::TestDatabase;
use rocket::http::{Method, Status};
use serde_json::{Value, json};

use crate::bench::{Answer, Bench, Person};

/// How long a pack may take in an unoptimised build beside other tests.
const PATIENCE: Duration = Duration::from_secs(240);

fn at(id: &str) -> String {
    format!("/api/jobs/{id}/pack")
}

async fn ask(bench: &Bench, who: &Person, id: &str) -> Answer {
    bench.send(Some(who), Method::Post, &at(id), "").await
}

/// Asks how a pack stands until it stands so.
async fn until(bench: &Bench, who: &Person, id: &str, state: &str) -> Value {
    let began = Instant::now();
    loop {
        let now = bench.get(who, &at(id)).await.json();
        if now["state"] == state {
            return now;
        }
        assert!(began.elapsed() < PATIENCE, "not {state} but {now}");
        rocket::tokio::time::sleep(Duration::from_millis(100)).await;
    }
}

#[rocket::async_test]
async fn a_pack_is_asked_for_set_and_served_again() {
    let bench = Bench::new().await;
    let inspector = bench.person("inspector").await;
    let id = bench.job(&inspector, "Quarry Cottage").await;
    let pdf = format!("/api/jobs/{id}/pack.pdf");
    let early = bench.get(&inspector, &pdf).await;
    assert_eq!(
        (early.status, early.json()["type"].clone()),
        (Status::Conflict, json!("/problems/not-set-yet"))
    );
    assert_eq!(bench.get(&inspector, &at(&id)).await.json()["state"], "none");
    let asked = ask(&bench, &inspector, &id).await;
    assert_eq!(asked.status, Status::Ok, "{}", asked.text);
    assert_eq!(asked.json()["press"]["state"], "ready");
    until(&bench, &inspector, &id, "ready").await;
    let pack = bench.get(&inspector, &pdf).await;
    assert_eq!((pack.status, pack.header("Content-Type")), (Status::Ok, Some("application/pdf")));
    assert!(pack.text.starts_with("%PDF-1.") && pack.text.trim_end().ends_with("%%EOF"));
    // Asked for again it is there at once, and the same.
    assert_eq!(ask(&bench, &inspector, &id).await.json()["state"], "ready");
    assert_eq!(bench.get(&inspector, &pdf).await.text, pack.text);
    // A new revision is another pack.
    let tomas = bench.person("tomas").await;
    let view = bench.get(&tomas, &format!("/api/jobs/{id}")).await.json();
    assert_eq!(
        bench.save(&tomas, &view, |b| b["job"]["notes"] = "x".into()).await.status,
        Status::Ok
    );
    assert_eq!(bench.get(&inspector, &at(&id)).await.json()["state"], "none");
    assert_eq!(bench.get(&inspector, &pdf).await.status, Status::Conflict);
    let nowhere = "/api/jobs/00000000-0000-0000-0000-000000000000/pack.pdf";
    assert_eq!(bench.get(&inspector, nowhere).await.status, Status::NotFound);
}

/// A server whose press is what a test says.
async fn with_press(change: impl FnOnce(&mut PressSettings)) -> Bench {
    Bench::with(|settings| change(&mut settings.press)).await
}

#[rocket::async_test]
async fn while_the_press_is_being_built_packs_wait_and_say_how_far_it_is() {
    let folder = std::env::temp_dir().join(format!("heliant-press-{}", std::process::id()));
    std::fs::create_dir_all(&folder).expect("a folder");
    let file = folder.join("building");
    std::fs::write(&file, "120 310\n").expect("written");
    // Not there yet: it comes where it is built to.
    let (said, program) = (file.clone(), folder.join("heliant-press"));
    let mut built = std::path::PathBuf::new();
    let bench = with_press(|p| {
        p.building = Some(said);
        built = std::mem::replace(&mut p.program, program.clone());
    })
    .await;
    let tomas = bench.person("tomas").await;
    let id = bench.job(&tomas, "Quarry Cottage").await;
    let asked = ask(&bench, &tomas, &id).await.json();
    assert_eq!(asked["press"], json!({ "state": "building", "done_n": 120, "of_n": 310 }));
    assert_eq!(asked["state"], "queued");
    std::fs::write(&file, "failed\n").expect("written");
    assert_eq!(bench.get(&tomas, &at(&id)).await.json()["press"]["state"], "missing");
    // It stands: what waits is set by itself.
    std::fs::copy(built, program).expect("built");
    std::fs::remove_file(&file).expect("removed");
    until(&bench, &tomas, &id, "ready").await;
    std::fs::remove_dir_all(folder).expect("removed");
}

#[rocket::async_test]
async fn a_press_that_takes_too_much_is_ended_and_the_reason_said() {
    let bench = with_press(|p| p.memory_mb = 64).await;
    let tomas = bench.person("tomas").await;
    let id = bench.job(&tomas, "Quarry Cottage").await;
    ask(&bench, &tomas, &id).await;
    let failed = until(&bench, &tomas, &id, "failed").await;
    let why = failed["problem"].as_str().expect("a reason").to_owned();
    assert!(why.contains("64 MB"), "{why}");

    let bench = with_press(|p| p.time = Duration::from_millis(300)).await;
    let tomas = bench.person("tomas").await;
    let id = bench.job(&tomas, "Quarry Cottage").await;
    ask(&bench, &tomas, &id).await;
    let failed = until(&bench, &tomas, &id, "failed").await;
    assert!(failed["problem"].as_str().is_some_and(|p| p.contains("minutes to set")), "{failed}");
    assert_eq!(
        bench.get(&tomas, &format!("/api/jobs/{id}/pack.pdf")).await.status,
        Status::Conflict
    );
    // Asked for again it is tried again.
    assert_ne!(ask(&bench, &tomas, &id).await.json()["state"], "failed");
}

#[rocket::async_test]
async fn what_waits_can_be_taken_back_by_who_asked() {
    let bench = with_press(|p| p.program = "/nowhere/heliant-press".into()).await;
    let (ines, tomas) = (bench.person("ines").await, bench.person("tomas").await);
    let inspector = bench.person("inspector").await;
    let id = bench.job(&ines, "Quarry Cottage").await;
    let other = bench.job(&ines, "Kestrel Lane workshop").await;
    assert_eq!(ask(&bench, &ines, &id).await.json()["press"]["state"], "missing");
    let second = ask(&bench, &tomas, &other).await;
    assert_eq!(second.status, Status::Ok, "{}", second.text);
    let second = second.json();
    assert_eq!((second["state"].clone(), second["ahead_n"].clone()), (json!("queued"), json!(1)));
    let cancel = |who: Person, id: String| {
        let bench = &bench;
        async move { bench.send(Some(&who), Method::Delete, &at(&id), "").await.status }
    };
    assert_eq!(cancel(inspector, id.clone()).await, Status::NotFound, "it is not theirs");
    assert_eq!(cancel(ines.clone(), id.clone()).await, Status::NoContent);
    assert_eq!(bench.get(&ines, &at(&id)).await.json()["state"], "none");
    assert_eq!(bench.get(&tomas, &at(&other)).await.json()["ahead_n"], 0);
    // A designer clears the way for others.
    ask(&bench, &ines, &id).await;
    assert_eq!(cancel(tomas, id).await, Status::NoContent);
}

/// So many copies of a job.
async fn copies(bench: &Bench, who: &Person, id: &str, n: usize) -> Vec<String> {
    let mut ids = Vec::new();
    for _ in 0..n {
        let made = bench.post(who, &format!("/api/jobs/{id}/duplicate"), &json!({})).await;
        ids.push(made.json()["id"].as_str().expect("an id").to_owned());
    }
    ids
}

/// How many packs are set before that of a job.
async fn ahead(bench: &Bench, who: &Person, id: &str) -> i64 {
    let now = bench.get(who, &at(id)).await.json();
    assert_eq!(now["state"], "queued", "{now}");
    now["ahead_n"].as_i64().expect("a number")
}

#[rocket::async_test]
async fn people_take_turns_three_packs_each_and_the_owner_puts_one_first() {
    let bench = with_press(|p| p.program = "/nowhere/heliant-press".into()).await;
    let tomas = bench.person("tomas").await;
    let id = bench.job(&tomas, "Quarry Cottage").await;
    let ids = copies(&bench, &tomas, &id, 6).await;
    for id in &ids[..3] {
        assert_eq!(ask(&bench, &tomas, id).await.status, Status::Ok);
    }
    let refused = ask(&bench, &tomas, &ids[3]).await;
    assert_eq!(
        (refused.status, refused.json()["type"].clone()),
        (Status::TooManyRequests, json!("/problems/too-many-waiting"))
    );
    // Whose turn was longest ago is next: Tomas had one, Ines none yet.
    diesel::sql_query(format!(
        "INSERT INTO packs (job_id, revision, readings_n, edition, state, asked_by, asked_by_id, \
            begun_at) SELECT '{}', 1, 0, 'x', 'ready', name, id, now() FROM accounts \
            WHERE sign_in = 'tomas'",
        ids[5]
    ))
    .execute(&mut bench.database.connect())
    .expect("a pack that was set");
    let ines = bench.person("ines").await;
    assert_eq!(ask(&bench, &ines, &ids[3]).await.status, Status::Ok, "others are not held up");
    assert_eq!(ahead(&bench, &ines, &ids[3]).await, 0);
    assert_eq!(ahead(&bench, &tomas, &ids[0]).await, 1);
    // The owner puts one before all of them; nobody else does.
    let mira = bench.person("mira").await;
    let first = |who: Person, id: String| {
        let bench = &bench;
        async move {
            bench.send(Some(&who), Method::Put, &format!("/api/jobs/{id}/pack/first"), "").await
        }
    };
    assert_eq!(first(tomas.clone(), ids[2].clone()).await.status, Status::Forbidden);
    assert_eq!(first(mira.clone(), ids[4].clone()).await.status, Status::NotFound);
    let moved = first(mira, ids[2].clone()).await;
    assert_eq!((moved.status, &moved.json()["first"]), (Status::Ok, &json!(true)));
    assert_eq!(ahead(&bench, &tomas, &ids[2]).await, 0);
    assert_eq!(ahead(&bench, &ines, &ids[3]).await, 1);
}

#[rocket::async_test]
async fn a_large_pack_is_papers_and_appendices() {
    // A pack is large here from fewer lines on: it takes as long to set as it has.
    let bench = with_press(|p| p.most_lines = 40).await;
    let tomas = bench.person("tomas").await;
    let id = bench.job(&tomas, "Quarry Cottage").await;
    ask(&bench, &tomas, &id).await;
    let ready = until(&bench, &tomas, &id, "ready").await;
    let n = ready["appendices_n"].as_i64().expect("a number");
    assert!(n > 0, "{ready}");
    let part = |n: i64| format!("/api/jobs/{id}/pack.pdf?appendix={n}");
    let papers = bench.get(&tomas, &format!("/api/jobs/{id}/pack.pdf")).await;
    assert!(papers.text.starts_with("%PDF-1."));
    for n in 1..=n {
        let own = bench.get(&tomas, &part(n)).await;
        assert_eq!(own.status, Status::Ok, "{}", own.text);
        assert!(own.text.starts_with("%PDF-1.") && own.text != papers.text);
        let name = own.header("Content-Disposition").expect("a name");
        assert!(name.contains(&format!("quarry-cottage-appendix-{n}.pdf")), "{name}");
    }
    assert_eq!(bench.get(&tomas, &part(n + 1)).await.status, Status::NotFound);
}

#[rocket::async_test]
async fn a_press_that_is_ended_from_outside_is_not_said_to_lack_memory() {
    use std::os::unix::fs::PermissionsExt;
    let folder = std::env::temp_dir().join(format!("heliant-ended-{}", std::process::id()));
    std::fs::create_dir_all(&folder).expect("a folder");
    let program = folder.join("heliant-press");
    std::fs::write(&program, "#!/bin/sh\nkill -9 $$\n").expect("written");
    std::fs::set_permissions(&program, PermissionsExt::from_mode(0o755)).expect("it may run");
    let bench = with_press(|p| p.program = program).await;
    let tomas = bench.person("tomas").await;
    let id = bench.job(&tomas, "Quarry Cottage").await;
    ask(&bench, &tomas, &id).await;
    let failed = until(&bench, &tomas, &id, "failed").await;
    let why = failed["problem"].as_str().expect("a reason").to_owned();
    assert!(why.contains("ended from outside (signal 9)") && !why.contains("MB"), "{why}");
    std::fs::remove_dir_all(folder).expect("removed");
}

#[rocket::async_test]
async fn what_a_press_that_died_left_behind_is_taken_up() {
    let bench = with_press(|p| p.program = "/nowhere/heliant-press".into()).await;
    let tomas = bench.person("tomas").await;
    let id = bench.job(&tomas, "Quarry Cottage").await;
    ask(&bench, &tomas, &id).await;
    diesel::sql_query("UPDATE packs SET state = 'setting', alive_at = now() - interval '1 minute'")
        .execute(&mut bench.database.connect())
        .expect("as if a server had died");
    let second =
        Bench { client: Bench::server(&bench.database).await, database: TestDatabase::new() };
    // Of another program, so that it does not count as the first one's: only who sets it is asked.
    let began = Instant::now();
    loop {
        let state: State = diesel::sql_query("SELECT state FROM packs")
            .get_result(&mut bench.database.connect())
            .expect("a row");
        if state.state == "ready" {
            break;
        }
        assert!(began.elapsed() < PATIENCE, "{}", state.state);
        rocket::tokio::time::sleep(Duration::from_millis(200)).await;
    }
    drop(second);
}

#[derive(diesel::QueryableByName)]
struct State {
    #[diesel(sql_type = diesel::sql_types::Text)]
    state: String,
}

#[rocket::async_test]
async fn several_at_once_leave_the_api_answering() {
    let bench = Bench::new().await;
    let tomas = bench.person("tomas").await;
    let id = bench.job(&tomas, "Quarry Cottage").await;
    let ids = copies(&bench, &tomas, &id, 3).await;
    for id in &ids {
        assert_eq!(ask(&bench, &tomas, id).await.status, Status::Ok);
    }
    until(&bench, &tomas, &ids[0], "setting").await;
    // One after the other, whoever came first: none of the others is begun.
    for (i, id) in (1..).zip(&ids[1..]) {
        assert_eq!(ahead(&bench, &tomas, id).await, i);
        assert_eq!(bench.get(&tomas, &format!("/api/jobs/{id}")).await.status, Status::Ok);
    }
    assert_eq!(bench.get(&tomas, "/api/health").await.status, Status::Ok);
    for id in &ids {
        bench.send(Some(&tomas), Method::Delete, &at(id), "").await;
    }
}

#[test]
fn a_press_is_ready_being_built_or_not_there() {
    let own = std::env::current_exe().expect("a program");
    let ready = PressSettings::new(own.clone(), None);
    assert_eq!(ready.readiness(), Readiness::Ready);
    let gone = PressSettings::new("/nowhere/heliant-press".into(), None);
    assert_eq!(gone.readiness(), Readiness::Missing);
    // A file that says how far it is and is not there: it was built.
    assert_eq!(PressSettings::new(own, Some("/nowhere".into())).readiness(), Readiness::Ready);
}
