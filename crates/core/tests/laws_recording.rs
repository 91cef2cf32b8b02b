//! The same arithmetic with its record switched on and off: values, limits, verdicts, cures and
//! drawings do not depend on who looks at the working.

use heliant_core::figure::{Figure, Recording, Stage, Subject};
use heliant_core::job::{self, ColdMethod, JobFile, Mounting};
use heliant_core::{Report, evaluate, evaluate_with, workings};
use proptest::prelude::*;
use serde_json::Value as Json;

const JOBS: [&str; 4] = [
    include_str!("../../../data/demo/kestrel-lane.json"),
    include_str!("../../../data/demo/quarry-cottage.json"),
    include_str!("../../../data/demo/pinyon-street.json"),
    include_str!("../../../data/demo/tern-bay.json"),
];

fn open(which: usize) -> JobFile {
    job::read(JOBS[which]).expect("a demo job reads").file
}

fn recorded(file: &JobFile, recording: Recording) -> Report {
    evaluate_with(&file.job, &file.library, &file.readings, recording)
}

/// A report as it goes out, without its workings.
fn bare(mut report: Report) -> Json {
    for figure in &mut report.figures {
        figure.working.clear();
    }
    serde_json::to_value(report).expect("a report is JSON")
}

fn worked(figures: &[Figure]) -> usize {
    figures.iter().filter(|f| !f.working.is_empty()).count()
}

/// What is taken away, so that figures are open too.
fn spoil(file: &mut JobFile, what: usize) {
    match what {
        0 => file.job.site.t_min_c = None,
        1 => file.job.site.t_max_c = None,
        2 => file.job.site.mounting = None,
        3 => file.job.site.building = None,
        4 => file.library.modules.iter_mut().for_each(|m| m.ratings.voc_v = None),
        5 => file.library.inverters.iter_mut().for_each(|i| i.ac_a = None),
        6 => file
            .job
            .plan
            .circuits
            .values_mut()
            .flat_map(|c| &mut c.legs)
            .for_each(|l| l.wire.awg = None),
        7 => file
            .job
            .plan
            .ways
            .values_mut()
            .flat_map(|w| &mut w.parts)
            .for_each(|p| p.length_m = None),
        8 => file.job.plan.nodes.values_mut().for_each(|n| n.panel = None),
        9 => file.job.strings.clear(),
        _ => {}
    }
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(96))]

    #[test]
    fn a_report_is_the_same_whatever_is_recorded(
        which in 0_usize..4,
        spoiled in 0_usize..11,
        n in 1_u32..30,
        t_min in -45.0_f64..10.0,
        table in any::<bool>(),
        raised in any::<bool>(),
    ) {
        let mut file = open(which);
        file.job.site.t_min_c = Some(t_min);
        file.job.site.cold_method =
            if table { ColdMethod::Table } else { ColdMethod::Coefficient };
        file.job.site.mounting = Some(if raised { Mounting::Raised } else { Mounting::Flush });
        if let Some(string) = file.job.strings.first_mut() {
            string.n = n;
        }
        spoil(&mut file, spoiled);
        let quiet = evaluate(&file.job, &file.library, &file.readings);
        prop_assert_eq!(worked(&quiet.figures), 0);
        let loud = recorded(&file, Recording::Everything);
        prop_assert_eq!(bare(quiet), bare(loud));
    }
}

#[test]
fn every_figure_with_a_value_has_its_working_where_it_is_asked_for() {
    for which in 0..JOBS.len() {
        let file = open(which);
        for f in recorded(&file, Recording::Everything).figures {
            assert!(f.value.is_none() || !f.working.is_empty(), "{} of {}", f.id, f.subject);
        }
    }
}

#[test]
fn a_second_call_gives_the_workings_of_one_subject_or_stage() {
    let file = open(0);
    let ask = |r: Recording| workings(&file.job, &file.library, &file.readings, &r);
    let a = Subject::string(&"A".into());
    let of_a = ask(Recording::Subject(a.clone()));
    assert!(of_a.len() > 8 && of_a.iter().all(|f| f.subject == a), "{} figures", of_a.len());
    assert_eq!(worked(&of_a), of_a.iter().filter(|f| f.value.is_some()).count());
    let runs = ask(Recording::Stage(Stage::Runs));
    assert!(runs.len() > 20 && runs.iter().all(|f| f.stage == Stage::Runs));
    assert!(ask(Recording::Nothing).is_empty());
    let all = ask(Recording::Everything);
    assert_eq!(all.len(), evaluate(&file.job, &file.library, &file.readings).figures.len());
    // What was asked for one subject is what stands there for all.
    let same: Vec<_> = all.iter().filter(|f| f.subject == a).map(|f| &f.working).collect();
    assert_eq!(same, of_a.iter().map(|f| &f.working).collect::<Vec<_>>());
}
