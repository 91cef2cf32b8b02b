//! The DC side: isolators, surge devices, fuses, combiners, rapid shutdown.

use heliant_core::figure::{Value, Verdict};
use heliant_core::job::{
    Building, Device, DeviceKind, IsolatorPer, NodeKind, Protection, ShutdownBy, SurgePolicy,
    SurgeSite,
};

use crate::{
    changed, check, device, kestrel, near, node, number, pinyon, quarry, rated, report, saltmarsh,
    tern, verdict,
};

#[test]
fn an_isolator_stands_the_coldest_morning_and_the_brightest_day() {
    let r = report(&quarry());
    // 14 x 39.7 V x (1 + 0.0025 x 33) = 601.65 V.
    let volts = check(&r, "isolator.volts_v", "ENC.ISO-A");
    near(volts.limit.as_ref().expect("a limit").value, 14.0 * 39.7 * (1.0 + 0.0025 * 33.0));
    assert_eq!(volts.verdict, Verdict::Pass);
    // 1.25 x Isc of one string.
    let isc = quarry().library.modules[0].ratings.isc_a.expect("given");
    near(number(&r, "isolator.i_max_a", "ENC.ISO-A"), 1.25 * isc);
    let low = changed(quarry(), |j| device(j, "ENC", "ISO-A").volts_v = Some(600.0));
    let low = check(&low, "isolator.volts_v", "ENC.ISO-A");
    assert_eq!(low.verdict, Verdict::Fail);
    near(low.margin.expect("how far"), 600.0 - 601.6535);
    let thin = rated(quarry(), "ENC", "ISO-A", 16.0);
    assert_eq!(verdict(&thin, "isolator.amps_a", "ENC.ISO-A"), Verdict::Fail);
    // A rating nobody entered is not enough.
    let mut bare = quarry();
    let own = device(&mut bare.job, "ENC", "ISO-A");
    (own.sheet, own.volts_v) = (None, None);
    let open = report(&bare);
    let open = check(&open, "isolator.volts_v", "ENC.ISO-A");
    assert_eq!(
        (open.verdict, open.missing.as_slice()),
        (Verdict::Unknown, &["device.volts_v"][..])
    );
}

#[test]
fn one_isolator_a_string_or_one_an_input_as_it_is_set() {
    // Two strings share an input: the inverter's switch opens the input, not each string.
    let per = |per| {
        changed(tern(), |j| {
            j.protection.isolators = Some(per);
        })
    };
    assert_eq!(verdict(&per(IsolatorPer::Input), "isolator.fitted", "INV1/2"), Verdict::Pass);
    let each = per(IsolatorPer::String);
    assert_eq!(verdict(&each, "isolator.fitted", "A"), Verdict::Pass, "alone on its input");
    assert_eq!(verdict(&each, "isolator.fitted", "B"), Verdict::Fail);
    // Four poles open two strings, two of them one.
    let with = |poles: f64| {
        changed(tern(), |j| {
            j.protection.isolators = Some(IsolatorPer::String);
            let mut own = Device::new(DeviceKind::Isolator);
            own.poles_n = Some(poles);
            node(j, "RB").devices.insert("ISO".into(), own);
        })
    };
    assert_eq!(verdict(&with(4.0), "isolator.fitted", "B"), Verdict::Fail, "three come through");
    assert_eq!(verdict(&with(6.0), "isolator.fitted", "B"), Verdict::Pass);
}

#[test]
fn what_a_data_sheet_does_not_say_of_a_switch_is_open() {
    let mut file = kestrel();
    file.library.inverters[0].dc_switch = None;
    let r = report(&file);
    let own = check(&r, "isolator.fitted", "INV1/1");
    assert_eq!((own.verdict, own.missing[0]), (Verdict::Unknown, "inverter.dc_switch"));
    file.library.inverters[0].dc_switch = Some(false);
    assert_eq!(verdict(&report(&file), "isolator.fitted", "INV1/1"), Verdict::Fail);
    // A plan without any device is not planned to that depth yet.
    for own in file.job.plan.nodes.values_mut() {
        own.devices.clear();
    }
    for circuit in file.job.plan.circuits.values_mut() {
        if let Some(end) = &mut circuit.to {
            end.device = None;
        }
    }
    assert_eq!(verdict(&report(&file), "isolator.fitted", "INV1/1"), Verdict::Unknown);
}

#[test]
fn a_node_that_is_an_isolator_wants_its_rating() {
    let mut file = kestrel();
    file.job.plan.nodes.get_mut("RB").expect("RB").kind = NodeKind::Isolator;
    let r = report(&file);
    let own = check(&r, "isolator.volts_v", "RB");
    assert_eq!((own.verdict, own.missing[0]), (Verdict::Unknown, "node.devices"));
}

