//! The library of data sheets over the API: entered, judged, imported whole or not at all, retired,
//! watched.

use diesel::RunQueryDsl;
use heliant_core::job::{Edit, applied};
use rocket::http::{Method, Status};
use serde_json::{Value, json};

use crate::bench::{Bench, Person, found};

fn sheet(revision: u32, change: impl Fn(&mut Value)) -> Value {
    let library: Value = serde_json::from_str(include_str!("../../../../data/demo/library.json"))
        .expect("the demo library");
    let list = library["inverters"].as_array().expect("a list");
    let mut sheet = list
        .iter()
        .find(|i| i["sheet"] == "marrow-h6" && i["revision"] == 2)
        .expect("demo")
        .clone();
    sheet["revision"] = json!(revision);
    change(&mut sheet);
    sheet
}

async fn lines(bench: &Bench, who: &Person) -> Vec<Value> {
    bench.get(who, "/api/sheets").await.json()["sheets"].as_array().expect("a list").clone()
}

/// What a sheet does, once every job has been looked at.
async fn looked_at(bench: &Bench, who: &Person, path: &str) -> Value {
    for _ in 0..600 {
        let seen = bench.get(who, path).await;
        assert_eq!(seen.status, Status::Ok, "{}", seen.text);
        let seen = seen.json();
        if seen["done_n"] == seen["of_n"] {
            return seen;
        }
        rocket::tokio::time::sleep(std::time::Duration::from_millis(50)).await;
    }
    panic!("never done");
}

#[rocket::async_test]
async fn a_revision_says_who_entered_it_from_what_and_whom_it_concerns() {
    let bench = Bench::new().await;
    let tomas = bench.person("tomas").await;
    let body = json!({ "kind": "inverter", "from_document": "H6 data sheet, edition 5",
        "document": sheet(3, |s| s["vdc_max_v"] = json!(600)) });
    let kept = bench.post(&tomas, "/api/sheets", &body).await;
    assert_eq!(kept.status, Status::Ok, "{}", kept.text);
    assert_eq!(kept.json(), json!({ "kind": "inverter", "sheet": "marrow-h6", "revision": 3 }));
    let seen = looked_at(&bench, &tomas, "/api/sheets/inverter/marrow-h6/consequences").await;
    assert_eq!(
        seen["changes"],
        json!([{ "field": "vdc_max_v", "title": "Largest DC volts", "unit": "V", "from": 650.0,
            "to": 600.0 }])
    );
    let jobs = seen["jobs"].clone();
    assert_eq!(
        (jobs[0]["name"].as_str(), jobs[0]["holds"].as_u64()),
        (Some("Quarry Cottage"), Some(1))
    );
    // 14 x 39.7 x 1.0825 = 601.65 V: 1.65 V over, besides the watts of revision 2.
    let stops: Vec<(&str, f64)> = jobs[0]["stops"]
        .as_array()
        .expect("a list")
        .iter()
        .map(|s| {
            (
                s["check"]["id"].as_str().unwrap_or_default(),
                (s["over"].as_f64().unwrap_or(0.0) * 100.0).round() / 100.0,
            )
        })
        .collect();
    assert_eq!(stops, [("string.voc_cold_v", 1.65), ("mppt.power_w", 2660.0)]);
    let line = lines(&bench, &tomas)
        .await
        .into_iter()
        .find(|l| l["sheet"] == "marrow-h6" && l["revision"] == 3)
        .expect("it is listed");
    assert_eq!(
        (line["entered_by"].as_str(), line["from_document"].as_str()),
        (Some("Tomas Brandt"), Some("H6 data sheet, edition 5"))
    );
    // The job is as it was.
    let list = bench.get(&tomas, "/api/jobs").await.json()["jobs"].clone();
    let quarry = list
        .as_array()
        .expect("a list")
        .iter()
        .find(|j| j["name"] == "Quarry Cottage")
        .expect("demo")
        .clone();
    assert_eq!(
        (quarry["revision"].as_i64(), quarry["verdict"].as_str()),
        (Some(1), Some("unknown"))
    );
}

