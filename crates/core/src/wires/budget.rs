//! One budget of voltage drop from the modules to the panel, shared over DC and AC: each way to
//! share it with the wires it asks for and what they cost.

use serde::Serialize;
use utoipa::ToSchema;

use super::smallest_wires;
use crate::evaluate::evaluate;
use crate::figure::Subject;
use crate::job::{CircuitKey, Edit, Job, applied};
use crate::library::Library;
use crate::stages::runs::conductors;
use crate::work::Work;

/// Steps a budget is shared in.
const STEPS: u32 = 10;

/// One way to share the budget.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct BudgetShare {
    /// Limit of the DC circuits, %.
    pub dc_pct: f64,
    /// Limit of the AC circuits, %.
    pub ac_pct: f64,
    /// The largest drop of a DC circuit and of an AC circuit together, %.
    pub drop_pct: Option<f64>,
    /// All conductors by the prices; none where a circuit finds no wire.
    pub cost: Option<f64>,
    /// Sizes of DC circuits and of AC circuits, thinnest to thickest.
    pub sizes: Vec<String>,
    /// Circuits that find no wire.
    pub without: Vec<CircuitKey>,
    /// The cheapest.
    pub best: bool,
    /// The edits that take it: the limits and the wires.
    pub edits: Vec<Edit>,
}

/// Ways to share a budget.
#[derive(Clone, Debug, Default, PartialEq, Serialize, ToSchema)]
pub struct BudgetShares {
    /// The ways, from little DC to little AC.
    pub shares: Vec<BudgetShare>,
    /// The time was up, or nobody waited any more: it was not searched through.
    #[serde(skip_serializing_if = "std::ops::Not::not")]
    #[schema(required = false)]
    pub cut: bool,
}

/// Ways to share a budget of `budget_pct`, from little DC to little AC. Those that ask for the same
/// wires as one before are left out; of the others that were looked at the cheapest is the best.
pub fn share_budget(job: &Job, library: &Library, budget_pct: f64, work: &Work) -> BudgetShares {
    let power: Vec<CircuitKey> = {
        let own = job.plan.circuits.iter().filter(|(_, c)| c.kind.is_power() && !c.legs.is_empty());
        own.map(|(key, _)| key.clone()).collect()
    };
    let mut shares: Vec<BudgetShare> = Vec::new();
    for step in 1..STEPS {
        let dc_pct = round(budget_pct * f64::from(step) / f64::from(STEPS));
        let ac_pct = round(budget_pct - dc_pct);
        if dc_pct < LEAST_PCT || ac_pct < LEAST_PCT {
            continue;
        }
        let share = one(job, library, &power, (dc_pct, ac_pct), work);
        if work.cut() {
            break;
        }
        let wires = |s: &BudgetShare| s.edits[LIMITS..].to_vec();
        if !shares.iter().any(|s| wires(s) == wires(&share) && s.without == share.without) {
            shares.push(share);
        }
    }
    let whole = |s: &&mut BudgetShare| s.cost.is_some();
    let best = shares.iter_mut().filter(whole).min_by(|a, b| {
        let of = |s: &BudgetShare| s.cost.unwrap_or(f64::INFINITY);
        of(a).total_cmp(&of(b))
    });
    if let Some(best) = best {
        best.best = true;
    }
    BudgetShares { shares, cut: work.cut() }
}

/// Least limit of a side, %, as the settings take it.
const LEAST_PCT: f64 = 0.1;

/// The first edits of a share are the two limits.
const LIMITS: usize = 2;

fn round(pct: f64) -> f64 {
    (pct * 100.0).round() / 100.0
}

