//! What comes through every device of the AC side: what is fitted, which device a circuit is on,
//! sums, volts, poles; and what is added that carries no power.

use heliant_core::figure::{Subject, Verdict};
use heliant_core::job::{
    self, Circuit, CircuitKind, CurrentKind, Device, DeviceKind, End, Job, JobFile, Leg, Node,
    NodeKind, Part, Way, WireChoice,
};
use serde_json::Value;

use crate::{
    all, changed, check, device, kestrel, near, node, number, pinyon, quarry, rated, report,
    saltmarsh, tern, verdict,
};

/// The end of a circuit that names a device.
fn end<'j>(job: &'j mut Job, circuit: &str) -> &'j mut End {
    job.plan.circuits.get_mut(circuit).and_then(|c| c.to.as_mut()).expect("it ends somewhere")
}

#[test]
fn a_breaker_is_fitted_where_it_stands_a_circuit_comes_through_it_and_its_rating_is_known() {
    let r = report(&kestrel());
    assert_eq!(verdict(&r, "circuit.ocpd_installed", "AC1"), Verdict::Pass);
    assert_eq!(verdict(&r, "disconnect.fitted", "AC1"), Verdict::Pass);
    // Nobody entered one: what is computed is a proposal, and the fix sets it.
    let mut bare = kestrel();
    node(&mut bare.job, "MP").devices.remove("P1");
    end(&mut bare.job, "AC1").device = None;
    bare.job.plan.circuits.get_mut("AC1").expect("AC1").ocpd_a = None;
    let r = report(&bare);
    let own = check(&r, "circuit.ocpd_installed", "AC1");
    assert_eq!((own.verdict, own.missing[0]), (Verdict::Unknown, "circuit.to.device"));
    assert_eq!(verdict(&r, "disconnect.fitted", "AC1"), Verdict::Unknown);
    // The earth wire goes by the device: without one it is open.
    assert_eq!(r.figure("circuit.egc_awg", "AC1").expect("it").value, None);
    let mended = crate::cured(&bare, own);
    let r = report(&mended);
    assert_eq!(verdict(&r, "circuit.ocpd_installed", "AC1"), Verdict::Pass);
    assert_eq!(verdict(&r, "disconnect.fitted", "AC1"), Verdict::Pass);
    // One of which the rating is not known.
    let mut unrated = kestrel();
    let own = device(&mut unrated.job, "MP", "P1");
    (own.amps_a, own.sheet) = (None, None);
    let r = report(&unrated);
    let own = check(&r, "circuit.ocpd_installed", "AC1");
    assert_eq!((own.verdict, own.missing[0]), (Verdict::Unknown, "device.amps_a"));
}

#[test]
fn a_circuit_is_on_the_only_free_breaker_and_asks_among_several() {
    let loose = |more: bool| {
        changed(kestrel(), |j| {
            end(j, "AC1").device = None;
            if more {
                let own = node(j, "MP").devices["P1"].clone();
                node(j, "MP").devices.insert("P2".into(), own);
            }
        })
    };
    assert_eq!(verdict(&loose(false), "circuit.ocpd_installed", "AC1"), Verdict::Pass);
    let r = loose(true);
    let own = check(&r, "circuit.ocpd_installed", "AC1");
    assert_eq!((own.verdict, own.missing[0]), (Verdict::Unknown, "circuit.to.device"));
    let offers: Vec<&str> = own.cures.iter().map(|c| c.text.as_str()).collect();
    assert_eq!(offers, ["It is on P1.", "It is on P2."]);
}

#[test]
fn a_switch_that_strings_are_led_through_is_no_ac_disconnect() {
    // The output comes through the enclosure of the string's isolator on its way.
    let through = |named: bool| {
        changed(quarry(), |j| {
            node(j, "MP").devices.clear();
            end(j, "AC1").device = None;
            j.plan.ways.get_mut("AC1").expect("AC1").to = "ENC".into();
            let on = j.plan.ways["AC1"].clone();
            j.plan.ways.insert("AC2".into(), Way { from: "ENC".into(), to: "MP".into(), ..on });
            j.plan.circuits.get_mut("AC1").expect("AC1").legs[0].via.push("AC2".into());
            let a = j.plan.circuits.get_mut("A").expect("A");
            let mut to = End::node(&"ENC".into());
            to.device = named.then(|| "ISO-A".into());
            a.to = Some(to);
        })
    };
    for named in [true, false] {
        assert_eq!(verdict(&through(named), "disconnect.fitted", "AC1"), Verdict::Unknown);
    }
}

