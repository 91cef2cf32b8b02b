//! What it takes to lay the ways of a job: bends, pull, supports, earth over them, room in boxes.

use heliant_core::figure::{Check, Subject, Verdict};
use heliant_core::job::{self, Job, JobFile};
use heliant_core::{Report, evaluate};
use serde_json::{Value, json};

const KESTREL: &str = include_str!("../../../../data/demo/kestrel-lane.json");
const QUARRY: &str = include_str!("../../../../data/demo/quarry-cottage.json");
const SALTMARSH: &str = include_str!("../../../../data/demo/saltmarsh-nursery.json");

/// The report of a demo job with values put at places of the job.
fn with(text: &str, edits: &[(&str, Value)]) -> Report {
    let JobFile { job, library, .. } = job::read(text).expect("a demo job").file;
    let mut tree = serde_json::to_value(&job).expect("JSON");
    for (pointer, value) in edits {
        let (parent, key) = pointer.rsplit_once('/').expect("a pointer");
        let parent = tree.pointer_mut(parent).unwrap_or_else(|| panic!("no {pointer}"));
        match parent.as_array_mut() {
            Some(list) => list[key.parse::<usize>().expect("a place")] = value.clone(),
            None => parent[key] = value.clone(),
        }
    }
    let job: Job = serde_json::from_value(tree).expect("a job");
    evaluate(&job, &library, &[])
}

fn check<'r>(report: &'r Report, id: &str, subject: &Subject) -> &'r Check {
    let own = report.checks.iter().find(|c| c.id == id && c.subject == *subject);
    own.unwrap_or_else(|| panic!("no {id} of {subject}"))
}

fn way(way: &str, part: usize) -> Subject {
    Subject::Way { way: way.into(), part }
}

fn node(key: &str) -> Subject {
    Subject::Node { node: key.into() }
}

fn number(report: &Report, id: &str, subject: &Subject) -> f64 {
    let own = report.figures.iter().find(|f| f.id == id && f.subject == *subject);
    let value = own.unwrap_or_else(|| panic!("no {id} of {subject}")).value.as_ref();
    value.and_then(|v| v.number()).expect("a number")
}

#[test]
fn bends_nobody_entered_are_open_and_none_is_an_answer() {
    let at = "/plan/ways/AC1/parts/0/bends";
    let open = with(KESTREL, &[(at, Value::Null)]);
    let own = check(&open, "raceway.bend_deg", &way("AC1", 1));
    assert_eq!((own.verdict, own.missing.as_slice()), (Verdict::Unknown, &["way.parts.bends"][..]));
    assert!(open.checks.iter().all(|c| c.id != "raceway.pull" || c.subject != way("AC1", 1)));
    let straight = with(KESTREL, &[(at, json!([]))]);
    assert_eq!(check(&straight, "raceway.bend_deg", &way("AC1", 1)).verdict, Verdict::Pass);
    assert_eq!(number(&straight, "raceway.sidewall_n_per_m", &way("AC1", 1)), 0.0);
}

#[test]
fn bends_of_all_parts_up_to_the_next_box_count_together() {
    let report = with(KESTREL, &[]);
    // One in the attic, one in the cavity, one in the garage, no box between.
    assert_eq!(number(&report, "raceway.bend_deg", &way("DC1", 1)), 270.0);
    let more = json!([{ "deg": 90 }, { "deg": 90 }]);
    let report = with(KESTREL, &[("/plan/ways/DC1/parts/2/bends", more)]);
    let own = check(&report, "raceway.bend_deg", &way("DC1", 1));
    assert_eq!(own.verdict, Verdict::Pass, "360 is on the limit");
    let many = json!([{ "deg": 90 }, { "deg": 91 }]);
    let report = with(KESTREL, &[("/plan/ways/DC1/parts/2/bends", many)]);
    assert_eq!(check(&report, "raceway.bend_deg", &way("DC1", 1)).verdict, Verdict::Fail);
}

