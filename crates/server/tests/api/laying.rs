//! Prices of the company, routes side by side, cable that is there, a circuit in another raceway.

use rocket::http::{Method, Status};
use serde_json::{Value, json};

use crate::bench::{Bench, Person};

async fn kestrel(bench: &Bench, who: &Person) -> Value {
    let id = bench.job(who, "Kestrel Lane workshop").await;
    bench.get(who, &format!("/api/jobs/{id}")).await.json()
}

/// A plan as it is asked about.
fn asked(view: &Value, more: Value) -> Value {
    let mut body = json!({ "job": view["job"], "library": view["library"] });
    for (key, value) in more.as_object().into_iter().flatten() {
        body[key] = value.clone();
    }
    body
}

#[rocket::async_test]
async fn prices_are_the_owners_and_a_new_job_takes_todays() {
    let bench = Bench::new().await;
    let (mira, tomas) = (bench.person("mira").await, bench.person("tomas").await);
    let all = bench.get(&tomas, "/api/rates").await.json();
    let hour = |all: &Value| {
        let table = all["table"].as_array().expect("a table").clone();
        table.into_iter().find(|r| r["key"] == "labour_h").expect("an hour")
    };
    assert_eq!((hour(&all)["value"].as_f64(), &all["own"]), (Some(65.0), &json!({})));
    let set = |who: Person, key: &'static str, value: Value| {
        let bench = &bench;
        async move {
            let (path, body) = (format!("/api/rates/{key}"), json!({ "value": value }).to_string());
            bench.send(Some(&who), Method::Put, &path, &body).await
        }
    };
    assert_eq!(set(tomas.clone(), "labour_h", json!(80)).await.status, Status::Forbidden);
    assert_eq!(set(mira.clone(), "labour_h", json!(80)).await.json()["own"]["labour_h"], 80.0);
    let two = set(mira.clone(), "kwh", json!(0.3)).await.json();
    assert_eq!(two["own"], json!({ "labour_h": 80.0, "kwh": 0.3 }));
    // A new job begins with them, and keeps them when they change.
    let made = bench.post(&tomas, "/api/jobs", &json!({ "name": "Barn", "school": "na" })).await;
    let id = made.json()["id"].as_str().expect("an id").to_owned();
    let back = set(mira.clone(), "labour_h", Value::Null).await.json();
    assert_eq!(back["own"], json!({ "kwh": 0.3 }));
    let job = bench.get(&tomas, &format!("/api/jobs/{id}")).await.json();
    assert_eq!(job["job"]["rates"], json!({ "labour_h": 80.0, "kwh": 0.3 }));
    // What is no price is said with what it would be.
    let wrong = set(mira.clone(), "labor_h", json!(80)).await;
    assert_eq!(wrong.status, Status::UnprocessableEntity);
    assert!(wrong.text.contains("did you mean `labour_h`?"), "{}", wrong.text);
    let below = set(mira, "labour_h", json!(-5)).await;
    assert_eq!(
        (below.status, below.places()),
        (Status::UnprocessableEntity, vec!["/value".into()])
    );
}

#[rocket::async_test]
async fn routes_are_compared_and_kept_with_the_job() {
    let bench = Bench::new().await;
    let tomas = bench.person("tomas").await;
    let mut view = kestrel(&bench, &tomas).await;
    let alone = bench.post(&tomas, "/api/routes", &asked(&view, json!({}))).await.json();
    assert_eq!(alone["rows"].as_array().map(Vec::len), Some(1));
    let keep = json!({ "job": view["job"], "command": { "do": "keep_route", "name": "Outside" } });
    let kept = bench.post(&tomas, "/api/command", &keep).await.json();
    view["job"] = kept["job"].clone();
    let two = bench.post(&tomas, "/api/routes", &asked(&view, json!({}))).await.json();
    let names: Vec<&str> =
        two["rows"].as_array().into_iter().flatten().filter_map(|r| r["name"].as_str()).collect();
    assert_eq!(names, ["Outside", "First route"]);
    let figure = &two["rows"][0]["figures"][0];
    assert!(figure["working"].as_array().is_some_and(|w| w.len() > 5), "{figure}");
    let saved = bench.save(&tomas, &view, |_| ()).await;
    assert_eq!(saved.status, Status::Ok, "{}", saved.text);
    let again = kestrel(&bench, &tomas).await;
    assert_eq!(again["job"]["routes"][0]["name"], "First route");
    let twice = json!({ "job": view["job"], "command": { "do": "keep_route", "name": "Outside" } });
    let twice = bench.post(&tomas, "/api/command", &twice).await;
    assert_eq!((twice.status, twice.places()), (Status::UnprocessableEntity, vec!["/name".into()]));
}

