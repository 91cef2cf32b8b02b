//! The three parties: what each asks, what the plan meets, what a late demand costs.

use heliant_core::figure::Verdict;
use heliant_core::job::{
    Command, Demand, DemandKind, DeviceKind, Job, Method, NodeKind, Party, Place, choices,
    commanded,
};
use heliant_core::school::School;

use crate::{
    changed, check, cured, device, kestrel, near, node, pinyon, report, saltmarsh, verdict,
};

fn demand(party: Party, what: DemandKind) -> Demand {
    serde_json::from_value(serde_json::json!({ "party": party, "what": what })).expect("a demand")
}

fn ask(job: &mut Job, key: &str, own: Demand) {
    job.demands.insert(key.into(), own);
}

#[test]
fn a_late_demand_says_what_it_costs_and_is_met_by_one_press() {
    let mut file = kestrel();
    let own = Demand {
        breaker_will_do: Some(false),
        said_by: "the operator's desk".to_owned(),
        said_on: "2026-10-02".to_owned(),
        evidence: "letter 14".to_owned(),
        ..demand(Party::Network, DemandKind::AcDisconnect)
    };
    ask(&mut file.job, "net", own);
    let r = report(&file);
    // The breaker can be locked, and its contacts are not seen.
    let own = check(&r, "demand.met", "net");
    assert_eq!(own.verdict, Verdict::Fail);
    assert!(own.reason.as_deref().is_some_and(|t| t.contains("not seen to be open")));
    assert_eq!(verdict(&r, "demand.said", "net"), Verdict::Pass);
    // 130 and 75 minutes at 65 an hour.
    let drawn = r.demands.iter().find(|d| d.demand == "net").expect("it is drawn");
    near(drawn.hours.expect("told"), 1.25);
    near(drawn.cost.expect("told"), 130.0 + 1.25 * 65.0);
    assert!(drawn.label);
    let mended = cured(&file, own);
    let isolators: Vec<_> =
        mended.job.plan.nodes.values().filter(|n| n.kind == NodeKind::Isolator).collect();
    assert_eq!(isolators.len(), 1);
    let after = report(&mended);
    assert_eq!(verdict(&after, "demand.met", "net"), Verdict::Pass);
    // What is set in wants its rating: open, and not good.
    assert_eq!(verdict(&after, "disconnect.amps_a", "D.DISC"), Verdict::Unknown);
    // The circuit goes through it unbroken.
    let circuit = &mended.job.plan.circuits["AC1"];
    assert_eq!((circuit.legs.len(), circuit.legs[0].via.len()), (1, 2));
}

#[test]
fn a_disconnect_is_set_into_a_way_whatever_is_known_of_its_length() {
    let set = |length: Option<f64>| {
        let mut job = kestrel().job;
        job.plan.ways.get_mut("AC1").expect("AC1").parts[0].length_m = length;
        commanded(&job, &Command::SetDisconnect { way: "AC1".into() }).expect("it can be done").0
    };
    let known = set(Some(7.2));
    let lengths: Vec<Option<f64>> = ["AC1", "AC1-2"]
        .iter()
        .filter_map(|w| known.plan.ways.get(*w))
        .flat_map(|w| &w.parts)
        .map(|p| p.length_m)
        .collect();
    assert_eq!(lengths, [Some(3.6), Some(3.6)]);
    let open = set(None);
    assert!(open.plan.nodes.values().any(|n| n.kind == NodeKind::Isolator));
    let gone = Command::SetDisconnect { way: "NOWHERE".into() };
    assert!(commanded(&kestrel().job, &gone).is_err());
}

#[test]
fn two_parties_that_do_not_take_the_same_thing_are_told_before_the_day() {
    let both = |refuses: bool| {
        changed(kestrel(), |j| {
            let takes = Demand {
                breaker_will_do: Some(true),
                ..demand(Party::Authority, DemandKind::AcDisconnect)
            };
            let other = Demand {
                breaker_will_do: Some(!refuses),
                ..demand(Party::Network, DemandKind::AcDisconnect)
            };
            ask(j, "auth", takes);
            ask(j, "net", other);
        })
    };
    let r = both(true);
    assert_eq!(verdict(&r, "demand.met", "auth"), Verdict::Pass);
    let own = check(&r, "demand.disconnect_agrees", "net");
    assert_eq!(own.verdict, Verdict::Warn);
    assert!(own.reason.as_deref().is_some_and(|t| t.contains("the network operator")));
    assert!(both(false).check("demand.disconnect_agrees", "net").is_none());
    // One that is seen open serves both.
    let serves = changed(pinyon(), |j| {
        let will = |is| Demand {
            breaker_will_do: Some(is),
            ..demand(Party::Network, DemandKind::AcDisconnect)
        };
        ask(j, "a", will(true));
        ask(j, "b", will(false));
    });
    assert_eq!(verdict(&serves, "demand.disconnect_agrees", "b"), Verdict::Pass);
}

