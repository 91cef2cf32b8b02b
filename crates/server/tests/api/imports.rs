//! Job files that come in: what they would add to the library is said and asked, what differs gets
//! a number of its own, readings say who brought them.

use rocket::http::{Method, Status};
use serde_json::{Value, json};

use crate::bench::{Bench, Person};

fn kestrel() -> Value {
    serde_json::from_str(heliant_server::demo::JOBS[1]).expect("the demo job")
}

async fn revisions(bench: &Bench, who: &Person, sheet: &str) -> Vec<u64> {
    let lines = bench.get(who, "/api/sheets").await.json();
    let own = lines["sheets"].as_array().expect("a list").iter().filter(|l| l["sheet"] == sheet);
    own.filter_map(|l| l["revision"].as_u64()).collect()
}

#[rocket::async_test]
async fn what_a_file_would_add_to_the_library_is_said_and_asked() {
    let bench = Bench::new().await;
    let tomas = bench.person("tomas").await;
    let mut file = kestrel();
    let key = file["library"]["modules"][0]["sheet"].as_str().expect("a key").to_owned();
    let there = revisions(&bench, &tomas, &key).await;
    let next = there.iter().max().expect("the demo has it") + 1;
    // Other values under a number the company has.
    file["library"]["modules"][0]["ratings"]["voc_v"] = json!(39.9);
    let looked = bench.post(&tomas, "/api/jobs/import/look", &file).await;
    assert_eq!(looked.status, Status::Ok, "{}", looked.text);
    let looked = looked.json();
    assert_eq!(
        (&looked["name"], &looked["readings_n"]),
        (&json!("Kestrel Lane workshop"), &json!(2))
    );
    let own = looked["sheets"].as_array().expect("a list").iter().find(|s| s["sheet"] == key);
    let own = own.expect("it is listed");
    assert_eq!((&own["arrives"], &own["keeps"]), (&json!("differs"), &json!(next)));
    // Not asked for: the library stays, the job has its own values under a number of their own.
    let made = bench.post(&tomas, "/api/jobs/import", &file).await;
    assert_eq!(made.status, Status::Ok, "{}", made.text);
    assert!(made.json()["changes"].to_string().contains(&format!("here it is revision {next}")));
    assert_eq!(revisions(&bench, &tomas, &key).await, there);
    let path = format!("/api/jobs/{}", made.json()["id"].as_str().expect("an id"));
    let view = bench.get(&tomas, &path).await.json();
    assert_eq!(view["job"]["strings"][0]["module"], json!({ "sheet": key, "revision": next }));
    let kept = view["library"]["modules"].as_array().expect("a list");
    let kept = kept.iter().find(|m| m["sheet"] == key).expect("it is there");
    assert_eq!((&kept["revision"], &kept["ratings"]["voc_v"]), (&json!(next), &json!(39.9)));
    // Asked for.
    let made = bench.post(&tomas, "/api/jobs/import?offer=true", &file).await;
    assert_eq!(made.status, Status::Ok, "{}", made.text);
    assert!(revisions(&bench, &tomas, &key).await.contains(&next));
    for who in ["ines", "inspector"] {
        let who = bench.person(who).await;
        let refused = bench.post(&who, "/api/jobs/import/look", &file).await;
        assert_eq!(refused.status, Status::Forbidden);
    }
}

