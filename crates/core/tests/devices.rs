//! Jobs with optimizers and microinverters, places for the inverter, and the distance of a weather
//! station.

use heliant_core::figure::{Value, Verdict};
use heliant_core::job::{self, InverterPlace, JobFile, Place};
use heliant_core::{Report, evaluate};

fn demo(text: &str) -> JobFile {
    job::read(text).unwrap_or_else(|p| panic!("{p:?}")).file
}

fn pinyon() -> JobFile {
    demo(include_str!("../../../data/demo/pinyon-street.json"))
}

fn tern() -> JobFile {
    demo(include_str!("../../../data/demo/tern-bay.json"))
}

fn quarry() -> JobFile {
    demo(include_str!("../../../data/demo/quarry-cottage.json"))
}

fn report(file: &JobFile) -> Report {
    evaluate(&file.job, &file.library, &file.readings)
}

fn number(report: &Report, id: &str, subject: &str) -> f64 {
    let figure = report.figure(id, subject).unwrap_or_else(|| panic!("{id} of {subject}"));
    figure
        .value
        .as_ref()
        .and_then(Value::number)
        .unwrap_or_else(|| panic!("{id} of {subject}: {figure:?}"))
}

fn verdict(report: &Report, id: &str, subject: &str) -> Verdict {
    report.check(id, subject).unwrap_or_else(|| panic!("{id} of {subject}")).verdict
}

fn near(got: f64, wanted: f64) {
    assert!((got - wanted).abs() <= 1e-6 * wanted.abs().max(1.0), "{got}, wanted {wanted}");
}

#[test]
fn mixed_branches_are_held_each_and_together() {
    // Before the units lie on the map there is a section of trunk before each.
    let mut file = pinyon();
    file.job.branches.iter_mut().for_each(|b| b.modules.clear());
    let r = report(&file);
    // 0.8 x 20 / 1.38 = 11.59, the maker says 11.
    near(number(&r, "branch.n_max", "A"), 11.0);
    assert_eq!(verdict(&r, "branch.n", "A"), Verdict::Pass);
    // 1.38 x 0.0142 x 11 x 12 / 2 = 1.293 V of 240 V.
    near(number(&r, "branch.rise_trunk_pct", "A"), 1.38 * 0.0142 * 66.0 / 240.0 * 100.0);
    // Fed in between: arms of five, 15 sections each.
    near(number(&r, "branch.rise_trunk_pct", "B"), 1.38 * 0.0142 * 15.0 / 240.0 * 100.0);
    // 11 + 10 + 10 units: 42.78 A, 1.25 x is 53.5 A, the next breaker 60 A.
    near(number(&r, "ac.i_out_a", "site"), 31.0 * 1.38);
    near(number(&r, "ac.ocpd_a", "site"), 60.0);
    assert_eq!(
        r.check("ac.phase_unbalance_a", "site").map(|c| c.verdict),
        None,
        "one phase has nothing to balance"
    );
    // 1.25 x 42.78 + 200 = 253.5 A of 1.2 x 200 = 240 A: the 120 % rule is not met, a smaller main
    // is.
    assert_eq!(verdict(&r, "panel.far_end_120", "MP"), Verdict::Fail);
    assert_eq!(verdict(&r, "panel.smaller_main", "MP"), Verdict::Pass);
}

#[test]
fn the_drawing_ends_in_the_figure_and_shows_both_feeds() {
    let r = report(&pinyon());
    let [a, b, _] = r.branches.as_slice() else { panic!("three branches") };
    assert_eq!((a.arms_v.len(), a.arms_v[0].len(), b.arms_v.len()), (1, 11, 2));
    // The farthest unit stands as far above the panel as the whole rise says.
    near(
        *a.arms_v[0].last().expect("units"),
        number(&r, "branch.rise_total_pct", "A") / 100.0 * 240.0,
    );
    near(b.rise_pct.expect("known"), b.centre_fed_pct.expect("known"));
    assert!(b.end_fed_pct > b.centre_fed_pct);
    near(a.limit_v.expect("known"), 4.8);
}

#[test]
fn twelve_units_are_too_many_and_the_branch_says_how_many_go() {
    let mut file = pinyon();
    file.job.branches[0].arms_n = vec![12];
    let r = report(&file);
    let check = r.check("branch.n", "A").expect("judged");
    assert_eq!((check.verdict, check.margin), (Verdict::Fail, Some(-1.0)));
    assert!(check.cures[0].text.starts_with("11 on this branch"), "{:?}", check.cures);
}