#[test]
fn one_end_is_enough_to_pull_from() {
    // Level, 30 m and two bends near the end: hard forwards, easy backwards.
    let bends = json!([{ "deg": 90, "radius_mm": 100, "at_m": 29.5 },
        { "deg": 90, "radius_mm": 100, "at_m": 29.9 }]);
    let report = with(
        KESTREL,
        &[
            ("/plan/ways/AC1/parts/0/length_m", json!(30)),
            ("/plan/ways/AC1/parts/0/rise_m", json!(0)),
            ("/plan/ways/AC1/parts/0/bends", bends),
        ],
    );
    let at = way("AC1", 1);
    // 3.4114 N/m: 29.5 m come to 50.3 N, two bends make 242 N of it and 2,435 N/m on the wall.
    let w = number(&report, "raceway.pull_w_n_per_m", &at);
    let bend = (0.5 * std::f64::consts::FRAC_PI_2).exp();
    let wanted = ((w * 29.5 * 0.5 * bend + w * 0.4 * 0.5) * bend) + w * 0.1 * 0.5;
    assert!((number(&report, "raceway.pull_tension_n", &at) - wanted).abs() < 1e-6);
    let report_dir = report
        .figures
        .iter()
        .find(|f| f.id == "raceway.pull_direction" && f.subject == at)
        .and_then(|f| f.value.clone());
    assert_eq!(format!("{report_dir:?}"), "Some(Text(\"reverse\"))");
    assert_eq!(check(&report, "raceway.pull", &at).verdict, Verdict::Pass);
}

#[test]
fn a_rise_nobody_entered_is_open_where_it_decides() {
    let steep = |rise: Value| {
        with(
            KESTREL,
            &[
                ("/plan/ways/AC1/parts/0/length_m", json!(320)),
                ("/plan/ways/AC1/parts/0/bends", json!([])),
                ("/plan/ways/AC1/parts/0/rise_m", rise),
            ],
        )
    };
    // Level 3.4114 x 320 x 0.5 = 546 N of 1,178 N; straight up or down it is 1,092 N or nothing.
    let open = steep(Value::Null);
    assert_eq!(check(&open, "raceway.pull", &way("AC1", 1)).verdict, Verdict::Pass);
    let report = with(
        KESTREL,
        &[
            ("/plan/ways/AC1/parts/0/length_m", json!(800)),
            ("/plan/ways/AC1/parts/0/bends", json!([])),
            ("/plan/ways/AC1/parts/0/rise_m", Value::Null),
        ],
    );
    // 800 m level are 1,365 N; straight down they fall by themselves.
    let own = check(&report, "raceway.pull", &way("AC1", 1));
    assert_eq!(
        (own.verdict, own.missing.as_slice()),
        (Verdict::Unknown, &["way.parts.rise_m"][..])
    );
}

#[test]
fn a_roof_box_holds_wires_leads_and_earth() {
    let volume = |in3: f64, clamps: Value| {
        let size = json!({ "volume_in3": in3, "clamps": clamps });
        let report = with(KESTREL, &[("/plan/nodes/RB/box", size)]);
        let own = check(&report, "box.fill_in3", &node("RB"));
        (own.verdict, own.missing.clone())
    };
    // Three strings: two wires down and two leads each, 8 AWG: 12 x 3.0; the earth wire is 10 AWG:
    // 2.5. With clamps another 3.0.
    let none = Vec::<&str>::new();
    assert_eq!(volume(38.5, json!(false)), (Verdict::Pass, none.clone()));
    assert_eq!(volume(38.4, json!(false)), (Verdict::Fail, none.clone()));
    assert_eq!(volume(38.5, json!(true)), (Verdict::Fail, none.clone()));
    assert_eq!(volume(40.0, Value::Null), (Verdict::Unknown, vec!["node.clamps"]));
    assert_eq!(volume(41.5, Value::Null), (Verdict::Pass, none));
    let open = with(KESTREL, &[("/plan/nodes/RB/box", Value::Null)]);
    assert_eq!(check(&open, "box.fill_in3", &node("RB")).missing, ["node.volume_in3"]);
}

