//! A circuit is led from where it begins to where it ends, and on toward the grid; what is not is
//! open, and what contradicts itself is a stop.

use heliant_core::Report;
use heliant_core::figure::{Check, Verdict};
use heliant_core::job::{self, CircuitKind, Command, End, Job, JobFile, NodeKind, Plan, commanded};

use crate::{number, report, system};

fn kestrel() -> JobFile {
    job::read(include_str!("../../../../data/demo/kestrel-lane.json")).expect("a demo job").file
}

/// The report of the demo job with a change in its plan.
fn after(change: impl FnOnce(&mut Plan)) -> Report {
    let mut file = kestrel();
    change(&mut file.job.plan);
    assert_eq!(job::validate(&file), []);
    report(&file)
}

#[track_caller]
fn way(r: &Report, circuit: &str) -> Check {
    r.check("circuit.way", circuit).unwrap_or_else(|| panic!("no circuit.way of {circuit}")).clone()
}

#[track_caller]
fn says(check: &Check, words: &str) {
    assert!(check.reason.as_deref().is_some_and(|r| r.contains(words)), "{check:?}");
}

#[test]
fn ways_come_to_where_the_circuit_ends() {
    let short = after(|p| {
        p.nodes.insert("JB".into(), job::Node::new(NodeKind::JunctionBox));
        p.ways.get_mut("AC1").expect("AC1").to = "JB".into();
    });
    let check = way(&short, "AC1");
    assert_eq!(check.verdict, Verdict::Unknown);
    says(&check, "do not come to MP");
    // A way may be drawn from either end.
    let turned = after(|p| {
        let way = p.ways.get_mut("AC1").expect("AC1");
        std::mem::swap(&mut way.from, &mut way.to);
    });
    assert_eq!(way(&turned, "AC1").verdict, Verdict::Pass);
}

#[test]
fn ways_begin_where_the_circuit_begins() {
    let elsewhere = after(|p| {
        p.nodes.insert("SUB".into(), job::Node::new(NodeKind::Panel));
        p.nodes.insert("JB".into(), job::Node::new(NodeKind::JunctionBox));
        let mut feeder = p.circuits["AC1"].clone();
        (feeder.kind, feeder.from) = (CircuitKind::AcFeeder, End::node(&"JB".into()));
        p.circuits.insert("FEED".into(), feeder);
    });
    let check = way(&elsewhere, "FEED");
    assert_eq!(check.verdict, Verdict::Unknown);
    says(&check, "do not begin at JB");
}

#[test]
fn a_circuit_ends_where_something_leads_on() {
    let loose = after(|p| {
        p.nodes.insert("DISC".into(), job::Node::new(NodeKind::Isolator));
        p.ways.get_mut("AC1").expect("AC1").to = "DISC".into();
        p.circuits.get_mut("AC1").expect("AC1").to = Some(End::node(&"DISC".into()));
    });
    let check = way(&loose, "AC1");
    assert_eq!((check.verdict, check.missing[0]), (Verdict::Unknown, "plan.circuits"));
    says(&check, "on from DISC");
    // It may still end at the panel: no rule of the busbar holds or fails yet.
    let rule = loose.check("panel.far_end_120", "MP").expect("a rule");
    assert_eq!(rule.verdict, Verdict::Unknown);
}

#[test]
fn a_string_and_its_circuit_go_to_the_same_inverter() {
    let mut file = kestrel();
    let mut second = file.job.inverters[0].clone();
    second.id = "INV2".into();
    file.job.inverters.push(second);
    file.job.plan.circuits.get_mut("A").expect("A").to = Some(End::inverter(&"INV2".into()));
    let r = report(&file);
    let check = way(&r, "A");
    assert_eq!(check.verdict, Verdict::Fail);
    says(&check, "goes to INV2, its string to INV1");
    // The second inverter has no output circuit yet.
    assert_eq!(r.check("runs.planned", "INV2").expect("said").verdict, Verdict::Unknown);
}

