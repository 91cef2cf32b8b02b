//! The watch: what a newer data sheet does to a job that holds an older one.

use heliant_core::job::{self, JobFile};
use heliant_core::library::DataSheet;
use heliant_core::library::{Library, SheetKind};
use heliant_core::watch::{changes, newer, watch};
use heliant_core::work::Work;

fn demo() -> Library {
    serde_json::from_str(include_str!("../../../data/demo/library.json"))
        .expect("the demo library reads")
}

fn quarry() -> JobFile {
    job::read(include_str!("../../../data/demo/quarry-cottage.json"))
        .expect("the demo job reads")
        .file
}

/// The two revisions of the hybrid inverter of the demo.
fn revisions() -> (DataSheet, DataSheet) {
    let of = |n: u32| {
        let sheet = demo()
            .inverters
            .into_iter()
            .find(|i| i.sheet == "marrow-h6" && i.revision == n)
            .expect("demo");
        DataSheet::Inverter(sheet)
    };
    (of(1), of(2))
}

#[test]
fn the_watch_sees_the_newer_sheet_and_what_it_changes() {
    let file = quarry();
    let found = newer(&file.job, &file.library, &demo());
    let (old, new) = revisions();
    assert_eq!(found, [(old.clone(), new.clone())], "only the inverter has a newer revision");
    let moved = changes(&old, &new);
    let said: Vec<(&str, f64, f64)> = moved
        .iter()
        .map(|c| (c.field.as_str(), c.from.as_f64().expect("watts"), c.to.as_f64().expect("watts")))
        .collect();
    assert_eq!(
        said,
        [("mppts.1.mppt_w_max_w", 7000.0, 3500.0), ("mppts.2.mppt_w_max_w", 7000.0, 3500.0)]
    );
}

#[test]
fn repairs_are_ranked_by_what_they_cost_on_site() {
    let file = quarry();
    let (old, new) = revisions();
    let seen = watch(&file.job, &file.library, &old, &new, &demo().inverters, &Work::default());
    assert_eq!(seen.stops.len(), 1, "{:?}", seen.stops);
    // 14 x 440 W = 6 160 W on an input for 3 500 W.
    assert_eq!(seen.stops[0].check.id, "mppt.power_w");
    assert_eq!(seen.stops[0].over, Some(2660.0));
    let first = &seen.repairs[0];
    assert_eq!(first.text, "string A: 14 to 7 modules; new string B of 7 on INV1 input 2");
    // One more pair over 4 + 8.5 + 5.5 m, with 0.3 m at either end: 2 x 18.6 m.
    let c = first.cost;
    assert!((c.cable_m - 37.2).abs() < 1e-9, "{c:?}");
    assert_eq!(
        (c.cable_pairs_n, c.isolators_n, c.spds_n, c.ways_n, c.connectors_n, c.modules_n),
        (1, 1, 1, 4 + 3, 4, 0)
    );
    // Four 6 mm² cables do not fit where two did: the two conduits, 8.5 + 5.5 m, are exchanged with
    // it.
    assert!((c.raceway_m - 14.0).abs() < 1e-9);
    // 18.6 x 3 + 30 + 20 + 4 x 5 + 2 x 15 + 14 x 12 minutes.
    assert!((c.minutes - (55.8 + 30.0 + 20.0 + 20.0 + 30.0 + 168.0)).abs() < 1e-9, "{c:?}");
    let weighed = |r: &heliant_core::watch::Repair| r.cost.weighed_minutes;
    assert!(seen.repairs.windows(2).all(|w| weighed(&w[0]) <= weighed(&w[1])));
    // A watt given up weighs 0.2 min and is no work.
    for r in &seen.repairs {
        let given_up = (-r.cost.power_w).max(0.0);
        assert!((weighed(r) - r.cost.minutes - 0.2 * given_up).abs() < 1e-9, "{:?}", r.cost);
    }
    let fewer = seen
        .repairs
        .iter()
        .find(|r| r.text == "string A: 14 to 7 modules")
        .expect("3 500 / 440 = 7.95: seven");
    assert_eq!((fewer.cost.modules_n, fewer.cost.power_w), (-7, -3080.0));
}