#[test]
fn thick_wire_asks_for_a_long_box() {
    let mut edits: Vec<(String, Value)> = ["A", "B", "C"]
        .map(|c| (format!("/plan/circuits/{c}/legs/0/wire/awg"), json!("4")))
        .to_vec();
    let size = json!({ "length_mm": 152.4, "straight": true });
    edits.push(("/plan/nodes/RB/box".to_owned(), size));
    let edits: Vec<(&str, Value)> = edits.iter().map(|(p, v)| (p.as_str(), v.clone())).collect();
    let report = with(KESTREL, &edits);
    // 8 x 3/4 in = 6 in = 152.4 mm.
    assert_eq!(number(&report, "box.length_min_in", &node("RB")), 6.0);
    assert_eq!(check(&report, "box.length_in", &node("RB")).verdict, Verdict::Pass);
    assert!(report.checks.iter().all(|c| c.id != "box.fill_in3"), "4 AWG has no room of its own");
}

#[test]
fn a_box_under_modules_is_held_against_the_room_there() {
    let free = |mm: Value| with(QUARRY, &[("/site/module_clearance_mm", mm)]);
    // 62 mm on 12 mm.
    assert_eq!(check(&free(json!(74)), "box.depth_mm", &node("RB")).verdict, Verdict::Pass);
    let low = free(json!(70));
    assert_eq!(check(&low, "box.depth_mm", &node("RB")).verdict, Verdict::Fail);
    assert_eq!(number(&low, "box.conflict_mm", &node("RB")), 4.0);
    let open = free(Value::Null);
    let own = check(&open, "box.depth_mm", &node("RB"));
    assert_eq!(own.missing, ["site.module_clearance_mm"]);
}

#[test]
fn what_is_buried_has_earth_over_it() {
    let deep = |mm: Value| with(SALTMARSH, &[("/plan/ways/FEED/parts/0/cover_mm", mm)]);
    let verdict = |r: &Report| check(r, "way.cover_mm", &way("FEED", 1)).verdict;
    // PVC: 450 mm.
    assert_eq!(verdict(&deep(json!(450))), Verdict::Pass);
    assert_eq!(verdict(&deep(json!(449))), Verdict::Fail);
    assert_eq!(verdict(&deep(Value::Null)), Verdict::Unknown);
    // 85 m in one pull are longer than one pulls with ease.
    let report = with(SALTMARSH, &[]);
    let own = check(&report, "raceway.pull_length_m", &way("FIELD-1", 1));
    assert_eq!(own.verdict, Verdict::Warn);
}

#[test]
fn measured_diameters_win_over_the_tables() {
    let usual = with(KESTREL, &[]);
    let edits: Vec<(String, Value)> = ["A", "B", "C"]
        .map(|c| (format!("/plan/circuits/{c}/legs/0/wire/od_mm"), json!(5.0)))
        .to_vec();
    let edits: Vec<(&str, Value)> = edits.iter().map(|(p, v)| (p.as_str(), v.clone())).collect();
    let measured = with(KESTREL, &edits);
    let fill = |r: &Report| number(r, "raceway.fill_pct", &way("DC1", 1));
    // Six of 5.0 mm: 6 x 0.030434 in² and the earth wire's 0.0211 in 0.533 in².
    let one = std::f64::consts::PI / 4.0 * (5.0_f64 / 25.4).powi(2);
    assert!((fill(&measured) - (6.0 * one + 0.0211) / 0.533 * 100.0).abs() < 1e-6);
    assert!(fill(&measured) < fill(&usual));
}

