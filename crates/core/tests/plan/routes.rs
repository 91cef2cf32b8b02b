//! Routes of a job side by side: kept, drawn, priced by hand, and brought in line with what the job
//! has become.

use heliant_core::figure::Verdict;
use heliant_core::job::{
    self, Command, Job, JobFile, Method, Place, RacewayChoice, RacewayKind, commanded,
};
use heliant_core::library::Library;
use heliant_core::routes::{RouteRow, Routes, compare_routes};
use heliant_core::work::Work;

fn kestrel() -> JobFile {
    let text = include_str!("../../../../data/demo/kestrel-lane.json");
    job::read(text).expect("a demo job").file
}

fn done(job: &Job, command: &Command) -> Job {
    commanded(job, command).unwrap_or_else(|p| panic!("{command:?}: {p:?}")).0
}

fn keep(job: &Job, name: &str) -> Job {
    done(job, &Command::KeepRoute { name: name.to_owned() })
}

/// Kestrel Lane with its output alone, so that a hand can add it up.
fn output_alone() -> (Job, Library) {
    let mut file = kestrel();
    file.job.strings.clear();
    file.job.plan.circuits.retain(|key, _| key.as_str() == "AC1");
    file.job.plan.ways.remove("DC1");
    file.job.plan.nodes.remove("RB");
    (file.job, file.library)
}

fn only(routes: &Routes) -> &RouteRow {
    let [row] = routes.rows.as_slice() else { panic!("{} rows", routes.rows.len()) };
    row
}

fn near(value: Option<f64>, expected: f64) {
    let value = value.expect("it is known");
    assert!((value - expected).abs() < 1e-6, "{value} is not {expected}");
}

#[test]
fn material_and_work_are_what_a_hand_adds_up() {
    let (job, library) = output_alone();
    let routes = compare_routes(&job, &library, &Work::default());
    let row = only(&routes);
    let mm2 = |cmil: f64| cmil * 5.067_075e-4;
    // EMT 1 of 1.049 in; 1 + ceil((7.2 - 1.828) / 3.05) = 3 supports; ceil(7.2 / 3.048) - 1 = 2
    // couplings; two entries; two lines and a neutral of 8 AWG, a ground of 10 AWG for 45 A.
    let material = 7.2 * 2.6 * (1.049 * 25.4 / 20.0)
        + 3.0 * 0.9
        + 2.0 * 1.3
        + 2.0 * 2.2
        + 3.0 * 7.2 * (0.35 + 0.26 * mm2(16_510.0))
        + 7.2 * (0.35 + 0.26 * mm2(10_380.0));
    near(row.material_cost, material);
    // Laid, two bends, supports, couplings, entries, one pull, four wires pulled, eight ends.
    let minutes =
        7.2 * 7.0 + 2.0 * 8.0 + 3.0 * 3.0 + 2.0 * 2.0 + 2.0 * 5.0 + 15.0 + 28.8 * 0.4 + 8.0 * 4.0;
    near(row.work_h, minutes / 60.0);
    near(row.total_cost, material + minutes / 60.0 * 65.0);
    assert_eq!(row.years_cost, None, "the latitude is not known");
    near(row.visible_m, 0.0);
    near(row.length_m, 7.2);
    // The company's own prices go first.
    let mut own = job.clone();
    own.rates.insert("labour_h".to_owned(), 90.0);
    let routes = compare_routes(&own, &library, &Work::default());
    near(only(&routes).total_cost, material + minutes / 60.0 * 90.0);
}

#[test]
fn cables_are_counted_one_for_each_circuit() {
    let file = kestrel();
    let mut job = file.job.clone();
    for part in &mut job.plan.ways.get_mut("DC1").expect("DC1").parts {
        (part.method, part.raceway) = (Method::Cable, None);
    }
    let routes = compare_routes(&job, &file.library, &Work::default());
    let cost = only(&routes).figures.iter().find(|f| f.id == "route.material_cost");
    let lines = &cost.expect("a figure").working;
    let clad = lines.iter().find(|l| l.label == "metal-clad cable, m").expect("a line");
    // Three strings over 6.1 + 9.4 + 4.0 m, at 2.4 a metre.
    let heliant_core::figure::Value::Number(cost) = clad.value else { panic!("{clad:?}") };
    assert!((cost - 3.0 * 19.5 * 2.4).abs() < 1e-9, "{cost}");
}