#[rocket::async_test]
async fn a_number_far_ahead_blocks_no_sheet() {
    let bench = Bench::new().await;
    let tomas = bench.person("tomas").await;
    let text = kestrel().to_string();
    let mut file = kestrel();
    let key = file["library"]["inverters"][0]["sheet"].as_str().expect("a key").to_owned();
    let own = file["library"]["inverters"][0]["revision"].clone();
    let (from, to) = (
        json!({ "revision": own, "sheet": key }).to_string(),
        json!({ "revision": 9999, "sheet": key }).to_string(),
    );
    assert!(text.contains(&from) || text.contains("\"sheet\""), "the file names its inverter");
    file["library"]["inverters"][0]["revision"] = json!(9999);
    for inverter in file["job"]["inverters"].as_array_mut().expect("a list") {
        if inverter["sheet"]["sheet"] == key {
            inverter["sheet"] = serde_json::from_str(&to).expect("a reference");
        }
    }
    let made = bench.post(&tomas, "/api/jobs/import?offer=true", &file).await;
    assert_eq!(made.status, Status::Ok, "{}", made.text);
    assert!(!revisions(&bench, &tomas, &key).await.contains(&9999), "it stays with the job");
    // Entered by hand it is refused at its field.
    let mut sheet = file["library"]["inverters"][0].clone();
    let body = json!({ "kind": "inverter", "from_document": "x", "document": sheet });
    let refused = bench.post(&tomas, "/api/sheets", &body).await;
    assert_eq!(refused.places(), ["/document/revision"], "{}", refused.text);
    sheet["revision"] = json!(own.as_u64().expect("a number") + 50);
    let body = json!({ "kind": "inverter", "from_document": "x", "document": sheet });
    assert_eq!(bench.post(&tomas, "/api/sheets", &body).await.status, Status::Ok);
}

#[rocket::async_test]
async fn readings_of_a_file_say_who_brought_them_and_have_a_date() {
    let bench = Bench::new().await;
    let tomas = bench.person("tomas").await;
    let mut file = kestrel();
    let made = bench.post(&tomas, "/api/jobs/import", &file).await.json();
    let path = format!("/api/jobs/{}", made["id"].as_str().expect("an id"));
    let view = bench.get(&tomas, &path).await.json();
    for judged in view["report"]["readings"].as_array().expect("a list") {
        assert_eq!(judged["reading"]["by"], "Ines Rowe");
        assert_eq!(judged["reading"]["brought_by"], "Tomas Brandt");
    }
    // One that is entered here says nothing of the kind.
    let reading = json!({ "string": "C", "irradiance_w_m2": 600, "back_c": 39, "voc_v": 258 });
    let added = bench.post(&tomas, &format!("{path}/readings"), &reading).await.json();
    let list = added["report"]["readings"].as_array().expect("a list");
    assert_eq!(list.iter().filter(|r| r["reading"]["brought_by"].is_null()).count(), 1);
    for none in ["yesterday", "2026-13-01T10:00:00Z", "2026-02-30T10:00:00Z", "2026-10-14"] {
        file["readings"][0]["at"] = json!(none);
        let refused = bench.post(&tomas, "/api/jobs/import", &file).await;
        assert_eq!(refused.places(), ["/readings/0/at"], "{none}: {}", refused.text);
    }
}

#[rocket::async_test]
async fn a_job_holds_as_many_readings_as_its_file_may() {
    use diesel::RunQueryDsl;
    let bench = Bench::new().await;
    let tomas = bench.person("tomas").await;
    let id = bench.job(&tomas, "Kestrel Lane workshop").await;
    let fill = format!(
        "WITH more AS (INSERT INTO readings (id, job_id, taken_at, taken_by, reading, version) \
            SELECT u, job_id, taken_at, taken_by, jsonb_set(reading, '{{id}}', to_jsonb(u::text)), \
            version FROM (SELECT gen_random_uuid() AS u, r.* FROM readings r, \
                generate_series(1, 9998) WHERE r.job_id = '{id}' AND r.seq = \
                    (SELECT min(seq) FROM readings WHERE job_id = '{id}')) x \
            RETURNING 1) \
         UPDATE jobs SET readings_n = 2 + (SELECT count(*) FROM more) WHERE id = '{id}'"
    );
    diesel::sql_query(fill).execute(&mut bench.database.connect()).expect("filled");
    let reading = json!({ "string": "C", "irradiance_w_m2": 600, "back_c": 39, "voc_v": 258 });
    let refused = bench.post(&tomas, &format!("/api/jobs/{id}/readings"), &reading).await;
    assert_eq!(refused.status, Status::UnprocessableEntity, "{}", refused.status);
    assert!(refused.text.contains("10000 readings"), "{}", &refused.text[..300]);
    // What it exports it takes back.
    let export = bench.get(&tomas, &format!("/api/jobs/{id}/export")).await;
    let made = bench.send(Some(&tomas), Method::Post, "/api/jobs/import", export.text).await;
    assert_eq!(made.status, Status::Ok, "{}", &made.text[..300.min(made.text.len())]);
}
