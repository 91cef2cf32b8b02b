//! Systems as they are built: each is said whole by the graph, evaluates without a stop once it is
//! planned well, and a fault put into it is found.

use heliant_core::figure::Verdict;
use heliant_core::job::{CircuitKind, Insulation, Job, Method};

use crate::{number, report, system};

/// Checks that stop, as `id of subject`.
fn stops(name: &str, fault: impl FnOnce(&mut Job)) -> Vec<String> {
    let mut file = system(name);
    fault(&mut file.job);
    let checks = report(&file).checks;
    let stop = checks.iter().filter(|c| c.verdict == Verdict::Fail && !c.alternative);
    stop.map(|c| format!("{} of {}", c.id, c.subject)).collect()
}

#[track_caller]
fn found(name: &str, fault: impl FnOnce(&mut Job), stop: &str) {
    assert_eq!(stops(name, |_| {}), Vec::<String>::new(), "planned well");
    let checks = report(&system(name)).checks;
    let open = checks.iter().filter(|c| ["circuit.way", "runs.planned"].contains(&c.id));
    assert!(open.clone().all(|c| c.verdict == Verdict::Pass), "{:?}", open.collect::<Vec<_>>());
    let found = stops(name, fault);
    assert!(found.iter().any(|s| s == stop), "wanted {stop}, got {found:?}");
}

#[test]
fn two_arrays_come_together_and_two_panels_are_fed() {
    let name = "two-arrays-out-building";
    let r = report(&system(name));
    // Four DC wires of 10 AWG, 8 AWG for bonding, 10 AWG earth: 5 x 0.0211 + 0.0366 = 0.1421 in².
    assert!((number(&r, "raceway.wires_in2", "w3/1") - 0.1421).abs() < 1e-9);
    // One pair and the bonding wire in w1, a pair alone in w2.
    assert!((number(&r, "raceway.wires_in2", "w1/1") - (3.0 * 0.0211 + 0.0366)).abs() < 1e-9);
    assert!((number(&r, "raceway.wires_in2", "w2/1") - 3.0 * 0.0211).abs() < 1e-9);
    // The busbar rule holds at both panels: 1.25 x 33.3 + 60 and + 150.
    assert!((number(&r, "panel.far_end_120_a", "SUB") - 101.625).abs() < 1e-9);
    assert!((number(&r, "panel.far_end_120_a", "MP") - 191.625).abs() < 1e-9);
    assert!((number(&r, "circuit.i_max_a", "FEED") - 33.3).abs() < 1e-9);
    // 60 A on a 60 A bus leaves no rule: 101.6 of 72.
    let small = |j: &mut Job| {
        let panel = j.plan.nodes.get_mut("SUB").and_then(|n| n.panel.as_mut()).expect("SUB");
        panel.bus_a = Some(60.0);
    };
    found(name, small, "panel.rule of SUB");
}

#[test]
fn six_strings_become_one_circuit_and_two_inverters_share_a_feeder() {
    let name = "combiner-two-inverters";
    let r = report(&system(name));
    // 1.25 x 6 x 13.85.
    assert!((number(&r, "circuit.i_max_a", "OUT") - 103.875).abs() < 1e-9);
    // One pair comes from the combiner, not six.
    assert!((number(&r, "mppt.connectors_n", "INV1/1") - 1.0).abs() < 1e-9);
    // Both inverters.
    assert!((number(&r, "circuit.i_max_a", "FEED") - 66.6).abs() < 1e-9);
    // Seven fuses of one way, the spare one in; surge device 3, disconnect 4: 14 of 18.
    assert!((number(&r, "enclosure.ways_n", "CB") - 14.0).abs() < 1e-9);
    // Five others: 5 x 1.25 x 13.85 = 86.6 A, above the 25 A of the module.
    let unfused = |j: &mut Job| {
        let end = j.plan.circuits.get_mut("C").and_then(|c| c.to.as_mut()).expect("C goes on");
        end.device = Some("BUS".into());
    };
    found(name, unfused, "string.fuse_fitted of INV1/1");
    // A fuse of 30 A is more than the module's 25 A.
    let large = |j: &mut Job| {
        let fuses = &mut j.plan.nodes.get_mut("CB").expect("CB").devices;
        fuses.get_mut("F2").expect("F2").amps_a = Some(30.0);
    };
    found(name, large, "circuit.ocpd_maker of B");
}

#[test]
fn branches_share_a_conduit_and_come_to_one_breaker() {
    let name = "branches-combiner-panel";
    let r = report(&system(name));
    // Two branches in w1: four wires that carry current; all three in w3: six; both 0.8.
    for branch in ["A", "C"] {
        assert!((number(&r, "circuit.f_count", branch) - 0.8).abs() < 1e-9, "{branch}");
    }
    // 28 units of 1.38 A.
    assert!((number(&r, "circuit.i_max_a", "FEED") - 28.0 * 1.38).abs() < 1e-9);
    let thin = |j: &mut Job| {
        j.plan.circuits.get_mut("B").expect("B").legs[0].wire.awg = Some("14".to_owned());
    };
    found(name, thin, "circuit.ocpd_installed of B");
}

