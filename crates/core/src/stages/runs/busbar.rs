//! Every panel of a job against what its circuits feed into it.

use super::pass::{PANEL_KNOWN, RunsFound};
use super::{PanelInputs, panel};
use crate::figure::{Sheet, Subject};
use crate::job::{Job, NodeKind};
use crate::plan::PlanFound;
use crate::registry::Bench;
use crate::school::School;

/// Nothing rests on the busbar.
pub(super) struct BusbarFound;

/// Whether the output of something goes nowhere yet: it may still end at any panel.
fn somewhere(job: &Job, plan: &PlanFound) -> bool {
    let on_none = |b: &crate::job::JobBranch| {
        !plan.plan.circuits.values().any(|c| c.from.branch.as_ref() == Some(&b.letter))
    };
    let loose = |at: usize| !plan.circuit(at).kind.is_dc() && plan.loose_end(at).is_some();
    job.inverters.iter().any(|i| plan.output_of(&i.id).is_none())
        || job.branches.iter().any(on_none)
        || (0..plan.circuits.len()).any(loose)
}

pub(super) fn busbar_of_job(bench: &Bench, sheet: &mut Sheet) -> BusbarFound {
    if bench.job.school != School::Na {
        return BusbarFound;
    }
    let plan = bench.found.get::<PlanFound>();
    let runs = bench.found.get::<RunsFound>();
    let open = somewhere(bench.job, plan);
    let panels = plan.plan.nodes.iter().filter(|(_, n)| n.kind == NodeKind::Panel);
    for (key, node) in panels {
        sheet.subject = Subject::Panel { panel: key.clone() };
        let Some(p) = &node.panel else {
            sheet.known(&PANEL_KNOWN, ["panel.bus_a"]);
            continue;
        };
        // A circuit counts once, in however many legs it comes.
        let ac = |at: &usize| runs.outputs.contains_key(&plan.circuits[*at].key);
        let feeds: Vec<_> = plan
            .into_node(key)
            .iter()
            .filter(|at| ac(at))
            .map(|at| &plan.circuits[*at].key)
            .collect();
        let sum = |each: &std::collections::BTreeMap<_, Option<f64>>| {
            let own = feeds.iter().map(|key| each.get(*key).copied().flatten());
            own.sum::<Option<f64>>().filter(|_| !feeds.is_empty() && !open)
        };
        panel(
            sheet,
            &PanelInputs {
                bus_a: p.bus_a,
                main_a: p.main_a,
                load_breakers_a: p.load_breakers_a.clone(),
                pv_breaker_a: sum(&runs.devices),
                inverter_a: sum(&runs.outputs),
                pv_at_far_end: p.pv_at_far_end,
                load_calc_a: p.load_calc_a,
            },
        );
    }
    BusbarFound
}
