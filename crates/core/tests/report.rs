//! What a report says of a whole job: counts, tapes, geometry of the drawings, what forms may
//! offer.

use heliant_core::figure::{Stage, Verdict};
use heliant_core::job::{self, Building, ColdMethod, Job, JobFile, Place, choices};
use heliant_core::school::School;
use heliant_core::{Report, evaluate};
use serde_json::json;

fn kestrel() -> JobFile {
    job::read(include_str!("../../../data/demo/kestrel-lane.json"))
        .expect("the demo job reads")
        .file
}

fn report(file: &JobFile) -> Report {
    evaluate(&file.job, &file.library, &file.readings)
}

fn changed(change: impl FnOnce(&mut Job)) -> Report {
    let mut file = kestrel();
    change(&mut file.job);
    report(&file)
}

fn main_panel(j: &mut job::Job) -> &mut job::Panel {
    j.plan.nodes.get_mut("MP").and_then(|n| n.panel.as_mut()).expect("the panel")
}

fn first_part(j: &mut job::Job) -> &mut job::Part {
    &mut j.plan.ways.get_mut("DC1").expect("the way").parts[0]
}

fn wire_of_a(j: &mut job::Job) -> &mut job::WireChoice {
    &mut j.plan.circuits.get_mut("A").expect("the circuit").legs[0].wire
}

#[test]
fn counts_add_up_and_rules_that_are_only_shown_are_not_counted() {
    let r = report(&kestrel());
    let counted: Vec<_> = r.checks.iter().filter(|c| !c.alternative).collect();
    let of = |v: Verdict| counted.iter().filter(|c| c.verdict == v).count() as u32;
    assert_eq!(
        (r.counts.pass, r.counts.warn, r.counts.fail, r.counts.unknown),
        (of(Verdict::Pass), of(Verdict::Warn), of(Verdict::Fail), of(Verdict::Unknown))
    );
    let by_stage = r
        .stages
        .iter()
        .fold(0, |n, s| n + s.counts.pass + s.counts.warn + s.counts.fail + s.counts.unknown);
    assert_eq!(by_stage as usize, counted.len(), "every check belongs to a stage");
    assert_eq!(r.verdict, Verdict::Fail);
    let stage = |s: Stage| r.stages.iter().find(|x| x.stage == s).expect("a stage").verdict;
    assert_eq!(
        (stage(Stage::Site), stage(Stage::Strings), stage(Stage::Runs)),
        (Verdict::Pass, Verdict::Warn, Verdict::Fail)
    );
    // The 100 % rule of the busbar, 191.6 A against 200 A, holds; where one rule holds the others
    // are only shown.
    assert!(r.checks.iter().any(|c| c.id == "panel.sum" && c.alternative));
}

#[test]
fn one_busbar_rule_is_enough_and_without_one_it_stops() {
    let none = changed(|j| {
        let p = main_panel(j);
        (p.bus_a, p.main_a, p.load_calc_a) = (Some(100.0), Some(100.0), Some(90.0));
    });
    assert_eq!(none.check("panel.rule", "MP").expect("the rule").verdict, Verdict::Fail);
    let far = changed(|j| main_panel(j).main_a = Some(198.0));
    // 1.25 x 33.3 + 198 = 239.6 A, under 240 A.
    assert_eq!(far.check("panel.rule", "MP").expect("the rule").verdict, Verdict::Pass);
}

#[test]
fn tapes_go_round_the_colours_and_then_get_bands() {
    let r = changed(|j| {
        let one = j.strings[0].clone();
        j.strings = (0..18_u8)
            .map(|i| job::JobString {
                letter: char::from(b'A' + i).to_string().into(),
                ..one.clone()
            })
            .collect();
        j.plan = job::Plan::default();
    });
    let tape = |i: usize| (r.tapes[i].colour, r.tapes[i].bands);
    assert_eq!(
        (tape(0), tape(7), tape(8), tape(17)),
        (("blue", 0), ("grey", 0), ("blue", 1), ("orange", 2))
    );
    let mut all: Vec<_> = (0..18).map(tape).collect();
    all.sort_unstable();
    all.dedup();
    assert_eq!(all.len(), 18, "no two strings have one tape");
}

#[test]
fn the_window_drawing_holds_what_the_figures_say() {
    let r = report(&kestrel());
    let w = &r.string_windows[0];
    assert_eq!(
        (w.tracking_min_v, w.full_power_min_v, w.full_power_max_v, w.tracking_max_v, w.limit_v),
        (Some(90.0), Some(240.0), Some(480.0), Some(560.0), Some(600.0))
    );
    assert!(
        w.axis_max_v > 600.0
            && w.ticks_v.windows(2).all(|t| t[0] < t[1])
            && w.ticks_v.last() <= Some(&w.axis_max_v)
    );
    for row in &w.rows {
        let figure = r
            .figure("string.voc_cold_v", &row.letter)
            .and_then(|f| f.value.as_ref())
            .and_then(|v| v.number());
        assert_eq!(row.voc_cold_v, figure);
        let (hot, cold) = (row.vmp_hot_v.expect("given"), row.vmp_cold_v.expect("given"));
        assert!(hot < cold && cold < row.voc_cold_v.expect("given"));
        // 39.4 x 1.1274 a module.
        assert!((row.voc_cold_one_v.expect("given") - 44.4196).abs() < 1e-3);
    }
    // The axis reaches over a string that is far too long.
    let long = changed(|j| j.strings[0].n = 30);
    assert!(long.string_windows[0].axis_max_v > 30.0 * 44.4);
}