#[rocket::async_test]
async fn what_a_sheet_does_is_kept_and_looked_at_again_where_a_job_was_saved() {
    let bench = Bench::new().await;
    let tomas = bench.person("tomas").await;
    let path = "/api/sheets/inverter/marrow-h6/consequences";
    // The demo's Quarry Cottage holds revision 1 and the company has 2; nothing was asked yet.
    let first = bench.get(&tomas, path).await.json();
    assert_eq!((first["of_n"].clone(), first["jobs"].clone()), (json!(1), json!([])));
    let seen = looked_at(&bench, &tomas, path).await;
    let counts = |v: &Value| ["older_n", "stops_n", "cautions_n"].map(|k| v[k].as_i64());
    assert_eq!(counts(&seen), [Some(1), Some(1), Some(0)]);
    // Another server finds it done.
    let second = Bench {
        client: Bench::server(&bench.database).await,
        database: heliant_testing::TestDatabase::new(),
    };
    assert_eq!(second.get(&tomas, path).await.json()["done_n"], 1);
    // Saved with six modules in place of fourteen, the watts of revision 2 are kept too.
    let id = bench.job(&tomas, "Quarry Cottage").await;
    let view = bench.get(&tomas, &format!("/api/jobs/{id}")).await.json();
    let saved = bench.save(&tomas, &view, |b| b["job"]["strings"][0]["n"] = json!(6)).await;
    assert_eq!(saved.status, Status::Ok, "{}", saved.text);
    assert_eq!(bench.get(&tomas, path).await.json()["done_n"], 0, "it is of the job as it was");
    let seen = looked_at(&bench, &tomas, path).await;
    assert_eq!(seen["stops_n"], 0, "{seen}");
    // A page beyond the last is empty.
    let beyond = bench.get(&tomas, &format!("{path}?page=1")).await.json();
    assert_eq!((beyond["jobs"].clone(), beyond["older_n"].clone()), (json!([]), json!(1)));
}

#[rocket::async_test]
async fn a_sheet_that_many_jobs_hold_is_entered_at_once_and_read_in_pages() {
    let bench = Bench::new().await;
    let tomas = bench.person("tomas").await;
    let id = bench.job(&tomas, "Quarry Cottage").await;
    let copies = format!(
        "WITH made AS (INSERT INTO jobs (id, name, school, revision, verdict, counts, updated_by, \
            sheets) SELECT gen_random_uuid(), 'Copy ' || n, school, 1, verdict, counts, \
            updated_by, sheets FROM jobs, generate_series(1, 150) n WHERE id = '{id}' \
            RETURNING id) \
         INSERT INTO job_revisions (job_id, revision, document, saved_by, version) \
         SELECT made.id, 1, document, saved_by, version FROM made, job_revisions r \
         WHERE r.job_id = '{id}' AND r.revision = 1"
    );
    diesel::sql_query(copies).execute(&mut bench.database.connect()).expect("copies");
    let body = json!({ "kind": "inverter", "from_document": "H6 data sheet, edition 5",
        "document": sheet(3, |s| s["vdc_max_v"] = json!(600)) });
    assert_eq!(bench.post(&tomas, "/api/sheets", &body).await.status, Status::Ok);
    let seen = looked_at(&bench, &tomas, "/api/sheets/inverter/marrow-h6/consequences").await;
    assert_eq!(
        [&seen["of_n"], &seen["older_n"], &seen["stops_n"]].map(|n| n.as_i64()),
        [Some(151); 3]
    );
    assert_eq!(seen["jobs"].as_array().map(Vec::len), Some(100), "a page");
    let rest = bench.get(&tomas, "/api/sheets/inverter/marrow-h6/consequences?page=1").await;
    assert_eq!(rest.json()["jobs"].as_array().map(Vec::len), Some(51));
}

