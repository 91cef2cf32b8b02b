//! Answers that were wrong once, each with its arithmetic.

use heliant_core::figure::{Recording, Subject, Verdict};
use heliant_core::job::{self, Building, Confirmed, JobFile};
use heliant_core::school::Edition;
use heliant_core::{Report, evaluate, evaluate_with};

fn kestrel() -> JobFile {
    job::read(include_str!("../../../data/demo/kestrel-lane.json")).expect("a demo job").file
}

fn tern() -> JobFile {
    job::read(include_str!("../../../data/demo/tern-bay.json")).expect("a demo job").file
}

fn pinyon() -> JobFile {
    job::read(include_str!("../../../data/demo/pinyon-street.json")).expect("a demo job").file
}

fn report(file: &JobFile) -> Report {
    evaluate(&file.job, &file.library, &file.readings)
}

#[track_caller]
fn verdict(r: &Report, id: &str, subject: &str) -> Verdict {
    r.check(id, subject).unwrap_or_else(|| panic!("no check {id} of {subject}")).verdict
}

#[track_caller]
fn number(r: &Report, id: &str, subject: &str) -> f64 {
    let figure = r.figure(id, subject).unwrap_or_else(|| panic!("no {id} of {subject}"));
    figure.value.as_ref().and_then(|v| v.number()).unwrap_or_else(|| panic!("{figure:?}"))
}

#[test]
fn the_ceiling_is_that_of_the_building_a_circuit_enters() {
    let mut file = kestrel();
    file.job.site.building = Some(Building::Ground);
    file.library.inverters[0].vdc_max_v = Some(1500.0);
    let cold = |file: &JobFile| verdict(&report(file), "string.voc_cold_v", "A");
    // 13 x 44.4196 = 577.5 V holds in every building.
    file.job.strings[0].n = 13;
    assert_eq!(cold(&file), Verdict::Pass);
    // 14 x 44.4196 = 621.9 V: above a dwelling's 600, below another roof's 1000. Its way goes
    // through an attic.
    file.job.strings[0].n = 14;
    let open = report(&file);
    let check = open.check("string.voc_cold_v", "A").expect("the check");
    assert_eq!(
        (check.verdict, check.missing.as_slice()),
        (Verdict::Unknown, &["site.dc_enters"][..])
    );
    file.job.site.dc_enters = Some(Building::OtherRoof);
    assert_eq!(cold(&file), Verdict::Pass);
    file.job.site.dc_enters = Some(Building::Dwelling12);
    assert_eq!(cold(&file), Verdict::Fail);
    // One that stays outside has the ceiling of a ground mount.
    for part in file.job.plan.ways.values_mut().flat_map(|w| &mut w.parts) {
        part.place = Some(job::Place::OutsideWallShade);
    }
    assert_eq!(cold(&file), Verdict::Pass);
}

#[test]
fn the_fixed_factor_yields_to_a_coefficient_that_says_more() {
    let mut file = tern();
    file.job.strings.iter_mut().for_each(|s| s.optimizer = None);
    file.job.site.cold_method = job::ColdMethod::Factor;
    let k = |file: &JobFile| number(&report(file), "string.k_cold", "A");
    // -0.25 %/°C: at -6 °C 1 + 0.0025 x 31 = 1.0775; at -40 °C 1 + 0.0025 x 65 = 1.1625.
    assert!((k(&file) - 1.15).abs() < 1e-9);
    file.job.site.t_min_c = Some(-40.0);
    assert!((k(&file) - 1.1625).abs() < 1e-9);
}

#[test]
fn bifacial_gain_counts_at_every_device() {
    let mut file = tern();
    file.library.modules[0].ratings.bifacial_gain = Some(0.1);
    // 14.05 x 1.1 = 15.455 of 15.5 A; with 0.11 15.5955 A.
    assert_eq!(verdict(&report(&file), "optimizer.isc_a", "A"), Verdict::Pass);
    file.library.modules[0].ratings.bifacial_gain = Some(0.11);
    assert_eq!(verdict(&report(&file), "optimizer.isc_a", "A"), Verdict::Fail);
    let mut file = pinyon();
    let isc = file.library.modules[0].ratings.isc_a.expect("given");
    file.library.modules[0].ratings.bifacial_gain = Some(0.2);
    assert!((number(&report(&file), "micro.isc_a", "A") - isc * 1.2).abs() < 1e-9);
}

