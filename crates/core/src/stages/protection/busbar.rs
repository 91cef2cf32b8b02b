//! Every panel of a job against what its circuits feed into it: the busbar rules (na), its ways,
//! its load, and how it is drawn.

use super::board::{Board, BoardFeed, Boards, choices, own_checks, transformers, ways};
use super::{PanelInputs, ct, loads, panel};
use crate::figure::{Handle, Sheet, Subject};
use crate::job::{Building, Job, Node, NodeKey, NodeKind, Panel};
use crate::plan::PlanFound;
use crate::quantity::Amps;
use crate::registry::Bench;
use crate::school::School;
use crate::stages::runs::{PANEL_KNOWN, RunsFound};

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

/// The circuits that feed a panel: each counts once, in however many legs it comes.
fn feeds(bench: &Bench, plan: &PlanFound, runs: &RunsFound, key: &NodeKey) -> Vec<BoardFeed> {
    let ac = |at: &&usize| runs.outputs.contains_key(&plan.circuits[**at].key);
    let own = plan.into_node(key).iter().filter(ac);
    own.map(|at| {
        let circuit = plan.circuit(*at);
        let own = &plan.circuits[*at].key;
        let device = circuit
            .to
            .as_ref()
            .and_then(|e| plan.plan.nodes.get(e.node.as_ref()?)?.devices.get(e.device.as_ref()?));
        let three = plan.circuits[*at].inverters.iter().any(|i| {
            let sheet = &bench.job.inverters[*i].sheet;
            bench.library.inverter(sheet).is_some_and(|s| s.three_phase)
        });
        let ways_n = match bench.job.school {
            // A breaker takes a way a pole: both lines, or all three.
            School::Na => device.and_then(|d| d.poles_n).or(Some(if three { 3.0 } else { 2.0 })),
            School::Iec => device.and_then(|d| d.ways_n),
        };
        BoardFeed {
            circuit: own.clone(),
            kind: circuit.kind,
            breaker_a: runs.devices.get(own).copied().flatten(),
            rated_a: runs.output_of(own),
            ways_n,
        }
    })
    .collect()
}

pub(super) fn busbar_of_job(bench: &Bench, sheet: &mut Sheet) -> Boards {
    let plan = bench.found.get::<PlanFound>();
    let runs = bench.found.get::<RunsFound>();
    let open = somewhere(bench.job, plan);
    let panels = plan.plan.nodes.iter().filter(|(_, n)| n.kind == NodeKind::Panel);
    let mut boards = Vec::new();
    for (key, node) in panels {
        sheet.subject = Subject::Panel { panel: key.clone() };
        let feeds = feeds(bench, plan, runs, key);
        boards.push(one(bench, sheet, key, node, feeds, open));
    }
    ct::of_job(bench, sheet);
    Boards(boards)
}

fn one(
    bench: &Bench,
    sheet: &mut Sheet,
    key: &NodeKey,
    node: &Node,
    feeds: Vec<BoardFeed>,
    open: bool,
) -> Board {
    let (from, figures) = (sheet.checks.len(), sheet.figures.len());
    let none = Panel::default();
    let p = node.panel.as_ref().unwrap_or(&none);
    let na = sheet.school == School::Na;
    if na && node.panel.is_none() {
        sheet.known(&PANEL_KNOWN, ["panel.bus_a"]);
    } else if na {
        let entered = p.loads.as_ref().map(|x| loads::load(sheet, x));
        let calculated = entered.as_ref().and_then(Handle::<Amps>::value);
        let sum = |each: &dyn Fn(&BoardFeed) -> Option<f64>| {
            feeds.iter().map(each).sum::<Option<f64>>().filter(|_| !feeds.is_empty() && !open)
        };
        panel(
            sheet,
            &PanelInputs {
                bus_a: p.bus_a,
                main_a: p.main_a,
                load_breakers_a: p.load_breakers_a.clone(),
                pv_breaker_a: sum(&|f| f.breaker_a),
                inverter_a: sum(&|f| f.rated_a),
                pv_at_far_end: p.pv_at_far_end,
                load_calc_a: p.load_calc_a.or(calculated),
                centre_fed: p.centre_fed,
                pv_at_one_end: p.pv_at_one_end,
                dwelling: bench.job.site.building.map(|b| b == Building::Dwelling12),
                supply_side: p.supply_side.clone(),
            },
        );
    }
    let (free_n, next_n) = ways(sheet, key, p, &feeds);
    let checks = own_checks(sheet, from, key);
    Board {
        node: key.clone(),
        bus_a: p.bus_a,
        main_a: p.main_a,
        centre_fed: p.centre_fed == Some(true),
        pv_at_far_end: p.pv_at_far_end,
        loads_a: p.load_breakers_a.clone(),
        feeds,
        free_n,
        next_n,
        transformers: transformers(node),
        choices: choices(bench.job, (&checks, &sheet.figures[figures..]), key, p),
    }
}
