//! What cannot be: each is named with its place and what would be right.

use heliant_core::job::{self, Problem};
use serde_json::{Value, json};

fn kestrel() -> Value {
    serde_json::from_str(include_str!("../../../../data/demo/kestrel-lane.json")).expect("JSON")
}

/// The problems of the demo job with a change in its plan.
fn problems(change: impl FnOnce(&mut Value)) -> Vec<Problem> {
    let mut file = kestrel();
    change(&mut file["job"]["plan"]);
    job::read_value(file).map_or_else(|p| p, |_| Vec::new())
}

#[track_caller]
fn refused(change: impl FnOnce(&mut Value), path: &str, says: &str) {
    let found = problems(change);
    let own = found.iter().find(|p| p.path == path && p.message.contains(says));
    let own = own.unwrap_or_else(|| panic!("wanted {path}: {says}; got {found:#?}"));
    assert!(!own.hint.is_empty());
}

#[test]
fn references_lead_somewhere() {
    refused(
        |p| p["circuits"]["A"]["legs"][0]["via"] = json!(["w9"]),
        "/job/plan/circuits/A/legs/0/via/0",
        "no way `w9`",
    );
    refused(|p| p["ways"]["DC1"]["to"] = json!("X"), "/job/plan/ways/DC1/to", "no node `X`");
    refused(
        |p| p["circuits"]["A"]["from"]["string"] = json!("Z"),
        "/job/plan/circuits/A/from",
        "no string `Z`",
    );
    refused(
        |p| p["nodes"]["INV1"]["inverter"] = json!("INV7"),
        "/job/plan/nodes/INV1/inverter",
        "no inverter `INV7`",
    );
}

#[test]
fn ways_of_a_leg_meet() {
    refused(
        |p| {
            p["nodes"]["far"] = json!({ "kind": "junction_box" });
            p["nodes"]["away"] = json!({ "kind": "junction_box" });
            p["ways"]["w2"] = json!({ "from": "far", "to": "away", "parts": [] });
            p["circuits"]["A"]["legs"][0]["via"] = json!(["DC1", "w2"]);
        },
        "/job/plan/circuits/A/legs/0/via/1",
        "does not meet DC1",
    );
}

#[test]
fn nothing_flows_in_a_ring() {
    let feeder = |from: &str, to: &str| {
        let (from, to) = (json!({ "node": from }), json!({ "node": to }));
        json!({ "kind": "ac_feeder", "from": from, "to": to })
    };
    refused(
        |p| {
            p["nodes"]["SUB"] = json!({ "kind": "panel" });
            p["circuits"]["F1"] = feeder("SUB", "MP");
            p["circuits"]["F2"] = feeder("MP", "SUB");
        },
        "/job/plan/circuits/F2/to",
        "a loop toward the grid",
    );
    refused(
        |p| p["circuits"]["F1"] = feeder("MP", "MP"),
        "/job/plan/circuits/F1/to",
        "a loop toward the grid: MP",
    );
}

#[test]
fn an_inverter_does_not_feed_itself() {
    refused(
        |p| p["circuits"]["AC1"]["to"] = json!({ "node": "INV1" }),
        "/job/plan/circuits/AC1/to",
        "a loop toward the grid: INV1",
    );
    refused(
        |p| {
            p["circuits"]["AC1"]["to"] = json!({ "node": "MP" });
            p["circuits"]["BACK"] = json!({ "kind": "ac_feeder", "from": { "node": "MP" },
                "to": { "node": "INV1" } });
        },
        "/job/plan/circuits/AC1/to",
        "INV1, MP over AC1, BACK",
    );
}

