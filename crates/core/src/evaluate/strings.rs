//! Strings of a job: the window of each, the load of each MPPT, the totals of each inverter.

use crate::figure::{Def, Sheet, Stage, Subject, SubjectKind, Verdict};
use crate::job::{Job, JobInverter, JobString};
use crate::library::{InverterSheet, Library, ModuleSheet};
use crate::strings::{
    MpptInputs, MpptString, OptimizerInputs, ParallelInputs, Shared, SiteTemps, Sources,
    WindowInputs, inverter_totals, mppt, mppt_power, optimizer, parallel, sharing, window,
};

static PLANNED: Def = Def {
    id: "strings.planned",
    title: "Strings planned",
    stage: Stage::Strings,
    na: "job",
    iec: "job",
};

/// Name of an MPPT as a subject: `inverter/number`.
pub(super) fn mppt_name(inverter: &str, number: u32) -> String {
    format!("{inverter}/{number}")
}

pub(super) fn strings(sheet: &mut Sheet, job: &Job, library: &Library, ceiling: Option<f64>) {
    if job.strings.is_empty() {
        if job.branches.is_empty() {
            sheet.subject = Subject::new(SubjectKind::Site, "site");
            sheet.judge(&PLANNED, Verdict::Unknown).missing = vec!["strings".to_owned()];
        }
        return;
    }
    let temps = SiteTemps { dc_ceiling_v: ceiling, ..SiteTemps::of(job) };
    for (i, s) in job.strings.iter().enumerate() {
        let Some((inverter, module)) = parts(job, library, s) else { continue };
        let Some(ratings) = inverter.ratings_at(s.mppt) else { continue };
        sheet.subject = Subject::new(SubjectKind::String, &s.letter);
        if let Some(device) = &s.optimizer {
            let ratings = library.optimizer(device).map(|o| o.ratings.clone()).unwrap_or_default();
            optimizer(
                sheet,
                &OptimizerInputs {
                    module: module.ratings.clone(),
                    optimizer: ratings,
                    site: temps.clone(),
                    n: s.n,
                },
            );
            continue;
        }
        window(
            sheet,
            &WindowInputs {
                module: &module.ratings,
                inverter: &ratings,
                site: &temps,
                n: s.n,
                method: job.site.cold_method,
                sources: &sources(module, inverter),
                n_pointer: Some(format!("/strings/{i}/n")),
            },
        );
    }
    for inverter in &job.inverters {
        one_inverter(sheet, job, library, inverter);
    }
}

fn parts<'a>(
    job: &Job,
    library: &'a Library,
    s: &JobString,
) -> Option<(&'a InverterSheet, &'a ModuleSheet)> {
    let inverter = job.inverters.iter().find(|i| i.id == s.inverter)?;
    Some((library.inverter(&inverter.sheet)?, library.module(&s.module)?))
}

fn sources(module: &ModuleSheet, inverter: &InverterSheet) -> Sources {
    Sources {
        module: format!("{} rev {}", module.model, module.revision),
        inverter: format!("{} rev {}", inverter.model, inverter.revision),
    }
}

fn one_inverter(sheet: &mut Sheet, job: &Job, library: &Library, inverter: &JobInverter) {
    let Some(data) = library.inverter(&inverter.sheet) else { return };
    let mut all: Vec<MpptString> = Vec::new();
    let mut any_sources = Sources::default();
    for number in 1..=data.mppts.len() as u32 {
        let on: Vec<(&JobString, &ModuleSheet)> = job
            .strings
            .iter()
            .filter(|s| s.inverter == inverter.id && s.mppt == number)
            .filter_map(|s| Some((s, library.module(&s.module)?)))
            .collect();
        let Some((_, first_module)) = on.first() else { continue };
        let Some(ratings) = data.ratings_at(number) else { continue };
        let sources = sources(first_module, data);
        let mut groups: Vec<(u32, &ModuleSheet, u32)> = Vec::new();
        for (s, m) in &on {
            match groups.iter_mut().find(|(n, g, _)| *n == s.n && std::ptr::eq(*g, *m)) {
                Some(group) => group.2 += 1,
                None => groups.push((s.n, m, 1)),
            }
        }
        let loads: Vec<MpptString> = groups
            .iter()
            .map(|(n, m, p)| MpptString { module: &m.ratings, n: *n, p: *p })
            .collect();
        sheet.subject = Subject::new(SubjectKind::Mppt, mppt_name(&inverter.id, number));
        let x = MpptInputs { strings: &loads, inverter: &ratings, sources: &sources };
        if on.iter().any(|(s, _)| s.optimizer.is_some()) {
            // Optimizers make the string's volts and amps, and strings in parallel may differ: the
            // watts are left.
            mppt_power(sheet, &x);
            all.extend(loads);
            any_sources = sources;
            continue;
        }
        mppt(sheet, &x);
        let shared: Vec<Shared> = on
            .iter()
            .map(|(s, _)| Shared {
                letter: &s.letter,
                n: s.n,
                module: &s.module,
                face: job.face(&s.face),
            })
            .collect();
        sharing(sheet, &shared, &data.mppts[number as usize - 1]);
        if on.len() > 1 {
            let inputs = ParallelInputs {
                module: first_module.ratings.clone(),
                p: on.len() as u32,
                ..ParallelInputs::default()
            };
            parallel(sheet, &inputs, &sources);
        }
        all.extend(loads);
        any_sources = sources;
    }
    if !all.is_empty() {
        sheet.subject = Subject::new(SubjectKind::Inverter, &inverter.id);
        inverter_totals(sheet, &all, data, &any_sources);
    }
}