#[test]
fn surge_devices_by_policy_or_by_length() {
    // Nothing on the way and nothing in the inverter: the policy wants one, the rule need not.
    let bare = |surge: SurgePolicy, flashes: f64| {
        let mut file = quarry();
        for key in ["RB", "ENC"] {
            node(&mut file.job, key).devices.retain(|_, d| d.what != DeviceKind::SurgeDevice);
        }
        file.job.protection.surge = Some(surge);
        file.job.protection.surge_site = Some(SurgeSite::Dwelling);
        file.job.protection.flashes_per_km2 = Some(flashes);
        report(&file)
    };
    let always = bare(SurgePolicy::Always, 0.5);
    assert_eq!(verdict(&always, "spd.fitted", "INV1"), Verdict::Warn, "a policy, not a rule");
    // 18 m of cable: 115 / 0.5 = 230 m are far, 115 / 8 = 14.4 m are not.
    let far = bare(SurgePolicy::ByLength, 0.5);
    near(number(&far, "spd.l_crit_m", "INV1"), 230.0);
    assert!(far.check("spd.fitted", "INV1").is_none(), "none is needed");
    let near_by = bare(SurgePolicy::ByLength, 8.0);
    near(number(&near_by, "spd.l_crit_m", "INV1"), 14.375);
    assert_eq!(verdict(&near_by, "spd.fitted", "INV1"), Verdict::Fail);
    let needed = near_by.figure("spd.needed", "INV1").and_then(|f| f.value.clone());
    assert_eq!(needed, Some(Value::Flag(true)));
    // What lightning does there nobody said.
    let open = changed(quarry(), |j| {
        j.protection = Protection { surge: Some(SurgePolicy::ByLength), ..j.protection.clone() };
        j.protection.flashes_per_km2 = None;
    });
    let open = check(&open, "spd.needed", "INV1");
    assert_eq!(open.missing, ["protection.flashes_per_km2"]);
}

#[test]
fn over_ten_metres_both_ends_have_one() {
    // 4 + 8.5 + 4.9 + 0.6 = 18 m; one stands in the roof box, one in the enclosure.
    assert_eq!(verdict(&report(&quarry()), "spd.both_ends_fitted", "INV1"), Verdict::Pass);
    let one = changed(quarry(), |j| {
        node(j, "RB").devices.remove("SPD-R");
    });
    let own = check(&one, "spd.both_ends_fitted", "INV1");
    assert_eq!(own.verdict, Verdict::Warn);
    assert!(own.reason.as_deref().is_some_and(|r| r.contains("A has no device")));
    // A short cable needs one end.
    let short = changed(quarry(), |j| {
        node(j, "RB").devices.remove("SPD-R");
        for part in &mut j.plan.ways.get_mut("DC1").expect("DC1").parts {
            part.length_m = Some(3.0);
        }
    });
    assert!(short.check("spd.both_ends_fitted", "INV1").is_none());
}

#[test]
fn a_surge_device_is_no_fuse_and_a_fuse_no_surge_device() {
    // A string that ends at the surge device as if that opened it.
    let taken = changed(saltmarsh(), |j| {
        let circuit = j.plan.circuits.get_mut("A").expect("A");
        circuit.to.as_mut().expect("an end").device = Some("SPD".into());
    });
    assert_eq!(verdict(&taken, "device.mistaken", "CB1.SPD"), Verdict::Fail);
    assert!(report(&saltmarsh()).checks.iter().all(|c| c.id != "device.mistaken"));
    // No surge device, but fuses: it is said what these are.
    let mut file = saltmarsh();
    for inverter in &mut file.library.inverters {
        inverter.dc_surge = Some(false);
    }
    for key in ["CB1", "CB2"] {
        node(&mut file.job, key).devices.remove("SPD");
    }
    let r = report(&file);
    let own = check(&r, "spd.fitted", "INV1");
    assert_eq!(own.verdict, Verdict::Warn);
    let reason = own.reason.as_deref().expect("why");
    assert!(reason.contains("CB1 are fuses") && reason.contains("no surge"), "{reason}");
    // Volts of the device against the coldest morning: 10 x Voc x k.
    let low = changed(saltmarsh(), |j| device(j, "CB1", "SPD").volts_v = Some(400.0));
    assert_eq!(verdict(&low, "spd.ucpv_v", "CB1.SPD"), Verdict::Fail);
}

