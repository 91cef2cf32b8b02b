//! The same circuit in thinner and thicker wire: what it drops, loses and costs.

use serde::Serialize;
use utoipa::ToSchema;

use super::{sizes, smallest_wires, taken};
use crate::evaluate::{Report, evaluate};
use crate::figure::{Subject, Verdict};
use crate::job::{CircuitKey, Edit, Job};
use crate::library::Library;
use crate::stages::places::full_hours;
use crate::stages::runs::{conductors, is_of_the_wire};
use crate::work::Work;

/// A circuit in wire of a size.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct WireOption {
    /// AWG or kcmil (na), mm² (iec).
    pub size: String,
    /// The worst of the checks that the wire decides.
    pub verdict: Verdict,
    /// Voltage drop, %.
    pub drop_pct: Option<f64>,
    /// Lost in full sun, W.
    pub loss_w: Option<f64>,
    /// Lost in a clear year, kWh; none where the site's place or weather is open, or the circuit
    /// carries more than one string or inverter.
    pub loss_kwh: Option<f64>,
    /// All its conductors, m.
    pub conductor_m: Option<f64>,
    /// What these cost by the job's prices.
    pub cost: Option<f64>,
    /// Conductors, and what is lost in all years.
    pub years_cost: Option<f64>,
    /// The wire it has.
    pub now: bool,
    /// The cheapest over the years of those that hold.
    pub best: bool,
    /// The edits that take it.
    pub edits: Vec<Edit>,
}

/// A circuit in wire of several sizes.
#[derive(Clone, Debug, Default, PartialEq, Serialize, ToSchema)]
pub struct WireOptions {
    /// The sizes, thinnest first.
    pub options: Vec<WireOption>,
    /// The time was up, or nobody waited any more: it was not searched through.
    #[serde(skip_serializing_if = "std::ops::Not::not")]
    #[schema(required = false)]
    pub cut: bool,
}

/// How many sizes from the smallest that holds on.
const OFFERED: usize = 4;

/// Sizes from the smallest that holds on, and the present one; nothing where no size holds and none
/// is picked. All legs of the circuit get the same.
pub fn wire_options(job: &Job, library: &Library, key: &CircuitKey, work: &Work) -> WireOptions {
    let Some(circuit) = job.plan.circuits.get(key).filter(|c| !c.legs.is_empty()) else {
        return WireOptions::default();
    };
    let all = sizes(job.school);
    let wire = &circuit.legs[0].wire;
    let now = wire.size(job.school);
    let place = |size: &String| all.iter().position(|s| s == size);
    let least = smallest_wires(job, library, std::slice::from_ref(key), work);
    let least = least.wires.iter().filter_map(|w| place(w.size.as_ref()?)).max();
    let has = now.as_ref().and_then(place);
    let Some(from) = least.or(has) else {
        return WireOptions { options: Vec::new(), cut: work.cut() };
    };
    let mut offered: Vec<usize> = (from..all.len()).take(OFFERED).collect();
    if let Some(has) = has.filter(|has| !offered.contains(has)) {
        offered.push(has);
        offered.sort_unstable();
    }
    let hours = full_hours(job, library, key);
    let n = conductors(job, library, circuit).len() as f64;
    let mut options: Vec<WireOption> = Vec::new();
    for at in offered {
        if !work.goes_on() {
            break;
        }
        let legs = 0..circuit.legs.len();
        let edits: Vec<Edit> = legs.map(|leg| taken(job.school, key, leg, &all[at])).collect();
        let Some(other) = crate::job::applied(job, &edits) else { continue };
        let report = evaluate(&other, library, &[]);
        let loss_w = number(&report, "circuit.loss_w", key);
        let conductor_m = number(&report, "circuit.length_m", key).map(|m| m * n);
        let loss_kwh = loss_w.zip(hours).map(|(w, h)| w * h / 1000.0);
        let cost = conductor_m
            .zip(job.school.section_mm2(&all[at]))
            .map(|(m, mm2)| m * job.conductor_cost(mm2));
        let years_cost =
            cost.zip(loss_kwh).map(|(cost, kwh)| cost + kwh * job.rate("kwh") * job.rate("years"));
        options.push(WireOption {
            size: all[at].clone(),
            verdict: verdict(&report, key),
            drop_pct: number(&report, "circuit.vdrop_pct", key),
            loss_w,
            loss_kwh,
            conductor_m,
            cost,
            years_cost,
            now: has == Some(at),
            best: false,
            edits,
        });
    }
    let holds = |o: &&mut WireOption| o.verdict == Verdict::Pass && o.years_cost.is_some();
    let best = options.iter_mut().filter(holds).min_by(|a, b| {
        let cost = |o: &WireOption| o.years_cost.unwrap_or(f64::INFINITY);
        cost(a).total_cmp(&cost(b))
    });
    if let Some(best) = best {
        best.best = true;
    }
    WireOptions { options, cut: work.cut() }
}