#[test]
fn each_demand_asks_the_plan_where_the_plan_can_say() {
    let one = |what: DemandKind, change: &dyn Fn(&mut Job)| {
        let r = changed(kestrel(), |j| {
            ask(j, "x", demand(Party::Authority, what));
            change(j);
        });
        verdict(&r, "demand.met", "x")
    };
    let as_it_is = |what| one(what, &|_| {});
    assert_eq!(as_it_is(DemandKind::FreePaths), Verdict::Pass);
    assert_eq!(one(DemandKind::FreePaths, &|j| j.settings.fire_paths = None), Verdict::Unknown);
    assert_eq!(one(DemandKind::FreePaths, &|j| j.settings.fire_paths = Some(false)), Verdict::Fail);
    assert_eq!(as_it_is(DemandKind::RapidShutdown), Verdict::Pass);
    assert_eq!(as_it_is(DemandKind::BackingBoard), Verdict::Pass);
    assert_eq!(as_it_is(DemandKind::MetalRaceway), Verdict::Pass);
    let plastic = |j: &mut Job| {
        let part = &mut j.plan.ways.get_mut("DC1").expect("DC1").parts[0];
        part.raceway.as_mut().expect("EMT").kind = heliant_core::job::RacewayKind::Pvc80;
    };
    assert_eq!(one(DemandKind::MetalRaceway, &plastic), Verdict::Fail);
    // In a plastic raceway of no known place it may lie indoors; metal-clad cable serves anywhere.
    let nowhere = |j: &mut Job| {
        plastic(j);
        j.plan.ways.get_mut("DC1").expect("DC1").parts[0].place = None;
    };
    assert_eq!(one(DemandKind::MetalRaceway, &nowhere), Verdict::Unknown);
    let clad = |j: &mut Job| {
        let part = &mut j.plan.ways.get_mut("DC1").expect("DC1").parts[0];
        (part.raceway, part.method) = (None, Method::Cable);
    };
    assert_eq!(one(DemandKind::MetalRaceway, &clad), Verdict::Pass);
    // Where nothing is planned nothing is met.
    let bare = |j: &mut Job| j.plan = Default::default();
    for what in [DemandKind::MetalRaceway, DemandKind::RoofDisconnect, DemandKind::AcDisconnect] {
        assert_eq!(one(what, &bare), Verdict::Unknown, "{what:?}");
    }
    assert_eq!(as_it_is(DemandKind::RoofDisconnect), Verdict::Fail);
    // What only a person can say is open until somebody says it.
    for what in [DemandKind::RemoteOff, DemandKind::MeterChange, DemandKind::Consent] {
        assert_eq!(as_it_is(what), Verdict::Unknown);
        let met = |j: &mut Job| {
            j.demands.get_mut("x").expect("x").met = Some(true);
        };
        assert_eq!(one(what, &met), Verdict::Pass);
    }
}

#[test]
fn an_export_limit_holds_where_nothing_more_can_go_out() {
    let limit = |w: Option<f64>| {
        let r = changed(kestrel(), |j| {
            let own = Demand { limit_w: w, ..demand(Party::Network, DemandKind::ExportLimit) };
            ask(j, "x", own);
        });
        verdict(&r, "demand.met", "x")
    };
    // 8000 VA can go out.
    assert_eq!(limit(Some(8000.0)), Verdict::Pass);
    assert_eq!(limit(Some(5000.0)), Verdict::Unknown, "a limiter has to be set and tried");
    assert_eq!(limit(None), Verdict::Unknown);
    // 31 units of 330 W are 10 230 W.
    let units = |w: f64| {
        let own = Demand { limit_w: Some(w), ..demand(Party::Network, DemandKind::ExportLimit) };
        verdict(&changed(pinyon(), |j| ask(j, "x", own)), "demand.met", "x")
    };
    let watts = pinyon().library.micros[0].ac_w.expect("given") * 31.0;
    assert_eq!(units(watts), Verdict::Pass);
    assert_eq!(units(watts - 1.0), Verdict::Unknown);
}

