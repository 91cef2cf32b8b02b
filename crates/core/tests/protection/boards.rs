//! Panels: the ways to bring PV onto them, what is free, the load, the transformers.

use heliant_core::Report;
use heliant_core::cases::{Outcome, parse, run};
use heliant_core::figure::Verdict;
use heliant_core::job::{Appliance, Building, Ct, CtMeasures, LoadSheet, Panel, SupplySide};
use heliant_core::school::Edition;
use heliant_core::stages::protection::{Board, PanelChoice};
use serde_json::json;

use crate::{
    changed, check, cured, device, kestrel, near, node, number, pinyon, quarry, report, saltmarsh,
    tern, verdict,
};

fn board<'r>(r: &'r Report, node: &str) -> &'r Board {
    r.boards.iter().find(|b| b.node == node).expect("it is drawn")
}

fn choice<'r>(r: &'r Report, node: &str, id: &str) -> &'r PanelChoice {
    let all = &board(r, node).choices;
    all.iter().find(|c| c.id == id).unwrap_or_else(|| panic!("no {id}"))
}

fn panel<'j>(job: &'j mut heliant_core::job::Job, key: &str) -> &'j mut Panel {
    node(job, key).panel.as_mut().expect("a panel")
}

#[test]
fn ways_stand_side_by_side_with_figure_verdict_and_price() {
    let file = pinyon();
    let r = report(&file);
    // 31 x 1.38 = 42.78 A: 1.25 x 42.78 + 200 = 253.475 of 240.
    let far = choice(&r, "MP", "panel.far_end_120");
    assert_eq!((far.verdict, far.outage, far.built), (Verdict::Fail, false, false));
    near(far.figure_a.expect("a figure"), 1.25 * 42.78 + 200.0);
    near(far.limit_a.expect("a limit"), 240.0);
    // 240 - 53.475 = 186.525: 175 A, against 142 A of load.
    let main = choice(&r, "MP", "panel.smaller_main");
    assert_eq!((main.verdict, main.outage), (Verdict::Pass, true));
    near(main.figure_a.expect("a main"), 175.0);
    // 75 minutes and an hour's wait at 65, the breaker 180, the utility 150.
    near(main.hours.expect("told"), 2.25);
    near(main.cost.expect("told"), 180.0 + 150.0 + 2.25 * 65.0);
    let tap = choice(&r, "MP", "panel.supply_side");
    assert_eq!(tap.verdict, Verdict::Pass);
    near(tap.cost.expect("told"), 240.0 + 150.0 + 4.0 * 65.0);
    // (53.475 + 200) / 1.2 = 211.2: the next busbar that is made.
    near(choice(&r, "MP", "panel.new_panel").figure_a.expect("a bus"), 225.0);
}

#[test]
fn a_smaller_main_is_one_press() {
    let file = pinyon();
    let r = report(&file);
    assert_eq!(verdict(&r, "panel.rule", "MP"), Verdict::Fail);
    let mended = cured(&file, check(&r, "panel.rule", "MP"));
    assert_eq!(mended.job.plan.nodes["MP"].panel.as_ref().and_then(|p| p.main_a), Some(175.0));
    let after = report(&mended);
    assert_eq!(verdict(&after, "panel.rule", "MP"), Verdict::Pass);
    // A main that is small already is not offered to be made larger.
    assert!(choice(&report(&kestrel()), "MP", "panel.smaller_main").edits.is_empty());
}

#[test]
fn the_breaker_moves_to_the_far_end_and_the_rule_passes() {
    let mut file = kestrel();
    panel(&mut file.job, "MP").pv_at_far_end = Some(false);
    panel(&mut file.job, "MP").main_a = Some(175.0);
    let r = report(&file);
    // 1.25 x 33.3 + 175 = 216.6: inside 240, past 200.
    assert_eq!(verdict(&r, "panel.far_end_120", "MP"), Verdict::Fail);
    assert_eq!(verdict(&r, "panel.rule", "MP"), Verdict::Fail);
    let mended = cured(&file, check(&r, "panel.far_end_120", "MP"));
    assert_eq!(verdict(&report(&mended), "panel.rule", "MP"), Verdict::Pass);
}

#[test]
fn a_bus_fed_in_the_middle_has_a_rule_of_its_own() {
    let fed = |one_end: Option<bool>, dwelling: bool| {
        changed(kestrel(), |j| {
            let own = panel(j, "MP");
            (own.main_a, own.centre_fed, own.pv_at_one_end) = (Some(175.0), Some(true), one_end);
            if !dwelling {
                j.site.building = Some(heliant_core::job::Building::OtherRoof);
            }
        })
    };
    // 216.6 of 240 at one end.
    let r = fed(Some(true), true);
    assert_eq!(verdict(&r, "panel.centre_fed_120", "MP"), Verdict::Pass);
    assert_eq!(verdict(&r, "panel.far_end_120", "MP"), Verdict::Fail, "there is no far end");
    assert_eq!(verdict(&r, "panel.rule", "MP"), Verdict::Pass);
    assert_eq!(verdict(&fed(None, true), "panel.centre_fed_120", "MP"), Verdict::Unknown);
    assert_eq!(verdict(&fed(Some(false), true), "panel.centre_fed_120", "MP"), Verdict::Fail);
    assert_eq!(verdict(&fed(Some(true), false), "panel.centre_fed_120", "MP"), Verdict::Fail);
}