#[test]
fn a_fuse_lies_between_the_least_and_the_most() {
    let r = report(&saltmarsh());
    let isc = saltmarsh().library.modules[0].ratings.isc_a.expect("given");
    near(number(&r, "fuse.least_a", "CB1.F1"), 1.5625 * isc);
    assert_eq!(verdict(&r, "fuse.amps_a", "CB1.F1"), Verdict::Pass);
    // 0.9 of 25 A is left in a hot box, against 1.25 x Isc.
    near(number(&r, "fuse.hot_a", "CB1.F1"), 22.5);
    near(check(&r, "fuse.hot_a", "CB1.F1").limit.as_ref().expect("it").value, 1.25 * isc);
    let small = rated(saltmarsh(), "CB1", "F2", 20.0);
    assert_eq!(verdict(&small, "fuse.amps_a", "CB1.F2"), Verdict::Fail);
    assert_eq!(verdict(&small, "fuse.amps_a", "CB1.F1"), Verdict::Pass, "the others hold");
    // Above the module's series rating the circuit says it.
    let large = rated(saltmarsh(), "CB1", "F2", 30.0);
    assert_eq!(verdict(&large, "circuit.ocpd_maker", "B"), Verdict::Fail);
    let low = changed(saltmarsh(), |j| device(j, "CB1", "F3").volts_v = Some(300.0));
    assert_eq!(verdict(&low, "fuse.volts_v", "CB1.F3"), Verdict::Fail);
    // The spare one is on no circuit: nothing is asked of it.
    assert!(r.check("fuse.amps_a", "CB1.SPARE").is_none());
}

#[test]
fn a_combiner_keeps_a_spare_input_and_carries_all_its_strings() {
    let r = report(&saltmarsh());
    let isc = saltmarsh().library.modules[0].ratings.isc_a.expect("given");
    // 1.25 x 1.25 x 3 x Isc.
    near(number(&r, "combiner.i_design_a", "CB1"), 1.5625 * 3.0 * isc);
    assert_eq!(verdict(&r, "combiner.inputs", "CB1"), Verdict::Pass);
    let none_spare = changed(saltmarsh(), |j| {
        node(j, "CB1").devices.remove("SPARE");
    });
    let own = check(&none_spare, "combiner.inputs", "CB1");
    // All that arrive have one: that none is left is a caution.
    assert_eq!(own.verdict, Verdict::Warn);
    assert!(own.reason.as_deref().is_some_and(|r| r.contains("3 inputs for 3 circuits")));
    let short = changed(saltmarsh(), |j| {
        node(j, "CB1").devices.retain(|k, _| !["SPARE", "F3"].contains(&k.as_str()));
        let end = j.plan.circuits.get_mut("C").and_then(|c| c.to.as_mut()).expect("C ends there");
        end.device = None;
    });
    assert_eq!(verdict(&short, "combiner.inputs", "CB1"), Verdict::Fail);
    // Without a spare as a setting three are enough.
    let set = changed(saltmarsh(), |j| {
        node(j, "CB1").devices.remove("SPARE");
        j.protection.spare_n = Some(0);
    });
    assert_eq!(verdict(&set, "combiner.inputs", "CB1"), Verdict::Pass);
    let weak = changed(saltmarsh(), |j| device(j, "CB1", "BUS").amps_a = Some(60.0));
    assert_eq!(verdict(&weak, "combiner.bus_a", "CB1"), Verdict::Fail);
    let weak = rated(saltmarsh(), "CB1", "DISC", 60.0);
    assert_eq!(verdict(&weak, "combiner.disconnect_a", "CB1"), Verdict::Fail);
    // The sheet's own volts.
    let mut file = saltmarsh();
    file.library.combiners[0].volts_v = Some(400.0);
    assert_eq!(verdict(&report(&file), "combiner.volts_v", "CB1"), Verdict::Fail);
}

#[test]
fn rapid_shutdown_is_asked_on_buildings_of_one_school() {
    let r = report(&kestrel());
    assert_eq!(verdict(&r, "shutdown.by", "site"), Verdict::Pass);
    let said = |change: &dyn Fn(&mut Protection)| changed(kestrel(), |j| change(&mut j.protection));
    let open = said(&|p| p.shutdown = None);
    assert_eq!(verdict(&open, "shutdown.by", "site"), Verdict::Unknown);
    // Strings of bare modules are no electronics that give way.
    let wrong = said(&|p| p.shutdown = Some(ShutdownBy::ModuleElectronics));
    assert_eq!(verdict(&wrong, "shutdown.by", "site"), Verdict::Fail);
    let inside = said(&|p| p.shutdown_inside_v = Some(80.5));
    assert_eq!(verdict(&inside, "shutdown.inside_v", "site"), Verdict::Fail);
    let outside = said(&|p| p.shutdown_outside_v = Some(30.0));
    assert_eq!(verdict(&outside, "shutdown.outside_v", "site"), Verdict::Pass, "on the limit");
    let none = changed(kestrel(), |j| {
        node(j, "MP").devices.remove("RSD");
    });
    assert_eq!(verdict(&none, "shutdown.starter", "site"), Verdict::Unknown);
    // Not of a ground mount that stays outside, and not in the other school.
    assert!(report(&saltmarsh()).check("shutdown.by", "site").is_none());
    assert!(report(&tern()).check("shutdown.by", "site").is_none());
    let enters = changed(saltmarsh(), |j| j.site.dc_enters = Some(Building::Dwelling12));
    assert_eq!(verdict(&enters, "shutdown.by", "site"), Verdict::Unknown);
}

