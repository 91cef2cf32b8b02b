//! Rapid shutdown (690.12): on buildings, what takes the volts off the array, what is left inside
//! and outside of it after 30 s, and where it is started.

use crate::figure::{Bound, Sheet, Subject, Verdict};
use crate::figures;
use crate::job::{Building, DeviceKind, Job, Node, NodeKind, Place, ShutdownBy};
use crate::library::Library;
use crate::plan::{PlanFound, indoors};
use crate::quantity::Volts;
use crate::registry::Bench;
use crate::school::School;
use crate::stages::branches::VOC_COLD as UNIT_V;

figures! { Protection;
    /// What does it.
    BY: Rule = "shutdown.by", "Rapid shutdown", na "690.12";
    /// Volts inside the array.
    INSIDE: Volts = "shutdown.inside_v", "Volts inside the array after 30 s", na "690.12(B)(2)";
    /// Volts outside the array.
    OUTSIDE: Volts = "shutdown.outside_v", "Volts outside the array after 30 s", na "690.12(B)(1)";
    /// Where it is started.
    STARTER: Rule = "shutdown.starter", "Starter of the rapid shutdown", na "690.12(C)";
    /// Whether it is known where the starter stands.
    OUTSIDE_PLACE: Rule = "starter.place", "Place of the starter", na "690.12(C)";
}

/// Volts left inside the array, V.
const INSIDE_V: f64 = 80.0;
/// Volts left outside the array, V.
const OUTSIDE_V: f64 = 30.0;

/// Whether circuits are on or in a building; none where nobody said.
fn on_a_building(job: &Job, plan: &PlanFound) -> Option<bool> {
    match job.site.building? {
        Building::Ground => {
            let enters = (0..job.strings.len()).any(|i| plan.enters_building(i));
            Some(enters || job.site.dc_enters.is_some())
        }
        _ => Some(true),
    }
}

/// Whether every module has its own electronics that give way by themselves.
fn all_electronics(job: &Job) -> bool {
    job.strings.iter().all(|s| s.optimizer.is_some())
}

/// The largest cold volts of a module behind its unit.
fn unit_v(sheet: &Sheet) -> Option<f64> {
    let own = sheet.figures.iter().filter(|f| f.id == UNIT_V.id);
    let each = own.map(|f| f.value.as_ref()?.number());
    each.collect::<Option<Vec<f64>>>()?.into_iter().reduce(f64::max)
}

/// Volts of the longest string of optimizers when safe.
fn left_v(job: &Job, library: &Library) -> Option<f64> {
    let mut strings = job.strings.iter().map(|s| {
        let one = library.optimizer(s.optimizer.as_ref()?)?.ratings.safety_v?;
        Some(one * f64::from(s.n))
    });
    strings.try_fold(0.0, |most: f64, v| Some(most.max(v?)))
}

pub(super) fn of_job(bench: &Bench, sheet: &mut Sheet) {
    let job = bench.job;
    if sheet.school != School::Na || (job.strings.is_empty() && job.branches.is_empty()) {
        return;
    }
    let plan = bench.found.get::<PlanFound>();
    sheet.subject = Subject::Site;
    match on_a_building(job, plan) {
        Some(true) => {}
        Some(false) => return,
        None => {
            sheet.known(&BY, ["site.building"]);
            return;
        }
    }
    let by = job.protection.shutdown;
    let own = all_electronics(job).then_some(ShutdownBy::ModuleElectronics);
    let verdict = match (by, own) {
        (None, None) => Verdict::Unknown,
        // Strings of bare modules are no electronics.
        (Some(ShutdownBy::ModuleElectronics), None) => Verdict::Fail,
        _ => Verdict::Pass,
    };
    let by = by.or(own);
    sheet
        .judge(&BY, verdict)
        .misses(["protection.shutdown"])
        .found("Strings of bare modules stay at full volts as long as there is light.")
        .cure("A shutdown device at each module, or optimizers.", Vec::new());
    if by != Some(ShutdownBy::ListedArray) {
        let electronics = by == Some(ShutdownBy::ModuleElectronics);
        let strings = if electronics { left_v(job, bench.library) } else { None };
        // Behind a unit its module stays at its own volts; outside nothing is left.
        let units = if job.branches.is_empty() { Some(0.0) } else { unit_v(sheet) };
        let inside = strings.zip(units).map(|(a, b)| a.max(b));
        volts(sheet, &INSIDE, inside.or(job.protection.shutdown_inside_v), INSIDE_V);
        volts(sheet, &OUTSIDE, strings.or(job.protection.shutdown_outside_v), OUTSIDE_V);
    }
    starter(job, plan, sheet);
}

fn volts(sheet: &mut Sheet, def: &'static crate::figure::Def<Volts>, left: Option<f64>, most: f64) {
    let field = if def.id == INSIDE.id {
        "protection.shutdown_inside_v"
    } else {
        "protection.shutdown_outside_v"
    };
    let left = sheet.figure(def, |w| w.need("left", left, field, "data sheets of the devices"));
    sheet
        .hold(&left, Bound::at_most(most, "after 30 s"), Verdict::Fail)
        .beyond(|over| format!("{over} too much for who works there."))
        .cure("Devices that take off more, or shorter strings of them.", Vec::new());
}

/// A starter of its own, or where only units feed in, the breaker or disconnect of the system. That
/// of a dwelling stands outside.
fn starter(job: &Job, plan: &PlanFound, sheet: &mut Sheet) {
    let starts = |n: &&Node| n.devices.values().any(|d| d.what == DeviceKind::ShutdownStarter);
    let places: Vec<Option<Place>> =
        plan.plan.nodes.values().filter(starts).map(|n| n.place).collect();
    if job.site.building == Some(Building::Dwelling12) && !places.is_empty() {
        let outside = |p: &Option<Place>| p.is_some_and(|p| !indoors(p));
        if places.iter().any(outside) {
            sheet.judge(&STARTER, Verdict::Pass);
        } else if places.contains(&None) {
            sheet.known(&OUTSIDE_PLACE, ["node.place"]);
        } else {
            sheet
                .judge(&STARTER, Verdict::Fail)
                .reason("It stands inside: the fire service does not reach it.")
                .cure("A starter outside, where it is readily reached.", Vec::new());
        }
        return;
    }
    let nodes = || plan.plan.nodes.values();
    let own = nodes().any(|n| n.devices.values().any(|d| d.what == DeviceKind::ShutdownStarter));
    let switch = nodes().any(|n| n.kind == NodeKind::Isolator);
    let verdict = if own { Verdict::Pass } else { Verdict::Unknown };
    let check = sheet.judge(&STARTER, verdict).misses(["protection.starter"]);
    if switch && !own {
        check.reason("A disconnect is planned; whether it starts the shutdown is not said.");
    }
}
