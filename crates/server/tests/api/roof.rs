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
