//! What if it fails: faults put into the demo jobs.

use heliant_core::faults::{Fault, FaultKind, faults};
use heliant_core::figure::{Subject, Verdict};
use heliant_core::job::{Device, DeviceKind, JobFile};

use crate::{all, device, kestrel, near, node, pinyon, quarry, report, saltmarsh, tern};

fn of(file: &JobFile, kind: FaultKind, at: &str) -> Fault {
    let all = faults(&file.job, &file.library, &report(file));
    let own = all.iter().find(|f| f.kind == kind && f.at.to_string() == at);
    own.cloned().unwrap_or_else(|| panic!("no {kind:?} at {at}"))
}

#[test]
fn a_frame_on_a_pole_opens_nothing_and_bonding_holds_it_at_earth() {
    let own = of(&kestrel(), FaultKind::FrameToPole, "A");
    assert_eq!((own.verdict, own.clears.clone()), (Verdict::Warn, None));
    near(own.amps_a.expect("a current"), 0.0);
    assert_eq!(own.live, [Subject::String { string: "A".into() }]);
    assert!(own.lines.iter().any(|l| l.contains("533 V")), "{:?}", own.lines);
    let mut loose = kestrel();
    loose.job.roof.get_mut("se").expect("its map").rails.bonded = Some(false);
    assert_eq!(of(&loose, FaultKind::FrameToPole, "A").verdict, Verdict::Fail);
}

#[test]
fn two_strings_that_feed_a_third_open_its_fuse_or_not() {
    let file = saltmarsh();
    let isc = file.library.modules[0].ratings.isc_a.expect("given");
    // Two others at 1.25 x Isc: 34.6 A; 1.45 x 25 = 36.25 A: the fuse may take long.
    let own = of(&file, FaultKind::StringShort, "A");
    near(own.amps_a.expect("a current"), 2.0 * 1.25 * isc);
    assert_eq!((own.verdict, own.clears.clone()), (Verdict::Warn, None));
    // With 20 A it opens: 1.45 x 20 = 29 A.
    let mut small = file.clone();
    let own = device(&mut small.job, "CB1", "F1");
    (own.amps_a, own.sheet) = (Some(20.0), None);
    let own = of(&small, FaultKind::StringShort, "A");
    assert_eq!(own.verdict, Verdict::Pass);
    assert_eq!(own.clears.expect("its fuse").to_string(), "CB1.F1");
    near(own.seconds_s.expect("a time"), 3600.0);
    // Without a fuse nothing opens, and 34.6 A are more than the modules bear.
    let mut bare = file.clone();
    bare.job.plan.circuits.get_mut("A").expect("A").to.as_mut().expect("its end").device = None;
    let own = of(&bare, FaultKind::StringShort, "A");
    assert_eq!((own.verdict, own.clears), (Verdict::Fail, None));
}

#[test]
fn two_strings_alone_need_no_fuse_and_one_alone_drives_itself() {
    // C feeds B with 1.25 x 13.85 = 17.3 A; the modules bear 25 A.
    let own = of(&kestrel(), FaultKind::StringShort, "B");
    near(own.amps_a.expect("a current"), 1.25 * 13.85);
    assert_eq!((own.verdict, own.clears), (Verdict::Pass, None));
    let alone = of(&kestrel(), FaultKind::StringShort, "A");
    assert_eq!(alone.verdict, Verdict::Pass);
    assert!(alone.lines[0].contains("alone on its input"));
    // Optimizers hold what they put out: no such fault is asked.
    let none = faults(&tern().job, &tern().library, &report(&tern()));
    assert!(none.iter().all(|f| f.kind != FaultKind::StringShort));
}

