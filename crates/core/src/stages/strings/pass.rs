//! Strings of a job: the window of each, the load of each MPPT, the totals of each inverter.

use std::collections::HashSet;

use super::{
    MpptInputs, MpptString, OptimizedString, OptimizerInputs, Shared, SiteTemps, Sources, Window,
    WindowInputs, connectors, fixed_volts, input_current, inverter_totals, mppt, mppt_power,
    optimizer, sharing, window,
};
use crate::figure::{Handle, Sheet, Subject, Verdict};
use crate::figures;
use crate::job::{Building, Circuit, JobInverter, JobString, NodeKey, NodeKind};
use crate::library::{InverterSheet, Library, ModuleSheet};
use crate::plan::PlanFound;
use crate::quantity::Volts;
use crate::registry::Bench;
use crate::school::School;
use crate::stages::site::ceiling_v;

figures! { Strings;
    /// Whether there is anything to plan.
    PLANNED: Rule = "strings.planned", "Strings planned", "job";
    /// All strings of an input have optimizers, or none.
    SAME_KIND: Rule = "mppt.same_kind", "Optimizers in every string or none", "inverter data sheet";
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
    sheet.subject = Subject::string(&s.letter);
    let in_window =
        |sheet: &mut Sheet, site: &SiteTemps| in_window(bench, sheet, s, (inverter, module), site);
    let on_the_ground = bench.job.site.building == Some(Building::Ground);
    if !on_the_ground || !bench.found.get::<PlanFound>().enters_building(index) {
        return in_window(sheet, site);
    }
    // The ceiling is that of the building the circuit is in, wherever the modules stand.
    let house = ceilings_indoors(sheet.school, bench.job.site.dc_enters);
    let under = |ceiling: Option<f64>| SiteTemps { dc_ceiling_v: ceiling, ..site.clone() };
    let from = sheet.checks.len();
    let found = in_window(sheet, &under(house.0));
    if house.0 != house.1 {
        let mut better = sheet.trial();
        in_window(&mut better, &under(house.1));
        sheet.open_between(from, &better, "site.dc_enters");
    }
    found
}

/// Lowest and highest DC ceiling of the building a ground mount's DC enters: one where its kind is
/// known.
fn ceilings_indoors(school: School, entered: Option<Building>) -> (Option<f64>, Option<f64>) {
    let known = entered.and_then(|b| ceiling_v(school, b));
    let kinds = [Building::Dwelling12, Building::OtherRoof, Building::Building];
    let of_school = kinds.into_iter().filter_map(|b| ceiling_v(school, b));
    match known {
        Some(_) => (known, known),
        None => (of_school.clone().reduce(f64::min), of_school.reduce(f64::max)),
    }
}

fn in_window(
    bench: &Bench,
    sheet: &mut Sheet,
    s: &JobString,
    (inverter, module): (&InverterSheet, &ModuleSheet),
    site: &SiteTemps,
) -> FoundString {
    let library = bench.library;
    let Some(ratings) = inverter.ratings_at(s.mppt) else { return FoundString::Nowhere };
    if let Some(device) = &s.optimizer {
        let device = library.optimizer(device).map(|o| o.ratings.clone()).unwrap_or_default();
        let limits = [ratings.vdc_max_v, module.ratings.max_system_v, site.dc_ceiling_v];
        fixed_volts(sheet, device.string_v, limits);
        let (module, gain) = (module.ratings.clone(), module.ratings.gain());
        let x = OptimizerInputs { module, optimizer: device, site: site.clone(), n: s.n, gain };
        return FoundString::Optimizers(optimizer(sheet, &x));
    }
    let x = WindowInputs {
        module: &module.ratings,
        inverter: &ratings,
        site,
        n: s.n,
        method: bench.job.site.cold_method,
        sources: &sources(module, inverter),
        n_pointer: Some(&format!("/strings/{}/n", s.letter)),
    };
    FoundString::Window(Box::new(window(sheet, &x)))
}

pub(super) fn sources(module: &ModuleSheet, inverter: &InverterSheet) -> Sources {
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
    let (loads, library) = (alike(on), bench.library);
    let Some(ratings) = data.ratings_at(number) else { return loads };
    let x = MpptInputs { strings: &loads, inverter: &ratings, sources };
    let input = &data.mppts[number as usize - 1];
    let pairs_n = pairs(bench.found.get::<PlanFound>(), on);
    let with_n = on.iter().filter(|(s, _)| s.optimizer.is_some()).count();
    if with_n > 0 {
        // Optimizers make the string's volts and amps, and strings in parallel may differ: watts
        // and amps are left.
        mppt_power(sheet, &x);
        let string = |(s, m): &(&JobString, &ModuleSheet)| OptimizedString {
            n: s.n,
            pmax_w: m.ratings.pmax_w,
            string_v: s.optimizer.as_ref().and_then(|o| library.optimizer(o)?.ratings.string_v),
        };
        input_current(sheet, &on.iter().map(string).collect::<Vec<_>>(), ratings.mppt_imp_max_a);
        let verdict = if with_n == on.len() { Verdict::Pass } else { Verdict::Fail };
        sheet
            .judge(&SAME_KIND, verdict)
            .reason(
                "One string is held at fixed volts by its optimizers, the other follows the sun: \
                 on one input they work against each other.",
            )
            .cure("An input each, or optimizers in every string.", Vec::new());
        connectors(sheet, pairs_n, input);
        return loads;
    }
    mppt(sheet, &x);
    let mut shared = Vec::new();
    for (s, _) in on {
        let face = bench.job.face(&s.face);
        shared.push(Shared { letter: &s.letter, n: s.n, module: &s.module, face });
    }
    sharing(sheet, &shared, pairs_n, input);
    loads
}

/// Pairs that strings come to an input in: those that end in one combiner come as one.
fn pairs(plan: &PlanFound, on: &[(&JobString, &ModuleSheet)]) -> usize {
    let combiner = |s: &JobString| {
        let own = |c: &&Circuit| c.from.string.as_ref() == Some(&s.letter);
        let to = plan.plan.circuits.values().find(own)?.to.as_ref()?.node.as_ref()?;
        plan.plan.nodes.get(to).is_some_and(|n| n.kind == NodeKind::Combiner).then_some(to)
    };
    let ends: Vec<Option<&NodeKey>> = on.iter().map(|(s, _)| combiner(s)).collect();
    let combiners: HashSet<&NodeKey> = ends.iter().flatten().copied().collect();
    ends.iter().filter(|end| end.is_none()).count() + combiners.len()
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
