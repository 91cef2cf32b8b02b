//! The one-line, labels and faults over the API, and what a save refuses of devices and panels.

use rocket::http::Status;
use serde_json::{Value, json};

use crate::bench::{Answer, Bench, Person, found};

async fn job(bench: &Bench, who: &Person, name: &str) -> Value {
    let id = bench.job(who, name).await;
    bench.get(who, &format!("/api/jobs/{id}")).await.json()
}

fn id(view: &Value) -> &str {
    view["id"].as_str().expect("an id")
}

async fn of(bench: &Bench, who: &Person, view: &Value, what: &str) -> Answer {
    bench.get(who, &format!("/api/jobs/{}/{what}", id(view))).await
}

#[rocket::async_test]
async fn the_diagram_is_drawn_as_the_job_stood_at_a_revision() {
    let bench = Bench::new().await;
    let tomas = bench.person("tomas").await;
    let view = job(&bench, &tomas, "Kestrel Lane workshop").await;
    let first = of(&bench, &tomas, &view, "revisions/1/one-line").await;
    assert_eq!(first.status, Status::Ok, "{}", first.text);
    // The paper of the school where none is asked for.
    assert_eq!(first.json()["sheets"][0]["size_mm"], json!([279.4, 215.9]));
    let a4 = of(&bench, &tomas, &view, "revisions/1/one-line?paper=a4").await.json();
    assert_eq!(a4["sheets"][0]["size_mm"], json!([297.0, 210.0]));
    assert!(first.text.contains("\"45 A\""));
    let saved = bench
        .save(&tomas, &view, |b| {
            let plan = &mut b["job"]["plan"];
            let breaker = &mut plan["nodes"]["MP"]["devices"]["P1"];
            (breaker["amps_a"], breaker["sheet"]) = (json!(50), json!(null));
            plan["circuits"]["AC1"]["ocpd_a"] = json!(50);
        })
        .await;
    assert_eq!(saved.status, Status::Ok, "{}", saved.text);
    let second = of(&bench, &tomas, &view, "revisions/2/one-line").await;
    assert!(second.text.contains("\"50 A\"") && second.text.contains("Revision 2"));
    // What was stays as it was.
    let again = of(&bench, &tomas, &view, "revisions/1/one-line").await;
    assert_eq!(again.text, first.text);
    let wrong = of(&bench, &tomas, &view, "revisions/1/one-line?paper=napkin").await;
    assert_eq!(
        (wrong.status, wrong.places()),
        (Status::UnprocessableEntity, vec!["/paper".into()])
    );
    let none = of(&bench, &tomas, &view, "revisions/9/one-line").await;
    assert_eq!(none.status, Status::NotFound);
}

#[rocket::async_test]
async fn the_diagram_goes_out_as_pdf_svg_and_dxf() {
    let bench = Bench::new().await;
    let tomas = bench.person("tomas").await;
    let view = job(&bench, &tomas, "Pinyon Street duplex").await;
    for (format, kind, begins) in [
        ("pdf", "application/pdf", "%PDF-"),
        ("svg", "image/svg+xml", "<svg"),
        ("dxf", "image/vnd.dxf", "0\nSECTION"),
    ] {
        let own = of(&bench, &tomas, &view, &format!("one-line/{format}")).await;
        assert_eq!(own.status, Status::Ok, "{format}: {}", own.text);
        assert_eq!(own.header("content-type"), Some(kind));
        let name = format!("attachment; filename=\"pinyon-street-duplex-one-line.{format}\"");
        assert_eq!(own.header("content-disposition"), Some(name.as_str()));
        assert!(own.text.starts_with(begins), "{format}");
    }
    for gone in ["one-line/png", "one-line/svg?sheet=7", "labels/svg?label=99", "labels/dxf"] {
        assert_eq!(of(&bench, &tomas, &view, gone).await.status, Status::NotFound, "{gone}");
    }
    // A job with nothing planned says what to do first.
    let empty = json!({ "name": "Empty", "school": "iec" });
    let made = bench.post(&tomas, "/api/jobs", &empty).await;
    assert!(made.status.code < 300, "{}", made.text);
    let made = made.json();
    for what in ["one-line/pdf", "labels/pdf"] {
        let own = of(&bench, &tomas, &made, what).await;
        assert_eq!(own.status, Status::UnprocessableEntity, "{what}: {}", own.text);
        assert!(own.text.contains("plan the circuits first"), "{}", own.text);
    }
    let sheets = of(&bench, &tomas, &made, "revisions/1/one-line").await.json();
    assert_eq!(sheets["sheets"], json!([]));
}

