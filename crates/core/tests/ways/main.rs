//! Ways to wire a job: the ranked list is the one a search by brute force finds, filters do what
//! they say, what fails is named with its limit, and the edits put a way into the job.

mod brute;

use std::collections::BTreeSet;

use heliant_core::evaluate;
use heliant_core::figure::Verdict;
use heliant_core::job::{self, Building, Face, Job, JobFile, JobInverter, Mounting};
use heliant_core::library::{
    InverterSheet, LeadExits, Library, ModuleRatings, ModuleSheet, Mppt, SheetRef,
};
use heliant_core::school::School;
use heliant_core::search::{WayFace, WaysAsk, ask_of, ways};
use heliant_core::work::Work;

use crate::brute::agree;

const VDC: f64 = 320.0;

fn sheet_ref(sheet: &str) -> SheetRef {
    SheetRef { sheet: sheet.to_owned(), revision: 1 }
}

fn module() -> ModuleSheet {
    ModuleSheet {
        sheet: "m".to_owned(),
        revision: 1,
        maker: "Maker".to_owned(),
        model: "M-400".to_owned(),
        demo: true,
        ratings: ModuleRatings {
            voc_v: Some(40.0),
            vmp_v: Some(33.0),
            isc_a: Some(13.0),
            imp_a: Some(12.0),
            pmax_w: Some(400.0),
            b_voc_pct_c: Some(-0.25),
            g_pmax_pct_c: Some(-0.3),
            max_system_v: Some(1000.0),
            ..ModuleRatings::default()
        },
        width_mm: None,
        length_mm: None,
        depth_mm: None,
        weight_kg: None,
        lead_m: None,
        lead_minus_m: None,
        exits: LeadExits::default(),
    }
}

fn inverter(sheet: &str, inputs: &[(f64, f64)], dc_w_max: f64) -> InverterSheet {
    let mppt = |(connectors, watts): &(f64, f64)| Mppt {
        connectors_n: Some(*connectors),
        mppt_min_v: Some(55.0),
        mppt_max_v: Some(400.0),
        mppt_isc_max_a: Some(30.0),
        mppt_imp_max_a: Some(25.0),
        mppt_w_max_w: Some(*watts),
        ..Mppt::default()
    };
    let text = format!(
        r#"{{"sheet":"{sheet}","revision":1,"maker":"Maker","model":"{sheet}","mppts":[]}}"#
    );
    InverterSheet {
        vdc_max_v: Some(VDC),
        start_v: Some(60.0),
        mppts: inputs.iter().map(mppt).collect(),
        dc_w_max_w: Some(dc_w_max),
        ac_w: Some(dc_w_max / 1.2),
        ..serde_json::from_str(&text).expect("the least a data sheet holds")
    }
}

fn job_of(faces: &[u32], sheets: &[InverterSheet], on: &[usize]) -> (Job, Library, WaysAsk) {
    let mut job = Job::new("Ways", School::Na);
    job.site.t_min_c = Some(-15.0);
    job.site.t_max_c = Some(35.0);
    job.site.mounting = Some(Mounting::Flush);
    job.site.building = Some(Building::Dwelling12);
    let face = |i: usize| Face {
        id: format!("f{i}").into(),
        name: format!("face {i}"),
        tilt_deg: 30.0,
        azimuth_deg: 90.0 * i as f64,
    };
    job.site.faces = (0..faces.len()).map(face).collect();
    job.inverters = on
        .iter()
        .enumerate()
        .map(|(i, s)| JobInverter {
            id: format!("INV{}", i + 1).into(),
            sheet: sheet_ref(&sheets[*s].sheet),
            phase: None,
        })
        .collect();
    let library =
        Library { modules: vec![module()], inverters: sheets.to_vec(), ..Library::default() };
    let mut ask = ask_of(&job, &library).expect("there is a module");
    ask.faces = faces
        .iter()
        .enumerate()
        .map(|(i, n)| WayFace { face: format!("f{i}").into(), modules_n: *n })
        .collect();
    (job, library, ask)
}

#[test]
fn two_inverters_with_three_inputs_each_and_three_faces() {
    let sheet = inverter("three", &[(2.0, 3600.0); 3], 9000.0);
    let got = agree(&[6, 5, 7], &[sheet], &[0, 0], |_| {});
    let on: BTreeSet<&str> = got.ways[0].uses.iter().map(|u| u.inverter.as_str()).collect();
    assert_eq!(on.len(), 2, "both inverters share the work");
}

