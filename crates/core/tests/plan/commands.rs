//! Commands keep every reference whole, or change nothing.

use heliant_core::job::{self, Command, Job, JobFile, NodeKind, Problem, commanded, settle};

use crate::{number, report};

fn kestrel() -> JobFile {
    job::read(include_str!("../../../../data/demo/kestrel-lane.json")).expect("a demo job").file
}

#[track_caller]
fn done(job: &Job, command: &Command) -> Job {
    commanded(job, command).unwrap_or_else(|p| panic!("{p:#?}")).0
}

fn refused(job: &Job, command: &Command) -> Vec<Problem> {
    commanded(job, command).map(|(_, said)| said).expect_err("refused")
}

fn via(job: &Job, circuit: &str) -> Vec<String> {
    let legs = &job.plan.circuits[circuit].legs;
    legs.iter().flat_map(|l| l.via.iter().map(ToString::to_string)).collect()
}

fn split() -> Command {
    Command::SplitWay {
        way: "DC1".into(),
        after: 1,
        node: "soffit".into(),
        kind: NodeKind::JunctionBox,
        rest: "DC2".into(),
    }
}

#[test]
fn a_way_is_split_and_joined_again_and_no_figure_moves() {
    let file = kestrel();
    let parted = done(&file.job, &split());
    assert_eq!((parted.plan.ways["DC1"].parts.len(), parted.plan.ways["DC2"].parts.len()), (1, 2));
    assert_eq!(via(&parted, "A"), ["DC1", "DC2"]);
    let after = report(&JobFile { job: parted.clone(), ..file.clone() });
    let before = report(&file);
    for id in ["circuit.ampacity_derated_a", "circuit.vdrop_v", "circuit.length_m"] {
        assert!((number(&before, id, "A") - number(&after, id, "A")).abs() < 1e-9, "{id}");
    }
    let joined = done(&parted, &Command::JoinWays { node: "soffit".into() });
    assert_eq!(joined.plan, file.job.plan);
}

#[test]
fn a_split_or_join_that_cannot_be_changes_nothing_and_says_why() {
    let job = kestrel().job;
    let Command::SplitWay { way, node, kind, rest, .. } = split() else { unreachable!() };
    let at_the_end = Command::SplitWay { way, after: 3, node, kind, rest };
    assert!(refused(&job, &at_the_end)[0].hint.contains("1 to 2"));
    let ends = refused(&job, &Command::JoinWays { node: "INV1".into() });
    assert!(ends[0].message.contains("part"), "{ends:?}");
    assert!(refused(&job, &Command::RetireWay { way: "w9".into() })[0].message.contains("w9"));
}

#[test]
fn a_circuit_is_led_another_way_only_over_ways_that_meet() {
    let job = done(&kestrel().job, &split());
    let over = |via: &[&str]| Command::Reroute {
        circuit: "A".into(),
        leg: 0,
        via: via.iter().map(|w| (*w).into()).collect(),
    };
    let short = done(&job, &over(&["DC2"]));
    assert_eq!((via(&short, "A"), via(&short, "B").len()), (vec!["DC2".to_owned()], 2));
    assert!(refused(&job, &over(&["DC1", "w7"]))[0].message.contains("w7"));
}

#[test]
fn what_is_taken_out_takes_what_hangs_on_it() {
    let mut job = kestrel().job;
    let (gone, said) =
        commanded(&job, &Command::RetireWay { way: "DC1".into() }).expect("it can be done");
    assert!(via(&gone, "A").is_empty() && said.iter().any(|s| s.contains("circuit A has lost")));
    let gone = done(&job, &Command::RetireNode { node: "MP".into() });
    assert!(!gone.plan.circuits.contains_key("AC1") && !gone.plan.ways.contains_key("AC1"));
    // A string that goes takes its circuit along; its ways stay for the others.
    job.strings.remove(1);
    let mut said = Vec::new();
    settle(&mut job, &mut said);
    assert_eq!(said, ["circuit B taken out"]);
    assert!(job.plan.ways.contains_key("DC1"));
}