#[rocket::async_test]
async fn labels_and_faults_come_with_their_figures() {
    let bench = Bench::new().await;
    let inspector = bench.person("inspector").await;
    let view = job(&bench, &inspector, "Quarry Cottage").await;
    let labels = of(&bench, &inspector, &view, "revisions/1/labels").await.json();
    let labels = labels.as_array().expect("a list");
    let own = labels.iter().find(|l| l["place"] == json!("ENC, DC enclosure"));
    let own = own.expect("the isolator's");
    // 601.65 V rounded up.
    assert!(own["lines"][1].as_str().is_some_and(|l| l.starts_with("at most 602 V")), "{own}");
    let one = of(&bench, &inspector, &view, "labels/svg?label=1").await;
    assert!(one.text.contains("width=\"90mm\" height=\"40mm\""), "{}", one.text);
    let faults = of(&bench, &inspector, &view, "revisions/1/faults").await.json();
    let kinds: Vec<&str> =
        faults.as_array().expect("a list").iter().filter_map(|f| f["kind"].as_str()).collect();
    for kind in ["frame_to_pole", "string_short", "line_to_case", "lost_neutral", "surge"] {
        assert!(kinds.contains(&kind), "{kind} among {kinds:?}");
    }
}

#[rocket::async_test]
async fn a_save_keeps_devices_demands_and_practice_and_judges_them() {
    let bench = Bench::new().await;
    let tomas = bench.person("tomas").await;
    let view = job(&bench, &tomas, "Kestrel Lane workshop").await;
    let saved = bench
        .save(&tomas, &view, |b| {
            let job = &mut b["job"];
            job["protection"]["fault_ka"] = json!(12);
            job["demands"] = json!({ "net": { "party": "network", "what": "ac_disconnect",
                "breaker_will_do": false, "said_by": "the desk" } });
            job["plan"]["nodes"]["MP"]["panel"]["taken_n"] = json!(29);
        })
        .await;
    assert_eq!(saved.status, Status::Ok, "{}", saved.text);
    let answer = saved.json();
    let device = json!({ "kind": "device", "node": "MP", "device": "P1" });
    // 12 kA and 40 A against 10 kA.
    let own = found(&answer, &device, "checks", "device.breaking_a");
    assert_eq!((&own["verdict"], own["margin"].as_f64()), (&json!("fail"), Some(-2040.0)));
    let demand = json!({ "kind": "demand", "demand": "net" });
    let own = found(&answer, &demand, "checks", "demand.met");
    assert_eq!(own["cures"][0]["command"], json!({ "do": "set_disconnect", "way": "AC1" }));
    assert_eq!(answer["report"]["boards"][0]["free_n"], json!(-1.0));
    assert_eq!(answer["report"]["demands"][0]["title"], json!("A visible and lockable disconnect"));
    let again = job(&bench, &tomas, "Kestrel Lane workshop").await;
    assert_eq!(again["job"]["demands"]["net"]["said_by"], json!("the desk"));
    let panel = json!({ "kind": "panel", "panel": "MP" });
    assert_eq!(found(&answer, &panel, "checks", "panel.rule")["verdict"], json!("pass"));
}

