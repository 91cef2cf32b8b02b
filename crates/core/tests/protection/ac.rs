//! The AC side: disconnects, the fault current and what breaks it, faults to earth.

use heliant_core::figure::Verdict;
use heliant_core::job::{CircuitKind, Device, DeviceKind, Earthing, End, Job};
use heliant_core::library::RcdType;

use crate::{
    changed, check, device, kestrel, near, node, number, pinyon, quarry, rated, report, saltmarsh,
    verdict,
};

#[test]
fn the_fault_current_is_that_of_the_supply_and_the_inverters() {
    // 9.5 kA and 40 A.
    let r = report(&kestrel());
    near(number(&r, "service.fault_a", "site"), 9540.0);
    // A breaker for 10 kA breaks it, one for 9 kA does not.
    assert_eq!(verdict(&r, "device.breaking_a", "MP.P1"), Verdict::Pass);
    let weak = changed(kestrel(), |j| device(j, "MP", "P1").breaking_ka = Some(9.0));
    let own = check(&weak, "device.breaking_a", "MP.P1");
    assert_eq!(own.verdict, Verdict::Fail);
    near(own.margin.expect("how far"), -540.0);
    let open = changed(kestrel(), |j| j.protection.fault_ka = None);
    let own = check(&open, "device.breaking_a", "MP.P1");
    assert_eq!((own.verdict, own.missing[0]), (Verdict::Unknown, "protection.fault_ka"));
    // A data sheet that is silent is said, and the grid alone counts.
    let mut file = kestrel();
    file.library.inverters[0].fault_a = None;
    let r = report(&file);
    near(number(&r, "service.fault_a", "site"), 9500.0);
    let figure = r.figure("service.fault_a", "site").expect("it is there");
    assert!(figure.note.as_deref().is_some_and(|n| n.contains("not on their data sheets")));
}

#[test]
fn a_panel_bears_the_fault_current_with_its_main_and_breakers() {
    // 10 kA against 9.5 kA of the supply and 40 A of the inverter.
    assert_eq!(verdict(&report(&kestrel()), "panel.breaking_a", "MP"), Verdict::Pass);
    let rated = |ka: Option<f64>| {
        changed(kestrel(), |j| node(j, "MP").panel.as_mut().expect("it").breaking_ka = ka)
    };
    let r = rated(Some(9.0));
    let own = check(&r, "panel.breaking_a", "MP");
    assert_eq!(own.verdict, Verdict::Fail);
    near(own.margin.expect("how far"), -540.0);
    let open = rated(None);
    let own = check(&open, "panel.breaking_a", "MP");
    assert_eq!((own.verdict, own.missing[0]), (Verdict::Unknown, "panel.breaking_ka"));
    // Without the fault current the site asks for it, not each panel.
    let unsaid = changed(kestrel(), |j| j.protection.fault_ka = None);
    assert!(unsaid.check("panel.breaking_a", "MP").is_none());
}

#[test]
fn a_disconnect_carries_what_comes_through_it() {
    // 1.25 x 42.78 A = 53.475 A through 60 A.
    let r = report(&pinyon());
    near(number(&r, "disconnect.need_a", "RD.RD"), 1.25 * 42.78);
    assert_eq!(verdict(&r, "disconnect.amps_a", "RD.RD"), Verdict::Pass);
    let weak = rated(pinyon(), "RD", "RD", 50.0);
    assert_eq!(verdict(&weak, "disconnect.amps_a", "RD.RD"), Verdict::Fail);
    // A node that is a disconnect and says nothing of itself.
    let bare = changed(pinyon(), |j| node(j, "RD").devices.clear());
    assert_eq!(verdict(&bare, "disconnect.amps_a", "RD"), Verdict::Unknown);
    for branch in ["A", "B", "C"] {
        assert_eq!(verdict(&r, "disconnect.fitted", branch), Verdict::Pass);
    }
}