#[rocket::async_test]
async fn one_server_at_a_time_looks_at_what_a_sheet_does() {
    let bench = Bench::new().await;
    let tomas = bench.person("tomas").await;
    let path = "/api/sheets/inverter/marrow-h6/consequences";
    // What another server holds while it looks.
    let mut other = bench.database.connect();
    let held = "SELECT pg_advisory_xact_lock(hashtextextended('inverter/marrow-h6', 1819242347))";
    for statement in ["BEGIN", held] {
        diesel::sql_query(statement).execute(&mut other).expect("a lock");
    }
    for _ in 0..10 {
        assert_eq!(bench.get(&tomas, path).await.json()["done_n"], 0);
        rocket::tokio::time::sleep(std::time::Duration::from_millis(100)).await;
    }
    diesel::sql_query("COMMIT").execute(&mut other).expect("it lets go");
    assert_eq!(looked_at(&bench, &tomas, path).await["done_n"], 1);
}

#[rocket::async_test]
async fn a_revision_never_changes_and_a_wrong_one_is_refused_at_its_fields() {
    let bench = Bench::new().await;
    let tomas = bench.person("tomas").await;
    let again = json!({ "kind": "inverter", "from_document": "x",
        "document": sheet(2, |s| s["vdc_max_v"] = json!(1000)) });
    let refused = bench.post(&tomas, "/api/sheets", &again).await;
    assert_eq!(
        (refused.status, refused.places()),
        (Status::UnprocessableEntity, vec!["/document/revision".to_owned()])
    );
    let wrong = json!({ "kind": "inverter", "from_document": " ",
        "document": sheet(3, |s| s["mppts"] = json!([])) });
    let refused = bench.post(&tomas, "/api/sheets", &wrong).await;
    assert_eq!(refused.places(), ["/from_document", "/document/mppts"]);
    let before = lines(&bench, &tomas).await.len();
    for who in ["ines", "inspector"] {
        let person = bench.person(who).await;
        let body =
            json!({ "kind": "inverter", "from_document": "x", "document": sheet(3, |_| ()) });
        assert_eq!(bench.post(&person, "/api/sheets", &body).await.status, Status::Forbidden);
        assert_eq!(
            bench
                .post(&person, "/api/sheets/inverter/marrow-h6/retire", &json!({ "retired": true }))
                .await
                .status,
            Status::Forbidden
        );
        assert_eq!(
            bench
                .post(&person, "/api/sheets/import", &json!({ "text": "{}", "preview": true }))
                .await
                .status,
            Status::Forbidden
        );
    }
    assert_eq!(lines(&bench, &tomas).await.len(), before);
}

