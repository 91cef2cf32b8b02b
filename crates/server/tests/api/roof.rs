//! Faces filled and routed over the API.

use rocket::http::Status;
use serde_json::{Value, json};

use crate::bench::{Answer, Bench, Person};

async fn kestrel(bench: &Bench, who: &Person) -> Value {
    let id = bench.job(who, "Kestrel Lane workshop").await;
    bench.get(who, &format!("/api/jobs/{id}")).await.json()
}

async fn ask(bench: &Bench, who: &Person, path: &str, view: &Value, ask: Value) -> Answer {
    let body = json!({ "job": view["job"], "library": view["library"], "ask": ask });
    bench.post(who, path, &body).await
}

#[rocket::async_test]
async fn a_face_is_laid_and_routed_and_kept_by_a_save() {
    let bench = Bench::new().await;
    let tomas = bench.person("tomas").await;
    let view = kestrel(&bench, &tomas).await;
    let laid =
        ask(&bench, &tomas, "/api/roof/fill", &view, json!({ "face": "sw", "most_n": 14 })).await;
    assert_eq!(laid.status, Status::Ok, "{}", laid.text);
    let laid = laid.json();
    assert_eq!(laid["modules_n"], json!(14));
    assert_eq!(laid["job"]["roof"]["sw"]["modules"].as_object().map(|m| m.len()), Some(14));

    let next = json!({ "job": laid["job"], "library": view["library"] });
    let routed = ask(&bench, &tomas, "/api/roof/route", &next, json!({ "face": "sw" })).await;
    assert_eq!(routed.status, Status::Ok, "{}", routed.text);
    let routed = routed.json();
    let wire = routed["after"]["wire_m"].as_f64().expect("metres");
    assert!(routed["bound_m"].as_f64().is_some_and(|bound| bound <= wire + 1e-9), "{routed}");
    // Strings of seven each, as they were planned.
    for string in [1, 2] {
        let modules = routed["job"]["strings"][string]["modules"].as_array().map(Vec::len);
        assert_eq!(modules, Some(7));
    }
    // Nothing is kept until it is saved; then its map comes back with the report.
    assert_eq!(kestrel(&bench, &tomas).await["revision"], view["revision"]);
    let saved = bench.save(&tomas, &view, |b| b["job"] = routed["job"].clone()).await;
    assert_eq!(saved.status, Status::Ok, "{}", saved.text);
    let faces = saved.json()["report"]["roof"].as_array().map(Vec::len);
    assert_eq!(faces, Some(2));
}

#[rocket::async_test]
async fn what_cannot_be_laid_or_routed_is_refused_with_its_place() {
    let bench = Bench::new().await;
    let tomas = bench.person("tomas").await;
    let mut view = kestrel(&bench, &tomas).await;
    let unknown = ask(&bench, &tomas, "/api/roof/route", &view, json!({ "fase": "sw" })).await;
    assert_eq!(unknown.status, Status::UnprocessableEntity);
    assert!(unknown.text.contains("fase"), "{}", unknown.text);
    let none = bench
        .post(&tomas, "/api/roof/fill", &json!({ "job": view["job"], "library": view["library"] }))
        .await;
    assert_eq!(
        (none.status, none.places()),
        (Status::UnprocessableEntity, vec!["/ask".to_owned()])
    );

    view["job"]["roof"]["sw"]["box_mm"] = Value::Null;
    let homeless = ask(&bench, &tomas, "/api/roof/route", &view, json!({ "face": "sw" })).await;
    assert_eq!(homeless.status, Status::UnprocessableEntity);
    assert_eq!(homeless.places(), ["/job/roof/sw/box_mm"]);
    view["job"]["roof"]["sw"]["gap_mm"] = json!(-20);
    let negative = ask(&bench, &tomas, "/api/roof/fill", &view, json!({ "face": "sw" })).await;
    assert_eq!(negative.places(), ["/job/roof/sw/gap_mm"]);
}

#[rocket::async_test]
async fn running_volts_are_judged_without_being_kept() {
    let bench = Bench::new().await;
    let ines = bench.person("ines").await;
    let id = bench.job(&ines, "Kestrel Lane workshop").await;
    let path = format!("/api/jobs/{id}/readings/running");
    let ask = async |values: Value, readings: Value| {
        bench.post(&ines, &path, &json!({ "values": values, "readings_v": readings })).await
    };
    let now = json!({ "string": "B", "irradiance_w_m2": 800, "cell_c": 40 });
    let judged = ask(now.clone(), json!([37.4, null, 75.0])).await;
    assert_eq!(judged.status, Status::Ok, "{}", judged.text);
    let judged = judged.json();
    assert_eq!(judged["expected_v"].as_array().map(Vec::len), Some(7));
    assert_eq!((&judged["first_bad_n"], &judged["verdict"]), (&json!(3), &json!("fail")));
    let strange = ask(json!({ "string": "Z" }), json!([])).await;
    assert_eq!(strange.places(), ["/string"]);
    let bright = json!({ "string": "B", "irradiance_w_m2": 9000 });
    assert_eq!(ask(bright, json!([])).await.places(), ["/irradiance_w_m2"]);
    let many = ask(now, json!(vec![37.0; 201])).await;
    assert_eq!(many.places(), ["/readings_v"]);
}

