//! Strings of a job: the window of each, the load of each MPPT, the totals of each inverter.

use super::{
    MpptInputs, MpptString, OptimizerInputs, ParallelInputs, Shared, SiteTemps, Sources, Window,
    WindowInputs, inverter_totals, mppt, mppt_power, optimizer, parallel, sharing, window,
};
use crate::figure::{Handle, Sheet, Subject};
use crate::figures;
use crate::job::{JobInverter, JobString};
use crate::library::{InverterSheet, Library, ModuleSheet};
use crate::quantity::Volts;
use crate::registry::Bench;

figures! { Strings;
    /// Whether there is anything to plan.
    PLANNED: Rule = "strings.planned", "Strings planned", "job";
}

/// A string as it was found.
#[derive(Clone, Debug)]
pub enum FoundString {
    /// In the inverter's window.
    Window(Box<Window>),
    /// Held at fixed volts by optimizers; its volts when safe.
    Optimizers(Handle<Volts>),
    /// It leads nowhere: no inverter, no module, no such input.
    Nowhere,
}

/// Every string of the job, in its order.
#[derive(Debug, Default)]
pub struct FoundStrings(pub Vec<FoundString>);

pub(super) fn strings_of_job(bench: &Bench, sheet: &mut Sheet) -> FoundStrings {
    let (job, library) = (bench.job, bench.library);
    if job.strings.is_empty() {
        if job.branches.is_empty() {
            sheet.subject = Subject::Site;
            sheet.known(&PLANNED, ["strings"]);
        }
        return FoundStrings::default();
    }
    let site = SiteTemps::of(job);
    let strings = job.strings.iter().enumerate();
    let found = strings.map(|(i, s)| one_string(bench, sheet, &site, i, s)).collect();
    for inverter in &job.inverters {
        one_inverter(bench, sheet, library, inverter);
    }
    FoundStrings(found)
}

fn one_string(
    bench: &Bench,
    sheet: &mut Sheet,
    site: &SiteTemps,
    index: usize,
    s: &JobString,
) -> FoundString {
    let library = bench.library;
    let inverter = bench.job.inverters.iter().find(|i| i.id == s.inverter);
    let inverter = inverter.and_then(|i| library.inverter(&i.sheet));
    let (Some(inverter), Some(module)) = (inverter, library.module(&s.module)) else {
        return FoundString::Nowhere;
    };
    let Some(ratings) = inverter.ratings_at(s.mppt) else { return FoundString::Nowhere };
    sheet.subject = Subject::string(&s.letter);
    if let Some(device) = &s.optimizer {
        let ratings = library.optimizer(device).map(|o| o.ratings.clone()).unwrap_or_default();
        let module = module.ratings.clone();
        let x = OptimizerInputs { module, optimizer: ratings, site: site.clone(), n: s.n };
        return FoundString::Optimizers(optimizer(sheet, &x));
    }
    let x = WindowInputs {
        module: &module.ratings,
        inverter: &ratings,
        site,
        n: s.n,
        method: bench.job.site.cold_method,
        sources: &sources(module, inverter),
        n_pointer: Some(&format!("/strings/{index}/n")),
    };
    FoundString::Window(Box::new(window(sheet, &x)))
}

fn sources(module: &ModuleSheet, inverter: &InverterSheet) -> Sources {
    Sources {
        module: format!("{} rev {}", module.model, module.revision),
        inverter: format!("{} rev {}", inverter.model, inverter.revision),
    }
}

fn one_inverter(bench: &Bench, sheet: &mut Sheet, library: &Library, inverter: &JobInverter) {
    let Some(data) = library.inverter(&inverter.sheet) else { return };
    let mut all: Vec<MpptString> = Vec::new();
    let mut any_sources = Sources::default();
    for number in 1..=data.mppts.len() as u32 {
        let here = |s: &&JobString| s.inverter == inverter.id && s.mppt == number;
        let on: Vec<(&JobString, &ModuleSheet)> = bench
            .job
            .strings
            .iter()
            .filter(here)
            .filter_map(|s| Some((s, library.module(&s.module)?)))
            .collect();
        let Some((_, first_module)) = on.first() else { continue };
        any_sources = sources(first_module, data);
        sheet.subject = Subject::mppt(&inverter.id, number);
        all.extend(one_input(bench, sheet, data, number, &on, &any_sources));
    }
    if !all.is_empty() {
        sheet.subject = Subject::inverter(&inverter.id);
        inverter_totals(sheet, &all, data, &any_sources);
    }
}

/// The strings of one input; gives them back, alike ones together.
fn one_input<'a>(
    bench: &Bench,
    sheet: &mut Sheet,
    data: &InverterSheet,
    number: u32,
    on: &[(&JobString, &'a ModuleSheet)],
    sources: &Sources,
) -> Vec<MpptString<'a>> {
    let loads = alike(on);
    let Some(ratings) = data.ratings_at(number) else { return loads };
    let x = MpptInputs { strings: &loads, inverter: &ratings, sources };
    if on.iter().any(|(s, _)| s.optimizer.is_some()) {
        // Optimizers make the string's volts and amps, and strings in parallel may differ: the
        // watts are left.
        mppt_power(sheet, &x);
        return loads;
    }
    mppt(sheet, &x);
    let mut shared = Vec::new();
    for (s, _) in on {
        let face = bench.job.face(&s.face);
        shared.push(Shared { letter: &s.letter, n: s.n, module: &s.module, face });
    }
    sharing(sheet, &shared, &data.mppts[number as usize - 1]);
    if let [(_, first), _, ..] = on {
        let x = ParallelInputs {
            module: first.ratings.clone(),
            p: on.len() as u32,
            ..ParallelInputs::default()
        };
        parallel(sheet, &x, sources);
    }
    loads
}

fn alike<'a>(on: &[(&JobString, &'a ModuleSheet)]) -> Vec<MpptString<'a>> {
    let mut groups: Vec<MpptString> = Vec::new();
    for (s, m) in on {
        let same = |g: &&mut MpptString| g.n == s.n && std::ptr::eq(g.module, &m.ratings);
        match groups.iter_mut().find(same) {
            Some(group) => group.p += 1,
            None => groups.push(MpptString { module: &m.ratings, n: s.n, p: 1 }),
        }
    }
    groups
}