#[test]
fn an_inverter_is_not_overloaded_in_all() {
    // Two inputs of 7 modules, 2 800 W each, and 3 600 W in all: 14 modules need both inverters,
    // one input of each.
    let sheet = inverter("small", &[(1.0, 3600.0); 2], 3600.0);
    let got = agree(&[7, 7], &[sheet], &[0, 0], |_| {});
    for way in &got.ways {
        for id in ["INV1", "INV2"] {
            let watts: u32 =
                way.uses.iter().filter(|u| u.inverter == id).map(|u| u.n * u.p * 400).sum();
            assert!(watts <= 3600, "{way:?}");
        }
    }
}

#[test]
fn mixed_faces_fit_where_single_ones_do_not() {
    // Two faces and one input: only strings of both faces together.
    let sheet = inverter("one", &[(2.0, 8000.0)], 9000.0);
    let (job, library, mut ask) = job_of(&[4, 4], &[sheet], &[0]);
    let apart = ways(&job, &library, &ask, &[], &Work::default()).expect("in order");
    // 4 modules stay; the other face is left off.
    assert_eq!(apart.ways[0].unused_n, 4);
    assert!(
        apart.remedies.iter().any(|r| r.text.contains("share an input") && r.way.unused_n == 0),
        "{:?}",
        apart.remedies
    );
    ask.faces_may_mix = true;
    let mixed = ways(&job, &library, &ask, &[], &Work::default()).expect("in order");
    assert_eq!(mixed.ways.len(), 1);
    assert_eq!(
        mixed.ways[0].uses.iter().map(|u| (u.face.as_str(), u.n, u.p)).collect::<Vec<_>>(),
        [("f0", 4, 1), ("f1", 4, 1)]
    );
    assert!(
        mixed.ways[0].notes.iter().any(|n| n.id == "mppt.same_plane" && n.verdict == Verdict::Warn)
    );
}

#[test]
fn where_nothing_fits_the_nearest_miss_and_the_remedies_are_named() {
    // 8 in series: 8 x 40 x 1.1 = 352 V over 320 V: 32 V, 10 % beyond.
    let sheet = inverter("one", &[(1.0, 3600.0)], 9000.0);
    let (job, library, ask) = job_of(&[8], &[sheet], &[0]);
    let mut higher = inverter("higher", &[(1.0, 3600.0)], 9000.0);
    higher.vdc_max_v = Some(400.0);
    let got = ways(&job, &library, &ask, &[higher], &Work::default()).expect("in order");
    let nearest = got.nearest.expect("one misses by 10 %");
    assert_eq!(nearest.uses.iter().map(|u| (u.n, u.p)).collect::<Vec<_>>(), [(8, 1)]);
    let cold = &nearest.notes[0];
    assert_eq!((cold.id, cold.verdict), ("string.voc_cold_v", Verdict::Fail));
    assert!((cold.over.expect("a number") - 32.0).abs() < 1e-9 && cold.limit == Some(320.0));
    let texts: Vec<&str> = got.remedies.iter().map(|r| r.text.as_str()).collect();
    // Two strings of four share the input: 2 x 13 A of 30 A, 8 x 400 W of 3 600 W.
    assert!(texts.iter().any(|t| t.starts_with("2 strings on an input")), "{texts:?}");
    assert!(texts.iter().any(|t| t.starts_with("1 higher rev 1")), "{texts:?}");
    // Seven give 308 V.
    assert!(texts.contains(&"1 module fewer."), "{texts:?}");
    assert_eq!(got.ways[0].unused_n, 1);
    let strict = ways(&job, &library, &WaysAsk { use_all: true, ..ask }, &[], &Work::default())
        .expect("in order");
    assert!(strict.ways.is_empty() && strict.remedies.iter().all(|r| !r.text.contains("fewer")));
}

#[test]
fn the_nearest_miss_keeps_to_the_strings_that_are_allowed() {
    // Four and four fit; in one string the 8 modules are 352 V cold, 32 V over.
    let sheet = inverter("one", &[(2.0, 3600.0)], 9000.0);
    let (job, library, ask) = job_of(&[8], &[sheet], &[0]);
    assert_eq!(
        ways(&job, &library, &ask, &[], &Work::default()).expect("in order").ways[0].strings_n,
        2
    );
    let got =
        ways(&job, &library, &WaysAsk { home_runs_max: Some(1), ..ask }, &[], &Work::default())
            .expect("in order");
    let nearest = got.nearest.expect("one string of eight");
    assert_eq!((nearest.strings_n, nearest.notes[0].over.map(|o| o.round())), (1, Some(32.0)));
}

#[test]
fn failing_ways_say_which_limit_and_by_how_much() {
    let sheet = inverter("two", &[(1.0, 3600.0); 2], 9000.0);
    let (job, library, ask) = job_of(&[12], &[sheet], &[0]);
    let got = ways(&job, &library, &ask, &[], &Work::default()).expect("in order");
    assert!(
        got.failing
            .iter()
            .all(|w| w.fails_n > 0 && w.notes.iter().any(|n| n.verdict == Verdict::Fail))
    );
    // 8 and 4: the string of 8 is 352 V cold, 32 V over.
    let eight = got
        .failing
        .iter()
        .find(|w| w.uses.iter().any(|u| u.n == 8))
        .expect("near enough to be listed");
    let note = eight.notes.iter().find(|n| n.id == "string.voc_cold_v").expect("it is over");
    assert!((note.over.expect("a number") - 32.0).abs() < 1e-9, "{note:?}");
}