#[test]
fn a_line_on_a_case_trips_its_breaker_where_the_loop_drives_enough() {
    // 230 / 0.344 = 668 A against 10 x 32.
    let own = of(&quarry(), FaultKind::LineToCase, "AC1");
    assert_eq!(own.verdict, Verdict::Pass);
    near(own.seconds_s.expect("a time"), 0.1);
    assert!(own.amps_a.is_some_and(|a| a > 320.0));
    // The inverter's DC side stays live.
    assert_eq!(own.live, [Subject::Inverter { inverter: "INV1".into() }]);
    let mut weak = quarry();
    weak.job.protection.ze_ohm = Some(1.0);
    let own = of(&weak, FaultKind::LineToCase, "AC1");
    assert_eq!((own.verdict, own.clears), (Verdict::Fail, None));
    weak.job.protection.ze_ohm = None;
    assert_eq!(of(&weak, FaultKind::LineToCase, "AC1").verdict, Verdict::Unknown);
    // In the other school 120 V drive it through what 9.5 kA leave before the service, 7.2 m of
    // 8 AWG (0.778 ohm/kft) and its 10 AWG ground (1.24 ohm/kft).
    let own = of(&kestrel(), FaultKind::LineToCase, "AC1");
    let ohm = 120.0 / 9500.0 + 7.2 / 304.8 * (0.778 + 1.24);
    near(own.amps_a.expect("a current"), 120.0 / ohm);
    assert_eq!(own.verdict, Verdict::Pass, "against 10 x 45 A: {:?}", own.lines);
    // 100 m of it drive 120 / 0.675 = 178 A: twice the 45 A and more, so it opens by its heat;
    // 300 m drive 60 A, which it may stand for an hour.
    let long = |m: f64| {
        let mut file = kestrel();
        file.job.plan.ways.get_mut("AC1").expect("a way").parts[0].length_m = Some(m);
        of(&file, FaultKind::LineToCase, "AC1")
    };
    let own = long(100.0);
    near(own.amps_a.expect("it"), 120.0 / (120.0 / 9500.0 + 100.0 / 304.8 * 2.018));
    assert_eq!((own.verdict, own.clears.is_some(), own.seconds_s), (Verdict::Warn, true, None));
    let own = long(300.0);
    assert_eq!((own.verdict, own.clears), (Verdict::Fail, None));
    // Where a length is open only the most that can flow is known.
    let mut open = kestrel();
    open.job.plan.ways.get_mut("AC1").expect("a way").parts[0].length_m = None;
    let own = of(&open, FaultKind::LineToCase, "AC1");
    near(own.amps_a.expect("a current"), 9540.0);
    assert_eq!(own.verdict, Verdict::Warn);
    assert!(own.lines.iter().any(|l| l.contains("is open")), "{:?}", own.lines);
}

#[test]
fn a_residual_device_of_another_circuit_clears_nothing() {
    // The loop drives too little for the breaker, and the device at the board is not on its way.
    let mut file = quarry();
    file.job.protection.ze_ohm = Some(1.0);
    let mut own = Device::new(DeviceKind::Rcd);
    (own.rcd_ma, own.ways_n) = (Some(30.0), Some(2.0));
    node(&mut file.job, "MP").devices.insert("RX".into(), own);
    let beside = of(&file, FaultKind::LineToCase, "AC1");
    assert_eq!((beside.verdict, beside.clears), (Verdict::Fail, None));
    // The breaker it ends at feeds it: now it is.
    device(&mut file.job, "MP", "P1").feeds = Some("RX".into());
    let through = of(&file, FaultKind::LineToCase, "AC1");
    assert_eq!(through.verdict, Verdict::Pass);
    near(through.seconds_s.expect("a time"), 0.3);
}

#[test]
fn branches_and_feeders_are_asked_too() {
    let of_kind = |file: &JobFile| -> Vec<String> {
        let all = faults(&file.job, &file.library, &report(file));
        let own = all.iter().filter(|f| f.kind == FaultKind::LineToCase);
        own.map(|f| f.at.to_string()).collect()
    };
    assert_eq!(of_kind(&pinyon()), ["A", "B", "C", "FEEDER"]);
    // The units of a branch stop; their modules are what stays live.
    let own = of(&pinyon(), FaultKind::LineToCase, "A");
    // Its breaker is the branch's own, 20 A: it trips at once from 200.
    assert_eq!(own.verdict, Verdict::Pass);
    assert!(own.amps_a.is_some_and(|a| a > 200.0));
    let mut unsaid = pinyon();
    unsaid.job.branches[0].breaker_a = None;
    device(&mut unsaid.job, "COMBINED", "BA").amps_a = None;
    assert_eq!(of(&unsaid, FaultKind::LineToCase, "A").verdict, Verdict::Unknown);
    assert_eq!(own.live, [Subject::Branch { branch: "A".into() }]);
    assert!(own.lines.iter().any(|l| l.starts_with("The units")), "{:?}", own.lines);
}