fn number(report: &Report, id: &str, key: &CircuitKey) -> Option<f64> {
    let subject = Subject::circuit(key);
    let own = report.figures.iter().find(|f| f.id == id && f.subject == subject);
    own?.value.as_ref()?.number()
}

fn verdict(report: &Report, key: &CircuitKey) -> Verdict {
    let own = report.checks.iter().filter(|c| {
        let of = matches!(&c.subject, Subject::Circuit { circuit, .. } if circuit == key);
        of && is_of_the_wire(c.id)
    });
    own.map(|c| c.verdict).max().unwrap_or(Verdict::Unknown)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::job::read;

    #[test]
    fn thicker_wire_loses_less_and_costs_more() {
        let text = include_str!("../../../../data/demo/kestrel-lane.json");
        let mut file = read(text).expect("a demo job").file;
        file.job.site.latitude_deg = Some(40.0);
        let options = wire_options(&file.job, &file.library, &"A".into(), &Work::default()).options;
        let sizes: Vec<&str> = options.iter().map(|o| o.size.as_str()).collect();
        assert_eq!(sizes, ["12", "10", "8", "6"]);
        assert_eq!(options.iter().filter(|o| o.now).count(), 1);
        assert!(options[2].now, "8 AWG");
        // 19.5 m twice; 12 AWG 1.98 ohm/kft: 2 x 19.5 x 0.0064961 x 13.05² = 43.1 W.
        let first = &options[0];
        assert!((first.conductor_m.expect("m") - 39.0).abs() < 1e-9);
        let ohms = 39.0 * 1.98 / (1000.0 * 0.3048);
        assert!((first.loss_w.expect("W") - ohms * 13.05 * 13.05).abs() < 1e-6);
        // 39 m x (0.35 + 0.26 x 6530 cmil x 5.067e-4 mm²).
        let mm2 = 6530.0 * 5.067_075e-4;
        assert!((first.cost.expect("cost") - 39.0 * (0.35 + 0.26 * mm2)).abs() < 1e-6);
        for pair in options.windows(2) {
            assert!(pair[1].loss_w < pair[0].loss_w && pair[1].cost > pair[0].cost);
            assert!(pair[1].loss_kwh < pair[0].loss_kwh);
        }
        assert_eq!(options.iter().filter(|o| o.best).count(), 1);
    }

    #[test]
    fn without_a_latitude_the_year_is_open_and_the_sun_at_noon_is_not() {
        let text = include_str!("../../../../data/demo/kestrel-lane.json");
        let mut file = read(text).expect("a demo job").file;
        file.job.site.latitude_deg = None;
        let options = wire_options(&file.job, &file.library, &"A".into(), &Work::default()).options;
        assert!(options.iter().all(|o| o.loss_kwh.is_none() && o.loss_w.is_some() && !o.best));
        let none = wire_options(&file.job, &file.library, &"Z".into(), &Work::default());
        assert_eq!(none, WireOptions::default());
    }
}
