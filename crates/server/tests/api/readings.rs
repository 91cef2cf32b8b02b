//! Readings: judged before they are kept, kept for good.

use heliant_server::store::jobs::get_as_of;
use rocket::http::Status;
use serde_json::json;

use crate::bench::{Bench, found};

#[rocket::async_test]
async fn a_reading_is_judged_before_it_is_kept() {
    let bench = Bench::new().await;
    let ines = bench.person("ines").await;
    let id = bench.job(&ines, "Kestrel Lane workshop").await;
    let path = format!("/api/jobs/{id}/readings/preview");
    let none = bench.post(&ines, &path, &json!({ "string": "C" })).await;
    assert_eq!(none.status, Status::Ok, "{}", none.text);
    let waiting = bench
        .post(&ines, &path, &json!({ "string": "C", "irradiance_w_m2": 760, "cell_c": 46.28 }))
        .await
        .json();
    let expected = waiting["figures"]
        .as_array()
        .expect("figures")
        .iter()
        .find(|f| f["id"] == "test.voc_expected_v")
        .expect("there");
    // BM-430: 39.4 x (1 - 0.0026 x 21.28) + 0.026 x 54 x 1.1 x 319.43/298.15 x ln 0.76 = 37.2201 -
    // 0.4541 = 36.7660; seven 257.36.
    assert!((expected["value"].as_f64().expect("a number") - 257.36).abs() < 0.02, "{expected}");
    let reversed = bench
        .post(
            &ines,
            &path,
            &json!({ "string": "C", "irradiance_w_m2": 760, "cell_c": 46.28, "voc_v": -257.0 }),
        )
        .await
        .json();
    assert_eq!(reversed["causes"][0]["code"], "reversed_pair");
    let readings = bench.get(&ines, &format!("/api/jobs/{id}")).await.json()["report"]["readings"]
        .as_array()
        .map(Vec::len);
    assert_eq!(readings, Some(2), "nothing was kept");
}

#[rocket::async_test]
async fn a_kept_reading_has_who_and_when_and_leaves_the_revision_alone() {
    let bench = Bench::new().await;
    let ines = bench.person("ines").await;
    let id = bench.job(&ines, "Kestrel Lane workshop").await;
    let reading = json!({ "string": "C", "irradiance_w_m2": 618, "back_c": 39.6, "voc_v": 258.1 });
    let before = chrono::Utc::now().timestamp();
    let view = bench.post(&ines, &format!("/api/jobs/{id}/readings"), &reading).await.json();
    assert_eq!(
        (view["revision"].as_i64(), view["saved_by"].as_str()),
        (Some(1), Some("Tomas Brandt"))
    );
    let kept = view["report"]["readings"][2]["reading"].clone();
    assert_eq!(kept["by"], "Ines Rowe");
    let at = chrono::DateTime::parse_from_rfc3339(kept["at"].as_str().expect("a time"))
        .expect("RFC 3339")
        .timestamp();
    assert!((before..=before + 60).contains(&at));
    let subject = json!({ "kind": "reading", "reading": kept["id"] });
    assert_eq!(found(&view, &subject, "checks", "test.voc_v")["verdict"], "pass");
    let line = bench.get(&ines, "/api/jobs").await.json()["jobs"][0].clone();
    assert_eq!(
        (line["counts"].clone(), line["updated_by"].as_str()),
        (view["report"]["counts"].clone(), Some("Ines Rowe"))
    );
}

#[rocket::async_test]
async fn a_reading_that_cannot_be_is_refused_at_the_field() {
    let bench = Bench::new().await;
    let ines = bench.person("ines").await;
    let id = bench.job(&ines, "Kestrel Lane workshop").await;
    for (reading, place) in [
        (json!({ "string": "Z", "voc_v": 3 }), "/string"),
        (json!({ "string": "A", "irradiance_w_m2": -5, "voc_v": 440 }), "/irradiance_w_m2"),
        (json!({ "string": "A", "voc_v": 99999 }), "/voc_v"),
        (json!({ "string": "A", "back_c": 500, "voc_v": 440 }), "/back_c"),
        (json!({ "string": "A", "irradiance_w_m2": 600 }), ""),
    ] {
        let answer = bench.post(&ines, &format!("/api/jobs/{id}/readings"), &reading).await;
        assert_eq!(
            (answer.status, answer.places()),
            (Status::UnprocessableEntity, vec![place.to_owned()]),
            "{reading}"
        );
    }
    for body in
        [json!({ "string": "A", "volts": 3 }), json!({ "string": "A", "voc_v": "440" }), json!([])]
    {
        let answer = bench.post(&ines, &format!("/api/jobs/{id}/readings"), &body).await;
        assert_eq!(answer.status, Status::UnprocessableEntity, "{body}");
    }
    let view = bench.get(&ines, &format!("/api/jobs/{id}")).await.json();
    assert_eq!(view["report"]["readings"].as_array().map(Vec::len), Some(2));
}

