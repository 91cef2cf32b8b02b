//! Routes of one job side by side: the plan that is drawn and those kept beside it, each with what
//! the law says of it, what it costs, how long it takes, what it drops, how hot it lies and what
//! stays to be seen.

use serde::Serialize;
use utoipa::ToSchema;

use crate::evaluate::{Counts, Report, evaluate};
use crate::figure::{Check, Figure, Sheet, Stage, Subject, Value, Verdict, said};
use crate::job::{CircuitKey, CircuitKind, Job, Place, WayKey};
use crate::library::Library;
use crate::quantity::Unit;
use crate::school::School;
use crate::stages::places::lost_kwh;
use crate::stages::routes::{Counted, RouteCost, cost};
use crate::work::Work;

/// Stops and open checks that are named.
const NAMED: usize = 5;

/// One route.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct RouteRow {
    /// Its name.
    pub name: String,
    /// It is the one that is drawn.
    pub drawn: bool,
    /// The worst check of its runs.
    pub verdict: Verdict,
    /// Checks of its runs by verdict.
    pub counts: Counts,
    /// What stops it, is open or a caution: the first ones, with what they are about.
    pub against: Vec<String>,
    /// Material, in the money of the prices.
    pub material_cost: Option<f64>,
    /// Work on site, h.
    pub work_h: Option<f64>,
    /// Material and work.
    pub total_cost: Option<f64>,
    /// Material, work and losses of all years.
    pub years_cost: Option<f64>,
    /// Largest drop of a DC circuit, %.
    pub dc_drop_pct: Option<f64>,
    /// Largest drop of an AC circuit, %.
    pub ac_drop_pct: Option<f64>,
    /// Lost in full sun, W.
    pub loss_w: Option<f64>,
    /// Hottest air around a wire, °C.
    pub hottest_c: Option<f64>,
    /// Ways that stay to be seen, m: on roofs and outside walls.
    pub visible_m: Option<f64>,
    /// All ways, m.
    pub length_m: Option<f64>,
    /// Lengths of raceway, wire and work, with their working.
    pub figures: Vec<Figure>,
    /// The cheapest of those that hold.
    pub best: bool,
}

/// Routes side by side.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct Routes {
    /// The one that is drawn first.
    pub rows: Vec<RouteRow>,
    /// Which one, and why, with numbers; none where fewer than two can be compared.
    pub recommendation: Option<String>,
    /// The time was up, or nobody waited any more: it was not searched through.
    #[serde(skip_serializing_if = "std::ops::Not::not")]
    #[schema(required = false)]
    pub cut: bool,
}

/// The drawn route and every kept one.
pub fn compare_routes(job: &Job, library: &Library, work: &Work) -> Routes {
    let drawn = row(job, library, true);
    let kept = job.routes.iter().take_while(|_| work.goes_on());
    let kept = kept.map(|r| row(&job.with_route(r), library, false));
    let mut rows: Vec<RouteRow> = std::iter::once(drawn).chain(kept).collect();
    let price = price_of(&rows);
    let holds = |r: &&mut RouteRow| r.verdict <= Verdict::Warn && price(r).is_some();
    let best = rows.iter_mut().filter(holds).min_by(|a, b| {
        let of = |r: &RouteRow| price(r).unwrap_or(f64::INFINITY);
        of(a).total_cmp(&of(b))
    });
    if let Some(best) = best {
        best.best = true;
    }
    Routes { recommendation: recommended(&rows), rows, cut: work.cut() }
}

/// By what routes are ranked: with the losses of all years where every one has them.
fn price_of(rows: &[RouteRow]) -> fn(&RouteRow) -> Option<f64> {
    let all = rows.iter().all(|r| r.years_cost.is_some() || r.total_cost.is_none());
    if all { |r| r.years_cost } else { |r| r.total_cost }
}

fn row(job: &Job, library: &Library, drawn: bool) -> RouteRow {
    let report = evaluate(job, library, &[]);
    // What the panels say is the same whichever way the wires go.
    let of_the_house = |s: &Subject| matches!(s, Subject::Panel { .. } | Subject::Site);
    let runs =
        || report.checks.iter().filter(|c| c.stage == Stage::Runs && !of_the_house(&c.subject));
    let counts = Counts::of(runs());
    let loss = |key: &CircuitKey| number(&report, "circuit.loss_w", key);
    let power = || job.plan.circuits.iter().filter(|(_, c)| c.kind.is_power());
    // None where one of them is open, or there is none.
    let worst = |id: &str, of: fn(CircuitKind) -> bool| -> Option<f64> {
        let own = power().filter(|(_, c)| of(c.kind));
        let each: Option<Vec<f64>> = own.map(|(key, _)| number(&report, id, key)).collect();
        each?.into_iter().reduce(f64::max)
    };
    let all = |id: &str| -> Option<f64> {
        let own = report.figures.iter().filter(|f| f.id == id);
        own.map(|f| f.value.as_ref()?.number()).sum()
    };
    let counted = Counted {
        supports_n: all("raceway.support_n"),
        couplings_n: all("raceway.coupling_n"),
        lost_kwh: lost_kwh(job, library, loss),
    };
    let mut sheet = Sheet::new(job.school, Subject::Sum);
    let earths = |way: &WayKey| earth(job, &report, way);
    let cost: RouteCost = cost(&mut sheet, job, library, counted, &earths);
    let legs = || job.plan.circuits.values().flat_map(|c| &c.legs);
    let ways = || {
        let all = job.plan.ways.iter();
        all.filter(|(key, _)| legs().any(|l| l.via.contains(*key)))
    };
    let used = || ways().flat_map(|(_, w)| &w.parts);
    let seen = used().filter(|p| p.place.is_none_or(visible));
    RouteRow {
        name: job.route_name().to_owned(),
        drawn,
        verdict: counts.worst().unwrap_or(Verdict::Unknown),
        counts,
        against: against(runs()),
        material_cost: cost.material,
        work_h: cost.work_h,
        total_cost: cost.total,
        years_cost: cost.years,
        dc_drop_pct: worst("circuit.vdrop_pct", CircuitKind::is_dc),
        ac_drop_pct: worst("circuit.vdrop_pct", |kind| !kind.is_dc()),
        loss_w: power().map(|(key, _)| loss(key)).sum(),
        hottest_c: hottest_c(&report, worst("circuit.ambient_c", |_| true)),
        visible_m: seen.map(|p| p.place.and(p.length_m)).sum(),
        length_m: used().map(|p| p.length_m).sum(),
        figures: sheet.figures,
        best: false,
    }
}

