//! The enclosure to scale: what sits where, what must move, what has no room, the next size up, and
//! the holes for what comes in.

use heliant_core::figure::Verdict;
use heliant_core::job::{Device, DeviceKind, NodeKind};
use heliant_core::stages::protection::EnclosureDrawing;
use heliant_core::{Report, evaluate};

use crate::{changed, check, cured, device, node, number, report, saltmarsh, verdict};

fn drawing<'r>(r: &'r Report, node: &str) -> &'r EnclosureDrawing {
    r.enclosures.iter().find(|e| e.node == node).expect("it is drawn")
}

#[test]
fn devices_stand_side_by_side_in_the_order_of_the_current() {
    let r = report(&saltmarsh());
    let own = drawing(&r, "CB1");
    assert_eq!(own.rails.len(), 1);
    assert!((own.rails[0].ways_n - 12.0).abs() < 1e-9);
    let at: Vec<(&str, f64, f64)> =
        own.rails[0].devices.iter().map(|d| (d.device.as_str(), d.left_ways, d.ways_n)).collect();
    // Three fuses and the spare one, the surge device, then what they feed; the bus takes no way.
    assert_eq!(
        at,
        [
            ("F1", 0.0, 1.0),
            ("F2", 1.0, 1.0),
            ("F3", 2.0, 1.0),
            ("SPARE", 3.0, 1.0),
            ("SPD", 4.0, 3.0),
            ("DISC", 7.0, 4.0)
        ]
    );
    assert!((number(&r, "enclosure.ways_n", "CB1") - 11.0).abs() < 1e-9);
    assert!(own.without.is_empty() && own.next.is_none());
}

#[test]
fn what_has_no_room_is_named_with_the_next_size() {
    // Two more surge devices of 3 ways: 17 of 12.
    let mut file = saltmarsh();
    for key in ["SPD2", "SPD3"] {
        let mut own = Device::new(DeviceKind::SurgeDevice);
        (own.ways_n, own.volts_v) = (Some(3.0), Some(1000.0));
        node(&mut file.job, "CB1").devices.insert(key.into(), own);
    }
    let r = report(&file);
    assert!((number(&r, "enclosure.ways_n", "CB1") - 17.0).abs() < 1e-9);
    assert_eq!(verdict(&r, "enclosure.closes", "CB1"), Verdict::Fail);
    let own = drawing(&r, "CB1");
    assert!(!own.without.is_empty());
    // One rail of 18 holds 17.
    assert_eq!(own.next, Some([1, 18]));
    let mended = cured(&file, check(&r, "enclosure.ways_n", "CB1"));
    let after = report(&mended);
    assert_eq!(verdict(&after, "enclosure.ways_n", "CB1"), Verdict::Pass);
    assert_eq!(verdict(&after, "enclosure.closes", "CB1"), Verdict::Pass);
    assert_eq!(mended.job.plan.nodes["CB1"].enclosure, None, "the old sheet is of the smaller one");
}

#[test]
fn ways_in_all_are_not_enough_where_no_rail_is_free_for_so_many() {
    // Two rails of 6 and three devices of 4: 12 ways for 12, and one does not fit.
    let mut file = saltmarsh();
    let own = node(&mut file.job, "CB2");
    own.enclosure = None;
    (own.ways_n, own.rails_n) = (Some(12.0), Some(2));
    own.devices.clear();
    for key in ["X", "Y", "Z"] {
        let mut own_device = Device::new(DeviceKind::Isolator);
        own_device.ways_n = Some(4.0);
        own.devices.insert(key.into(), own_device);
    }
    for circuit in file.job.plan.circuits.values_mut() {
        for end in std::iter::once(&mut circuit.from).chain(&mut circuit.to) {
            if end.node.as_deref() == Some("CB2") {
                end.device = None;
            }
        }
    }
    let r = report(&file);
    assert_eq!(verdict(&r, "enclosure.ways_n", "CB2"), Verdict::Pass, "12 of 12");
    let closes = check(&r, "enclosure.closes", "CB2");
    assert_eq!(closes.verdict, Verdict::Fail);
    assert!(closes.reason.as_deref().is_some_and(|t| t.contains("No rail has room for Z")));
    assert_eq!(drawing(&r, "CB2").next, Some([1, 12]));
}