#[test]
fn behind_a_unit_one_module_stays_at_its_own_volts() {
    let file = pinyon();
    let r = report(&file);
    let own: Vec<f64> = ["A", "B", "C"].map(|l| number(&r, "micro.voc_cold_v", l)).to_vec();
    near(number(&r, "shutdown.inside_v", "site"), own.iter().copied().fold(0.0, f64::max));
    near(number(&r, "shutdown.outside_v", "site"), 0.0);
    assert_eq!(verdict(&r, "shutdown.by", "site"), Verdict::Pass);
}

#[test]
fn a_fuse_that_two_strings_come_through_carries_both() {
    // B's circuit led to A's fuse: 2 x 1.5625 x Isc of what one string asks.
    let file = saltmarsh();
    let one = number(&report(&file), "fuse.least_a", "CB1.F1");
    let r = changed(file, |job| {
        let own = job.plan.circuits.get_mut("B").expect("a circuit");
        own.to.as_mut().expect("an end").device = Some("F1".into());
    });
    near(number(&r, "fuse.least_a", "CB1.F1"), 2.0 * one);
    // 2 x 1.5625 x 13.85 is above 25.
    assert_eq!(verdict(&r, "fuse.amps_a", "CB1.F1"), Verdict::Fail);
}

#[test]
fn an_isolator_that_a_string_does_not_come_through_does_not_open_it() {
    // No switch in the inverters, which would open their inputs.
    let mut bare = saltmarsh();
    for own in &mut bare.library.inverters {
        own.dc_switch = Some(false);
    }
    assert_eq!(verdict(&report(&bare), "isolator.fitted", "INV1/1"), Verdict::Pass);
    // The bus leads past the isolator to what leaves the box.
    let r = changed(bare, |job| {
        device(job, "CB1", "BUS").feeds = None;
        for circuit in job.plan.circuits.values_mut() {
            if circuit.from.node.as_ref().is_some_and(|n| n == "CB1") {
                circuit.from.device = Some("BUS".into());
            }
        }
    });
    assert_eq!(verdict(&r, "isolator.fitted", "INV1/1"), Verdict::Fail);
}

#[test]
fn fuses_that_no_circuit_names_are_judged_all_the_same() {
    let loose = || {
        let mut file = saltmarsh();
        for c in file.job.plan.circuits.values_mut() {
            if let Some(to) = c.to.as_mut().filter(|e| e.node == Some("CB1".into())) {
                to.device = None;
            }
        }
        file
    };
    let unnamed = |change: &dyn Fn(&mut heliant_core::job::Job)| changed(loose(), change);
    // Four fuses for three strings: each has one, whichever: 1.25 x 1.25 x Isc.
    let isc = saltmarsh().library.modules[0].ratings.isc_gained_a().expect("given");
    let r = unnamed(&|_| {});
    near(number(&r, "fuse.least_a", "CB1.F2"), 1.5625 * isc);
    assert_eq!(verdict(&r, "fuse.amps_a", "CB1.F2"), Verdict::Pass);
    let small = rated(loose(), "CB1", "F2", 20.0);
    assert_eq!(verdict(&small, "fuse.amps_a", "CB1.F2"), Verdict::Fail);
    // The modules bear 25 A.
    assert_eq!(verdict(&small, "fuse.module", "CB1.F2"), Verdict::Pass);
    let large = rated(loose(), "CB1", "F2", 30.0);
    near(check(&large, "fuse.module", "CB1.F2").margin.expect("how far"), -5.0);
    // Two fuses for three strings: which two share one is not said.
    let few = unnamed(&|j| {
        node(j, "CB1").devices.retain(|k, _| !["F3", "SPARE"].contains(&k.as_str()));
    });
    let own = check(&few, "fuse.amps_a", "CB1.F1");
    assert_eq!((own.verdict, own.missing[0]), (Verdict::Unknown, "circuit.to.device"));
}