#[test]
fn a_combined_circuit_joins_strings_of_one_input() {
    let mut file = system("combiner-two-inverters");
    file.job.strings[5].mppt = 2;
    let check = way(&report(&file), "OUT");
    assert_eq!(check.verdict, Verdict::Fail);
    says(&check, "string F on input 2");
    // Without its output the combiner is where the strings end.
    let mut file = system("combiner-two-inverters");
    file.job.plan.circuits.remove("OUT");
    let check = way(&report(&file), "A");
    assert_eq!(check.verdict, Verdict::Unknown);
    says(&check, "on from CB");
}

#[test]
fn what_has_no_circuit_is_named() {
    let r = after(|p| {
        p.circuits.remove("B");
    });
    let check = r.check("runs.planned", "B").expect("string B");
    assert_eq!((check.verdict, check.missing[0]), (Verdict::Unknown, "plan.circuits"));
    assert!(r.check("runs.planned", "A").is_none());
}

#[test]
fn a_way_taken_out_leaves_its_legs_open_with_their_wire() {
    let job = system("change-of-method").job;
    let gone = commanded(&job, &Command::RetireWay { way: "w2".into() }).expect("done").0;
    let legs = &gone.plan.circuits["A"].legs;
    assert_eq!(legs.len(), 3);
    assert_eq!((legs[1].via.len(), &legs[1].wire), (0, &job.plan.circuits["A"].legs[1].wire));
    let file = JobFile { job: gone, ..system("change-of-method") };
    assert_eq!(job::validate(&file), []);
    let r = report(&file);
    says(&way(&r, "A"), "no way yet");
    // Its length is not known, so neither is its drop.
    assert!(r.figure("circuit.vdrop_v", "A").is_some_and(|f| f.value.is_none()));
}

/// The total rise of branch A: trunk of 11 fed from its end, home run and feeder.
#[test]
fn the_rise_of_a_branch_goes_on_to_the_grid() {
    let file = system("branches-combiner-panel");
    let r = report(&file);
    let total = number(&r, "branch.rise_total_pct", "A");
    let trunk = number(&r, "branch.rise_trunk_pct", "A");
    let metres = |job: &Job, circuit: &str| -> f64 {
        let legs = &job.plan.circuits[circuit].legs;
        let ways = legs.iter().flat_map(|l| &l.via).map(|key| &job.plan.ways[key]);
        ways.flat_map(|w| &w.parts).filter_map(|p| p.length_m).sum()
    };
    // 10 AWG 1.24 ohm/kft, 6 AWG 0.491 ohm/kft at 75 °C; 28 units of 1.38 A on the feeder.
    let amps = number(&r, "branch.i_a", "A");
    let home = 2.0 * metres(&file.job, "A") * 1.24 / 304.8 * amps / 240.0 * 100.0;
    assert_eq!(file.job.plan.circuits["FEED"].legs[0].wire.awg.as_deref(), Some("6"));
    let feeder = 2.0 * metres(&file.job, "FEED") * 0.491 / 304.8 * 28.0 * 1.38 / 240.0 * 100.0;
    assert!((total - (trunk + home + feeder)).abs() < 1e-3, "{total} {trunk} {home} {feeder}");
    // A feeder nobody measured leaves the whole open.
    let mut open = file.clone();
    let feed = open.job.plan.circuits["FEED"].legs[0].via[0].clone();
    open.job.plan.ways.get_mut(&feed).expect("a way").parts[0].length_m = None;
    let check = report(&open).check("branch.rise_total_pct", "A").expect("a check").clone();
    assert_eq!((check.verdict, check.missing[0]), (Verdict::Unknown, "run.length_m"));
}

#[test]
fn a_tee_makes_no_nipple() {
    // Four wires of two strings in half a metre of conduit, from box to box: no factor.
    let piece = |kind: NodeKind| {
        let mut file = system("tilt-frames-tees");
        for node in file.job.plan.nodes.values_mut().filter(|n| n.kind == NodeKind::Tee) {
            node.kind = kind;
        }
        for way in file.job.plan.ways.values_mut() {
            way.parts.truncate(1);
            way.parts[0].length_m = Some(0.5);
        }
        number(&report(&file), "circuit.f_count", "A")
    };
    assert!((piece(NodeKind::JunctionBox) - 1.0).abs() < 1e-9);
    // Behind a tee it is a piece of something longer: four wires that carry current, 0.8.
    assert!((piece(NodeKind::Tee) - 0.8).abs() < 1e-9);
}