#[test]
fn every_repair_mends_the_job() {
    let file = quarry();
    let (old, new) = revisions();
    let seen = watch(&file.job, &file.library, &old, &new, &demo().inverters, &Work::default());
    assert!(seen.repairs.len() >= 2);
    let mut library = demo();
    library.modules.extend(file.library.modules.clone());
    for repair in &seen.repairs {
        let job = job::applied(&file.job, &repair.edits).expect("still a job");
        let report = heliant_core::evaluate(&job, &library, &[]);
        let before = heliant_core::evaluate(&file.job, &file.library, &[]);
        assert_eq!(report.counts.fail, before.counts.fail, "{}", repair.text);
        assert!(job.inverters.iter().all(|i| i.sheet != old.reference()), "{}", repair.text);
    }
}

#[test]
fn a_decision_to_keep_the_older_one_is_remembered() {
    let mut file = quarry();
    let (old, new) = revisions();
    let kept = job::KeptSheet {
        kind: SheetKind::Inverter,
        sheet: "marrow-h6".to_owned(),
        revision: 1,
        newer: 2,
        reason: "hardware 1 hangs on the wall".to_owned(),
    };
    file.job.kept_sheets.push(kept);
    let seen = watch(&file.job, &file.library, &old, &new, &[], &Work::default());
    assert_eq!(seen.kept.as_deref(), Some("hardware 1 hangs on the wall"));
    // A third revision asks again.
    let DataSheet::Inverter(mut third) = new else { panic!("an inverter") };
    third.revision = 3;
    assert_eq!(
        watch(&file.job, &file.library, &old, &DataSheet::Inverter(third), &[], &Work::default())
            .kept,
        None
    );
}

#[test]
fn a_revision_that_changes_nothing_that_matters_stops_nothing() {
    let file = quarry();
    let (old, _) = revisions();
    let DataSheet::Inverter(mut heavier) = old.clone() else { panic!("an inverter") };
    heavier.revision = 2;
    heavier.weight_kg = Some(28.0);
    let seen =
        watch(&file.job, &file.library, &old, &DataSheet::Inverter(heavier), &[], &Work::default());
    assert!(seen.stops.is_empty() && seen.cautions.is_empty() && seen.repairs.is_empty());
    assert_eq!(seen.changes.iter().map(|c| c.field.as_str()).collect::<Vec<_>>(), ["weight_kg"]);
}

#[test]
fn a_newer_module_is_watched_in_strings_and_branches() {
    let file = job::read(include_str!("../../../data/demo/pinyon-street.json"))
        .expect("the demo job reads")
        .file;
    let old = DataSheet::Module(file.library.modules[0].clone());
    let mut module = file.library.modules[0].clone();
    module.revision = 2;
    module.ratings.voc_v = Some(54.0);
    module.ratings.vmp_v = Some(45.0);
    let company = Library { modules: vec![module.clone()], ..Library::default() };
    assert_eq!(
        newer(&file.job, &file.library, &company),
        [(old.clone(), DataSheet::Module(module.clone()))]
    );
    let seen =
        watch(&file.job, &file.library, &old, &DataSheet::Module(module), &[], &Work::default());
    // 54 x (1 + 0.0027 x 43) = 60.27 V of 60 V, on each of the three branches.
    let over: Vec<(&str, f64)> =
        seen.stops.iter().map(|s| (s.check.id, s.over.unwrap_or(0.0))).collect();
    assert_eq!(over.len(), 3);
    for (id, by) in over {
        assert_eq!(id, "micro.voc_cold_v");
        assert!((by - (54.0 * (1.0 + 0.0027 * 43.0) - 60.0)).abs() < 1e-9);
    }
    assert_eq!(seen.accept.len(), 3, "every branch takes it");
}