#[test]
fn devices_feed_one_another_and_are_there() {
    let devices = |p: &mut Value, devices: Value| p["nodes"]["MP"]["devices"] = devices;
    refused(
        |p| devices(p, json!({ "F1": { "what": "fuse", "feeds": "F1" } })),
        "/job/plan/nodes/MP/devices/F1/feeds",
        "it feeds itself: F1, F1",
    );
    refused(
        |p| {
            let ring = json!({ "BUS": { "what": "bus", "feeds": "PV" },
                "PV": { "what": "breaker", "feeds": "BUS" } });
            devices(p, ring);
        },
        "/job/plan/nodes/MP/devices/PV/feeds",
        "it feeds itself: PV, BUS, PV",
    );
    refused(
        |p| devices(p, json!({ "PV": { "what": "breaker", "feeds": "BUS" } })),
        "/job/plan/nodes/MP/devices/PV/feeds",
        "no device `BUS`",
    );
    refused(
        |p| devices(p, json!({ "a/b": { "what": "breaker" } })),
        "/job/plan/nodes/MP/devices",
        "`a/b` is no key",
    );
    refused(
        |p| p["circuits"]["AC1"]["to"]["device"] = json!("PV"),
        "/job/plan/circuits/AC1/to/device",
        "no device `PV`",
    );
    refused(
        |p| {
            devices(p, json!({ "PV": { "what": "breaker", "amps_a": 60 } }));
            p["circuits"]["AC1"]["to"]["device"] = json!("PV");
            p["circuits"]["AC1"]["ocpd_a"] = json!(45);
        },
        "/job/plan/circuits/AC1/to/device",
        "60 A, the circuit's is said to have 45 A",
    );
}

#[test]
fn a_string_is_on_one_circuit_and_an_end_is_one_thing() {
    refused(
        |p| p["circuits"]["A2"] = p["circuits"]["A"].clone(),
        "/job/plan/circuits/A2/from",
        "on circuit A already",
    );
    refused(
        |p| p["circuits"]["A"]["from"]["node"] = json!("MP"),
        "/job/plan/circuits/A/from",
        "names one thing, this one 2",
    );
    refused(|p| p["circuits"]["AC1"]["to"] = Value::Null, "/job/plan/circuits/AC1/to", "not said");
    refused(
        |p| p["circuits"]["AC1"]["kind"] = json!("pv_string"),
        "/job/plan/circuits/AC1/from",
        "does not begin there",
    );
}

#[test]
fn keys_can_be_written_and_stand_once() {
    refused(
        |p| p["nodes"]["a/b"] = json!({ "kind": "pull_box" }),
        "/job/plan/nodes",
        "`a/b` is no key",
    );
    let text =
        kestrel().to_string().replacen("\"INV1\":{", "\"MP\":{\"kind\":\"meter\"},\"INV1\":{", 1);
    let found = job::read(&text).expect_err("MP is there twice");
    assert_eq!(found[0].path, "/job/plan/nodes/MP");
    assert!(found[0].message.contains("twice"), "{found:?}");
}

#[test]
fn as_many_nodes_as_a_plan_holds_are_read_and_judged() {
    let mut file = kestrel();
    let plan = &mut file["job"]["plan"];
    let via: Vec<String> = (0..1_997).map(|i| format!("w{i}")).collect();
    for (i, way) in via.iter().enumerate() {
        plan["nodes"][format!("n{i}")] = json!({ "kind": "pull_box" });
        let to = if i == 1_996 { "INV1".to_owned() } else { format!("n{}", i + 1) };
        plan["ways"][way] = json!({ "from": format!("n{i}"), "to": to, "parts": [
            { "place": "attic", "length_m": 0.01, "raceway": { "kind": "emt", "size": "1" } } ] });
    }
    let opened = job::read_value(file).unwrap_or_else(|p| panic!("{:?}", &p[..1])).file;
    assert_eq!(opened.job.plan.nodes.len(), 2_000);
    let r = crate::report(&opened);
    assert_eq!(r.route.nodes.len(), 2_000);
}

/// A chain of so many feeders, each from its panel to the next, into the main panel.
fn chain(plan: &mut Value, n: usize) {
    for i in 0..n {
        plan["nodes"][format!("p{i}")] = json!({ "kind": "panel" });
        let to = if i + 1 == n { "MP".to_owned() } else { format!("p{}", i + 1) };
        let (from, to) = (json!({ "node": format!("p{i}") }), json!({ "node": to }));
        plan["circuits"][format!("f{i}")] = json!({ "kind": "ac_feeder", "from": from, "to": to });
    }
    plan["circuits"]["AC1"]["to"] = json!({ "node": "p0" });
    plan["circuits"]["AC1"]["legs"] = json!([]);
}

