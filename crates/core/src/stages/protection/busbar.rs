//! Every panel of a job against what its circuits feed into it: the busbar rules (na), its ways,
//! its load, and how it is drawn.

use super::board::{Board, BoardFeed, Boards, choices, own_checks, transformers, ways};
use super::panel::OnTheBus;
use super::{PanelInputs, ct, loads, panel};
use crate::figure::{Bound, Handle, Sheet, Subject, Verdict};
use crate::figures;
use crate::job::{Building, CircuitKey, Job, Node, NodeKey, NodeKind, Panel};
use crate::plan::{Guard, PlanFound};
use crate::quantity::Amps;
use crate::registry::Bench;
use crate::school::School;
use crate::stages::runs::{PANEL_KNOWN, RunsFound};

figures! { Protection;
    /// What supplies a board.
    BOARD: Amps = "panel.board_a", "All that supplies the board", iec "IEC 61439-3";
}

/// Whether the output of something goes nowhere yet: it may still end at any panel.
fn somewhere(job: &Job, plan: &PlanFound) -> bool {
    let on_none = |b: &crate::job::JobBranch| {
        !plan.plan.circuits.values().any(|c| c.from.branch.as_ref() == Some(&b.letter))
    };
    let loose = |at: usize| plan.circuit(at).kind.is_ac() && plan.loose_end(at).is_some();
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
        boards.push(one(bench, plan, sheet, key, node, feeds, open));
    }
    ct::of_job(bench, sheet);
    Boards(boards)
}

/// The least of what protects a bus from what supplies it: its main, and the device of the feeder
/// that leads on from it.
fn protected_a(plan: &PlanFound, key: &NodeKey, p: &Panel) -> Option<f64> {
    let on = plan.out_of_node(key).iter().filter(|at| plan.circuit(**at).kind.is_ac());
    let mut on = on.filter(|at| !plan.is_backup(**at));
    let feeder = match (on.next(), on.next()) {
        (Some(at), None) => match plan.guard_of(*at) {
            Guard::Device { node, own, .. } if node != key => own.amps_a,
            _ => None,
        },
        _ => None,
    };
    [p.main_a, feeder].into_iter().flatten().reduce(f64::min)
}

/// The circuits that are connected before the main, and what that leaves on the bus.
fn tapped<'f>(p: &Panel, feeds: &'f [BoardFeed]) -> (Vec<&'f CircuitKey>, OnTheBus) {
    let Some(tap) = p.supply_side.as_ref().filter(|t| t.chosen) else {
        return (Vec::new(), OnTheBus::All);
    };
    let said = |f: &&BoardFeed| tap.circuits.is_empty() || tap.circuits.contains(&f.circuit);
    let own: Vec<&CircuitKey> = feeds.iter().filter(said).map(|f| &f.circuit).collect();
    match (tap.circuits.is_empty(), own.len()) {
        (true, n) if n > 1 => (Vec::new(), OnTheBus::Open),
        (_, n) if n == feeds.len() => (own, OnTheBus::Nothing),
        _ => (own, OnTheBus::Some),
    }
}

/// Whether a panel is the one the service comes in at, or may be where none is said to be.
fn may_be_the_service(plan: &PlanFound, node: &Node) -> bool {
    let is = |n: &Node| {
        let electrode = n.earthed.as_ref().and_then(|e| e.electrode);
        let service = n.panel.as_ref().and_then(|p| p.service);
        service == Some(true) || electrode == Some(true)
    };
    let mut panels = plan.plan.nodes.values().filter(|n| n.kind == NodeKind::Panel);
    is(node) || !panels.any(is)
}

/// Whether only the backup output of an inverter comes to a board.
fn backed_only(plan: &PlanFound, key: &NodeKey) -> bool {
    plan.into_node(key).iter().all(|at| !plan.circuit(*at).kind.is_ac() || plan.is_backup(*at))
}

/// The rated current of a board against what supplies it: its main, and all that feeds in (iec).
fn assembly(sheet: &mut Sheet, p: &Panel, main_a: Option<f64>, feeds: &[BoardFeed]) {
    let sources: Option<f64> = feeds.iter().map(|f| f.rated_a).sum();
    let all = sheet.figure(&BOARD, |w| {
        let main = w.need::<Amps>("main", main_a, "panel.main_a", "panel");
        let own = w.need::<Amps>("sources", sources, "inverter.ac_a", "data sheets");
        Some(main? + own?)
    });
    let rated = (p.bus_a, "panel.bus_a");
    sheet
        .hold(&all, Bound::at_most(rated, "rated current of the board"), Verdict::Fail)
        .beyond(|over| format!("{over} more than its bars are for."))
        .cure("A smaller main, a larger board, or a way in before it.", Vec::new());
}

fn one(
    bench: &Bench,
    plan: &PlanFound,
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
    let main_a = protected_a(plan, key, p);
    if na && feeds.is_empty() && !open && !may_be_the_service(plan, node) {
        // Nothing of the system comes to its bus.
    } else if na && node.panel.is_none() {
        sheet.known(&PANEL_KNOWN, ["panel.bus_a"]);
    } else if na {
        let entered = p.loads.as_ref().map(|x| loads::load(sheet, x));
        let calculated = entered.as_ref().and_then(Handle::<Amps>::value);
        let (tapped, on_the_bus) = tapped(p, &feeds);
        let sum_of = |before: bool, each: &dyn Fn(&BoardFeed) -> Option<f64>| {
            let own = feeds.iter().filter(|f| tapped.contains(&&f.circuit) == before);
            own.map(each).sum::<Option<f64>>().filter(|_| !feeds.is_empty() && !open)
        };
        let all_before = on_the_bus == OnTheBus::Nothing;
        let sum = |each: &dyn Fn(&BoardFeed) -> Option<f64>| sum_of(all_before, each);
        let before = |each: &dyn Fn(&BoardFeed) -> Option<f64>| {
            sum_of(on_the_bus != OnTheBus::Open && on_the_bus != OnTheBus::All, each)
        };
        panel(
            sheet,
            &PanelInputs {
                bus_a: p.bus_a,
                main_a,
                load_breakers_a: p.load_breakers_a.clone(),
                pv_breaker_a: sum(&|f| f.breaker_a),
                inverter_a: sum(&|f| f.rated_a),
                pv_at_far_end: p.pv_at_far_end,
                load_calc_a: p.load_calc_a.or(calculated),
                centre_fed: p.centre_fed,
                pv_at_one_end: p.pv_at_one_end,
                dwelling: bench.job.site.building.map(|b| b == Building::Dwelling12),
                supply_side: p.supply_side.clone(),
                tapped_breaker_a: before(&|f| f.breaker_a),
                tapped_a: before(&|f| f.rated_a),
                on_the_bus,
                of_job: true,
            },
        );
    } else if !feeds.is_empty() && !backed_only(plan, key) {
        assembly(sheet, p, main_a, &feeds);
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