#[test]
fn a_device_is_never_above_the_makers_largest() {
    let mut file = kestrel();
    let panel = file.job.plan.nodes.get_mut("MP").expect("MP");
    panel.devices.get_mut("P1").expect("its breaker").amps_a = Some(60.0);
    file.library.breakers.iter_mut().for_each(|b| b.amps_a = None);
    file.job.plan.circuits.get_mut("AC1").expect("AC1").ocpd_a = None;
    assert_eq!(verdict(&report(&file), "circuit.ocpd_maker", "AC1"), Verdict::Fail);
    let mut file = pinyon();
    file.library.micros[0].max_ocpd_a = Some(15.0);
    assert_eq!(verdict(&report(&file), "circuit.ocpd_maker", "B"), Verdict::Fail);
    file.library.micros[0].max_ocpd_a = Some(20.0);
    assert_eq!(verdict(&report(&file), "circuit.ocpd_maker", "B"), Verdict::Pass);
}

#[test]
fn the_neutral_of_two_lines_of_208_counts() {
    let mut file = kestrel();
    // Two circuits in the garage's raceway: three DC pairs are 6; the output of 240 V is 2, of two
    // lines of 208Y/120 with its neutral 3: 9, 0.7 instead of 0.7 for 8; one pair less: 7 and 6.
    file.job.plan.circuits.remove("C");
    let way = file.job.plan.ways["AC1"].clone();
    file.job.plan.circuits.get_mut("AC1").expect("AC1").legs[0].via = vec!["AC1".into()];
    let mut shared = way;
    shared.from = "RB".into();
    file.job.plan.ways.insert("w".into(), shared);
    for key in ["A", "B"] {
        file.job.plan.circuits.get_mut(key).expect("it is there").legs[0].via = vec!["AC1".into()];
    }
    // Two pairs and two lines: 6 wires, 0.8; with the neutral 7 wires, 0.7.
    let factor = |file: &JobFile| number(&report(file), "circuit.f_count", "A");
    assert!((factor(&file) - 0.8).abs() < 1e-9);
    file.library.inverters[0].ac_v = Some(208.0);
    assert!((factor(&file) - 0.7).abs() < 1e-9);
}

#[test]
fn a_mixed_input_takes_no_string_by_itself() {
    let mut file = tern();
    file.job.strings[2].optimizer = None;
    assert_eq!(verdict(&report(&file), "mppt.same_kind", "INV1/2"), Verdict::Fail);
}

#[test]
fn three_unfused_strings_wait_for_their_wire() {
    let mut file = kestrel();
    for s in &mut file.job.strings {
        (s.n, s.mppt) = (8, 1);
    }
    file.library.modules[0].ratings.series_fuse_a = Some(40.0);
    // 2 x 1.25 x 13.85 = 34.6 A: below the 40 A of the module, and below the wire's 36.08 A.
    let needed = |file: &JobFile| {
        let r = report(file);
        r.figure("string.fuse_needed", "INV1/1").and_then(|f| f.value.clone()).map(|v| match v {
            heliant_core::figure::Value::Flag(f) => f,
            other => panic!("{other:?}"),
        })
    };
    assert_eq!(needed(&file), Some(false));
    // 10 AWG: 40 x 0.82 x 0.8 = 26.24 A.
    for key in ["A", "B", "C"] {
        let leg = &mut file.job.plan.circuits.get_mut(key).expect("it is there").legs[0];
        leg.wire.awg = Some("10".to_owned());
    }
    assert_eq!(needed(&file), Some(true));
    assert_eq!(verdict(&report(&file), "string.fuse_fitted", "INV1/1"), Verdict::Fail);
    // Without a wire it is open.
    file.job.plan.circuits.get_mut("B").expect("B").legs.clear();
    assert_eq!(needed(&file), None);
}