#[test]
fn a_breaker_of_no_known_curve_is_not_taken_to_trip() {
    let mut file = quarry();
    let own = device(&mut file.job, "MP", "P1");
    (own.sheet, own.trip_times) = (None, None);
    let f = of(&file, FaultKind::LineToCase, "AC1");
    assert_eq!((f.verdict, f.seconds_s, f.clears), (Verdict::Unknown, None, None));
    // Curve D trips from 20 x 32 = 640 A; the loop drives 668.
    device(&mut file.job, "MP", "P1").trip_times = Some(20.0);
    assert_eq!(of(&file, FaultKind::LineToCase, "AC1").verdict, Verdict::Pass);
    device(&mut file.job, "MP", "P1").trip_times = Some(21.0);
    assert_eq!(of(&file, FaultKind::LineToCase, "AC1").verdict, Verdict::Fail);
}

#[test]
fn a_lost_neutral_goes_by_the_checks_of_the_backup() {
    let own = of(&quarry(), FaultKind::LostNeutral, "BB");
    assert_eq!((own.verdict, own.lines.len()), (Verdict::Pass, 3));
    let mut floats = quarry();
    floats.job.protection.backup.as_mut().expect("it").neutral_earthed = Some(false);
    let own = of(&floats, FaultKind::LostNeutral, "BB");
    assert_eq!(own.verdict, Verdict::Fail);
    assert!(own.lines.iter().any(|l| l.contains("no way back")), "{:?}", own.lines);
    let none = faults(&kestrel().job, &kestrel().library, &report(&kestrel()));
    assert!(none.iter().all(|f| f.kind != FaultKind::LostNeutral), "no backup, no such fault");
}

#[test]
fn a_surge_goes_to_earth_by_what_stands_on_the_way() {
    let own = of(&quarry(), FaultKind::Surge, "INV1");
    assert_eq!(own.verdict, Verdict::Pass);
    assert!(own.lines[0].contains("ENC, RB"), "{:?}", own.lines);
    let mut bare = quarry();
    for key in ["RB", "ENC"] {
        let kept =
            |d: &heliant_core::job::Device| d.what != heliant_core::job::DeviceKind::SurgeDevice;
        node(&mut bare.job, key).devices.retain(|_, d| kept(d));
    }
    let own = of(&bare, FaultKind::Surge, "INV1");
    assert_eq!((own.verdict, own.clears), (Verdict::Warn, None));
    assert!(own.lines[0].starts_with("Nothing conducts it"));
}

#[test]
fn an_isolator_breaks_an_arc_inside_its_rating_and_a_fuse_holder_never() {
    let own = of(&saltmarsh(), FaultKind::OpenedUnderLoad, "CB1.DISC");
    assert_eq!(own.verdict, Verdict::Pass);
    let fuse = of(&saltmarsh(), FaultKind::OpenedUnderLoad, "CB1.F1");
    assert_eq!((fuse.verdict, fuse.clears), (Verdict::Warn, None));
    let mut low = saltmarsh();
    device(&mut low.job, "CB1", "DISC").volts_v = Some(400.0);
    assert_eq!(of(&low, FaultKind::OpenedUnderLoad, "CB1.DISC").verdict, Verdict::Fail);
}

#[test]
fn what_is_said_to_clear_is_there() {
    for (name, file) in all() {
        let plan = &file.job.plan;
        for f in faults(&file.job, &file.library, &report(&file)) {
            assert!(!f.lines.is_empty(), "{name}: {f:?}");
            let cleared = matches!(f.verdict, Verdict::Pass | Verdict::Warn);
            assert!(f.clears.is_none() || cleared, "{name}: {f:?}");
            if let Some(Subject::Device { node, device }) = &f.clears {
                assert!(plan.nodes[node].devices.contains_key(device), "{name}: {f:?}");
            }
        }
    }
}