#[test]
fn the_route_goes_from_the_roof_down_and_knows_its_heat() {
    let r = report(&kestrel());
    let bands: Vec<_> =
        r.route.bands.iter().map(|b| (b.place.expect("a place"), b.ambient_c)).collect();
    // 33 °C, and 17 K more in the attic.
    assert_eq!(
        bands,
        [(Place::Attic, Some(50.0)), (Place::Cavity, Some(33.0)), (Place::Garage, Some(33.0))]
    );
    // Three parts from the roof box in column 0 to the inverter in column 4, one from there on.
    let parts = |key: &str| -> Vec<(usize, usize, usize)> {
        let way = r.route.ways.iter().find(|w| w.way == *key).expect("the way");
        way.parts.iter().map(|p| (p.band, p.from, p.to)).collect()
    };
    assert_eq!(parts("DC1"), [(0, 1, 2), (1, 2, 3), (2, 3, 4)]);
    assert_eq!(parts("AC1"), [(2, 5, 6)]);
    let columns: Vec<_> = r.route.nodes.iter().map(|n| (n.node.as_str(), n.column)).collect();
    assert_eq!(columns, [("INV1", 4), ("MP", 6), ("RB", 0)]);
    let open = changed(|j| {
        j.site.t_max_c = None;
        first_part(j).length_m = None;
    });
    assert_eq!(open.route.bands[0].ambient_c, None);
    assert!((open.route.length_m - (9.4 + 4.0 + 7.2)).abs() < 1e-9);
}

#[test]
fn a_cut_shows_each_pair_with_its_sign_and_its_tape() {
    let r = report(&kestrel());
    let cut = r.raceway_cuts.iter().find(|c| c.subject.to_string() == "DC1/3").expect("the cut");
    for letter in ["A", "B", "C"] {
        let roles: Vec<String> = cut
            .wires
            .iter()
            .filter(|w| w.string.as_deref() == Some(letter))
            .map(|w| format!("{:?}", w.role))
            .collect();
        assert_eq!(roles.len(), 2, "{letter}: {roles:?}");
        assert!(roles.contains(&"Plus".to_owned()) && roles.contains(&"Minus".to_owned()));
    }
    // 1.049 in of EMT 1.
    assert!((cut.inner_mm - 1.049 * 25.4).abs() < 1e-9);
    assert!(cut.wires.iter().all(|w| w.fits));
}

#[test]
fn strings_that_share_an_input_have_to_be_alike() {
    let unlike = changed(|j| j.strings[1].n = 8);
    assert_eq!(unlike.check("mppt.same_n", "INV1/2").expect("the check").verdict, Verdict::Fail);
    let apart = changed(|j| j.strings[1].face = "se".into());
    assert_eq!(apart.check("mppt.same_plane", "INV1/2").expect("the check").verdict, Verdict::Warn);
    let three =
        changed(|j| (j.strings[0].mppt, j.strings[0].n, j.strings[0].face) = (2, 7, "sw".into()));
    // Three strings, two pairs of connectors; 3 x 13.85 = 41.6 A against 30 A.
    assert_eq!(
        three.check("mppt.connectors_n", "INV1/2").expect("the check").verdict,
        Verdict::Warn
    );
    assert_eq!(three.check("mppt.isc_a", "INV1/2").expect("the check").verdict, Verdict::Fail);
    assert!(three.check("mppt.isc_a", "INV1/1").is_none(), "an empty input is not judged");
    let alone = report(&kestrel());
    assert!(
        alone.check("mppt.same_n", "INV1/1").is_none(),
        "one string has nothing to be alike to"
    );
}

#[test]
fn an_inverter_has_totals_and_a_usual_range() {
    // 11 180 W of 12 000 W; 11180 / 8000 = 1.3975.
    let r = report(&kestrel());
    assert_eq!(r.check("inverter.power_dc_w", "INV1").expect("the check").verdict, Verdict::Pass);
    assert_eq!(r.check("inverter.dc_ac_ratio", "INV1").expect("the check").verdict, Verdict::Pass);
    // 29 x 430 = 12 470 W, 1.559 times the output.
    let more = changed(|j| j.strings[0].n = 15);
    assert_eq!(
        more.check("inverter.power_dc_w", "INV1").expect("the check").verdict,
        Verdict::Fail
    );
    assert_eq!(
        more.check("inverter.dc_ac_ratio", "INV1").expect("the check").verdict,
        Verdict::Warn
    );
    // 14 x 430 = 6020 W, 0.7525 times.
    let few = changed(|j| j.strings.truncate(1));
    assert_eq!(
        few.check("inverter.dc_ac_ratio", "INV1").expect("the check").verdict,
        Verdict::Warn
    );
}