#[test]
fn the_winner_is_explained_against_the_next() {
    let sheet = inverter("two", &[(2.0, 3600.0); 2], 9000.0);
    let (job, library, ask) = job_of(&[12], &[sheet], &[0]);
    let got = ways(&job, &library, &ask, &[], &Work::default()).expect("in order");
    // Two strings without a caution: 6 + 6, and 5 + 7, of which 7 in series leave the least to the
    // 320 V: 7 x 44 = 308 V, 3.75 % as printed 3.8; 6 x 44 = 264 V, 17.5 %.
    assert_eq!(got.ways[0].uses.iter().map(|u| (u.n, u.p)).collect::<Vec<_>>(), [(6, 1), (6, 1)]);
    assert_eq!(
        got.why.as_deref(),
        Some("With as many strings the first keeps 17.5 % to the nearest limit, the second 3.8 %.")
    );
}

#[test]
fn what_the_question_lacks_is_named() {
    let sheet = inverter("one", &[(1.0, 3600.0)], 9000.0);
    let (mut job, mut library, ask) = job_of(&[4], &[sheet], &[0]);
    library.modules[0].ratings.b_voc_pct_c = None;
    job.site.t_min_c = None;
    let problems =
        ways(&job, &library, &ask, &[], &Work::default()).expect_err("cold volts cannot be had");
    let said: Vec<String> = problems.iter().map(|p| format!("{}: {}", p.path, p.message)).collect();
    assert_eq!(
        said,
        [
            "/ask/module: Coefficient of Voc (data sheet of the module) is missing: cold volts \
             cannot be had",
            "/job/site/t_min_c: lowest expected ambient is missing: cold volts cannot be had"
        ]
    );
    let (job, library, mut ask) = job_of(&[4], &[], &[]);
    assert_eq!(
        ways(&job, &library, &ask, &[], &Work::default()).expect_err("no inverter")[0].path,
        "/job/inverters"
    );
    ask.module = sheet_ref("nobody");
    assert_eq!(
        ways(&job, &library, &ask, &[], &Work::default()).expect_err("no module")[0].path,
        "/ask/module"
    );
    let sheet = inverter("one", &[(1.0, 3600.0)], 9000.0);
    let (job, library, mut ask) = job_of(&[4], &[sheet], &[0]);
    ask.faces[0].face = "nowhere".into();
    assert_eq!(
        ways(&job, &library, &ask, &[], &Work::default()).expect_err("no face")[0].path,
        "/ask/faces/0/face"
    );
}

#[test]
fn nothing_to_place_is_no_fault() {
    let sheet = inverter("one", &[(1.0, 3600.0)], 9000.0);
    let (job, library, ask) = job_of(&[0], &[sheet], &[0]);
    let got = ways(&job, &library, &ask, &[], &Work::default()).expect("in order");
    assert!(got.ways.is_empty() && got.nearest.is_none() && got.remedies.is_empty());
}

fn demo(text: &str) -> JobFile {
    job::read(text).expect("the demo job reads").file
}

fn edited(job: &Job, edits: &[heliant_core::job::Edit]) -> Job {
    job::applied(job, edits).expect("every place is there, and it is still a job")
}

#[test]
fn every_way_of_the_demo_job_holds_when_it_is_put_in() {
    let file = demo(include_str!("../../../../data/demo/kestrel-lane.json"));
    let ask = ask_of(&file.job, &file.library).expect("it has modules");
    assert_eq!(ask.faces.iter().map(|f| f.modules_n).collect::<Vec<_>>(), [12, 14]);
    let got = ways(&file.job, &file.library, &ask, &[], &Work::default()).expect("in order");
    assert!(got.ways.iter().any(|w| w.current), "12 and 7 + 7 is one of them");
    for way in got.ways.iter().chain(&got.failing) {
        let job = edited(&file.job, &way.edits);
        let report = evaluate(&job, &file.library, &[]);
        let strings =
            report.checks.iter().filter(|c| c.stage == heliant_core::figure::Stage::Strings);
        let fails = strings.clone().filter(|c| c.verdict == Verdict::Fail).count();
        assert_eq!(fails > 0, way.fails_n > 0, "{way:?}");
        // Every string that is there has its circuit, and none that is gone.
        let own = job.plan.circuits.values();
        let carried: BTreeSet<&job::Letter> = own.filter_map(|c| c.from.string.as_ref()).collect();
        assert_eq!(carried, job.strings.iter().map(|s| &s.letter).collect(), "{:?}", way.edits);
        let problems = job::validate(&JobFile::new(job.clone(), file.library.clone(), Vec::new()));
        assert!(problems.is_empty(), "{problems:?}");
    }
}