#[rocket::async_test]
async fn the_map_goes_out_as_svg_and_dxf() {
    let bench = Bench::new().await;
    let ines = bench.person("ines").await;
    let id = bench.job(&ines, "Kestrel Lane workshop").await;
    let svg = bench.get(&ines, &format!("/api/jobs/{id}/roof/svg")).await;
    assert_eq!(svg.status, Status::Ok);
    assert!(svg.text.starts_with("<svg") && svg.text.contains("id=\"modules\""));
    let dxf = bench.get(&ines, &format!("/api/jobs/{id}/roof/dxf")).await;
    assert!(dxf.text.contains("AC1009") && dxf.text.ends_with("0\nEOF\n"));
    let other = bench.get(&ines, &format!("/api/jobs/{id}/roof/bmp")).await;
    assert_eq!(other.status, Status::NotFound);
}

#[rocket::async_test]
async fn branches_are_routed_and_rows_shaded_over_the_api() {
    let bench = Bench::new().await;
    let tomas = bench.person("tomas").await;
    let id = bench.job(&tomas, "Pinyon Street duplex").await;
    let view = bench.get(&tomas, &format!("/api/jobs/{id}")).await.json();
    // C lies over both roofs and stays; A and B are alone on the east one.
    let routed = ask(&bench, &tomas, "/api/roof/route", &view, json!({ "face": "e" })).await;
    assert_eq!(routed.status, Status::Ok, "{}", routed.text);
    let routed = routed.json();
    let [before, after] = ["before", "after"].map(|k| routed[k]["wire_m"].as_f64());
    assert!(after.expect("metres") <= before.expect("metres") + 1e-9, "{routed}");
    assert_eq!(routed["job"]["branches"][2], view["job"]["branches"][2]);

    let id = bench.job(&tomas, "Saltmarsh Nursery").await;
    let view = bench.get(&tomas, &format!("/api/jobs/{id}")).await.json();
    let day = |month: u32, day: u32| json!({ "face": "f", "month": month, "day": day });
    let winter = ask(&bench, &tomas, "/api/roof/shade", &view, day(12, 21)).await.json();
    assert_eq!(winter, view["report"]["roof"][0]["rows"]["shortest"]);
    let summer = ask(&bench, &tomas, "/api/roof/shade", &view, day(6, 21)).await.json();
    assert!(summer["shaded_h"].as_f64() < winter["shaded_h"].as_f64(), "{summer}");
    let none = ask(&bench, &tomas, "/api/roof/shade", &view, day(2, 30)).await;
    assert_eq!(none.status, Status::UnprocessableEntity);
    assert!(none.text.contains("no day of the calendar"), "{}", none.text);
    let elsewhere = json!({ "face": "g", "month": 6, "day": 21 });
    let none = ask(&bench, &tomas, "/api/roof/shade", &view, elsewhere).await;
    assert!(none.text.contains("the shade of these rows is not known"), "{}", none.text);
}

#[rocket::async_test]
async fn a_serial_number_of_another_job_is_found() {
    let bench = Bench::new().await;
    let tomas = bench.person("tomas").await;
    let view = kestrel(&bench, &tomas).await;
    let with = |b: &mut Value, serial: &str| {
        b["job"]["roof"]["sw"]["modules"]["sw-001"]["serial"] = json!(serial);
    };
    let saved = bench.save(&tomas, &view, |b| with(b, "BM-1")).await;
    assert_eq!(saved.status, Status::Ok, "{}", saved.text);
    let other = bench.job(&tomas, "Tern Bay school hall").await;
    let found = |job: String, serials: Value| {
        let (bench, tomas) = (&bench, &tomas);
        async move {
            let path = format!("/api/jobs/{job}/serials");
            bench.post(tomas, &path, &json!({ "serials": serials })).await.json()
        }
    };
    let line = json!({ "serial": "BM-1", "job": view["id"], "name": "Kestrel Lane workshop" });
    assert_eq!(found(other.to_string(), json!(["BM-1", "BM-2"])).await, json!([line]));
    // Not within its own job, and not once it is another number there.
    let own = view["id"].as_str().expect("an id").to_owned();
    assert_eq!(found(own, json!(["BM-1"])).await, json!([]));
    let now = kestrel(&bench, &tomas).await;
    bench.save(&tomas, &now, |b| with(b, "BM-3")).await;
    assert_eq!(found(other.to_string(), json!(["BM-1"])).await, json!([]));
}

#[rocket::async_test]
async fn faces_go_out_as_geojson_once_the_site_has_a_place() {
    let bench = Bench::new().await;
    let tomas = bench.person("tomas").await;
    let view = kestrel(&bench, &tomas).await;
    let path = format!("/api/jobs/{}/roof/geojson", view["id"].as_str().expect("an id"));
    let none = bench.get(&tomas, &path).await;
    assert_eq!(none.status, Status::UnprocessableEntity);
    assert!(none.text.contains("latitude and longitude"), "{}", none.text);
    let placed = bench
        .save(&tomas, &view, |b| {
            b["job"]["site"]["latitude_deg"] = json!(42.0);
            b["job"]["site"]["longitude_deg"] = json!(-70.0);
        })
        .await;
    assert_eq!(placed.status, Status::Ok, "{}", placed.text);
    let map = bench.get(&tomas, &path).await.json();
    assert_eq!(map["features"].as_array().map(Vec::len), Some(28));
}