#[test]
fn a_breaker_beside_the_one_that_is_used_is_said() {
    let r = changed(kestrel(), |j| {
        let own = node(j, "MP").devices["P1"].clone();
        node(j, "MP").devices.insert("P2".into(), own);
    });
    assert_eq!(verdict(&r, "device.used", "MP.P2"), Verdict::Warn);
    assert!(r.check("device.used", "MP.P1").is_none());
}

#[test]
fn two_numbers_for_one_device_are_no_rating() {
    let mut file = kestrel();
    device(&mut file.job, "MP", "P1").amps_a = Some(50.0);
    file.job.plan.circuits.get_mut("AC1").expect("AC1").ocpd_a = None;
    let r = report(&file);
    let own = check(&r, "device.one_rating", "MP.P1");
    assert_eq!(own.verdict, Verdict::Unknown);
    assert!(own.reason.as_deref().is_some_and(|t| t.contains("45") && t.contains("50")));
    assert_eq!(verdict(&r, "circuit.ocpd_installed", "AC1"), Verdict::Unknown);
    // The branch's number against the device it comes through.
    let r = rated(pinyon(), "COMBINED", "BA", 30.0);
    assert_eq!(verdict(&r, "circuit.ocpd_agrees", "A"), Verdict::Fail);
}

#[test]
fn the_sum_of_what_comes_through_a_breaker_counts() {
    // A of 11 and B of 10 units at 1.38 A on one breaker: 1.25 x 28.98 = 36.2 A of 20.
    let units = pinyon().job.branches[0].units() + pinyon().job.branches[1].units();
    let r = changed(pinyon(), |j| end(j, "B").device = Some("BA".into()));
    near(number(&r, "device.through_a", "COMBINED.BA"), 1.25 * 1.38 * f64::from(units));
    assert_eq!(verdict(&r, "device.amps_a", "COMBINED.BA"), Verdict::Fail);
    // One opens both at once.
    assert_eq!(verdict(&r, "disconnect.fitted", "A"), Verdict::Warn);
    // Two inverters behind one of the feeder: 1.25 x 100 A of 125.
    near(number(&report(&saltmarsh()), "device.through_a", "MP.FB"), 125.0);
    let weak = rated(saltmarsh(), "MP", "FB", 110.0);
    assert_eq!(verdict(&weak, "device.amps_a", "MP.FB"), Verdict::Fail);
}

#[test]
fn branches_between_two_lines_of_208_add_as_vectors() {
    let fed = |volts: f64, phases: [Option<u32>; 3]| {
        let mut file = pinyon();
        file.library.micros[0].ac_v = Some(volts);
        for (b, phase) in file.job.branches.iter_mut().zip(phases) {
            (b.phase, b.arms_n) = (phase, vec![10]);
        }
        number(&report(&file), "circuit.i_max_a", "FEEDER")
    };
    let one = 10.0 * 1.38;
    // One on each pair of lines: the root of three.
    near(fed(208.0, [Some(1), Some(2), Some(3)]), 3.0_f64.sqrt() * one);
    // Two on one pair, one on the next: the shared line carries the vector sum of 2 and 1 at 60°.
    near(fed(208.0, [Some(1), Some(1), Some(2)]), 7.0_f64.sqrt() * one);
    // Line to neutral: the fullest line.
    near(fed(120.0, [Some(1), Some(1), Some(2)]), 2.0 * one);
    // What nobody said may be on any: the third adds to the fullest as it is.
    near(fed(208.0, [Some(1), Some(2), None]), (3.0_f64.sqrt() + 1.0) * one);
    near(fed(240.0, [None; 3]), 3.0 * one);
}

#[test]
fn volts_poles_and_kind_are_those_of_what_it_opens() {
    let with = |change: &dyn Fn(&mut Device)| {
        changed(tern(), |j| {
            let own = device(j, "MP", "P1");
            (own.volts_v, own.poles_n) = (Some(400.0), Some(3.0));
            change(own);
        })
    };
    let r = with(&|_| {});
    assert_eq!(verdict(&r, "device.volts_v", "MP.P1"), Verdict::Pass);
    assert_eq!(verdict(&r, "device.poles_n", "MP.P1"), Verdict::Pass);
    assert_eq!(verdict(&r, "device.kind", "MP.P1"), Verdict::Pass);
    let low = with(&|d| d.volts_v = Some(230.0));
    assert_eq!(verdict(&low, "device.volts_v", "MP.P1"), Verdict::Fail);
    let short = with(&|d| d.poles_n = Some(2.0));
    assert_eq!(verdict(&short, "device.poles_n", "MP.P1"), Verdict::Fail);
    let dc = with(&|d| d.current = Some(CurrentKind::Dc));
    assert_eq!(verdict(&dc, "device.kind", "MP.P1"), Verdict::Fail);
    // A switch opens the neutral too: two poles in a single-phase house.
    let one_pole = changed(quarry(), |j| device(j, "BB", "RCD").poles_n = Some(1.0));
    assert_eq!(verdict(&one_pole, "device.poles_n", "BB.RCD"), Verdict::Fail);
}