#[test]
fn a_newer_optimizer_and_a_newer_unit_are_watched() {
    let tern = job::read(include_str!("../../../data/demo/tern-bay.json"))
        .expect("the demo job reads")
        .file;
    let old = DataSheet::Optimizer(tern.library.optimizers[0].clone());
    let mut optimizer = tern.library.optimizers[0].clone();
    optimizer.revision = 2;
    optimizer.ratings.n_max = Some(18.0);
    let seen = watch(
        &tern.job,
        &tern.library,
        &old,
        &DataSheet::Optimizer(optimizer),
        &[],
        &Work::default(),
    );
    assert_eq!(
        seen.stops.iter().map(|s| (s.check.subject.to_string(), s.over)).collect::<Vec<_>>(),
        [("A".to_owned(), Some(2.0))]
    );
    assert!(
        seen.repairs.iter().any(|r| r.text == "string A: 20 to 18 modules"),
        "{:?}",
        seen.repairs
    );
    let pinyon = job::read(include_str!("../../../data/demo/pinyon-street.json"))
        .expect("the demo job reads")
        .file;
    let old = DataSheet::Micro(pinyon.library.micros[0].clone());
    let mut micro = pinyon.library.micros[0].clone();
    micro.revision = 2;
    micro.branch_max_n = Some(10.0);
    let seen =
        watch(&pinyon.job, &pinyon.library, &old, &DataSheet::Micro(micro), &[], &Work::default());
    assert_eq!(
        seen.stops.iter().map(|s| (s.check.id, s.check.subject.to_string())).collect::<Vec<_>>(),
        [("branch.n", "A".to_owned())]
    );
}

#[test]
fn a_revision_that_mends_is_said_to() {
    let mut file = quarry();
    let (first, second) = revisions();
    // The job holds revision 2 and stops; revision 1's limits come back as revision 3.
    file.library.inverters = demo()
        .inverters
        .into_iter()
        .filter(|i| i.sheet == "marrow-h6" && i.revision == 2)
        .collect();
    file.job.inverters[0].sheet.revision = 2;
    let DataSheet::Inverter(mut third) = first else { panic!("an inverter") };
    third.revision = 3;
    let seen = watch(
        &file.job,
        &file.library,
        &second,
        &DataSheet::Inverter(third),
        &[],
        &Work::default(),
    );
    assert!(seen.stops.is_empty());
    assert_eq!(seen.healed_n, 1);
}

#[test]
fn in_the_school_without_isolators_none_is_counted() {
    let mut file = job::read(include_str!("../../../data/demo/kestrel-lane.json"))
        .expect("the demo job reads")
        .file;
    file.readings.clear();
    let old = DataSheet::Inverter(file.library.inverters[0].clone());
    let mut inverter = file.library.inverters[0].clone();
    inverter.revision = 5;
    // 7 + 7 of 430 W are 6 020 W: too many for an input of 5 600 W; 12 are 5 160 W.
    for m in &mut inverter.mppts {
        m.mppt_w_max_w = Some(5600.0);
    }
    let seen = watch(
        &file.job,
        &file.library,
        &old,
        &DataSheet::Inverter(inverter),
        &[],
        &Work::default(),
    );
    assert_eq!(
        seen.stops.iter().map(|s| (s.check.id, s.over)).collect::<Vec<_>>(),
        [("mppt.power_w", Some(420.0))]
    );
    assert!(!seen.repairs.is_empty());
    for repair in &seen.repairs {
        assert_eq!((repair.cost.isolators_n, repair.cost.spds_n, repair.cost.ways_n), (0, 0, 0));
    }
    // One module fewer in each of the two strings: 12 x 430 = 5 160 W.
    let fewer = seen.repairs.iter().find(|r| r.cost.modules_n == -2).expect("six and six");
    assert_eq!(fewer.cost.power_w, -860.0);
}