#[rocket::async_test]
async fn a_reading_that_is_sent_again_is_added_once_and_one_that_waited_keeps_its_time() {
    let bench = Bench::new().await;
    let ines = bench.person("ines").await;
    let id = bench.job(&ines, "Kestrel Lane workshop").await;
    let reading = |volts: f64| {
        let light = json!({ "string": "C", "irradiance_w_m2": 618, "back_c": 39.6 });
        let mut reading = light.as_object().expect("an object").clone();
        reading.insert("voc_v".to_owned(), volts.into());
        serde_json::Value::Object(reading)
    };
    let now = chrono::Utc::now();
    let ago = |minutes: i64| {
        (now - chrono::TimeDelta::minutes(minutes)).format("%Y-%m-%dT%H:%M:%SZ").to_string()
    };
    let path = format!("/api/jobs/{id}/readings");
    let with = |key: &str, at: String| format!("{path}?key={key}&at={at}");
    let key = "0f0e0d0c-0b0a-4000-8000-000000000001";
    let first = bench.post(&ines, &with(key, ago(2)), &reading(258.1)).await;
    assert_eq!(first.status, Status::Ok, "{}", first.text);
    let again = bench.post(&ines, &with(key, ago(2)), &reading(258.1)).await.json();
    assert_eq!(again["report"]["readings_n"], 3, "two of the demo's and this one");
    assert_eq!(again["report"]["readings"][2]["reading"]["at"], json!(ago(2)));
    // One that was taken before it and comes in after it does not take its place.
    let other = "0f0e0d0c-0b0a-4000-8000-000000000002";
    let late = bench.post(&ines, &with(other, ago(40)), &reading(185.0)).await.json();
    let of = |id: &str| {
        let all = late["report"]["readings"].as_array().expect("readings").clone();
        all.into_iter().find(|r| r["reading"]["id"] == id).expect("it is there")["superseded"]
            .clone()
    };
    assert_eq!((of(key), of(other)), (json!(false), json!(true)));
    // A key of another job, and times that cannot be.
    let elsewhere = bench.job(&ines, "Quarry Cottage").await;
    let taken = bench
        .post(
            &ines,
            &format!("/api/jobs/{elsewhere}/readings?key={key}"),
            &json!({ "string": "A", "voc_v": 500 }),
        )
        .await;
    assert_eq!((taken.status, taken.places()), (Status::UnprocessableEntity, vec!["/key".into()]));
    for (at, says) in [
        (ago(-60), "in the future"),
        (ago(60 * 24 * 31), "30 days"),
        ("noon".to_owned(), "no date"),
    ] {
        let wrong = bench
            .post(&ines, &with("0f0e0d0c-0b0a-4000-8000-000000000003", at), &reading(258.0))
            .await;
        assert_eq!(wrong.places(), vec!["/at".to_owned()], "{}", wrong.text);
        assert!(wrong.text.contains(says), "{}", wrong.text);
    }
}