#[test]
fn before_the_main_the_service_the_wire_and_the_device_count() {
    let tap = |change: &dyn Fn(&mut SupplySide)| {
        changed(pinyon(), |j| {
            let own = panel(j, "MP").supply_side.as_mut().expect("compared");
            own.chosen = true;
            change(own);
        })
    };
    let r = tap(&|_| {});
    // What all units put out: 31 at 1.38 A (705.11).
    near(number(&r, "panel.supply_side_a", "MP"), 31.0 * 1.38);
    assert_eq!(verdict(&r, "panel.rule", "MP"), Verdict::Pass, "it is not on the bus");
    assert!(choice(&r, "MP", "panel.supply_side").built);
    let thin = tap(&|t| t.awg = Some("8".to_owned()));
    assert_eq!(verdict(&thin, "panel.rule", "MP"), Verdict::Fail);
    // 10 ft are 3.048 m.
    let far = |m: f64| tap(&move |t| t.to_device_m = Some(m));
    assert_eq!(verdict(&far(3.048), "panel.supply_side", "MP"), Verdict::Pass);
    assert_eq!(verdict(&far(3.05), "panel.supply_side", "MP"), Verdict::Fail);
    // 16.5 ft where it is no dwelling, 10 ft in the 2017 edition.
    let shop = |m: f64, edition: Option<Edition>| {
        changed(pinyon(), |j| {
            let own = panel(j, "MP").supply_side.as_mut().expect("compared");
            (own.chosen, own.to_device_m) = (true, Some(m));
            j.site.building = Some(Building::OtherRoof);
            j.settings.edition = edition;
        })
    };
    assert_eq!(verdict(&shop(5.0, None), "panel.supply_side", "MP"), Verdict::Pass);
    assert_eq!(verdict(&shop(5.1, None), "panel.supply_side", "MP"), Verdict::Fail);
    let before = shop(5.0, Some(Edition::Y2017));
    assert_eq!(verdict(&before, "panel.supply_side", "MP"), Verdict::Fail);
    // There the devices count: 60 A.
    near(number(&before, "panel.supply_side_a", "MP"), 60.0);
    let small = tap(&|t| t.service_a = Some(40.0));
    assert_eq!(verdict(&small, "panel.supply_side", "MP"), Verdict::Fail);
    let open = tap(&|t| t.service_a = None);
    let open = check(&open, "panel.supply_side", "MP");
    assert_eq!((open.verdict, open.missing[0]), (Verdict::Unknown, "panel.service_a"));
}

#[test]
fn a_main_above_the_busbar_is_a_stop_with_its_cure() {
    let mut file = kestrel();
    panel(&mut file.job, "MP").main_a = Some(225.0);
    let r = report(&file);
    let own = check(&r, "panel.main_a", "MP");
    assert_eq!(own.verdict, Verdict::Fail);
    assert!(own.reason.as_deref().is_some_and(|t| t.contains("225 A") && t.contains("200 A")));
    let mended = cured(&file, own);
    assert_eq!(mended.job.plan.nodes["MP"].panel.as_ref().and_then(|p| p.main_a), Some(200.0));
}

#[test]
fn ways_are_counted_with_those_pv_takes() {
    // 14 of the loads and 2 poles of the PV breaker: 14 of 30 stay.
    let r = report(&kestrel());
    near(board(&r, "MP").free_n.expect("known"), 14.0);
    let mut full = kestrel();
    panel(&mut full.job, "MP").taken_n = Some(29.0);
    let r = report(&full);
    assert_eq!(verdict(&r, "panel.ways_n", "MP"), Verdict::Fail);
    near(board(&r, "MP").free_n.expect("known"), -1.0);
    // 31 ways: 40 is the next size panels are made in.
    assert_eq!(board(&r, "MP").next_n, Some(40.0));
    let swapped = cured(&full, check(&r, "panel.ways_n", "MP"));
    assert_eq!(verdict(&report(&swapped), "panel.ways_n", "MP"), Verdict::Pass);
    // In the other school the device's own width: 2 ways beside 12 of 18.
    near(board(&report(&quarry()), "MP").free_n.expect("known"), 4.0);
    let open = changed(tern(), |j| {
        let own = panel(j, "MP");
        (own.ways_n, own.taken_n) = (None, None);
    });
    assert_eq!(verdict(&open, "panel.ways_n", "MP"), Verdict::Unknown);
}

fn house() -> LoadSheet {
    LoadSheet {
        floor_m2: Some(200.0),
        small_circuits_n: Some(3),
        appliances: vec![
            Appliance { name: "range".to_owned(), va: 9600.0 },
            Appliance { name: "dryer".to_owned(), va: 5000.0 },
        ],
        cooling_va: Some(6000.0),
        heating_va: Some(8000.0),
        volts_v: None,
    }
}

