//! What a repair costs on site.

use serde::Serialize;
use utoipa::ToSchema;

use super::Stop;
use super::repairs::Mending;
use crate::figure::Subject;
use crate::job::{CircuitKind, Job, JobString, Leg, WayKey};
use crate::library::Library;
use crate::school::School;

/// Allowance for the two ends of a cut, m.
const CUT_ENDS_M: f64 = 2.0 * 0.3;

/// Ways of an enclosure (17.5 mm each) a four-pole isolator takes.
const ISOLATOR_WAYS: i32 = 4;

/// Ways of an enclosure a surge device for one input takes.
const SPD_WAYS: i32 = 3;

/// What a repair adds or takes away. Negative is taken away.
#[derive(Clone, Copy, Debug, Default, PartialEq, Serialize, ToSchema)]
pub struct SiteCost {
    /// Cable pairs from the roof.
    pub cable_pairs_n: i32,
    /// Metres of cable, both poles.
    pub cable_m: f64,
    /// Isolators.
    pub isolators_n: i32,
    /// Surge devices.
    pub spds_n: i32,
    /// Enclosure ways of 17.5 mm.
    pub ways_n: i32,
    /// Connectors to make up, halves.
    pub connectors_n: i32,
    /// Modules to unclamp and lift.
    pub modules_lifted_n: i32,
    /// Modules more on the roof.
    pub modules_n: i32,
    /// Metres of raceway that must be replaced by a larger one.
    pub raceway_m: f64,
    /// Inverters to exchange.
    pub inverters_n: i32,
    /// Module watts more.
    pub power_w: f64,
    /// The work, minutes; watts given up stand apart.
    pub minutes: f64,
    /// The work with watts given up weighed in, minutes: what repairs are ranked by.
    pub weighed_minutes: f64,
}

impl Mending<'_> {
    /// Joints between modules that are made or opened: one for each string more, one for each whose
    /// count changes.
    fn joints(&self, job: &Job) -> i32 {
        let (before, after) = (self.job.strings.len() as i32, job.strings.len() as i32);
        let changed = job
            .strings
            .iter()
            .filter(|s| self.job.strings.iter().any(|o| o.letter == s.letter && o.n != s.n))
            .count() as i32;
        (after - before).abs().max(changed)
    }

    pub(super) fn cost(&self, job: &Job, known: &Library, also: &[Stop], swap: bool) -> SiteCost {
        let strings = |j: &Job| j.strings.len() as i32;
        let modules = |j: &Job| j.strings.iter().map(|s| s.n as i32).sum::<i32>();
        let inputs = |j: &Job| {
            let mut used: Vec<(&str, u32)> =
                j.strings.iter().map(|s| (s.inverter.as_str(), s.mppt)).collect();
            used.sort_unstable();
            used.dedup();
            used.len() as i32
        };
        let power = |j: &Job| -> f64 {
            let watts = |s: &JobString| {
                known.module(&s.module).and_then(|m| m.ratings.pmax_w).unwrap_or(0.0)
                    * f64::from(s.n)
            };
            j.strings.iter().map(watts).sum()
        };
        let cable = |j: &Job| -> f64 {
            let own = j.plan.circuits.values().filter(|c| c.kind == CircuitKind::PvString);
            let way_m = |key: &WayKey| {
                let parts = j.plan.ways.get(key).map_or(&[][..], |w| &w.parts);
                parts.iter().filter_map(|p| p.length_m).sum::<f64>()
            };
            let leg_m = |l: &Leg| l.via.iter().map(way_m).sum::<f64>() + CUT_ENDS_M;
            own.map(|c| 2.0 * c.legs.iter().map(leg_m).sum::<f64>()).sum()
        };
        let iec = job.school == School::Iec;
        let pairs = strings(job) - strings(self.job);
        let isolators = if iec { pairs } else { 0 };
        let spds = if iec { inputs(job) - inputs(self.job) } else { 0 };
        let gone = modules(self.job) - modules(job);
        let lifted = 2 * self.joints(job);
        let raceway_m: f64 =
            also.iter().filter_map(|s| raceway_length(job, &s.check.subject)).sum();
        let mut cost = SiteCost {
            cable_pairs_n: pairs,
            cable_m: cable(job) - cable(self.job),
            isolators_n: isolators,
            spds_n: spds,
            ways_n: isolators * ISOLATOR_WAYS + spds * SPD_WAYS,
            // A pair ends in two halves at the array and two at the inverter.
            connectors_n: 4 * pairs,
            modules_lifted_n: lifted,
            modules_n: -gone,
            raceway_m,
            inverters_n: i32::from(swap) * self.accept.len() as i32,
            power_w: power(job) - power(self.job),
            minutes: 0.0,
            weighed_minutes: 0.0,
        };
        let minutes = |key: &str| self.job.rate(key);
        let more = |n: i32, key: &str| f64::from(n.max(0)) * minutes(key);
        cost.minutes = (cost.cable_m / 2.0).max(0.0) * minutes("cable_pair_m")
            + more(cost.isolators_n, "isolator")
            + more(cost.spds_n, "spd")
            + more(cost.connectors_n, "connector")
            + more(cost.modules_lifted_n, "module_off_and_on")
            + more(gone, "module_gone")
            + cost.raceway_m * minutes("raceway_m")
            + more(cost.inverters_n, "inverter_swap");
        cost.weighed_minutes = cost.minutes + (-cost.power_w).max(0.0) * minutes("watt_given_up");
        cost
    }
}

/// Length of the raceway a check is about.
fn raceway_length(job: &Job, subject: &Subject) -> Option<f64> {
    let Subject::Way { way, part } = subject else { return None };
    job.plan.ways.get(way)?.parts.get(part.checked_sub(1)?)?.length_m
}
