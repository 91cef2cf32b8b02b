//! Edits of the plan's graph, and what goes out of a report.

use rocket::http::Status;
use serde_json::{Value, json};

use crate::bench::{Answer, Bench, Person};

async fn kestrel(bench: &Bench, who: &Person) -> Value {
    let id = bench.job(who, "Kestrel Lane workshop").await;
    bench.get(who, &format!("/api/jobs/{id}")).await.json()
}

async fn command(bench: &Bench, who: &Person, job: &Value, command: Value) -> Answer {
    bench.post(who, "/api/command", &json!({ "job": job, "command": command })).await
}

#[rocket::async_test]
async fn a_command_gives_the_job_with_the_edit_and_says_what_it_changed() {
    let bench = Bench::new().await;
    let tomas = bench.person("tomas").await;
    let view = kestrel(&bench, &tomas).await;
    let split = json!({ "do": "split_way", "way": "DC1", "after": 1, "node": "SOFFIT",
        "kind": "junction_box", "rest": "DC2" });
    let done = command(&bench, &tomas, &view["job"], split).await;
    assert_eq!(done.status, Status::Ok, "{}", done.text);
    let done = done.json();
    assert_eq!(done["changes"], json!(["way DC1 split at SOFFIT; DC2 goes on from there"]));
    let via = &done["job"]["plan"]["circuits"]["B"]["legs"][0]["via"];
    assert_eq!(*via, json!(["DC1", "DC2"]));
    // Nothing is kept until it is saved.
    let again = kestrel(&bench, &tomas).await;
    assert_eq!((&again["job"], &again["revision"]), (&view["job"], &view["revision"]));
    // Who may only look may ask as well: a draft is theirs alone.
    let saved = bench.save(&tomas, &view, |body| body["job"] = done["job"].clone()).await;
    assert_eq!(saved.status, Status::Ok, "{}", saved.text);
    assert!(kestrel(&bench, &tomas).await["job"]["plan"]["nodes"]["SOFFIT"].is_object());
}

#[rocket::async_test]
async fn a_command_that_cannot_be_is_refused_with_its_place() {
    let bench = Bench::new().await;
    let tomas = bench.person("tomas").await;
    let view = kestrel(&bench, &tomas).await;
    let job = &view["job"];
    let astray = json!({ "do": "reroute", "circuit": "A", "leg": 0, "via": ["DC1", "w9"] });
    let refused = command(&bench, &tomas, job, astray).await;
    assert_eq!(refused.status, Status::UnprocessableEntity);
    assert_eq!(refused.places(), ["/job/plan/circuits/A/legs/0/via/1"]);

    let gone = json!({ "do": "retire_way", "way": "w9" });
    let refused = command(&bench, &tomas, job, gone).await;
    assert_eq!(refused.status, Status::UnprocessableEntity);
    assert!(refused.text.contains("no way `w9`"), "{}", refused.text);

    // A job whose fields are out of range is refused before anything is done with it.
    let mut many = job.clone();
    many["strings"] = json!(vec![job["strings"][0].clone(); 600]);
    let refused = command(&bench, &tomas, &many, json!({ "do": "settle" })).await;
    assert_eq!(refused.status, Status::UnprocessableEntity);
    assert_eq!(refused.places(), ["/job/strings"]);

    let unknown = command(&bench, &tomas, job, json!({ "do": "dig" })).await;
    assert_eq!(unknown.status, Status::UnprocessableEntity, "{}", unknown.text);
    assert!(unknown.text.contains("dig"), "{}", unknown.text);
}

#[rocket::async_test]
async fn an_earlier_edition_goes_out_with_its_own_rule_numbers() {
    let bench = Bench::new().await;
    let tomas = bench.person("tomas").await;
    let view = kestrel(&bench, &tomas).await;
    assert!(view["report"]["sources"].is_null(), "2023 is the catalogue's");
    let saved =
        bench.save(&tomas, &view, |b| b["job"]["settings"]["edition"] = json!("2017")).await;
    assert_eq!(saved.status, Status::Ok, "{}", saved.text);
    let sources = &saved.json()["report"]["sources"];
    let cited = sources["panel.far_end_120"].as_str().expect("the rule has another number");
    assert!(cited.contains("705.12(B)(2)(3)"), "{cited}");
}