#[rocket::async_test]
async fn a_reading_is_withdrawn_with_a_reason_and_stays_on_record() {
    let bench = Bench::new().await;
    let (ines, inspector) = (bench.person("ines").await, bench.person("inspector").await);
    let id = bench.job(&ines, "Kestrel Lane workshop").await;
    let view = bench.get(&ines, &format!("/api/jobs/{id}")).await.json();
    let first = &view["report"]["readings"][0]["reading"];
    let path = format!("/api/jobs/{id}/readings/{}/withdraw", first["id"].as_str().expect("an id"));
    let why = json!({ "reason": "the lead was not plugged in" });
    assert_eq!(bench.post(&inspector, &path, &why).await.status, Status::Forbidden);
    for none in ["  ".to_owned(), "x".repeat(201)] {
        let refused = bench.post(&ines, &path, &json!({ "reason": none })).await;
        assert_eq!(refused.places(), ["/reason"]);
    }
    let nothing = format!("/api/jobs/{id}/readings/none-such/withdraw");
    assert_eq!(bench.post(&ines, &nothing, &why).await.status, Status::NotFound);
    let done = bench.post(&ines, &path, &why).await;
    assert_eq!(done.status, Status::Ok, "{}", done.text);
    let done = done.json();
    let own = &done["report"]["readings"][0];
    assert_eq!(own["reading"]["withdrawn"]["reason"], why["reason"]);
    assert_eq!(own["reading"]["withdrawn"]["by"], "Ines Rowe");
    assert_eq!((&own["superseded"], &own["reading"]["values"]), (&json!(true), &first["values"]));
    // The string has no reading any more.
    let subject = json!({ "kind": "string", "string": first["values"]["string"] });
    assert_eq!(found(&done, &subject, "checks", "test.taken")["verdict"], "unknown");
    // Withdrawn twice is withdrawn once, for the first reason.
    let again = json!({ "reason": "another" });
    let again = bench.post(&ines, &path, &again).await.json();
    let kept = &again["report"]["readings"][0]["reading"]["withdrawn"]["reason"];
    assert_eq!(kept, &why["reason"]);
    // It goes out with the job and comes in with it.
    let file = bench.get(&ines, &format!("/api/jobs/{id}/export")).await;
    let tomas = bench.person("tomas").await;
    let made = bench.post(&tomas, "/api/jobs/import", &file.json()).await.json();
    let copy = format!("/api/jobs/{}", made["id"].as_str().expect("an id"));
    let copy = bench.get(&tomas, &copy).await.json();
    let kept = &copy["report"]["readings"][0]["reading"]["withdrawn"]["reason"];
    assert_eq!(kept, &why["reason"]);
    // The copy takes readings and saves like any other.
    let more = json!({ "string": "C", "irradiance_w_m2": 618, "back_c": 39.6, "voc_v": 258.1 });
    let own = copy["id"].as_str().expect("an id");
    let added = bench.post(&tomas, &format!("/api/jobs/{own}/readings"), &more).await;
    assert_eq!(added.status, Status::Ok, "{}", added.text);
    let saved = bench.save(&tomas, &copy, |b| b["job"]["notes"] = json!("read on"));
    assert_eq!(saved.await.status, Status::Ok);
    // And what came with the file can be withdrawn here too.
    let second = copy["report"]["readings"][1]["reading"]["id"].as_str().expect("an id");
    let path = format!("/api/jobs/{own}/readings/{second}/withdraw");
    let done = bench.post(&tomas, &path, &why).await;
    assert_eq!(done.json()["report"]["readings"][1]["reading"]["withdrawn"]["by"], "Tomas Brandt");
}

#[rocket::async_test]
async fn what_was_recorded_later_is_not_in_an_earlier_state() {
    let bench = Bench::new().await;
    let ines = bench.person("ines").await;
    let id = bench.job(&ines, "Kestrel Lane workshop").await;
    let view = bench.get(&ines, &format!("/api/jobs/{id}")).await.json();
    let first = view["report"]["readings"][0]["reading"]["id"].as_str().expect("an id").to_owned();
    let path = format!("/api/jobs/{id}/readings/{first}/withdraw");
    let why = json!({ "reason": "wrong string" });
    assert_eq!(bench.post(&ines, &path, &why).await.status, Status::Ok);
    let more = json!({ "string": "C", "irradiance_w_m2": 618, "back_c": 39.6, "voc_v": 258.1 });
    let added = bench.post(&ines, &format!("/api/jobs/{id}/readings"), &more).await;
    assert_eq!(added.status, Status::Ok);
    // Two readings came with the job; the third record withdrew one, the fourth is a reading.
    let job = id.parse().expect("an id");
    let mut db = bench.database.connect();
    for (records, readings_n, withdrawn_n) in [(2, 2, 0), (3, 2, 1), (4, 3, 1)] {
        let stored = get_as_of(&mut db, job, 1, records).expect("it reads");
        let withdrawn = stored.readings.iter().filter(|r| r.withdrawn.is_some()).count();
        assert_eq!((stored.readings.len(), withdrawn), (readings_n, withdrawn_n), "{records}");
    }
}