#[test]
fn a_device_put_on_another_or_beyond_the_end_must_move() {
    let put = |left: f64, rail: u32| {
        changed(saltmarsh(), |j| {
            let own = device(j, "CB1", "F2");
            (own.rail, own.left_ways) = (Some(rail), Some(left));
            // F1 is put where it is, so that the other has to give way.
            let own = device(j, "CB1", "F1");
            (own.rail, own.left_ways) = (Some(1), Some(0.0));
        })
    };
    let on_top = put(0.5, 1);
    let own = check(&on_top, "enclosure.closes", "CB1");
    assert_eq!(own.verdict, Verdict::Fail);
    assert!(own.reason.as_deref().is_some_and(|t| t.starts_with("F2 must move")));
    assert_eq!(verdict(&put(11.5, 1), "enclosure.closes", "CB1"), Verdict::Fail, "past 12");
    assert_eq!(verdict(&put(11.0, 1), "enclosure.closes", "CB1"), Verdict::Pass, "to the end");
    // A rail it does not have.
    let away = put(0.0, 3);
    assert_eq!(verdict(&away, "enclosure.closes", "CB1"), Verdict::Fail);
    assert!(drawing(&away, "CB1").without.iter().any(|w| w.device == "F2"));
    // The cure lets it sit where there is room.
    let mut file = saltmarsh();
    for key in ["F1", "F2"] {
        let own = device(&mut file.job, "CB1", key);
        (own.rail, own.left_ways) = (Some(1), Some(0.0));
    }
    let r = report(&file);
    let mended = cured(&file, check(&r, "enclosure.closes", "CB1"));
    assert_eq!(verdict(&report(&mended), "enclosure.closes", "CB1"), Verdict::Pass);
}

#[test]
fn a_width_nobody_entered_leaves_it_open() {
    let mut file = saltmarsh();
    let own = device(&mut file.job, "CB1", "SPD");
    (own.sheet, own.ways_n) = (None, None);
    let r = report(&file);
    for id in ["enclosure.ways_n", "enclosure.closes"] {
        let own = check(&r, id, "CB1");
        assert_eq!((own.verdict, own.missing[0]), (Verdict::Unknown, "device.ways_n"), "{id}");
    }
}

#[test]
fn holes_are_counted_and_measured_against_what_comes_in() {
    let r = report(&saltmarsh());
    // Three pairs in free air come in wire by wire, one raceway of trade size 2: 62.7 mm.
    assert!((number(&r, "enclosure.entries_n", "CB1") - 7.0).abs() < 1e-9);
    assert!((number(&r, "enclosure.entry_mm", "CB1") - 62.7).abs() < 1e-9);
    assert_eq!(verdict(&r, "enclosure.entries_n", "CB1"), Verdict::Pass);
    let few = changed(saltmarsh(), |j| node(j, "CB1").entries_n = Some(6));
    assert_eq!(verdict(&few, "enclosure.entries_n", "CB1"), Verdict::Fail);
    let small = changed(saltmarsh(), |j| node(j, "CB1").entry_mm = Some(50.4));
    let small = check(&small, "enclosure.entry_mm", "CB1");
    assert_eq!(small.verdict, Verdict::Fail);
    assert!((small.margin.expect("how far") - (50.4 - 62.7)).abs() < 1e-9);
}

#[test]
fn panels_are_counted_by_their_own_ways() {
    let file = saltmarsh();
    let r = evaluate(&file.job, &file.library, &[]);
    assert!(r.check("enclosure.ways_n", "ACP").is_none(), "nobody said its rails");
    let mut said = file.clone();
    said.job.plan.nodes.get_mut("ACP").expect("ACP").ways_n = Some(12.0);
    assert_eq!(verdict(&report(&said), "enclosure.ways_n", "ACP"), Verdict::Pass);
    assert_eq!(said.job.plan.nodes["ACP"].kind, NodeKind::Panel);
}