#[test]
fn a_chain_of_a_thousand_feeders_is_followed_to_its_end() {
    let mut file = kestrel();
    chain(&mut file["job"]["plan"], 1_000);
    // More than is taken in: what was kept before there was a limit still opens.
    let opened: job::JobFile = serde_json::from_value(file).expect("a job file");
    let r = crate::report(&opened);
    // The inverter's 33.3 A arrive at the last.
    assert!((crate::number(&r, "ac.i_out_a", "f999") - 33.3).abs() < 1e-9);
    // Closed to a ring it is one loop, and named.
    let ring = |p: &mut Value| {
        chain(p, 1_000);
        p["circuits"]["f999"]["to"] = json!({ "node": "p0" });
    };
    refused(ring, "/job/plan/circuits/f0/to", "a loop toward the grid: p0, p1, p10");
}

#[test]
fn more_than_a_plan_holds_is_said() {
    let at_most = |change: fn(&mut Value), path: &str, hint: &str| {
        let found = problems(change);
        let own = found.iter().find(|p| p.path == path && p.hint == hint);
        assert!(own.is_some(), "wanted {path}: {hint}; got {found:#?}");
    };
    at_most(|p| chain(p, 2_100), "/job/plan/circuits", "at most 2000");
    at_most(|p| chain(p, 2_100), "/job/plan/nodes", "at most 2000");
    at_most(|p| chain(p, 101), "/job/plan/nodes/INV1", "fewer than 100");
    assert!(problems(|p| chain(p, 98)).is_empty());
    let many = |p: &mut Value| {
        let part = p["ways"]["DC1"]["parts"][0].clone();
        for i in 0..201 {
            p["ways"][format!("x{i}")] = json!({ "from": "RB", "to": "INV1",
                "parts": vec![part.clone(); 50] });
        }
    };
    refused(many, "/job/plan/ways", "parts of ways are more");
    let devices = |p: &mut Value| {
        let all: serde_json::Map<_, _> =
            (0..400).map(|i| (format!("d{i}"), json!({ "what": "breaker" }))).collect();
        for i in 0..11 {
            p["nodes"][format!("x{i}")] = json!({ "kind": "panel", "devices": all });
        }
    };
    refused(devices, "/job/plan/nodes", "4403 devices in nodes are more");
}

#[test]
fn a_job_that_stands_alone_is_read_field_by_field() {
    let mut job = kestrel()["job"].clone();
    assert!(job::read_job(job.clone()).is_ok());
    job["strings"][0]["n"] = json!(0);
    job["plan"]["ways"]["DC1"]["parts"][0]["length_m"] = json!("far");
    let found = job::read_job(job).expect_err("two fields are wrong");
    let mut places: Vec<&str> = found.iter().map(|p| p.path.as_str()).collect();
    // In the order of the document, which a build may keep or sort.
    places.sort_unstable();
    assert_eq!(places, ["/job/plan/ways/DC1/parts/0/length_m", "/job/strings/0/n"]);
}

#[test]
fn bends_and_rises_that_cannot_be_are_named() {
    let at = "/job/plan/ways/DC1/parts/0";
    let bend = |deg: f64| json!([{ "deg": deg }]);
    for (deg, says) in [(720.0, "720"), (0.0, "0")] {
        refused(
            |p| p["ways"]["DC1"]["parts"][0]["bends"] = bend(deg),
            &format!("{at}/bends/0/deg"),
            says,
        );
    }
    refused(
        |p| p["ways"]["DC1"]["parts"][0]["bends"] = json!([{ "deg": 90, "at_m": 6.2 }]),
        &format!("{at}/bends/0/at_m"),
        "ends at 6.1 m",
    );
    refused(
        |p| p["ways"]["DC1"]["parts"][0]["rise_m"] = json!(-6.2),
        &format!("{at}/rise_m"),
        "does not rise by -6.2 m",
    );
    refused(
        |p| p["ways"]["DC1"]["parts"][0]["length_m"] = json!(-3),
        &format!("{at}/length_m"),
        "-3",
    );
    refused(
        |p| p["ways"]["DC1"]["parts"][0]["raceway"]["size"] = json!("7/8"),
        &format!("{at}/raceway/size"),
        "no size `7/8`",
    );
}