#[rocket::async_test]
async fn what_cannot_be_is_refused_with_its_place_and_a_hint() {
    let bench = Bench::new().await;
    let tomas = bench.person("tomas").await;
    let view = job(&bench, &tomas, "Kestrel Lane workshop").await;
    let mp = "/job/plan/nodes/MP";
    type Change<'c> = &'c dyn Fn(&mut Value);
    let refused: [(&str, Change<'_>, String); 6] = [
        ("a bus of nothing", &|n| n["panel"]["bus_a"] = json!(0), format!("{mp}/panel/bus_a")),
        (
            "a transformer on no conductor",
            &|n| n["devices"]["CT"]["ct"]["around"] = json!("NOWHERE"),
            format!("{mp}/devices/CT/ct/around"),
        ),
        (
            "a data sheet of what has none",
            &|n| {
                n["devices"]["CT"]["sheet"] = json!({ "sheet": "alder-45", "revision": 1 });
            },
            format!("{mp}/devices/CT/sheet"),
        ),
        (
            "a breaker that feeds itself",
            &|n| n["devices"]["P1"]["feeds"] = json!("P1"),
            format!("{mp}/devices/P1/feeds"),
        ),
        (
            "more devices than a board holds",
            &|n| {
                for k in 0..501 {
                    n["devices"][format!("X{k}")] = json!({ "what": "fuse" });
                }
            },
            format!("{mp}/devices"),
        ),
        (
            "a rail above all rails",
            &|n| n["devices"]["P1"]["rail"] = json!(0),
            format!("{mp}/devices/P1/rail"),
        ),
    ];
    for (what, change, place) in refused {
        let answer =
            bench.save(&tomas, &view, |b| change(&mut b["job"]["plan"]["nodes"]["MP"])).await;
        assert_eq!(answer.status, Status::UnprocessableEntity, "{what}: {}", answer.text);
        assert!(answer.places().contains(&place), "{what}: {:?}", answer.places());
        let errors = answer.json()["errors"].clone();
        assert!(errors[0]["hint"].as_str().is_some_and(|h| !h.is_empty()), "{what}: {errors}");
    }
    // Nothing half-written stays.
    assert_eq!(job(&bench, &tomas, "Kestrel Lane workshop").await["revision"], json!(1));
    // A device whose data sheet the job does not hold.
    let answer = bench
        .save(&tomas, &view, |b| {
            let own = &mut b["job"]["plan"]["nodes"]["MP"]["devices"]["P1"];
            own["sheet"] = json!({ "sheet": "nowhere", "revision": 1 });
        })
        .await;
    assert_eq!(answer.status, Status::UnprocessableEntity);
    assert_eq!(answer.places(), [format!("{mp}/devices/P1/sheet")]);
}

#[rocket::async_test]
async fn device_sheets_are_kept_listed_and_exported_like_any_other() {
    let bench = Bench::new().await;
    let tomas = bench.person("tomas").await;
    let fuse = |amps: i32| {
        json!({ "kind": "fuse", "from_document": "own catalogue, 2026",
            "document": { "sheet": "own-g32", "revision": 1, "maker": "Own", "model": "G32",
                "demo": true, "amps_a": amps, "volts_v": 1000, "breaking_ka": 30,
                "hot_factor": 0.88, "ways_n": 1 } })
    };
    let wrong = bench.post(&tomas, "/api/sheets", &fuse(0)).await;
    assert_eq!(
        (wrong.status, wrong.places()),
        (Status::UnprocessableEntity, vec!["/document/amps_a".to_owned()],)
    );
    let added = bench.post(&tomas, "/api/sheets", &fuse(32)).await;
    assert_eq!(added.status, Status::Ok, "{}", added.text);
    let csv = bench.get(&tomas, "/api/sheets/fuse/export").await;
    assert_eq!(csv.status, Status::Ok, "{}", csv.text);
    let line = csv.text.lines().find(|l| l.contains("own-g32")).expect("a line");
    assert!(line.contains("G32") && line.contains("0.88"), "{line}");
    // A disconnect above its bus does not fit together.
    let combiner = json!({ "kind": "combiner", "from_document": "own", "document": {
        "sheet": "own-c", "revision": 1, "maker": "Own", "model": "C", "bus_a": 60,
        "disconnect_a": 100 } });
    let wrong = bench.post(&tomas, "/api/sheets", &combiner).await;
    assert_eq!(wrong.places(), ["/document/disconnect_a"], "{}", wrong.text);
    let all = bench.get(&tomas, "/api/library").await.json();
    for (list, sheet) in [
        ("fuses", "ambery-g25"),
        ("isolators", "tarn-d32"),
        ("surges", "sedge-1000"),
        ("breakers", "alder-45"),
        ("combiners", "fallow-c6"),
        ("enclosures", "fallow-e12"),
    ] {
        let own = all[list].as_array().expect("a list");
        assert!(own.iter().any(|s| s["sheet"] == json!(sheet)), "{sheet} in {list}");
        assert!(own.iter().all(|s| s["demo"] == json!(true)), "{list} is made up");
    }
    let fields = bench.get(&tomas, "/api/sheets/enclosure/fields").await;
    assert_eq!(fields.status, Status::Ok, "{}", fields.text);
    assert!(fields.text.contains("Ways of 17.5 mm on a rail"), "{}", fields.text);
}