#[test]
fn every_source_has_its_disconnect() {
    // Two inverters, each with a breaker that can be locked.
    let both = |change: &dyn Fn(&mut Job)| {
        let r = changed(saltmarsh(), |j| {
            let network = demand(Party::Network, DemandKind::AcDisconnect);
            ask(j, "x", Demand { breaker_will_do: Some(true), ..network });
            change(j);
        });
        check(&r, "demand.met", "x").clone()
    };
    assert_eq!(both(&|_| {}).verdict, Verdict::Pass);
    let own = both(&|j| device(j, "ACP", "P2").lockable = Some(false));
    assert_eq!(own.verdict, Verdict::Fail);
    assert!(own.reason.as_deref().is_some_and(|t| t.contains("between AC2 and")), "{own:?}");
    // One of which nobody said it.
    let open = both(&|j| {
        let own = device(j, "ACP", "P2");
        (own.sheet, own.lockable) = (None, None);
    });
    assert_eq!((open.verdict, open.missing[0]), (Verdict::Unknown, "device.lockable"));
}

#[test]
fn each_press_mends_a_source_until_all_have_theirs() {
    // Two inverters straight on the service's panel: each output wants one of its own.
    let mut file = saltmarsh();
    let own = demand(Party::Network, DemandKind::AcDisconnect);
    ask(&mut file.job, "x", Demand { breaker_will_do: Some(false), ..own });
    file.job.plan.circuits.retain(|key, _| key.as_str() != "FEED");
    for press in 1..=2 {
        let r = report(&file);
        let own = check(&r, "demand.met", "x");
        assert_eq!(own.verdict, Verdict::Fail);
        let command = own.cures.iter().find_map(|c| c.command.clone());
        assert!(matches!(command, Some(Command::SetDisconnect { .. })), "{press}: {:?}", own.cures);
        file = cured(&file, own);
    }
    assert_eq!(verdict(&report(&file), "demand.met", "x"), Verdict::Pass);
    // Behind the feeder one serves both.
    let mut file = saltmarsh();
    let own = demand(Party::Network, DemandKind::AcDisconnect);
    ask(&mut file.job, "x", Demand { breaker_will_do: Some(false), ..own });
    let mended = cured(&file, check(&report(&file), "demand.met", "x"));
    assert_eq!(verdict(&report(&mended), "demand.met", "x"), Verdict::Pass);
}

#[test]
fn a_disconnect_on_the_roof_serves_what_comes_through_it() {
    // One of two combiners has an isolator of its own up there.
    let r = changed(saltmarsh(), |j| {
        ask(j, "x", demand(Party::Authority, DemandKind::RoofDisconnect));
        for (key, isolator) in [("CB1", true), ("CB2", false)] {
            let own = node(j, key);
            own.place = Some(Place::UnderModules);
            own.devices.retain(|_, d| isolator || d.what != DeviceKind::Isolator);
        }
    });
    let own = check(&r, "demand.met", "x");
    assert_eq!(own.verdict, Verdict::Fail);
    assert!(own.reason.as_deref().is_some_and(|t| t.contains("for D, E, F")), "{own:?}");
}

#[test]
fn who_said_it_is_asked_of_every_demand() {
    let r = changed(kestrel(), |j| ask(j, "x", demand(Party::Fire, DemandKind::FreePaths)));
    let own = check(&r, "demand.said", "x");
    assert_eq!(own.missing, ["demand.said_by", "demand.said_on", "demand.evidence"]);
}

#[test]
fn what_is_usual_differs_by_school() {
    let kinds = |school| {
        let all = choices(school).demands;
        all.into_iter().map(|d| (d.party, d.kind)).collect::<Vec<_>>()
    };
    let (na, iec) = (kinds(School::Na), kinds(School::Iec));
    assert!(na.contains(&(Party::Fire, DemandKind::RapidShutdown)));
    assert!(!iec.contains(&(Party::Fire, DemandKind::RapidShutdown)));
    assert!(iec.contains(&(Party::Network, DemandKind::Consent)));
}

#[test]
fn a_breaker_that_nobody_says_can_be_locked_is_none() {
    let r = changed(kestrel(), |j| {
        device(j, "MP", "P1").lockable = Some(false);
        ask(
            j,
            "x",
            Demand {
                breaker_will_do: Some(true),
                ..demand(Party::Network, DemandKind::AcDisconnect)
            },
        );
    });
    assert_eq!(verdict(&r, "demand.met", "x"), Verdict::Fail);
}