#[test]
fn an_empty_plan_grows_to_the_plain_way_with_its_lengths_open() {
    let mut file = kestrel();
    file.job.plan = job::Plan::default();
    settle(&mut file.job, &mut Vec::new());
    let plan = &file.job.plan;
    assert_eq!(
        plan.circuits.keys().map(|k| k.as_str()).collect::<Vec<_>>(),
        ["A", "AC1", "B", "C"]
    );
    assert_eq!(via(&file.job, "C"), ["DC1"]);
    assert_eq!(job::validate(&file), []);
    assert!(plan.ways.values().flat_map(|w| &w.parts).all(|p| p.length_m.is_none()));
    // A fourth string goes where the others of its inverter go.
    let mut string = file.job.strings[0].clone();
    string.letter = "D".into();
    file.job.strings.push(string);
    let grown = done(&file.job, &Command::Settle);
    assert_eq!(via(&grown, "D"), ["DC1"]);
}

/// A plan of two boxes and the way between, drawn from far to near.
fn two_boxes() -> Job {
    let mut job =
        done(&kestrel().job, &Command::AddNode { node: "far".into(), kind: NodeKind::JunctionBox });
    job = done(&job, &Command::AddNode { node: "near".into(), kind: NodeKind::PullBox });
    done(&job, &Command::AddWay { way: "w1".into(), from: "far".into(), to: "near".into() })
}

#[test]
fn what_is_added_is_there_once() {
    let job = two_boxes();
    assert_eq!(job.plan.ways["w1"].parts.len(), 1);
    for (command, key) in [
        (Command::AddNode { node: "far".into(), kind: NodeKind::Tee }, "far"),
        (Command::AddWay { way: "w1".into(), from: "far".into(), to: "near".into() }, "w1"),
    ] {
        let said = refused(&job, &command);
        assert!(said[0].message.contains(key) && said[0].message.contains("already"), "{said:?}");
    }
    let nowhere = Command::AddWay { way: "w2".into(), from: "far".into(), to: "there".into() };
    let said = refused(&job, &nowhere);
    assert_eq!(said[0].path, "/job/plan/ways/w2/to");
    for gone in [
        Command::RetireNode { node: "there".into() },
        Command::RetireCircuit { circuit: "there".into() },
        Command::RetireDevice { node: "far".into(), device: "there".into() },
        Command::AddDevice {
            node: "there".into(),
            device: "PV".into(),
            what: job::DeviceKind::Breaker,
        },
    ] {
        assert!(refused(&job, &gone)[0].message.contains("there"), "{gone:?}");
    }
    let feeder = |circuit: &str, to: &str| Command::AddCircuit {
        circuit: circuit.into(),
        kind: job::CircuitKind::AcFeeder,
        from: job::End::node(&"far".into()),
        to: Some(job::End::node(&to.into())),
    };
    let fed = done(&job, &feeder("FEED", "MP"));
    assert_eq!(fed.plan.circuits["FEED"].legs, []);
    assert!(refused(&fed, &feeder("FEED", "MP"))[0].message.contains("already"));
    assert_eq!(refused(&fed, &feeder("F2", "there"))[0].path, "/job/plan/circuits/F2/to");
    let gone = done(&job, &Command::RetireCircuit { circuit: "A".into() });
    assert!(!gone.plan.circuits.contains_key("A") && gone.plan.ways.contains_key("DC1"));
}