#[test]
fn a_residual_device_carries_what_comes_through_it() {
    // 26.1 A through 25.
    let small = changed(quarry(), |j| {
        let mut own = Device::new(DeviceKind::Rcd);
        (own.amps_a, own.poles_n) = (Some(25.0), Some(2.0));
        node(j, "MP").devices.insert("RCD".into(), own);
        device(j, "MP", "P1").feeds = Some("RCD".into());
    });
    near(number(&small, "device.through_a", "MP.RCD"), 26.1);
    assert_eq!(verdict(&small, "device.amps_a", "MP.RCD"), Verdict::Fail);
}

#[test]
fn a_board_bears_its_main_and_all_that_feeds_in() {
    // 63 + 26.1 of 100 A.
    let r = report(&quarry());
    near(number(&r, "panel.board_a", "MP"), 63.0 + 26.1);
    assert_eq!(verdict(&r, "panel.board_a", "MP"), Verdict::Pass);
    let rated = |bus: Option<f64>| {
        changed(quarry(), |j| node(j, "MP").panel.as_mut().expect("a board").bus_a = bus)
    };
    assert_eq!(verdict(&rated(Some(80.0)), "panel.board_a", "MP"), Verdict::Fail);
    assert_eq!(verdict(&rated(None), "panel.board_a", "MP"), Verdict::Unknown);
}

#[test]
fn the_network_counts_the_house_and_consent_goes_as_far_as_its_watts() {
    let r = report(&quarry());
    near(number(&r, "network.phase_a", "site"), 26.1);
    assert_eq!(verdict(&r, "ac.network", "site"), Verdict::Warn);
    // 16 kW on three phases are 23.2 A each; the consent is for 17 kW.
    assert_eq!(verdict(&report(&tern()), "ac.network", "site"), Verdict::Pass);
    let short = changed(tern(), |j| {
        j.demands.values_mut().for_each(|d| d.limit_w = d.limit_w.map(|_| 15_000.0));
    });
    assert_eq!(verdict(&short, "ac.network", "site"), Verdict::Warn);
}

#[test]
fn watts_amps_and_volts_of_a_sheet_belong_together() {
    // 8000 W at 240 V are 33.3 A.
    let mut typed = kestrel();
    typed.library.inverters[0].ac_a = Some(23.3);
    let r = report(&typed);
    near(number(&r, "source.by_watts_a", "INV1"), 8000.0 / 240.0);
    assert_eq!(verdict(&r, "source.amps_agree", "INV1"), Verdict::Fail);
    assert_eq!(verdict(&report(&kestrel()), "source.amps_agree", "INV1"), Verdict::Pass);
}

/// A way and a circuit over it that carries no power.
fn added(job: &mut Job, kind: CircuitKind, from: &str, to: &str) {
    let parts = vec![Part { length_m: Some(3.0), ..Part::default() }];
    let way = Way::between(from.into(), to.into(), parts);
    job.plan.ways.insert("added".into(), way);
    let legs = vec![Leg::over(WireChoice::default(), vec!["added".into()])];
    let (from, to) = (End::node(&from.into()), Some(End::node(&to.into())));
    let circuit =
        Circuit { kind, name: String::new(), from, to, neutral: false, ocpd_a: None, legs };
    job.plan.circuits.insert("ZZ".into(), circuit);
}

/// The checks of a job by id and subject, but those of what was added.
fn verdicts(file: &JobFile) -> Vec<(String, Verdict)> {
    let own = |s: &Subject| !["added", "ZZ"].iter().any(|n| s.to_string().contains(n));
    let report = report(file);
    let checks = report.checks.iter().filter(|c| own(&c.subject));
    checks.map(|c| (format!("{} of {}", c.id, c.subject), c.verdict)).collect()
}