#[test]
fn rules_are_cited_by_the_edition_of_the_job() {
    let mut file = kestrel();
    let source = |file: &JobFile| {
        let r = evaluate_with(&file.job, &file.library, &[], Recording::Everything);
        let rule = r.check("panel.far_end_120", "MP").expect("the rule").source;
        let heat = r.figure("circuit.f_temp", "A").expect("the factor");
        (rule, heat.working.last().expect("a line").source.clone(), r.checks.len())
    };
    let (rule, table, checks) = source(&file);
    assert_eq!((rule, table.as_str()), ("705.12(B)(2)", "Table 310.15(B)(1)(1), 90 °C"));
    file.job.settings.edition = Some(Edition::Y2017);
    let old = ("705.12(B)(2)(3)(b)", "Table 310.15(B)(2)(a), 90 °C".to_owned(), checks);
    assert_eq!(source(&file), old);
    // The other school has no such setting.
    let mut iec = tern();
    iec.job.settings.edition = Some(Edition::Y2017);
    assert_eq!(report(&iec).checks[0].source, report(&tern()).checks[0].source);
}

#[test]
fn what_is_taken_by_habit_is_listed_and_ticked_by_who_looked() {
    let mut file = kestrel();
    let r = report(&file);
    let of = |key: &str| {
        let own = r.assumptions.iter().find(|a| a.key == key);
        own.unwrap_or_else(|| panic!("no {key} in {:?}", r.assumptions)).subjects.clone()
    };
    let circuits = ["A", "AC1", "B", "C"].map(|k| Subject::circuit(&k.into()));
    assert_eq!(of("terminals_75"), circuits);
    assert_eq!(of("neutral_unbalance"), [circuits[1].clone()]);
    assert_eq!(of("attic_17").len(), 3);
    assert_eq!(of("no_backfeed"), [Subject::mppt(&"INV1".into(), 2)]);
    assert!(r.assumptions.iter().all(|a| a.confirmed_by.is_none()));
    // What is said is no habit any more.
    for c in file.job.plan.circuits.values_mut() {
        c.legs[0].wire.terminal_c = Some(75);
    }
    assert!(report(&file).assumptions.iter().all(|a| a.key != "terminals_75"));
    let (assumption, by) = ("attic_17".to_owned(), "Ines Rowe".to_owned());
    file.job.confirmed.push(Confirmed { assumption, by });
    let r = report(&file);
    let attic = r.assumptions.iter().find(|a| a.key == "attic_17").expect("it stays listed");
    assert_eq!(attic.confirmed_by.as_deref(), Some("Ines Rowe"));
}

#[test]
fn a_way_in_insulation_is_open_until_it_is_said() {
    let mut file = tern();
    let way = file.job.plan.ways.get_mut("AC1").expect("AC1");
    way.parts[0].place = Some(job::Place::Cavity);
    (way.parts[0].method, way.parts[0].raceway) = (job::Method::Cable, None);
    // 6 mm² PVC, three loaded: clipped 41 A x 0.94 = 38.5 holds 32 A, half of it does not.
    let iz = |file: &JobFile| verdict(&report(file), "circuit.iz_a", "AC1");
    assert_eq!(iz(&file), Verdict::Unknown);
    file.job.plan.ways.get_mut("AC1").expect("AC1").parts[0].insulated = Some(false);
    assert_eq!(iz(&file), Verdict::Pass);
    assert!((number(&report(&file), "circuit.iz_a", "AC1") - 41.0 * 0.94).abs() < 1e-9);
    file.job.plan.ways.get_mut("AC1").expect("AC1").parts[0].insulated = Some(true);
    assert_eq!(iz(&file), Verdict::Fail);
    assert!((number(&report(&file), "circuit.iz_a", "AC1") - 41.0 * 0.94 / 2.0).abs() < 1e-9);
}