#[test]
fn three_wires_alike_can_wedge_in_a_bend() {
    // Two lines and a neutral of 8 AWG in 1/2 EMT: 1.05 x 0.622 / 0.216 = 3.02. In EMT 1 it is 5.1.
    let at = "/plan/ways/AC1/parts/0/raceway";
    let wedged = with(KESTREL, &[(at, json!({ "kind": "emt", "size": "1/2" }))]);
    assert_eq!(check(&wedged, "raceway.jam_ratio", &way("AC1", 1)).verdict, Verdict::Warn);
    let wide = with(KESTREL, &[]);
    assert_eq!(check(&wide, "raceway.jam_ratio", &way("AC1", 1)).verdict, Verdict::Pass);
    assert!(wide.checks.iter().all(|c| c.id != "raceway.jam_ratio" || c.subject != way("DC1", 1)));
}

#[test]
fn a_given_earth_wire_is_held_against_the_one_that_is_needed() {
    // 45 A asks for 10 AWG (250.122).
    let given = |earth: &str| with(KESTREL, &[("/plan/ways/AC1/earth", json!(earth))]);
    let thin = given("12");
    let own = check(&thin, "way.earth", &way("AC1", 1));
    assert_eq!(own.verdict, Verdict::Fail);
    assert_eq!(own.cures[0].edits[0].value, json!("10"));
    assert_eq!(check(&given("10"), "way.earth", &way("AC1", 1)).verdict, Verdict::Pass);
    assert_eq!(check(&given("8"), "way.earth", &way("AC1", 1)).verdict, Verdict::Pass);
    assert!(with(KESTREL, &[]).checks.iter().all(|c| c.id != "way.earth"), "computed is enough");
    // mm²: 6 mm² lines ask for as much.
    let iec = |earth: &str| with(QUARRY, &[("/plan/ways/AC1/earth", json!(earth))]);
    // Thinner than the table it is right where it bears the fault, which the loop says.
    assert!(iec("2.5").checks.iter().all(|c| c.id != "way.earth"));
    let circuit = Subject::Circuit { circuit: "AC1".into(), leg: None };
    let own = iec("2.5");
    assert_eq!(check(&own, "circuit.adiabatic_mm2", &circuit).verdict, Verdict::Pass);
    assert_eq!(check(&iec("16"), "way.earth", &way("AC1", 1)).verdict, Verdict::Pass);
}

#[test]
fn a_cable_whose_ground_is_too_small_for_the_rail_bond_has_two_priced_ways_out() {
    let bond = json!({ "kind": "bond", "from": { "node": "ARR" }, "to": { "node": "RB" },
        "legs": [{ "wire": { "awg": "6" }, "via": ["BW"] }] });
    let clad = json!([{ "place": "attic", "method": "cable", "length_m": 10.0 }]);
    let edits = [
        ("/plan/nodes/ARR", json!({ "kind": "array", "face": "se" })),
        (
            "/plan/ways/BW",
            json!({ "from": "ARR", "to": "RB", "parts": [{ "place": "under_modules",
                "method": "free_air", "length_m": 2.0 }] }),
        ),
        ("/plan/circuits/BOND", bond),
        ("/plan/ways/DC1/parts", clad),
    ];
    let report = with(KESTREL, &edits);
    let own = check(&report, "way.earth", &way("DC1", 1));
    assert_eq!(own.verdict, Verdict::Fail, "8 AWG cable has a ground of 10, the bond is 6");
    let [larger, beside] = own.cures.as_slice() else { panic!("{:?}", own.cures) };
    // The first cable with a ground of 6 AWG has conductors of 3 AWG.
    let sizes: Vec<&Value> = larger.edits.iter().map(|e| &e.value).collect();
    assert_eq!(sizes, [&json!("3"), &json!("6")], "A's cable alone");
    // Two wires from 16,510 to 52,620 cmil, the ground from 10,380 to 26,240, 10 m at 0.26 a mm².
    let metal: f64 = (2.0 * (52_620.0 - 16_510.0) + 26_240.0 - 10_380.0) * 5.067_075e-4;
    assert!((larger.cost.expect("a cost") - metal * 0.26 * 10.0).abs() < 1e-6);
    // 6 AWG, 26,240 cmil: 10 m x (0.35 + 0.26 x 13.296 mm² + 2 min at 65 an hour).
    let cost: f64 = 10.0 * (0.35 + 0.26 * 26_240.0 * 5.067_075e-4 + 2.0 / 60.0 * 65.0);
    assert!((beside.cost.expect("a cost") - cost).abs() < 1e-6);
    let mut mended = edits.to_vec();
    mended.push(("/plan/ways/DC1/earth", json!("6")));
    assert_eq!(check(&with(KESTREL, &mended), "way.earth", &way("DC1", 1)).verdict, Verdict::Pass);
}