#[test]
fn strings_that_stay_keep_their_letters() {
    let file = demo(include_str!("../../../../data/demo/kestrel-lane.json"));
    let ask = ask_of(&file.job, &file.library).expect("it has modules");
    let got = ways(&file.job, &file.library, &ask, &[], &Work::default()).expect("in order");
    let current = got.ways.iter().find(|w| w.current).expect("as it is");
    let job = edited(&file.job, &current.edits);
    assert_eq!(job.strings, file.job.strings);
    assert_eq!(job.plan, file.job.plan);
}

#[test]
fn a_question_that_is_too_large_is_refused_and_says_what_can_be_asked() {
    // Forty inputs, no two alike: two to the fortieth shares of them.
    let inputs: Vec<(f64, f64)> = (0..40).map(|i| (1.0, 2000.0 + f64::from(i))).collect();
    let (job, library, ask) = job_of(&[200], &[inverter("odd", &inputs, 100_000.0)], &[0]);
    let problems = ways(&job, &library, &ask, &[], &Work::default()).expect_err("too many");
    assert_eq!(problems[0].path, "/ask/faces");
    assert!(problems[0].message.contains("40 kinds of inputs"), "{problems:?}");
    // Faces that may mix are searched apart where together they are too many.
    let like = inverter("like", &[(2.0, 6000.0); 6], 100_000.0);
    let (job, library, mut ask) = job_of(&[40, 40, 40, 40], &[like], &[0, 0, 0]);
    ask.faces_may_mix = true;
    let got = ways(&job, &library, &ask, &[], &Work::default()).expect("apart it goes");
    assert!(
        got.searched_part.is_some_and(|t| t.contains("each input takes one face")),
        "it says so"
    );
    assert!(!got.ways.is_empty());
}

#[test]
fn a_new_string_takes_no_letter_of_a_branch() {
    let sheet = inverter("two", &[(1.0, 3600.0); 2], 9000.0);
    let (mut job, library, ask) = job_of(&[12], &[sheet], &[0]);
    let branch = r#"{"letter":"A","face":"f0","module":{"sheet":"m","revision":1},
        "micro":{"sheet":"u","revision":1},"arms_n":[4]}"#;
    job.branches.push(serde_json::from_str(branch).expect("a branch"));
    let got = ways(&job, &library, &ask, &[], &Work::default()).expect("in order");
    assert_eq!(
        edited(&job, &got.ways[0].edits)
            .strings
            .iter()
            .map(|s| s.letter.as_str())
            .collect::<Vec<_>>(),
        ["B", "C"]
    );
}

#[test]
fn parallel_strings_need_connectors_or_a_combiner() {
    // 12 modules on one input with one connector: only by two strings of six.
    let sheet = inverter("one", &[(1.0, 6000.0)], 9000.0);
    let (job, library, mut ask) = job_of(&[12], &[sheet], &[0]);
    assert!(
        ways(&job, &library, &ask, &[], &Work::default())
            .expect("in order")
            .ways
            .iter()
            .all(|w| w.unused_n > 0)
    );
    ask.strings_per_input = Some(2);
    let got = ways(&job, &library, &ask, &[], &Work::default()).expect("in order");
    assert_eq!(got.ways[0].uses.iter().map(|u| (u.n, u.p)).collect::<Vec<_>>(), [(6, 2)]);
    // 3 x 13 A are more than the 30 A an input bears: three never share it.
    ask.strings_per_input = Some(3);
    assert!(
        ways(&job, &library, &ask, &[], &Work::default())
            .expect("in order")
            .ways
            .iter()
            .all(|w| w.uses.iter().all(|u| u.p <= 2))
    );
}

#[test]
fn a_colder_site_has_fewer_ways() {
    let sheet = inverter("two", &[(2.0, 3600.0); 2], 9000.0);
    let (mut job, library, ask) = job_of(&[12], &[sheet], &[0]);
    let count = |job: &Job| {
        ways(job, &library, &ask, &[], &Work::default())
            .expect("in order")
            .feasible_n
            .expect("counted")
    };
    let mild = count(&job);
    // 7 x 40 x 1.15 = 322 V at −35 °C: seven in series go no longer.
    job.site.t_min_c = Some(-35.0);
    assert!(count(&job) <= mild);
    // 6 x 40 x 1.35 = 324 V at −115 °C would be the end of six; the job's own range ends before.
    job.site.t_min_c = Some(-60.0);
    assert!(count(&job) > 0.0, "6 x 40 x 1.2125 = 291 V");
}