#[rocket::async_test]
async fn what_is_said_of_several_alike_goes_out_once() {
    let bench = Bench::new().await;
    let tomas = bench.person("tomas").await;
    let view = kestrel(&bench, &tomas).await;
    let mut job = view["job"].clone();
    let mut inverter = job["inverters"][0].clone();
    inverter["id"] = json!("INV2");
    job["inverters"].as_array_mut().expect("inverters").push(inverter);
    // Two strings of ten, each on its own input of a second inverter.
    for (letter, mppt) in [("D", 1), ("E", 2)] {
        let mut one = job["strings"][0].clone();
        (one["letter"], one["inverter"]) = (json!(letter), json!("INV2"));
        (one["n"], one["mppt"]) = (json!(10), json!(mppt));
        job["strings"].as_array_mut().expect("strings").push(one);
    }
    let settled = command(&bench, &tomas, &job, json!({ "do": "settle" })).await.json();
    let saved = bench.save(&tomas, &view, |b| b["job"] = settled["job"].clone()).await;
    assert_eq!(saved.status, Status::Ok, "{}", saved.text);
    let saved = saved.json();
    let subjects = saved["report"]["subjects"].as_array().expect("subjects");
    let string = |letter: &str| json!({ "kind": "string", "string": letter });
    let own = subjects.iter().find(|s| s["subject"] == string("D")).expect("string D");
    assert_eq!(own["also"], json!([string("E")]));
    assert!(!subjects.iter().any(|s| s["subject"] == string("E")), "E is said with D");
}

#[rocket::async_test]
async fn the_smallest_wires_are_found_and_a_circuit_that_is_none_is_refused() {
    let bench = Bench::new().await;
    let tomas = bench.person("tomas").await;
    let view = kestrel(&bench, &tomas).await;
    let ask = |circuits: Value| {
        let (job, library) = (&view["job"], &view["library"]);
        json!({ "job": job, "library": library, "circuits": circuits })
    };
    let found = bench.post(&tomas, "/api/wires", &ask(json!(["A"]))).await;
    assert_eq!(found.status, Status::Ok, "{}", found.text);
    // 17.3 A through three pairs in an attic of 50 °C: 30 x 0.82 x 0.8 = 19.7 A of 12 AWG.
    let edit = json!([{ "pointer": "/plan/circuits/A/legs/0/wire/awg", "value": "12" }]);
    assert_eq!(found.json()["edits"], edit);
    // All wires are picked: nothing is open.
    let found = bench.post(&tomas, "/api/wires", &ask(json!([]))).await;
    assert_eq!(found.json()["wires"], json!([]));
    let one = |circuit: &str| {
        let (job, library) = (&view["job"], &view["library"]);
        json!({ "job": job, "library": library, "circuit": circuit })
    };
    let options = bench.post(&tomas, "/api/wires/options", &one("A")).await;
    assert_eq!(options.status, Status::Ok, "{}", options.text);
    let sizes: Vec<Value> = options.json()["options"]
        .as_array()
        .expect("a list")
        .iter()
        .map(|o| o["size"].clone())
        .collect();
    assert_eq!(sizes, ["12", "10", "8", "6"]);
    let refused = bench.post(&tomas, "/api/wires/options", &one("Z")).await;
    assert_eq!(refused.places(), ["/circuit"]);
    let refused = bench.post(&tomas, "/api/wires", &ask(json!(["Z"]))).await;
    assert_eq!(refused.status, Status::UnprocessableEntity);
    assert_eq!(refused.places(), ["/circuits"]);
}

#[rocket::async_test]
async fn what_was_typed_before_is_offered_the_latest_first() {
    let bench = Bench::new().await;
    let tomas = bench.person("tomas").await;
    let sheet = json!({ "kind": "module", "from_document": "LK leaflet", "document":
        { "sheet": "larkfield-lk", "revision": 1, "maker": "Larkfield", "model": "LK",
          "ratings": { "voc_v": 40.0 } } });
    let added = bench.post(&tomas, "/api/sheets", &sheet).await;
    assert!(added.status.code < 300, "{}", added.text);
    let known = bench.get(&tomas, "/api/sheets/known").await.json();
    assert_eq!(
        (&known["makers"][0], &known["documents"][0]),
        (&json!("Larkfield"), &json!("LK leaflet"))
    );
    let makers = known["makers"].as_array().expect("a list");
    assert!(makers.len() > 2, "the demo's makers follow, each once: {known}");
    assert_eq!(makers.iter().filter(|m| **m == makers[1]).count(), 1);
}