#[test]
fn a_module_is_held_against_its_unit() {
    let mut file = pinyon();
    let r = report(&file);
    // OX-395: 37.1 x (1 + 0.0027 x 43) = 41.41 V; 31.1 x (1 − 0.0035 x (71 − 25)) = 26.09 V; 31.1 x
    // (1 + 0.0035 x 43) = 35.78 V.
    near(number(&r, "micro.voc_cold_v", "A"), 37.1 * (1.0 + 0.0027 * 43.0));
    near(number(&r, "micro.vmp_hot_v", "A"), 31.1 * (1.0 - 0.0035 * 46.0));
    near(number(&r, "micro.vmp_cold_v", "A"), 31.1 * (1.0 + 0.0035 * 43.0));
    near(number(&r, "micro.dc_ac_ratio", "A"), 395.0 / 330.0);
    file.library.micros[0].mppt_min_v = Some(28.0);
    file.library.micros[0].in_isc_max_a = Some(12.0);
    file.library.micros[0].in_v_max_v = Some(40.0);
    let r = report(&file);
    assert_eq!(verdict(&r, "micro.vmp_hot_v", "A"), Verdict::Warn);
    assert_eq!(verdict(&r, "micro.isc_a", "A"), Verdict::Fail);
    assert_eq!(verdict(&r, "micro.voc_cold_v", "A"), Verdict::Fail);
    file.library.micros[0].in_isc_max_a = None;
    assert_eq!(verdict(&report(&file), "micro.isc_a", "A"), Verdict::Unknown);
}

#[test]
fn three_phases_are_balanced() {
    let mut file = pinyon();
    for (branch, phase) in file.job.branches.iter_mut().zip([1, 2, 3]) {
        branch.phase = Some(phase);
    }
    let r = report(&file);
    // 11 units on L1, ten on the others: 15.18 − 13.8 A apart; the fullest phase decides the
    // breaker.
    near(number(&r, "ac.phase_unbalance_a", "site"), 1.38);
    near(number(&r, "ac.i_out_a", "site"), 15.18);
    assert_eq!(verdict(&r, "ac.phase_unbalance_a", "site"), Verdict::Pass);
    // All on L1: 42.78 A apart, 16 A are allowed.
    for branch in &mut file.job.branches {
        branch.phase = Some(1);
    }
    let r = report(&file);
    near(number(&r, "ac.phase_unbalance_a", "site"), 42.78);
    assert_eq!(verdict(&r, "ac.phase_unbalance_a", "site"), Verdict::Warn);
}

#[test]
fn strings_with_optimizers_may_differ_and_are_held_by_watts() {
    let r = report(&tern());
    // 20 x 440 W at 750 V.
    near(number(&r, "string.opt_power_w", "A"), 8800.0);
    near(number(&r, "string.opt_current_a", "A"), 8800.0 / 750.0);
    near(number(&r, "string.safety_v", "A"), 20.0);
    // 14 and 10 on one input: no check asks for like strings.
    assert!(
        r.check("mppt.same_n", "INV1/2").is_none() && r.check("string.voc_cold_v", "A").is_none()
    );
    near(number(&r, "mppt.power_w", "INV1/2"), 24.0 * 440.0);
    let window = &r.string_windows[0];
    assert!(window.rows.iter().all(|row| row.fixed_v == Some(750.0)
        && row.voc_cold_v.is_none()
        && row.cold_by.is_empty()));
    // Voltage drop at the string's fixed volts: 2 x 28 m x R x 11.73 A of 750 V; R of 6 mm² at 70
    // °C by the table.
    let drop = number(&r, "circuit.vdrop_pct", "A");
    let other = number(&r, "circuit.vdrop_pct", "B");
    near(drop / other, 20.0 / 14.0);
}

#[test]
fn a_string_of_too_few_optimizers_fails() {
    let mut file = tern();
    file.job.strings[2].n = 7;
    let check_of =
        |file: &JobFile| report(file).check("string.opt_n", "C").expect("judged").clone();
    assert_eq!(check_of(&file).verdict, Verdict::Fail);
    file.job.strings[2].n = 8;
    assert_eq!(check_of(&file).verdict, Verdict::Pass);
    // 26 x 440 = 11 440 W of 11 250 W, and 25 are the most.
    file.job.strings[2].n = 26;
    let r = report(&file);
    assert_eq!(
        (verdict(&r, "string.opt_n", "C"), verdict(&r, "string.opt_power_w", "C")),
        (Verdict::Fail, Verdict::Fail)
    );
}

#[test]
fn references_of_branches_and_optimizers_lead_somewhere() {
    let mut file = pinyon();
    file.job.branches[0].micro.revision = 9;
    file.job.branches[1].letter = "A".into();
    file.job.branches[2].face = "nowhere".into();
    file.job.branches[2].arms_n = vec![0, 5];
    let paths: Vec<String> = job::validate(&file).into_iter().map(|p| p.path).collect();
    assert_eq!(
        paths,
        [
            "/job/branches/0/micro",
            "/job/branches/1/letter",
            "/job/branches/2/face",
            "/job/branches/2/arms_n/0",
            "/job/plan/circuits/B/from"
        ]
    );
    let mut file = tern();
    file.library.optimizers.clear();
    assert_eq!(job::validate(&file).len(), 3, "each string names its optimizer");
}