#[rocket::async_test]
async fn a_table_is_imported_whole_or_not_at_all() {
    let bench = Bench::new().await;
    let tomas = bench.person("tomas").await;
    let before = lines(&bench, &tomas).await.len();
    let head = "sheet,revision,maker,model,ratings.voc_v,ratings.vmp_v,ratings.pmax_w\n";
    let wrong = format!("{head}new-a,1,Maker,A,40,33,400\nnew-b,1,Maker,B,33,40,400\n");
    let ask = |text: &str, preview: bool| {
        json!({ "kind": "module", "text": text,
        "from_document": "list of March", "preview": preview })
    };
    let refused = bench.post(&tomas, "/api/sheets/import", &ask(&wrong, false)).await;
    assert_eq!(refused.places(), ["/rows/3/ratings.vmp_v"]);
    assert_eq!(lines(&bench, &tomas).await.len(), before, "nothing half imported");
    let right = format!("{head}new-a,1,Maker,A,40,33,400\nnew-b,1,Maker,B,41,34,410\n");
    let seen = bench.post(&tomas, "/api/sheets/import", &ask(&right, true)).await;
    assert_eq!(
        (seen.json()["added_n"].as_u64(), seen.json()["rows"].as_array().map(Vec::len)),
        (Some(0), Some(2))
    );
    assert_eq!(lines(&bench, &tomas).await.len(), before, "a preview keeps nothing");
    let done = bench.post(&tomas, "/api/sheets/import", &ask(&right, false)).await;
    assert_eq!(done.json()["added_n"], 2);
    // Once more: everything is there.
    let again = bench.post(&tomas, "/api/sheets/import", &ask(&right, false)).await;
    assert_eq!(
        (again.json()["added_n"].as_u64(), again.json()["rows"][0]["becomes"].as_str()),
        (Some(0), Some("there"))
    );
    // Exported, it reads as it was.
    let table = bench.get(&tomas, "/api/sheets/module/export").await;
    assert!(
        table.header("Content-Type").is_some_and(|t| t.starts_with("text/csv")),
        "{:?}",
        table.headers
    );
    let back = bench.post(&tomas, "/api/sheets/import", &ask(&table.text, true)).await;
    assert!(
        back.json()["rows"].as_array().expect("a list").iter().all(|r| r["becomes"] == "there"),
        "{}",
        back.text
    );
    let all = bench.get(&tomas, "/api/sheets/all/export").await;
    let back = bench
        .post(&tomas, "/api/sheets/import", &json!({ "text": all.text, "preview": true }))
        .await;
    assert_eq!(back.status, Status::Ok, "{}", back.text);
}

#[rocket::async_test]
async fn fifty_thousand_rows_get_an_answer() {
    let bench = Bench::new().await;
    let tomas = bench.person("tomas").await;
    let rows: String = (0..50_000).map(|i| format!("m{i},1,Maker,M{i},40,33,400\n")).collect();
    let text =
        format!("sheet,revision,maker,model,ratings.voc_v,ratings.vmp_v,ratings.pmax_w\n{rows}");
    let refused = bench
        .post(
            &tomas,
            "/api/sheets/import",
            &json!({ "kind": "module", "text": text, "preview": true }),
        )
        .await;
    assert_eq!(refused.status, Status::UnprocessableEntity);
    assert!(
        refused.json()["detail"].as_str().is_some_and(|d| d.contains("50000 rows")),
        "{}",
        refused.text
    );
}

#[rocket::async_test]
async fn a_retired_sheet_is_not_offered_and_stays_where_it_is_used() {
    let bench = Bench::new().await;
    let tomas = bench.person("tomas").await;
    let path = "/api/sheets/inverter/stellan-s8-2/retire";
    assert_eq!(bench.post(&tomas, path, &json!({ "retired": true })).await.status, Status::Ok);
    let retired = |lines: Vec<Value>| {
        lines.iter().filter(|l| l["sheet"] == "stellan-s8-2").all(|l| l["retired"] == true)
    };
    assert!(retired(lines(&bench, &tomas).await));
    assert_eq!(bench.post(&tomas, path, &json!({ "retired": false })).await.status, Status::Ok);
    assert!(!retired(lines(&bench, &tomas).await));
    let unknown =
        bench.post(&tomas, "/api/sheets/inverter/nobody/retire", &json!({ "retired": true })).await;
    assert_eq!(unknown.status, Status::NotFound);
    assert_eq!(bench.get(&tomas, "/api/sheets/toaster/fields").await.status, Status::NotFound);
}

#[rocket::async_test]
async fn a_half_entered_sheet_is_judged() {
    let bench = Bench::new().await;
    let ines = bench.person("ines").await;
    let body = json!({ "kind": "module", "school": "na", "document": {
        "ratings": { "voc_v": 39.4, "vmp_v": 40 } }, "about": { "t_min_c": -10 } });
    let judged = bench.post(&ines, "/api/sheets/judge", &body).await.json();
    assert_eq!(judged["problems"][0]["path"], "/ratings/vmp_v");
    let nothing = bench
        .post(
            &ines,
            "/api/sheets/judge",
            &json!({ "kind": "module", "school": "na", "document": 3 }),
        )
        .await;
    assert_eq!(nothing.places(), ["/document"]);
    let fields = bench.get(&ines, "/api/sheets/micro/fields").await.json();
    assert!(fields.as_array().expect("a list").iter().any(|f| f["key"] == "trunk.section_ohm"));
}