#[test]
fn ways_that_were_drawn_towards_each_other_are_joined() {
    let mut job = two_boxes();
    job = done(&job, &Command::AddNode { node: "end".into(), kind: NodeKind::JunctionBox });
    job = done(&job, &Command::AddWay { way: "w2".into(), from: "end".into(), to: "near".into() });
    for (way, lengths) in [("w1", [1.0, 2.0]), ("w2", [4.0, 3.0])] {
        let parts = lengths.map(|m| job::Part { length_m: Some(m), ..job::Part::default() });
        job.plan.ways.get_mut(way).expect("it is there").parts = parts.into();
    }
    let joined = done(&job, &Command::JoinWays { node: "near".into() });
    let way = &joined.plan.ways["w1"];
    assert_eq!((way.from.as_str(), way.to.as_str()), ("far", "end"));
    let lengths: Vec<f64> = way.parts.iter().filter_map(|p| p.length_m).collect();
    assert_eq!(lengths, [1.0, 2.0, 3.0, 4.0]);
}

#[test]
fn a_way_that_is_gone_backward_is_split_in_the_circuits_order() {
    let mut job = kestrel().job;
    let way = job.plan.ways.get_mut("AC1").expect("AC1");
    std::mem::swap(&mut way.from, &mut way.to);
    way.parts = vec![way.parts[0].clone(), way.parts[0].clone()];
    let parted = done(
        &job,
        &Command::SplitWay {
            way: "AC1".into(),
            after: 1,
            node: "DISC".into(),
            kind: NodeKind::Isolator,
            rest: "AC2".into(),
        },
    );
    // The circuit comes from the inverter, where the way ends.
    assert_eq!(via(&parted, "AC1"), ["AC2", "AC1"]);
}

#[test]
fn a_device_that_is_taken_out_leaves_its_place_to_the_next() {
    let mut job = kestrel().job;
    for (key, what) in [("BUS", job::DeviceKind::Bus), ("PV", job::DeviceKind::Breaker)] {
        let add = Command::AddDevice { node: "MP".into(), device: key.into(), what };
        job = done(&job, &add);
        assert!(refused(&job, &add)[0].message.contains("already"));
    }
    let devices = &mut job.plan.nodes.get_mut("MP").expect("MP").devices;
    let main = job::Device { feeds: None, ..devices["PV"].clone() };
    devices.insert("MAIN".into(), main);
    devices.get_mut("BUS").expect("BUS").feeds = Some("MAIN".into());
    devices.get_mut("PV").expect("PV").feeds = Some("BUS".into());
    let circuit = job.plan.circuits.get_mut("AC1").expect("AC1");
    circuit.to.as_mut().expect("it goes to MP").device = Some("PV".into());
    let without_bus =
        done(&job, &Command::RetireDevice { node: "MP".into(), device: "BUS".into() });
    let fed = without_bus.plan.nodes["MP"].devices["PV"].feeds.as_ref();
    assert_eq!(fed.map(|k| k.as_str()), Some("MAIN"));
    let (without_pv, said) =
        commanded(&job, &Command::RetireDevice { node: "MP".into(), device: "PV".into() })
            .expect("it can be done");
    assert_eq!(said, ["device PV taken out of MP", "circuit AC1 ends at MP"]);
    let end = without_pv.plan.circuits["AC1"].to.as_ref().expect("it goes to MP");
    assert_eq!((end.device.as_ref(), end.node.as_deref()), (None, Some("MP")));
}

#[test]
fn branches_and_inverters_get_circuits_of_their_own() {
    let text = include_str!("../../../../data/demo/pinyon-street.json");
    let mut job = job::read(text).expect("a demo job").file.job;
    job.plan = job::Plan::default();
    let mut said = Vec::new();
    settle(&mut job, &mut said);
    // Several branches come together first; one feeder leads to the main panel.
    assert!(said.contains(&"circuit FEEDER added".to_owned()), "{said:?}");
    let to = |key: &str| job.plan.circuits[key].to.as_ref().and_then(|e| e.node.clone());
    assert_eq!((to("A"), to("B")), (Some("COMBINED".into()), Some("COMBINED".into())));
    assert_eq!(to("FEEDER"), Some("MP".into()));
    let mut again = Vec::new();
    settle(&mut job, &mut again);
    assert_eq!(again, Vec::<String>::new(), "what is settled stays");
}