#[test]
fn places_are_compared_by_cable_heat_and_cost() {
    let file = quarry();
    let r = report(&file);
    let rows = &r.places.rows;
    assert_eq!(rows.iter().filter(|p| p.best).count(), 1);
    assert!(rows[2].best, "{rows:?}");
    assert!(
        r.places.recommendation.as_deref().is_some_and(|t| t.starts_with("garage:")),
        "{:?}",
        r.places.recommendation
    );
    // Losses go with the length: DC 9 and 18 m, AC 19 and 6 m.
    near(rows[0].dc_loss_kwh.expect("known") / rows[2].dc_loss_kwh.expect("known"), 9.0 / 18.0);
    near(rows[0].ac_loss_kwh.expect("known") / rows[2].ac_loss_kwh.expect("known"), 19.0 / 6.0);
    // One string of 6 mm² and three wires of 6 mm²: (2 x 18 + 3 x 6) x (0.35 + 0.26 x 6).
    near(rows[2].cable_cost.expect("known"), (36.0 + 18.0) * (0.35 + 0.26 * 6.0));
    let lost = |i: usize| {
        rows[i].dc_loss_kwh.unwrap_or(0.0)
            + rows[i].ac_loss_kwh.unwrap_or(0.0)
            + rows[i].heat_loss_kwh.unwrap_or(0.0)
    };
    near(
        rows[2].total_cost.expect("known"),
        rows[2].cable_cost.expect("known") + 20.0 * 0.25 * lost(2),
    );
    assert!(rows[1].heat_loss_kwh > rows[2].heat_loss_kwh, "a loft is hotter than a garage");
    assert!(
        rows[2].asks.iter().any(|a| a.contains("surge devices at both ends")),
        "18 m is more than 10 m: {:?}",
        rows[2].asks
    );
    assert!(
        !rows[0].asks.iter().any(|a| a.contains("surge devices")),
        "9 m is not: {:?}",
        rows[0].asks
    );
}

#[test]
fn places_stay_open_without_a_latitude_and_say_so() {
    let mut file = quarry();
    file.job.site.latitude_deg = None;
    file.job.plan.circuits.remove("AC1");
    let r = report(&file);
    assert!(
        r.places.rows.iter().all(|p| p.total_cost.is_none() && !p.best)
            && r.places.recommendation.is_none()
    );
    assert_eq!(
        r.places.missing,
        ["site.latitude_deg", "plan.circuits: the inverter's output with its wire"]
    );
}

#[test]
fn the_south_is_the_north_half_a_year_later() {
    let north = quarry();
    let mut south = quarry();
    south.job.site.latitude_deg = north.job.site.latitude_deg.map(|l| -l);
    for face in &mut south.job.site.faces {
        face.azimuth_deg = (540.0 - face.azimuth_deg) % 360.0;
    }
    let loss = |file: &JobFile| report(file).places.rows[2].dc_loss_kwh.expect("known");
    // The sun stands north of the equator for 186 days of 365: the south has some 3 % less.
    assert!((loss(&south) / loss(&north) - 1.0).abs() < 0.05, "{} {}", loss(&south), loss(&north));
}

#[test]
fn a_place_is_there_once() {
    let mut file = quarry();
    file.job.places.push(InverterPlace {
        name: "garage".to_owned(),
        place: Place::Garage,
        dc_m: None,
        ac_m: None,
    });
    assert_eq!(
        job::validate(&file).iter().map(|p| p.path.as_str()).collect::<Vec<_>>(),
        ["/job/places/3/name"]
    );
}

#[test]
fn a_station_far_away_is_a_caution() {
    let mut file = quarry();
    let weather = heliant_core::stages::site::weather::read(include_str!(
        "../../../data/demo/weather-station.csv"
    ))
    .expect("it reads");
    file.job.site.weather = Some(weather.record);
    // From 54.31 N 2.13 W to 54.55 N 2.48 W: 0.24° and 0.35° x cos 54.4°, at 111.19 km a degree:
    // 26.7 and 22.6 km, 35 km.
    let r = report(&file);
    let km = number(&r, "site.station_km", "site");
    assert!((km - 35.0).abs() < 0.3, "{km}");
    assert_eq!(verdict(&r, "site.station_km", "site"), Verdict::Pass);
    file.job.site.latitude_deg = Some(52.0);
    assert_eq!(verdict(&report(&file), "site.station_km", "site"), Verdict::Warn);
}

#[test]
fn cold_volts_stand_side_by_side_by_every_method() {
    let r = report(&quarry());
    let by = &r.string_windows[0].rows[0].cold_by;
    let volts: Vec<f64> = by.iter().map(|c| c.voc_cold_v.expect("known")).collect();
    // 14 x 39.7 V at −8 °C: 1 + 0.0025 x 33; the table's 1.14; 1.15.
    for (got, k) in volts.iter().zip([1.0825, 1.14, 1.15]) {
        near(*got, 14.0 * 39.7 * k);
    }
    assert_eq!(
        by.iter().map(|c| c.n_max).collect::<Vec<_>>(),
        [Some(15.0), Some(14.0), Some(14.0)]
    );
}