#[test]
fn communication_keeps_apart_and_the_backup_side_is_a_side_of_its_own() {
    let name = "hybrid-backup";
    let r = report(&system(name));
    // Both outputs of the hybrid carry its amps.
    let (backup, network) =
        (number(&r, "circuit.i_max_a", "BACKUP"), number(&r, "circuit.i_max_a", "NET"));
    assert!((backup - network).abs() < 1e-9 && backup > 20.0);
    let beside = |j: &mut Job| {
        let com = j.plan.circuits.get_mut("COM").expect("COM");
        com.legs[0].via = vec!["w3".into()];
    };
    found(name, beside, "way.control_apart of w3/1");
    // Two isolators of 2 ways and two surge devices of 3: 10 of 12; of 5 ways each: 14.
    assert!((number(&r, "enclosure.ways_n", "SPD") - 10.0).abs() < 1e-9);
    let wide = |j: &mut Job| {
        let devices = &mut j.plan.nodes.get_mut("SPD").expect("SPD").devices;
        for key in ["SPD-A", "SPD-B"] {
            devices.get_mut(key).expect("a surge device").ways_n = Some(5.0);
        }
    };
    found(name, wide, "enclosure.ways_n of SPD");
    // The width of one is not known: it is not known whether the enclosure closes.
    let mut open = system(name);
    let node = open.job.plan.nodes.get_mut("SPD").expect("SPD");
    node.devices.get_mut("SPD-A").expect("it is there").ways_n = None;
    let r = report(&open);
    let check = r.check("enclosure.ways_n", "SPD").expect("a check");
    assert_eq!((check.verdict, check.missing[0]), (Verdict::Unknown, "device.ways_n"));
}

#[test]
fn optimizer_strings_go_two_ways_to_a_sub_board() {
    let name = "optimizers-sub-board";
    let r = report(&system(name));
    assert!((number(&r, "circuit.i_max_a", "A") - 15.0).abs() < 1e-9);
    let bare = |j: &mut Job| j.strings[1].optimizer = None;
    found(name, bare, "mppt.same_kind of INV1/2");
}

#[test]
fn a_tee_joins_two_short_conduits_into_one() {
    let name = "tilt-frames-tees";
    let r = report(&system(name));
    // A pair and its earth in each branch, two pairs and one earth behind the tee.
    assert!((number(&r, "raceway.wires_in2", "w2/1") - 3.0 * 0.0211).abs() < 1e-9);
    // Reused XHHW-2 in one of them is thicker: 2 x 0.0243 + 3 x 0.0211.
    assert!((number(&r, "raceway.wires_in2", "w3/1") - (2.0 * 0.0243 + 3.0 * 0.0211)).abs() < 1e-9);
    // What is reused is 14 AWG: 20 A at its terminals, 21.6 A are needed.
    let reused = |j: &mut Job| {
        j.plan.circuits.get_mut("A").expect("A").legs[0].wire.awg = Some("14".to_owned());
    };
    found(name, reused, "circuit.ampacity_terminal_a of A");
}

#[test]
fn one_circuit_changes_its_method_on_the_way() {
    let name = "change-of-method";
    let file = system(name);
    assert_eq!(file.job.plan.circuits["A"].legs.len(), 3);
    let r = report(&file);
    // PV wire in free air: 55 A at 90 °C; 33 + 10 = 43 °C: 0.87.
    assert!((number(&r, "circuit.ampacity_derated_a", "A/1") - 55.0 * 0.87).abs() < 1e-9);
    // Metal-clad cable in the attic: 40 A; 50 °C: 0.82.
    assert!((number(&r, "circuit.ampacity_derated_a", "A/2") - 40.0 * 0.82).abs() < 1e-9);
    // 18 m of 10 AWG: 2 x 18 x 1.24 / 304.8 x 13.05 A.
    let volts = 2.0 * 18.0 * 1.24 / 304.8 * 13.05;
    assert!((number(&r, "circuit.vdrop_v", "A") - volts).abs() < 1e-6);
    // Nonmetallic-sheathed cable through the attic: DC wants metal there.
    let sheathed = |j: &mut Job| {
        j.plan.circuits.get_mut("A").expect("A").legs[1].wire.insulation = Insulation::Nm;
    };
    found(name, sheathed, "segment.method_allowed of w2/1");
    // The metal-clad cable down the wet wall is open until it is known to be listed for that.
    let mut wet = system(name);
    let part = &mut wet.job.plan.ways.get_mut("w3").expect("w3").parts[0];
    (part.method, part.raceway) = (Method::Cable, None);
    let verdict = |r: &heliant_core::Report| {
        r.check("segment.method_allowed", "w3/1").expect("a check").verdict
    };
    assert_eq!(verdict(&report(&wet)), Verdict::Unknown);
    wet.job.plan.ways.get_mut("w3").expect("w3").parts[0].listed = Some(false);
    assert_eq!(verdict(&report(&wet)), Verdict::Fail);
    assert!(wet.job.plan.circuits.values().all(|c| c.kind != CircuitKind::Control));
}