#[test]
fn a_residual_device_sees_what_the_inverter_may_send() {
    let with = |kind: Option<RcdType>| {
        changed(quarry(), |j| {
            let mut own = Device::new(DeviceKind::Rcd);
            (own.rcd, own.rcd_ma, own.ways_n) = (kind, Some(30.0), Some(2.0));
            own.amps_a = Some(40.0);
            device(j, "MP", "P1").feeds = Some("RCD".into());
            node(j, "MP").devices.insert("RCD".into(), own);
        })
    };
    // The sheet of the hybrid asks for type B.
    assert_eq!(verdict(&with(Some(RcdType::B)), "rcd.type", "AC1"), Verdict::Pass);
    let less = with(Some(RcdType::A));
    let own = check(&less, "rcd.type", "AC1");
    assert_eq!(own.verdict, Verdict::Fail);
    assert!(own.reason.as_deref().is_some_and(|r| r.contains("Type B")));
    assert_eq!(verdict(&with(None), "rcd.type", "AC1"), Verdict::Unknown);
}

#[test]
fn in_tn_the_loop_trips_the_breaker_and_the_conductor_bears_it() {
    let r = report(&quarry());
    // 0.95 x 230 / (10 x 32) = 0.6828 ohm.
    near(number(&r, "circuit.zs_max_ohm", "AC1"), 0.95 * 230.0 / 320.0);
    // 0.3 outside, 6 m of 6 mm2 line and earth at 3.08 ohm/km, warm 1.1965.
    let loop_ohm = 0.3 + 6.0 * 2.0 * 3.08 / 1000.0 * (1.0 + 0.003_93 * 50.0);
    near(number(&r, "circuit.zs_planned_ohm", "AC1"), loop_ohm);
    assert_eq!(verdict(&r, "circuit.zs_planned_ohm", "AC1"), Verdict::Pass);
    // sqrt(I2 x 0.1) / 115.
    let fault = 230.0 / loop_ohm;
    near(number(&r, "circuit.earth_fault_a", "AC1"), fault);
    // One by the table bears it without a sum; of 2.5 mm²: sqrt(I2 x 0.1) / 115.
    assert!(r.check("circuit.adiabatic_mm2", "AC1").is_none());
    let thin = changed(quarry(), |j| {
        j.plan.ways.get_mut("AC1").expect("AC1").earth = Some("2.5".to_owned());
    });
    let fault = number(&thin, "circuit.earth_fault_a", "AC1");
    near(number(&thin, "circuit.adiabatic_mm2", "AC1"), fault * 0.1_f64.sqrt() / 115.0);
    assert_eq!(verdict(&thin, "circuit.adiabatic_mm2", "AC1"), Verdict::Pass);
    let weak = changed(quarry(), |j| j.protection.ze_ohm = Some(0.8));
    assert_eq!(verdict(&weak, "circuit.zs_planned_ohm", "AC1"), Verdict::Fail);
    let open = changed(quarry(), |j| j.protection.ze_ohm = None);
    let own = check(&open, "circuit.zs_planned_ohm", "AC1");
    assert_eq!((own.verdict, own.missing[0]), (Verdict::Unknown, "protection.ze_ohm"));
    // A strong loop through a thin conductor: 230 / 0.05 = 4600 A asks for 12.6 mm².
    let strong = changed(quarry(), |j| {
        j.protection.ze_ohm = Some(0.005);
        j.plan.ways.get_mut("AC1").expect("AC1").earth = Some("2.5".to_owned());
    });
    assert_eq!(verdict(&strong, "circuit.adiabatic_mm2", "AC1"), Verdict::Fail);
}

#[test]
fn in_tt_a_residual_device_trips_and_fifty_volts_are_the_limit() {
    let tt = |ra: Option<f64>, rcd: bool| {
        changed(quarry(), |j| {
            j.protection.earthing = Some(Earthing::Tt);
            j.protection.ra_ohm = ra;
            if rcd {
                let mut own = Device::new(DeviceKind::Rcd);
                (own.rcd, own.rcd_ma) = (Some(RcdType::B), Some(300.0));
                device(j, "MP", "P1").feeds = Some("RCD".into());
                node(j, "MP").devices.insert("RCD".into(), own);
            }
        })
    };
    assert_eq!(verdict(&tt(Some(100.0), false), "rcd.fitted", "AC1"), Verdict::Fail);
    // 166 x 0.3 = 49.8 V, 167 x 0.3 = 50.1 V.
    let r = tt(Some(166.0), true);
    near(number(&r, "rcd.touch_v", "AC1"), 49.8);
    assert_eq!(verdict(&r, "rcd.touch_v", "AC1"), Verdict::Pass);
    assert_eq!(verdict(&tt(Some(167.0), true), "rcd.touch_v", "AC1"), Verdict::Fail);
    assert_eq!(verdict(&tt(None, true), "rcd.touch_v", "AC1"), Verdict::Unknown);
    assert!(r.check("circuit.zs_planned_ohm", "AC1").is_none(), "no loop trips in TT");
    let unsaid = changed(quarry(), |j| j.protection.earthing = None);
    assert_eq!(verdict(&unsaid, "supply.earthing", "site"), Verdict::Unknown);
}