#[test]
fn what_is_added_and_carries_no_power_hides_nothing() {
    for (name, file) in all() {
        let before = verdicts(&file);
        for kind in [CircuitKind::Bond, CircuitKind::Control] {
            let mut more = file.clone();
            more.job.plan.nodes.insert("added-end".into(), Node::new(NodeKind::Tee));
            let from = file.job.plan.inverters_at().next().map(|(_, n)| n.to_string());
            let panel = file.job.plan.nodes.iter().find(|(_, n)| n.kind == NodeKind::Panel);
            let from = from.or(panel.map(|(k, _)| k.to_string())).expect("a node");
            added(&mut more.job, kind, &from, "added-end");
            let after = verdicts(&more);
            let moved: Vec<_> = before.iter().filter(|b| !after.contains(b)).collect();
            // An earth wire more may be one too many for a crimp, and asks where it lies.
            let other = |b: &&&(String, Verdict)| !b.0.starts_with("earth.");
            assert_eq!(moved.iter().filter(other).count(), 0, "{name}: {moved:?}");
        }
    }
}

/// Every value of a job file that may be left out, one at a time.
fn leaves(value: &Value, at: &str, found: &mut Vec<String>) {
    const WHOLE: [&str; 15] = [
        "devices",
        "demands",
        "nodes",
        "ways",
        "circuits",
        "routes",
        "strings",
        "branches",
        "inverters",
        "modules",
        "faces",
        "legs",
        "parts",
        "via",
        "name",
    ];
    match value {
        Value::Object(members) => {
            for (key, own) in members {
                let path = format!("{at}/{key}");
                let inside = at.rsplit('/').next().is_some_and(|host| WHOLE.contains(&host));
                if !own.is_null() && !inside && !WHOLE.contains(&key.as_str()) {
                    found.push(path.clone());
                }
                leaves(own, &path, found);
            }
        }
        Value::Array(list) => {
            for (i, own) in list.iter().enumerate().filter(|(_, v)| v.is_object()) {
                leaves(own, &format!("{at}/{i}"), found);
            }
        }
        _ => {}
    }
}

/// What has a true default, or whose absence is an answer.
const ANSWERS: [(&str, &str); 5] = [
    ("/nodes/BB/ways_n", "a board counts its places as a board"),
    ("/neutral", "it has none"),
    ("/protection/isolators", "the school's own habit, which is listed"),
    ("full_power_min_v", "a sheet need not name such a window"),
    ("/reversed", "none is turned round"),
];

/// What still takes a default that may be the kinder one, and has to ask.
const NOT_YET: [(&str, &str); 2] =
    [("/wire/cable", "taken for solar cable"), ("/wire/insulation", "taken for THWN-2")];

fn taken_out(file: &JobFile, path: &str) -> Option<JobFile> {
    let mut tree = serde_json::to_value(&file.job).expect("JSON");
    let (host, key) = path.rsplit_once('/')?;
    tree.pointer_mut(host)?.as_object_mut()?.remove(key)?;
    Some(JobFile { job: serde_json::from_value(tree).ok()?, ..file.clone() })
}

#[test]
fn what_is_left_out_of_a_plan_never_helps() {
    let rank = |v: Verdict| v as u8;
    let mut helped = Vec::new();
    for (name, file) in all() {
        let mut paths = Vec::new();
        let tree = serde_json::to_value(&file.job).expect("JSON");
        for part in ["plan", "site", "protection", "branches", "demands"] {
            leaves(&tree[part], &format!("/{part}"), &mut paths);
        }
        paths.retain(|p| ANSWERS.iter().chain(&NOT_YET).all(|(answer, _)| !p.contains(answer)));
        assert!(paths.len() > 30, "{name}: {}", paths.len());
        let keyed = |file: &JobFile| {
            let report = report(file);
            let checks = report.checks.into_iter().filter(|c| !c.alternative);
            checks.map(|c| ((c.id, c.subject.to_string()), c.verdict)).collect::<Vec<_>>()
        };
        let before = keyed(&file);
        for path in paths {
            let Some(less) = taken_out(&file, &path) else { continue };
            if !job::validate(&less).is_empty() {
                // Refused for want of it.
                continue;
            }
            let after = keyed(&less);
            let of = |key| before.iter().find(|(k, _)| k == key).map(|(_, v)| *v);
            let better: Vec<_> = after
                .iter()
                .filter(|(k, v)| *v == Verdict::Pass && of(k).is_some_and(|b| rank(b) > 0))
                .collect();
            if !better.is_empty() {
                helped.push(format!("{name}{path}: {better:?}"));
            }
            let gone: Vec<_> =
                before.iter().filter(|(k, _)| !after.iter().any(|(a, _)| a == k)).collect();
            let open = after.iter().any(|(k, v)| *v >= Verdict::Unknown && of(k) != Some(*v));
            if !gone.is_empty() && !open {
                helped.push(format!("{name}{path}: {gone:?} went away"));
            }
        }
    }
    assert!(helped.is_empty(), "{}", helped.join("\n"));
}