#[test]
fn what_is_not_measured_is_open_and_never_cheap() {
    let (mut job, library) = output_alone();
    let mut other = keep(&job, "Measured");
    other.routes[0].plan.ways.get_mut("AC1").expect("AC1").parts[0].length_m = None;
    let routes = compare_routes(&other, &library, &Work::default());
    let open = routes.rows.iter().find(|r| !r.drawn).expect("the kept one");
    assert_eq!((open.material_cost, open.work_h, open.best), (None, None, false));
    let cost = open.figures.iter().find(|f| f.id == "route.material_cost").expect("a figure");
    assert!(cost.missing.contains(&"way.parts.length_m"), "{:?}", cost.missing);
    job.plan.ways.get_mut("AC1").expect("AC1").parts[0].bends = None;
    assert_eq!(
        only(&compare_routes(&job, &library, &Work::default())).material_cost,
        None,
        "bends are open"
    );
}

#[test]
fn a_route_outside_is_held_against_the_one_inside() {
    let file = kestrel();
    let mut job = keep(&file.job, "Outside");
    job.site.latitude_deg = Some(40.0);
    let way = job.plan.ways.get_mut("DC1").expect("DC1");
    for part in &mut way.parts {
        part.place = Some(Place::OutsideWallShade);
        part.length_m = part.length_m.map(|m| m * 2.0);
    }
    let routes = compare_routes(&job, &file.library, &Work::default());
    let names: Vec<&str> = routes.rows.iter().map(|r| r.name.as_str()).collect();
    assert_eq!(names, ["Outside", job::FIRST_ROUTE]);
    let [outside, inside] = routes.rows.as_slice() else { panic!("two of them") };
    assert!(outside.drawn && !inside.drawn);
    // 39 m of DC lie outside; inside the house nothing is seen.
    near(outside.visible_m, 39.0);
    near(inside.visible_m, 0.0);
    // Twice the way drops twice as much, and the wall is cooler than an attic of 50 °C.
    near(outside.dc_drop_pct, 2.0 * inside.dc_drop_pct.expect("a drop"));
    assert!(outside.hottest_c < inside.hottest_c, "{:?}", (outside.hottest_c, inside.hottest_c));
    assert!(outside.material_cost > inside.material_cost);
    assert!(outside.years_cost.is_some_and(|y| y > outside.total_cost.expect("a cost")));
}

#[test]
fn choosing_swaps_the_plans_and_leaves_nothing_behind() {
    let file = kestrel();
    let mut job = keep(&file.job, "Outside");
    job.plan.ways.get_mut("DC1").expect("DC1").name = "Over the eave".to_owned();
    let back = done(&job, &Command::DrawRoute { name: job::FIRST_ROUTE.to_owned() });
    assert_eq!(back.plan, file.job.plan);
    assert_eq!(back.routes[0].name, "Outside");
    assert_eq!(back.routes[0].plan.ways["DC1"].name, "Over the eave");
    let again = done(&back, &Command::DrawRoute { name: "Outside".to_owned() });
    assert_eq!((again.plan, again.routes.len()), (job.plan, 1));
    // A name is there once, and five are enough.
    for wrong in ["Outside", "  ", job::FIRST_ROUTE] {
        assert!(
            commanded(&back, &Command::KeepRoute { name: wrong.to_owned() }).is_err(),
            "{wrong}"
        );
    }
    assert!(commanded(&back, &Command::DrawRoute { name: "Cellar".to_owned() }).is_err());
    let mut full = back;
    for n in full.routes.len()..job::MOST_ROUTES {
        full = keep(&full, &format!("Route {n}"));
    }
    assert!(commanded(&full, &Command::KeepRoute { name: "One more".to_owned() }).is_err());
}

#[test]
fn a_kept_route_follows_strings_that_come_and_go() {
    let file = kestrel();
    let mut job = keep(&file.job, "Outside");
    job.strings.retain(|s| s.letter.as_str() != "C");
    job.plan.circuits.retain(|key, _| key.as_str() != "C");
    let whole = JobFile::new(job.clone(), file.library.clone(), Vec::new());
    assert!(job::validate(&whole).is_empty(), "{:?}", job::validate(&whole));
    let back = done(&job, &Command::DrawRoute { name: job::FIRST_ROUTE.to_owned() });
    assert!(!back.plan.circuits.contains_key("C"), "its circuit went with it");
    // What is broken in it is said where it is.
    let mut broken = job;
    broken.routes[0].plan.ways.get_mut("DC1").expect("DC1").to = "NOWHERE".into();
    let problems = job::validate(&JobFile::new(broken, file.library, Vec::new()));
    assert!(problems.iter().any(|p| p.path == "/job/routes/0/plan/ways/DC1/to"), "{problems:?}");
}