#[test]
fn cures_name_the_count_that_mends_it() {
    let long = changed(|j| j.strings[0].n = 14);
    let cure = &long.check("string.voc_cold_v", "A").expect("the check").cures[0];
    // floor(600 / 44.4196) = 13.
    assert_eq!(
        (cure.edits[0].pointer.as_str(), &cure.edits[0].value),
        ("/strings/A/n", &json!(13))
    );
    let short = changed(|j| j.strings[0].n = 2);
    let check = short.check("string.vmp_hot_v", "A").expect("the check");
    // 2 x 28.743 = 57.5 V under 90 V: ceil(90 / 28.743) = 4.
    assert_eq!(check.verdict, Verdict::Fail);
    assert!(
        check.cures.iter().any(|c| c.edits.iter().any(|e| e.value == json!(4))),
        "{:?}",
        check.cures
    );
}

#[test]
fn a_thin_wire_gets_the_size_that_holds_and_a_missing_one_is_asked_for() {
    // 8 AWG with six wires in the attic; in 14 AWG 25 x 0.82 x 0.8 = 16.4 A is under 17.3 A.
    let thin = changed(|j| wire_of_a(j).awg = Some("14".to_owned()));
    let check = thin.check("circuit.ampacity_derated_a", "A").expect("the check");
    assert_eq!(check.verdict, Verdict::Fail);
    assert!(
        check.cures.iter().any(|c| c
            .edits
            .iter()
            .any(|e| e.pointer == "/plan/circuits/A/legs/0/wire/awg" && e.value == "12")),
        "{:?}",
        check.cures
    );
    let none = changed(|j| wire_of_a(j).awg = None);
    assert!(none.checks.iter().any(|c| c.subject.to_string() == "A"
        && c.verdict == Verdict::Unknown
        && c.missing.contains(&"wire.awg")));
    assert!(
        none.raceway_cuts.iter().all(|c| !c.subject.to_string().starts_with("DC1")),
        "what is not known is not drawn"
    );
}

#[test]
fn a_setting_moves_its_limit() {
    // String A drops 0.33 %.
    let strict = changed(|j| j.settings.vdrop_dc_pct = Some(0.3));
    assert_eq!(strict.check("circuit.vdrop_pct", "A").expect("the check").verdict, Verdict::Warn);
    let plain = report(&kestrel());
    assert_eq!(
        plain.check("circuit.vdrop_pct", "A").expect("the check").limit.as_ref().map(|l| l.value),
        Some(2.0)
    );
}

#[test]
fn a_reading_of_a_string_that_is_gone_is_kept_and_not_judged() {
    let r = changed(|j| {
        j.strings.remove(1);
        j.plan.circuits.remove("B");
    });
    let b = r.readings.iter().find(|j| j.reading.values.string == "B").expect("the record stays");
    assert!(b.superseded && b.causes.is_empty());
    assert!(r.checks.iter().all(|c| b.reading.id != c.subject.to_string().as_str()));
}

#[test]
fn forms_offer_only_what_the_file_takes() {
    for school in [School::Na, School::Iec] {
        let offered = choices(school);
        assert!(!offered.raceways.is_empty() && !offered.breakers_a.is_empty());
        assert_eq!(offered.awg.is_empty(), school == School::Iec);
        assert_eq!(offered.mm2.is_empty(), school == School::Na);
        assert_eq!(offered.cold_methods.contains(&ColdMethod::Factor), school == School::Iec);
        assert!(offered.buildings.iter().all(|b| b.is_of(school)));
        assert!(offered.buildings.contains(&Building::Ground));
        let mut file = kestrel();
        file.job.school = school;
        file.job.site.building = offered.buildings.first().copied();
        let part = first_part(&mut file.job).clone();
        file.job.plan.ways.retain(|key, _| *key == *"DC1");
        file.job.plan.circuits.retain(|key, _| *key == *"A");
        let way = file.job.plan.ways.get_mut("DC1").expect("the way");
        way.parts = offered
            .raceways
            .iter()
            .flat_map(|r| {
                r.sizes.iter().map(|size| job::RacewayChoice { kind: r.kind, size: size.clone() })
            })
            .map(|raceway| job::Part { raceway: Some(raceway), ..part.clone() })
            .collect();
        for size in offered.awg.iter().take(3) {
            wire_of_a(&mut file.job).awg = Some(size.clone());
            assert_eq!(job::validate(&file), [], "{school:?} {size}");
        }
        for mm2 in offered.mm2 {
            wire_of_a(&mut file.job).mm2 = Some(mm2);
            assert_eq!(job::validate(&file), [], "{school:?} {mm2}");
        }
    }
}