#[test]
fn a_load_by_the_optional_method() {
    let case = json!([{
        "id": "house", "group": "load_sheet", "school": "na", "about": "",
        "inputs": house(),
        // 200 x 33 + 3 x 1500 + 9600 + 5000 = 25 700; 10 000 + 0.4 x 15 700 = 16 280; cooling 6000
        // against 0.65 x 8000 = 5200: 22 280 VA, at 240 V 92.83 A.
        "expected": { "figures": { "panel.general_va": 25700, "panel.load_va": 22280,
            "panel.load_calculated_a": 22280.0 / 240.0 }, "verdicts": {} },
        "tolerance": { "rel": 1e-9 },
    }]);
    let case = &parse(&case.to_string()).expect("a case")[0];
    assert!(matches!(run(case), Ok(Outcome::Passed)), "{:?}", run(case));
    // It stands in for the figure nobody entered: 92.8 A are below a main of 175 A.
    let mut file = pinyon();
    let own = panel(&mut file.job, "MP");
    (own.load_calc_a, own.loads) = (None, Some(house()));
    let r = report(&file);
    assert_eq!(verdict(&r, "panel.smaller_main", "MP"), Verdict::Pass);
    // What is not entered leaves it open.
    let own = panel(&mut file.job, "MP").loads.as_mut().expect("entered");
    own.cooling_va = None;
    let r = report(&file);
    assert_eq!(verdict(&r, "panel.smaller_main", "MP"), Verdict::Unknown);
    // Below 10 kVA all of it counts: 100 x 33 + 2 x 1500 = 6300, and heating 0.65 x 2000.
    let small = LoadSheet {
        floor_m2: Some(100.0),
        small_circuits_n: Some(2),
        cooling_va: Some(0.0),
        heating_va: Some(2000.0),
        ..LoadSheet::default()
    };
    let own = panel(&mut file.job, "MP");
    own.loads = Some(small);
    near(number(&report(&file), "panel.load_va", "MP"), 6300.0 + 1300.0);
}

#[test]
fn a_transformer_sits_right_or_says_what_is_wrong() {
    let r = report(&kestrel());
    for id in ["ct.around", "ct.direction", "ct.ratio"] {
        assert_eq!(verdict(&r, id, "MP.CT"), Verdict::Pass, "{id}");
    }
    let set = |change: &dyn Fn(&mut Ct)| {
        let mut file = kestrel();
        change(device(&mut file.job, "MP", "CT").ct.as_mut().expect("a transformer"));
        file
    };
    let turned = set(&|ct| ct.toward_grid = Some(false));
    let r = report(&turned);
    let own = check(&r, "ct.direction", "MP.CT");
    assert_eq!(own.verdict, Verdict::Fail);
    assert_eq!(verdict(&report(&cured(&turned, own)), "ct.direction", "MP.CT"), Verdict::Pass);
    let half = set(&|ct| ct.entered_a = Some(100.0));
    let r = report(&half);
    let own = check(&r, "ct.ratio", "MP.CT");
    assert!(own.reason.as_deref().is_some_and(|t| t.contains("200 A") && t.contains("100 A")));
    assert_eq!(verdict(&report(&cured(&half, own)), "ct.ratio", "MP.CT"), Verdict::Pass);
    let wrong = report(&set(&|ct| ct.around = Some("AC1".into())));
    assert_eq!(verdict(&wrong, "ct.around", "MP.CT"), Verdict::Fail);
    let open = report(&set(&|ct| ct.measures = None));
    assert_eq!(verdict(&open, "ct.around", "MP.CT"), Verdict::Unknown);
    // A production transformer where the inverter reports already counts twice.
    let second = set(&|ct| {
        (ct.measures, ct.around) = (Some(CtMeasures::Production), Some("AC1".into()));
    });
    let r = report(&second);
    assert_eq!(verdict(&r, "ct.around", "MP.CT"), Verdict::Pass);
    assert_eq!(verdict(&r, "ct.second", "MP.CT"), Verdict::Fail);
    let mut silent = second;
    silent.library.inverters[0].reports = Some(false);
    assert_eq!(verdict(&report(&silent), "ct.second", "MP.CT"), Verdict::Pass);
    silent.library.inverters[0].reports = None;
    assert_eq!(verdict(&report(&silent), "ct.second", "MP.CT"), Verdict::Unknown);
}

#[test]
fn every_panel_on_the_way_is_drawn_with_what_feeds_it() {
    let r = report(&saltmarsh());
    let sub = board(&r, "ACP");
    let fed: Vec<&str> = sub.feeds.iter().map(|f| f.circuit.as_str()).collect();
    assert_eq!(fed, ["AC1", "AC2"]);
    assert!(sub.feeds.iter().all(|f| f.breaker_a == Some(70.0)));
    let main = board(&r, "MP");
    assert_eq!(main.feeds.len(), 1);
    near(main.feeds[0].rated_a.expect("known"), 100.0);
    assert!(board(&report(&tern()), "MP").choices.is_empty(), "busbar rules are of one school");
}