/// The cottage with a board between the inverter's and the service: 10 m of feeder behind it.
fn with_sub_board(job: &mut Job) {
    let mut board = node(job, "MP").clone();
    (board.earthed, board.panel) = (None, None);
    job.plan.nodes.insert("SUB".into(), board);
    let circuits = &mut job.plan.circuits;
    let mut feeder = circuits["AC1"].clone();
    feeder.kind = CircuitKind::AcFeeder;
    feeder.from = End { node: Some("SUB".into()), ..End::default() };
    feeder.legs[0].via = vec!["FEED".into()];
    circuits.insert("FEED".into(), feeder);
    let to = circuits.get_mut("AC1").and_then(|c| c.to.as_mut()).expect("an end");
    to.node = Some("SUB".into());
    let ways = &mut job.plan.ways;
    let mut way = ways["AC1"].clone();
    (way.from, way.to) = ("SUB".into(), "MP".into());
    way.parts[0].length_m = Some(10.0);
    ways.insert("FEED".into(), way);
    ways.get_mut("AC1").expect("a way").to = "SUB".into();
}

#[test]
fn the_loop_is_that_of_all_the_way_from_the_service() {
    // Line and earth of 6 mm2, warm: 0.007371 ohm/m.
    let metre = 2.0 * 3.08 / 1000.0 * (1.0 + 0.003_93 * 50.0);
    let r = changed(quarry(), with_sub_board);
    near(number(&r, "circuit.zs_planned_ohm", "FEED"), 0.3 + 10.0 * metre);
    near(number(&r, "circuit.zs_planned_ohm", "AC1"), 0.3 + 16.0 * metre);
    // The backup output is fed through the inverter: its own 1.8 m and the 6 m before it.
    near(number(&report(&quarry()), "circuit.zs_planned_ohm", "BACKUP"), 0.3 + 7.8 * metre);
    // So does one that is not laid yet, or does not end anywhere.
    let bare = |change: &dyn Fn(&mut heliant_core::job::Circuit)| {
        let r = changed(quarry(), |j| {
            with_sub_board(j);
            change(j.plan.circuits.get_mut("FEED").expect("a circuit"));
        });
        let own = check(&r, "circuit.zs_planned_ohm", "AC1");
        (own.verdict, own.missing[0])
    };
    assert_eq!(bare(&|c| c.legs.clear()), (Verdict::Unknown, "circuit.legs"));
    assert_eq!(bare(&|c| c.to = None), (Verdict::Unknown, "circuit.to.node"));
    // A feeder that nobody measured leaves both open.
    let open = changed(quarry(), |j| {
        with_sub_board(j);
        j.plan.ways.get_mut("FEED").expect("a way").parts[0].length_m = None;
    });
    assert_eq!(verdict(&open, "circuit.zs_planned_ohm", "AC1"), Verdict::Unknown);
}

