//! The job's panel against what all its runs and branches feed into it.

use super::pass::{PANEL_KNOWN, RunsFound};
use super::{PanelInputs, panel};
use crate::figure::{Sheet, Subject};
use crate::registry::Bench;
use crate::school::School;
use crate::stages::branches::BranchesFound;

/// Nothing rests on the busbar.
pub(super) struct BusbarFound;

pub(super) fn busbar_of_job(bench: &Bench, sheet: &mut Sheet) -> BusbarFound {
    let (job, library) = (bench.job, bench.library);
    if job.school != School::Na {
        return BusbarFound;
    }
    sheet.subject = Subject::Panel;
    let Some(p) = &job.panel else {
        sheet.known(&PANEL_KNOWN, ["panel.bus_a"]);
        return BusbarFound;
    };
    let amps = job.inverters.iter().map(|i| library.inverter(&i.sheet).and_then(|s| s.ac_a));
    let units = job.branches.iter().map(|b| {
        let one = library.micro(&b.micro).and_then(|m| m.ac_a);
        one.map(|a| a * f64::from(b.units()))
    });
    let empty = job.inverters.is_empty() && job.branches.is_empty();
    let inverter_a = if empty { None } else { amps.chain(units).sum() };
    // The branches come together on one breaker.
    let combined = bench.found.get::<BranchesFound>().device.as_ref().map(|d| d.value());
    let devices = &bench.found.get::<RunsFound>().devices;
    let none = devices.is_empty() && combined.is_none();
    let pv_breaker_a = if none { None } else { devices.iter().copied().chain(combined).sum() };
    panel(
        sheet,
        &PanelInputs {
            bus_a: p.bus_a,
            main_a: p.main_a,
            load_breakers_a: p.load_breakers_a.clone(),
            pv_breaker_a,
            inverter_a,
            pv_at_far_end: p.pv_at_far_end,
            load_calc_a: p.load_calc_a,
        },
    );
    BusbarFound
}