#[test]
fn metal_clad_cable_in_the_wet_stops_a_route_and_the_change_over_mends_it() {
    let mut file = kestrel();
    for part in &mut file.job.plan.ways.get_mut("DC1").expect("DC1").parts {
        part.raceway = Some(RacewayChoice { kind: RacewayKind::Emt, size: "1-1/4".to_owned() });
    }
    let mut job = keep(&file.job, "Metal-clad");
    let parts = &mut job.plan.ways.get_mut("DC1").expect("DC1").parts;
    for part in parts.iter_mut() {
        (part.method, part.raceway, part.bends) = (Method::Cable, None, Some(Vec::new()));
        part.listed = Some(true);
    }
    (parts[2].place, parts[2].listed) = (Some(Place::OutsideWallSun), Some(false));
    let routes = compare_routes(&job, &file.library, &Work::default());
    let clad = &routes.rows[0];
    assert_eq!((clad.verdict, clad.best), (Verdict::Fail, false));
    assert!(clad.against.iter().any(|line| line.contains("MC CABLE")), "{:?}", clad.against);
    assert!(routes.rows[1].best);
    assert!(routes.recommendation.is_some_and(|r| r.contains("Stopped: Metal-clad")));
    let report = heliant_core::evaluate(&job, &file.library, &[]);
    let check = report
        .checks
        .iter()
        .find(|c| c.id == "segment.method_allowed" && c.verdict == Verdict::Fail)
        .expect("the wall stops it");
    let command = check.cures[0].command.clone().expect("a change over");
    let Command::ChangeOver { part, raceway, .. } = &command else { panic!("{command:?}") };
    assert_eq!((*part, raceway.kind), (2, RacewayKind::Emt));
    let cured = done(&job, &command);
    let after = heliant_core::evaluate(&cured, &file.library, &[]);
    let still = after
        .checks
        .iter()
        .filter(|c| c.id.starts_with("segment.") && c.verdict == Verdict::Fail)
        .count();
    assert_eq!(still, 0);
    let wall = cured.plan.ways.values().find(|w| w.parts[0].place == Some(Place::OutsideWallSun));
    let RacewayChoice { kind, .. } = wall.expect("the wall").parts[0].raceway.clone().expect("EMT");
    assert_eq!(kind, RacewayKind::Emt);
    assert!(cured.plan.circuits.values().all(|c| c.legs.iter().all(|l| !l.via.is_empty())));
}

#[test]
fn the_demo_keeps_a_route_and_a_piece_that_is_too_short_for_it() {
    let text = include_str!("../../../../data/demo/quarry-cottage.json");
    let file = job::read(text).expect("a demo job").file;
    let routes = compare_routes(&file.job, &file.library, &Work::default());
    let [cavity, wall] = routes.rows.as_slice() else { panic!("two routes") };
    // 18 m through the cavity, 16 m down the wall, of which 9 m are seen; 6 m to the board.
    // 18 m of DC, 6 m to the board, 1.8 m to the backup board, 3.5 m to its electrode.
    near(cavity.length_m, 18.0 + 6.0 + 1.8 + 3.5);
    near(wall.length_m, 22.0);
    near(wall.visible_m, 9.0);
    // 30 °C outside; under modules it is the hottest on either way.
    assert_eq!(cavity.hottest_c, wall.hottest_c);
    assert!(cavity.hottest_c.is_some_and(|c| c > 30.0), "{:?}", cavity.hottest_c);
    assert!(routes.rows.iter().all(|r| r.years_cost.is_some()), "the latitude is known");
    assert_eq!(routes.rows.iter().filter(|r| r.best).count(), 1);
    assert!(routes.recommendation.is_some());
    // 17.5 m are 1.1 m short of 18.6 m, and 0.9 m longer than 16.6 m.
    let of = |job: &Job| {
        let held = heliant_core::reuse::reuse(job, &file.library);
        held.iter().find(|r| r.circuit.as_str() == "A").expect("A").left_m
    };
    assert!((of(&file.job) + 1.1).abs() < 1e-9);
    assert!((of(&file.job.with_route(&file.job.routes[0])) - 0.9).abs() < 1e-9);
}