#[test]
fn in_the_other_school_the_loop_comes_from_the_fault_current() {
    // Saltmarsh: a string inverter of 240 V behind the feeder: 120 V to earth.
    let r = report(&saltmarsh());
    let feeder = number(&r, "circuit.zs_planned_ohm", "FEED");
    let own = number(&r, "circuit.zs_planned_ohm", "AC1");
    // 98.4 ft of 1/0 (0.122 ohm/kft) and its 4 AWG ground (0.308), then 10 ft of 4 and 4 AWG.
    let source = 120.0 / 8500.0;
    near(feeder, source + 30.0 / 304.8 * (0.122 + 0.308));
    let m = saltmarsh().job.plan.ways["AC1"].parts.iter().filter_map(|p| p.length_m).sum::<f64>();
    near(own, feeder + m / 304.8 * (0.308 + 0.308));
    near(number(&r, "circuit.earth_fault_a", "AC1"), 120.0 / own);
    // Two lines of 208Y/120 and 480Y/277 by the root of three.
    let volts = |v: f64, three: bool| {
        let mut file = kestrel();
        let sheet = &mut file.library.inverters[0];
        (sheet.ac_v, sheet.three_phase) = (Some(v), three);
        let r = report(&file);
        let amps = number(&r, "circuit.earth_fault_a", "AC1");
        amps * number(&r, "circuit.zs_planned_ohm", "AC1")
    };
    near(volts(208.0, false), 208.0 / 3.0_f64.sqrt());
    near(volts(480.0, true), 480.0 / 3.0_f64.sqrt());
    near(volts(120.0, false), 120.0);
}

#[test]
fn a_residual_device_makes_up_for_a_weak_loop() {
    let weak = |rcd: bool| {
        changed(quarry(), |j| {
            j.protection.ze_ohm = Some(1.0);
            if rcd {
                let mut own = Device::new(DeviceKind::Rcd);
                (own.rcd, own.rcd_ma) = (Some(RcdType::B), Some(300.0));
                device(j, "MP", "P1").feeds = Some("RCD".into());
                node(j, "MP").devices.insert("RCD".into(), own);
            }
        })
    };
    assert_eq!(verdict(&weak(false), "circuit.zs_planned_ohm", "AC1"), Verdict::Fail);
    // 230 / (5 x 0.3) = 153.3 ohm.
    let r = weak(true);
    near(number(&r, "circuit.zs_residual_ohm", "AC1"), 230.0 / 1.5);
    assert_eq!(verdict(&r, "circuit.zs_planned_ohm", "AC1"), Verdict::Pass);
}

#[test]
fn a_residual_device_at_the_head_of_a_feeder_serves_what_comes_through_it() {
    let with = |kind: RcdType, of_feeder: bool| {
        changed(quarry(), |j| {
            with_sub_board(j);
            j.protection.earthing = Some(Earthing::Tt);
            j.protection.ra_ohm = Some(100.0);
            let mut own = Device::new(DeviceKind::Rcd);
            (own.rcd, own.rcd_ma) = (Some(kind), Some(300.0));
            node(j, "MP").devices.insert("RCD".into(), own);
            if of_feeder {
                device(j, "MP", "P1").feeds = Some("RCD".into());
            }
        })
    };
    let r = with(RcdType::B, true);
    for circuit in ["AC1", "FEED"] {
        assert_eq!(verdict(&r, "rcd.fitted", circuit), Verdict::Pass);
        near(number(&r, "rcd.touch_v", circuit), 30.0);
        assert_eq!(verdict(&r, "rcd.type", circuit), Verdict::Pass);
    }
    // The inverter's direct current comes through it all the same.
    assert_eq!(verdict(&with(RcdType::A, true), "rcd.type", "AC1"), Verdict::Fail);
    // Beside the breaker it ends at, it is on nobody's way.
    assert_eq!(verdict(&with(RcdType::B, false), "rcd.fitted", "AC1"), Verdict::Fail);
}

#[test]
fn where_only_another_circuit_names_the_residual_device_it_is_open() {
    // The feeder of the backup names its own; the output that ends there too says nothing.
    let r = changed(quarry(), |j| {
        j.protection.earthing = Some(Earthing::Tt);
        j.protection.ra_ohm = Some(100.0);
        let to = j.plan.circuits.get_mut("AC1").and_then(|c| c.to.as_mut()).expect("an end");
        (to.node, to.device) = (Some("BB".into()), None);
        j.plan.ways.get_mut("AC1").expect("a way").to = "BB".into();
        node(j, "BB").devices.remove("C16");
    });
    let own = check(&r, "rcd.fitted", "AC1");
    assert_eq!((own.verdict, own.missing[0]), (Verdict::Unknown, "circuit.to.device"));
    assert_eq!(verdict(&r, "rcd.fitted", "BACKUP"), Verdict::Pass);
}