#[rocket::async_test]
async fn questions_that_name_nothing_are_refused_with_their_place() {
    let bench = Bench::new().await;
    let tomas = bench.person("tomas").await;
    let view = kestrel(&bench, &tomas).await;
    let refused = async |path: &str, more: Value| {
        let answer = bench.post(&tomas, path, &asked(&view, more)).await;
        assert_eq!(answer.status, Status::UnprocessableEntity, "{path}: {}", answer.text);
        answer.places()
    };
    assert_eq!(refused("/api/wires", json!({ "circuits": ["Z"] })).await, ["/circuits"]);
    assert_eq!(refused("/api/wires/options", json!({ "circuit": "Z" })).await, ["/circuit"]);
    assert_eq!(refused("/api/wires/budget", json!({ "budget_pct": 90 })).await, ["/budget_pct"]);
    assert_eq!(refused("/api/wires/budget", json!({})).await, ["/budget_pct"]);
    let there = json!({ "way": "DC1", "part": 1, "circuit": "A" });
    assert_eq!(refused("/api/laid-in", there).await, ["/way"], "it lies there already");
}

#[rocket::async_test]
async fn a_budget_a_piece_and_another_raceway_are_answered() {
    let bench = Bench::new().await;
    let tomas = bench.person("tomas").await;
    let mut view = kestrel(&bench, &tomas).await;
    let question = asked(&view, json!({ "budget_pct": 3 }));
    let shares = bench.post(&tomas, "/api/wires/budget", &question).await.json();
    let shares = &shares["shares"];
    assert!(shares.as_array().is_some_and(|s| s.iter().filter(|s| s["best"] == true).count() == 1));
    let other = json!({ "way": "AC1", "part": 1, "circuit": "A" });
    let laid = bench.post(&tomas, "/api/laid-in", &asked(&view, other)).await.json();
    let part = json!({ "way": "DC1", "part": 1 });
    let sizes = bench.post(&tomas, "/api/raceway-sizes", &asked(&view, part)).await.json();
    assert_eq!(sizes[1]["now"], true);
    assert_eq!((&sizes[0]["size"], &sizes[2]["size"]), (&json!("1/2"), &json!("1")));
    // Two lines, a neutral, the pair of A, and the ground.
    assert_eq!(laid["cut"]["wires"].as_array().map(Vec::len), Some(6), "{laid}");
    assert!(laid["command"].is_null());
    view["job"]["stock"] = json!({ "S1": { "wire": { "awg": "8" }, "length_m": 25 } });
    let held = bench.post(&tomas, "/api/reuse", &asked(&view, json!({}))).await.json();
    let of = |circuit: &str| {
        let all = held.as_array().expect("a list").clone();
        all.into_iter().find(|r| r["circuit"] == circuit).expect("it was held against it")
    };
    // A needs 20.1 m for each pole: one comes of 25 m, and the other lacks 20.1 - 4.9 m.
    assert!((of("A")["left_m"].as_f64().expect("m") + 15.2).abs() < 1e-9, "{held}");
    // Bad sizes and lengths are refused where they stand.
    view["job"]["stock"]["S1"]["wire"]["awg"] = json!("9");
    let refused = bench.post(&tomas, "/api/reuse", &asked(&view, json!({}))).await;
    assert_eq!(refused.places(), ["/job/stock/S1/wire"]);
}