#[rocket::async_test]
async fn the_watch_goes_quiet_when_a_repair_is_taken_or_the_older_one_kept() {
    let bench = Bench::new().await;
    let tomas = bench.person("tomas").await;
    let id = bench.job(&tomas, "Quarry Cottage").await;
    let path = format!("/api/jobs/{id}");
    let watch = bench.get(&tomas, &format!("{path}/watch")).await.json();
    assert_eq!(watch.as_array().map(Vec::len), Some(1));
    assert_eq!((watch[0]["from"].as_u64(), watch[0]["to"].as_u64()), (Some(1), Some(2)));
    let company = bench.get(&tomas, "/api/library").await.json();
    let h6 = company["inverters"]
        .as_array()
        .expect("a list")
        .iter()
        .find(|i| i["sheet"] == "marrow-h6" && i["revision"] == 2)
        .expect("there")
        .clone();
    // Kept with a reason.
    let view = bench.get(&tomas, &path).await.json();
    let mut job = view["job"].clone();
    job["kept_sheets"] = json!([{ "kind": "inverter", "sheet": "marrow-h6", "revision": 1,
        "newer": 2, "reason": "hardware 1 on the wall" }]);
    let saved = bench
        .send(
            Some(&tomas),
            Method::Put,
            &path,
            json!({ "base_revision": 1, "job": job, "library": view["library"] }).to_string(),
        )
        .await;
    assert_eq!(saved.status, Status::Ok, "{}", saved.text);
    let watch = bench.get(&tomas, &format!("{path}/watch")).await.json();
    assert_eq!(watch[0]["kept"], "hardware 1 on the wall");
    // The first repair taken: nothing stops, nothing is newer.
    let edits: Vec<Edit> =
        serde_json::from_value(watch[0]["repairs"][0]["edits"].clone()).expect("edits");
    let before = serde_json::from_value(view["job"].clone()).expect("a job");
    let job = json!(applied(&before, &edits).expect("every place is there"));
    let mut library = view["library"].clone();
    library["inverters"] = json!([h6]);
    let saved = bench
        .send(
            Some(&tomas),
            Method::Put,
            &path,
            json!({ "base_revision": 2, "job": job, "library": library }).to_string(),
        )
        .await;
    assert_eq!(saved.status, Status::Ok, "{}", saved.text);
    assert_eq!(saved.json()["report"]["counts"]["fail"], 0);
    assert_eq!(bench.get(&tomas, &format!("{path}/watch")).await.json(), json!([]));
}