/// Checks that stop, then those that are open, then cautions, with what they are about.
fn against<'c>(checks: impl Iterator<Item = &'c Check>) -> Vec<String> {
    let mut bad: Vec<_> = checks.filter(|c| c.verdict != Verdict::Pass && !c.alternative).collect();
    bad.sort_by_key(|c| std::cmp::Reverse(c.verdict));
    let line = |c: &&Check| match &c.reason {
        Some(reason) if c.verdict != Verdict::Unknown => {
            format!("{} ({}): {reason}", c.title, c.subject)
        }
        _ if c.verdict == Verdict::Unknown => format!("{} ({}) is open", c.title, c.subject),
        _ => format!("{} ({})", c.title, c.subject),
    };
    bad.iter().take(NAMED).map(line).collect()
}

/// The hottest air around a wire: of the bands that ways lie in, and of a circuit, which knows how
/// close to a sunlit roof it lies.
fn hottest_c(report: &Report, of_circuits: Option<f64>) -> Option<f64> {
    let ways = report.route.ways.iter().filter(|w| !w.circuits.is_empty());
    let bands = ways.flat_map(|w| &w.parts).map(|p| report.route.bands.get(p.band)?.ambient_c);
    let each: Option<Vec<f64>> = bands.collect();
    each?.into_iter().chain(of_circuits).reduce(f64::max)
}

fn visible(place: Place) -> bool {
    matches!(
        place,
        Place::RoofSun
            | Place::RoofShade
            | Place::OutsideWallSun
            | Place::OutsideWallShade
            | Place::Sheltered
    )
}

fn number(report: &Report, id: &str, key: &CircuitKey) -> Option<f64> {
    let of = |s: &Subject| matches!(s, Subject::Circuit { circuit, .. } if circuit == key);
    let own = report.figures.iter().filter(|f| f.id == id && of(&f.subject));
    let each: Option<Vec<f64>> = own.map(|f| f.value.as_ref()?.number()).collect();
    each?.into_iter().reduce(f64::max)
}

/// The earth wire of a way: the largest its circuits ask for.
fn earth(job: &Job, report: &Report, way: &WayKey) -> Option<String> {
    let id = if job.school == School::Na { "circuit.egc_awg" } else { "circuit.pe_mm2" };
    let of = |f: &&Figure| {
        let Subject::Circuit { circuit, .. } = &f.subject else { return false };
        let legs = job.plan.circuits.get(circuit).map_or(&[][..], |c| &c.legs);
        f.id == id && legs.iter().any(|l| l.via.contains(way))
    };
    let text = |f: &Figure| match f.value.as_ref()? {
        Value::Number(n) => Some(n.to_string()),
        Value::Text(size) => Some(size.clone()),
        Value::Flag(_) => None,
    };
    let sizes = report.figures.iter().filter(of).map(text);
    crate::stages::runs::largest_size(job.school, &sizes.collect::<Option<Vec<String>>>()?)
}

fn recommended(rows: &[RouteRow]) -> Option<String> {
    let price = price_of(rows);
    let best = rows.iter().find(|r| r.best)?;
    let own = price(best)?;
    let with = if best.years_cost == Some(own) { ", losses of all years in" } else { "" };
    let others = rows.iter().filter(|r| !r.best && r.verdict <= Verdict::Warn);
    let second = others.filter_map(|r| Some((r, price(r)?))).min_by(|a, b| a.1.total_cmp(&b.1));
    let named = |verdict: Verdict, word: &str| {
        let own = rows.iter().filter(|r| r.verdict == verdict);
        let names: Vec<&str> = own.map(|r| r.name.as_str()).collect();
        if names.is_empty() { String::new() } else { format!(" {word}: {}.", names.join(", ")) }
    };
    let not = named(Verdict::Fail, "Stopped") + &named(Verdict::Unknown, "Open");
    let Some((other, price)) = second else {
        return (rows.len() > 1).then(|| format!("{}: the only one that holds.{not}", best.name));
    };
    let hours =
        |r: &RouteRow| r.work_h.map_or("open".to_owned(), |h| said(h, Unit::Hour).to_string());
    let metres =
        |r: &RouteRow| r.visible_m.map_or("open".to_owned(), |m| said(m, Unit::M).to_string());
    Some(format!(
        "{}: {own:.0} against {price:.0} for {}{with}. Work {} against {}, to be seen {} against \
         {}.{not}",
        best.name,
        other.name,
        hours(best),
        hours(other),
        metres(best),
        metres(other),
    ))
}