#[test]
fn room_to_work_and_the_wall_are_asked_for() {
    let bare = with(KESTREL, &[("/plan/nodes/MP/stand", Value::Null)]);
    let own = check(&bare, "node.work_space", &node("MP"));
    assert_eq!((own.verdict, own.missing.len()), (Verdict::Unknown, 3));
    // 3 ft are 914 mm.
    let deep = |mm: f64| with(KESTREL, &[("/plan/nodes/MP/stand/free_depth_mm", json!(mm))]);
    assert_eq!(check(&deep(914.0), "node.work_space", &node("MP")).verdict, Verdict::Pass);
    let short = deep(900.0);
    let own = check(&short, "node.work_space", &node("MP"));
    assert_eq!(own.verdict, Verdict::Fail);
    assert!(own.reason.as_ref().is_some_and(|r| r.contains("900 mm deep")), "{:?}", own.reason);
    let at = "/plan/nodes/INV1/stand";
    let wall = |stand: Value| {
        let report = with(KESTREL, &[(at, stand)]);
        check(&report, "node.wall", &node("INV1")).verdict
    };
    assert_eq!(wall(Value::Null), Verdict::Unknown);
    assert_eq!(wall(json!({ "wall_burns": false })), Verdict::Pass);
    assert_eq!(wall(json!({ "wall_burns": true })), Verdict::Unknown);
    assert_eq!(wall(json!({ "wall_burns": true, "backing_board": false })), Verdict::Fail);
    assert_eq!(wall(json!({ "backing_board": true })), Verdict::Pass);
}

#[test]
fn an_isolator_stands_in_sight_and_within_ten_feet() {
    // The DC way ends at an isolator, 2 m of it to the inverter.
    let near = |stand: Value, length: f64| {
        let report = with(
            KESTREL,
            &[
                ("/plan/nodes/ISO", json!({ "kind": "isolator", "stand": stand })),
                ("/plan/ways/DC1/to", json!("ISO")),
                (
                    "/plan/ways/ISO1",
                    json!({ "from": "ISO", "to": "INV1", "parts": [{ "place": "garage",
                        "length_m": length }] }),
                ),
                ("/plan/circuits/A/legs/0/via", json!(["DC1", "ISO1"])),
            ],
        );
        check(&report, "node.isolator_near", &node("ISO")).clone()
    };
    assert_eq!(near(json!({ "in_sight": true }), 2.0).verdict, Verdict::Pass);
    assert_eq!(near(json!({}), 2.0).missing, ["node.in_sight"]);
    assert_eq!(near(json!({ "in_sight": true }), 5.0).missing, ["node.to_inverter_m"]);
    assert_eq!(near(json!({ "in_sight": true, "to_inverter_m": 3.0 }), 5.0).verdict, Verdict::Pass);
    assert_eq!(near(json!({ "in_sight": true, "to_inverter_m": 3.2 }), 5.0).verdict, Verdict::Fail);
    assert_eq!(near(json!({ "in_sight": false }), 2.0).verdict, Verdict::Fail);
}