fn one(
    job: &Job,
    library: &Library,
    power: &[CircuitKey],
    (dc, ac): (f64, f64),
    work: &Work,
) -> BudgetShare {
    let mut edits =
        vec![Edit::new("/settings/vdrop_dc_pct", dc), Edit::new("/settings/vdrop_ac_pct", ac)];
    let mut limited = job.clone();
    (limited.settings.vdrop_dc_pct, limited.settings.vdrop_ac_pct) = (Some(dc), Some(ac));
    let found = smallest_wires(&limited, library, power, work);
    let mut without: Vec<CircuitKey> =
        found.wires.iter().filter(|w| w.size.is_none()).map(|w| w.circuit.clone()).collect();
    without.dedup();
    let wired = applied(&limited, &found.edits);
    edits.extend(found.edits);
    let mut sizes: Vec<String> = found.wires.iter().filter_map(|w| w.size.clone()).collect();
    let section = |s: &String| job.school.section_mm2(s).unwrap_or(0.0);
    sizes.sort_by(|a, b| section(a).total_cmp(&section(b)));
    sizes.dedup();
    let whole = wired.filter(|_| without.is_empty());
    let cost = whole.as_ref().and_then(|job| wire_cost(job, library, power));
    let drop_pct = whole.as_ref().and_then(|job| drop(job, library));
    BudgetShare { dc_pct: dc, ac_pct: ac, drop_pct, cost, sizes, without, best: false, edits }
}

/// The largest drop of each side, added.
fn drop(job: &Job, library: &Library) -> Option<f64> {
    let report = evaluate(job, library, &[]);
    let most = |dc: bool| {
        let own = report.figures.iter().filter(|f| f.id == "circuit.vdrop_pct");
        let own = own.filter(|f| match &f.subject {
            Subject::Circuit { circuit, .. } => {
                job.plan.circuits.get(circuit).is_some_and(|c| c.kind.is_dc() == dc)
            }
            _ => false,
        });
        let each: Option<Vec<f64>> = own.map(|f| f.value.as_ref()?.number()).collect();
        Some(each?.into_iter().fold(0.0, f64::max))
    };
    Some(most(true)? + most(false)?)
}

/// What all conductors of circuits cost.
fn wire_cost(job: &Job, library: &Library, power: &[CircuitKey]) -> Option<f64> {
    let mut all = 0.0;
    for circuit in power.iter().filter_map(|key| job.plan.circuits.get(key)) {
        let n = conductors(job, library, circuit).len() as f64;
        for leg in &circuit.legs {
            let size = leg.wire.size(job.school);
            let a_metre = job.conductor_cost(job.school.section_mm2(&size?)?);
            let parts =
                leg.via.iter().filter_map(|key| job.plan.ways.get(key)).flat_map(|w| &w.parts);
            all += n * a_metre * parts.map(|p| p.length_m).sum::<Option<f64>>()?;
        }
    }
    Some(all)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::job::read;

    #[test]
    fn the_cheapest_share_gives_the_longer_side_more() {
        let text = include_str!("../../../../data/demo/kestrel-lane.json");
        let mut file = read(text).expect("a demo job").file;
        for way in file.job.plan.ways.values_mut().filter(|w| w.parts.len() == 3) {
            way.parts.iter_mut().for_each(|p| p.length_m = Some(30.0));
        }
        let shares = share_budget(&file.job, &file.library, 3.0, &Work::default()).shares;
        assert!(shares.len() > 1, "there is something to choose");
        for s in &shares {
            assert!((s.dc_pct + s.ac_pct - 3.0).abs() < 1e-9);
            assert!(s.drop_pct.is_none_or(|d| d <= 3.0 + 1e-9), "{s:?}");
        }
        let best = shares.iter().find(|s| s.best).expect("one of them");
        assert!(shares.iter().all(|s| s.cost.is_none_or(|c| c >= best.cost.expect("a cost"))));
        // 90 m of DC against a few of AC: the budget goes to the DC side.
        assert!(best.dc_pct > best.ac_pct, "{best:?}");
        let taken = applied(&file.job, &best.edits).expect("they fit");
        assert_eq!(taken.settings.vdrop_dc_pct, Some(best.dc_pct));
        let report = evaluate(&taken, &file.library, &[]);
        let drops = report.checks.iter().filter(|c| c.id == "circuit.vdrop_pct");
        assert!(drops.into_iter().all(|c| c.verdict == crate::figure::Verdict::Pass));
    }
}