#[rocket::async_test]
async fn a_plan_is_tried_and_its_ways_are_found_without_keeping_anything() {
    let bench = Bench::new().await;
    let ines = bench.person("ines").await;
    let id = bench.job(&ines, "Kestrel Lane workshop").await;
    let view = bench.get(&ines, &format!("/api/jobs/{id}")).await.json();
    let mut job = view["job"].clone();
    job["site"]["t_min_c"] = json!(-44);
    let tried =
        bench.post(&ines, "/api/try", &json!({ "job": job, "library": view["library"] })).await;
    assert_eq!(tried.status, Status::Ok, "{}", tried.text);
    // 12 x 39.4 x (1 + 0.0026 x 69) = 557.6 V.
    let answer = json!({ "report": tried.json() });
    let string_a = json!({ "kind": "string", "string": "A" });
    let cold = found(&answer, &string_a, "figures", "string.voc_cold_v");
    assert!((cold["value"].as_f64().expect("a number") - 557.6).abs() < 0.1);
    let ways = bench
        .post(&ines, "/api/ways", &json!({ "job": view["job"], "library": view["library"] }))
        .await
        .json();
    assert_eq!(ways["ways"][0]["current"], true);
    let mut ask = ways["ask"].clone();
    ask["home_runs_max"] = json!(2);
    let fewer = bench
        .post(
            &ines,
            "/api/ways",
            &json!({ "job": view["job"], "library": view["library"], "ask": ask }),
        )
        .await
        .json();
    assert!(
        fewer["ways"]
            .as_array()
            .expect("a list")
            .iter()
            .all(|w| w["strings_n"].as_u64() <= Some(2)),
        "{fewer}"
    );
    ask["faces"][0]["face"] = json!("moon");
    let refused = bench
        .post(
            &ines,
            "/api/ways",
            &json!({ "job": view["job"], "library": view["library"], "ask": ask }),
        )
        .await;
    assert_eq!(refused.places(), ["/ask/faces/0/face"]);
    let refused = bench
        .post(
            &ines,
            "/api/ways",
            &json!({ "job": view["job"], "library": view["library"], "ask": { "colour": "red" } }),
        )
        .await;
    assert_eq!(refused.places(), ["/ask"]);
    assert_eq!(
        bench.get(&ines, &format!("/api/jobs/{id}")).await.json()["revision"],
        1,
        "nothing is kept"
    );
}

#[rocket::async_test]
async fn sums_and_weather_are_done_and_a_sum_becomes_a_job() {
    let bench = Bench::new().await;
    let (ines, tomas) = (bench.person("ines").await, bench.person("tomas").await);
    let sums = bench.get(&ines, "/api/sums").await.json();
    let window = sums
        .as_array()
        .expect("a list")
        .iter()
        .find(|s| s["name"] == "string-window" && s["school"] == "iec")
        .expect("there")
        .clone();
    let inputs: serde_json::Map<String, Value> = window["inputs"]
        .as_array()
        .expect("a list")
        .iter()
        .filter_map(|i| {
            Some((i["key"].as_str()?.to_owned(), serde_json::from_str(i["sample"].as_str()?).ok()?))
        })
        .collect();
    let body = json!({ "school": "iec", "inputs": inputs });
    let slip = bench.post(&ines, "/api/sums/string-window", &body).await;
    assert_eq!(slip.status, Status::Ok, "{}", slip.text);
    assert_eq!(slip.json()["answers"][0]["id"], "string.n_max");
    let wrong = bench
        .post(&ines, "/api/sums/string-window", &json!({ "school": "iec", "inputs": { "n": "x" } }))
        .await;
    assert!(
        wrong.places().contains(&"/n".to_owned())
            && wrong.places().contains(&"/module.voc_v".to_owned()),
        "{}",
        wrong.text
    );
    assert_eq!(bench.post(&ines, "/api/sums/cake", &body).await.status, Status::NotFound);
    assert_eq!(
        bench.post(&ines, "/api/sums/string-window/job", &body).await.status,
        Status::Forbidden
    );
    let sheets = lines(&bench, &tomas).await.len();
    let made = bench.post(&tomas, "/api/sums/string-window/job", &body).await.json();
    let view = bench
        .get(&tomas, &format!("/api/jobs/{}", made["id"].as_str().expect("an id")))
        .await
        .json();
    assert_eq!(view["job"]["strings"][0]["n"], 12);
    assert_eq!(
        lines(&bench, &tomas).await.len(),
        sheets,
        "what was typed into a sum is no data sheet of the company"
    );
    let file = bench.get(&ines, "/api/weather/demo").await;
    let weather = bench.send(Some(&ines), Method::Post, "/api/weather", file.text).await;
    assert_eq!(weather.json()["record"]["hours_n"], 26_280);
    let refused = bench.send(Some(&ines), Method::Post, "/api/weather", "no weather").await;
    assert_eq!(refused.places(), ["/rows/1"]);
}
