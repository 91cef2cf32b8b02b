//! What it takes to build a route: its material, the work on site, and what both come to. Routes of
//! a job are compared by it (`crate::routes`).

mod bill;

use crate::figure::{Sheet, Working};
use crate::figures;
use crate::job::Job;
use crate::library::Library;
use crate::quantity::{Cost, KilowattHours, Minutes, Quantity, Ratio};
use crate::registry::Registry;
use crate::traced::{Traced, exact, sum};

use bill::{Bill, Line};

/// What the stage brings with it.
pub fn define(r: &mut Registry) {
    r.figures(CARDS);
}

figures! { Runs;
    /// Raceway, cable, wire and what holds them.
    MATERIAL: Cost = "route.material_cost", "Material", "prices";
    /// Time on site of one person.
    WORK: Hours = "route.work_h", "Work on site", "times";
    /// Material and work.
    TOTAL: Cost = "route.total_cost", "Material and work", "prices, times";
    /// Material, work and what is lost in all years.
    YEARS: Cost = "route.years_cost", "With losses of all years", "prices, clear-sky model";
}

/// What a route comes to; absent where something is open.
#[derive(Clone, Copy, Debug, Default, PartialEq)]
pub struct RouteCost {
    /// Material.
    pub material: Option<f64>,
    /// Work on site, h.
    pub work_h: Option<f64>,
    /// Both.
    pub total: Option<f64>,
    /// Both, and what is lost in all years.
    pub years: Option<f64>,
}

/// Prices of what a report counts besides lengths.
#[derive(Clone, Copy, Debug, Default)]
pub struct Counted {
    /// Supports; none where a length is open.
    pub supports_n: Option<f64>,
    /// Couplings.
    pub couplings_n: Option<f64>,
    /// Lost in a clear year, kWh.
    pub lost_kwh: Option<f64>,
}

/// Figures of what the drawn route of a job costs. `earth_of` gives the earth wire of a way with
/// power, as it is written.
pub fn cost(
    sheet: &mut Sheet,
    job: &Job,
    library: &Library,
    counted: Counted,
    earth_of: &dyn Fn(&crate::job::WayKey) -> Option<String>,
) -> RouteCost {
    let bill = Bill::of(job, library, counted, earth_of);
    let material = sheet.figure(&MATERIAL, |w| {
        let all = lines::<Cost>(w, &bill.material)?;
        bill.lacking.iter().for_each(|field| w.lack(field));
        bill.lacking.is_empty().then_some(all)
    });
    let work = sheet.figure(&WORK, |w| {
        let all = lines::<Minutes>(w, &bill.work)?;
        bill.lacking.iter().for_each(|field| w.lack(field));
        let minutes = w.step("in all", all);
        bill.lacking.is_empty().then(|| minutes.hours())
    });
    let total = sheet.figure(&TOTAL, |w| {
        let material = w.take("material", &material);
        let hours = w.take("work", &work);
        let price = w.given("an hour", Cost(job.rate("labour_h")), "prices");
        Some(material? + hours?.bare() * price)
    });
    let years = sheet.figure(&YEARS, |w| {
        let total = w.take("material and work", &total);
        let lost = w.need::<KilowattHours>(
            "lost a clear year",
            counted.lost_kwh,
            "site.latitude_deg",
            "clear sky",
        );
        let years = w.given("years", Ratio(job.rate("years")), "prices");
        let price = w.given("a kWh", Cost(job.rate("kwh")), "prices");
        Some(total? + years * lost?.bare() * price)
    });
    RouteCost {
        material: material.value(),
        work_h: work.value(),
        total: total.value(),
        years: years.value(),
    }
}

/// Each line of a bill as a step, and their sum; nothing at all is nought.
fn lines<Q>(w: &mut Working, lines: &[Line]) -> Option<Traced<Q>>
where
    Q: Quantity + std::ops::Add<Output = Q>,
    Ratio: std::ops::Mul<Q, Output = Q>,
{
    let each: Vec<_> = lines
        .iter()
        .map(|l| {
            let rate = exact::<Q>(l.rate);
            let each = l.factors.iter().fold(rate, |all, f| exact::<Ratio>(*f) * all);
            Some(w.step(&l.what, exact::<Ratio>(l.n) * each))
        })
        .collect();
    if each.is_empty() { Some(exact(0.0)) } else { sum(each) }
}
