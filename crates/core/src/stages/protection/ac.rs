//! The AC side: what opens an output, what breaks the fault current that comes from the grid, and
//! (iec) what trips on a fault to earth.

use std::collections::{BTreeMap, BTreeSet};

use super::{devices, earth_loop, network, residual, supply};
use crate::figure::{Bound, Handle, Sheet, Subject, Verdict};
use crate::figures;
use crate::job::{CircuitKind, NodeKey, NodeKind};
use crate::plan::{PlanFound, Through};
use crate::quantity::{Amps, above};
use crate::registry::Bench;
use crate::school::School;
use crate::stages::runs::RunsFound;

figures! { Protection;
    /// Whether an output can be opened.
    FITTED: Rule = "disconnect.fitted",
        "AC disconnect", na "690.13, 705.20", iec "IEC 60364-7-712";
    /// Current the grid drives into a short circuit.
    GRID: Amps = "service.grid_fault_a",
        "Fault current from the grid", na "110.9", iec "IEC 60364-4-43";
    /// Current a short circuit draws.
    FAULT: Amps = "service.fault_a",
        "Fault current where the supply comes in", na "110.9", iec "IEC 60364-4-43";
    /// What a device breaks.
    BREAKING: Amps = "device.breaking_a", "Interrupting rating", na "110.9", iec "IEC 60364-4-43";
    /// What a panel bears with its main and the breakers in it.
    PANEL: Amps = "panel.breaking_a", "Interrupting rating of the panel", na "110.9, 110.10",
        iec "IEC 61439-3";
}

/// Nothing rests on it.
pub(super) struct AcFound;

/// Nodes an AC circuit comes through, its ends included, with the circuits.
fn ac_nodes(plan: &PlanFound) -> BTreeMap<&NodeKey, BTreeSet<usize>> {
    let mut found: BTreeMap<&NodeKey, BTreeSet<usize>> = Default::default();
    for at in 0..plan.circuits.len() {
        let circuit = plan.circuit(at);
        if !circuit.kind.is_ac() {
            continue;
        }
        for node in plan.nodes_on(circuit) {
            found.entry(node).or_default().insert(at);
        }
    }
    found
}

pub(super) fn ac_of_job(bench: &Bench, sheet: &mut Sheet) -> AcFound {
    let plan = bench.found.get::<PlanFound>();
    let runs = bench.found.get::<RunsFound>();
    let nodes = ac_nodes(plan);
    if nodes.is_empty() {
        return AcFound;
    }
    supply::of_job(bench, sheet);
    outputs(plan, sheet);
    devices::of_job(bench, plan, sheet);
    breaking(bench, plan, &nodes, sheet);
    match sheet.school {
        School::Na => earth_loop::of_job(bench, plan, runs, sheet),
        School::Iec => {
            residual::of_job(bench, plan, runs, sheet);
            network::of_job(bench, sheet);
        }
    }
    AcFound
}

/// Each output and each branch is opened by a device on its way to the grid that is there.
fn outputs(plan: &PlanFound, sheet: &mut Sheet) {
    for (at, own) in plan.circuits.iter().enumerate() {
        let circuit = plan.circuit(at);
        let source = matches!(circuit.kind, CircuitKind::InverterOut | CircuitKind::MicroBranch);
        if !source {
            continue;
        }
        sheet.subject = Subject::circuit(&own.key);
        let alone = |t: &Through| t.inverters.len() + t.branches.len() <= 1;
        let (verdict, missing, why) = match opened(plan, at) {
            Opened::By(t) if alone(t) => (Verdict::Pass, "", ""),
            Opened::By(_) => {
                (Verdict::Warn, "", "It is opened only together with what else feeds in there.")
            }
            Opened::Unrated => (Verdict::Unknown, "device.amps_a", ""),
            Opened::ByNothing => {
                (Verdict::Unknown, "circuit.to.device", "Nothing that is planned opens it.")
            }
        };
        let check = sheet.judge(&FITTED, verdict).misses([missing]);
        if !why.is_empty() {
            check.reason(why);
        }
        check.cure("A breaker or a disconnect of its own within reach.", Vec::new());
    }
}

/// What opens a circuit.
enum Opened<'p> {
    By(&'p Through),
    /// It stands there, and its rating is not known.
    Unrated,
    ByNothing,
}

/// The first device that opens a circuit on its way to the grid. One behind a busbar that the
/// circuit comes to through nothing opens the bus.
fn opened(plan: &PlanFound, at: usize) -> Opened<'_> {
    let mut unrated = false;
    for here in plan.to_the_grid(at) {
        let mut found: Option<&Through> = None;
        for t in plan.ac_devices_of(here) {
            let node = &plan.plan.nodes[&t.node];
            let Some(device) = t.device.as_ref().and_then(|d| node.devices.get(d)) else {
                unrated = true;
                continue;
            };
            if !device.what.switches() {
                continue;
            }
            // One of its own serves better than one it shares.
            let few = |t: &Through| t.inverters.len() + t.branches.len();
            match (device.amps_a, found) {
                (None, _) => unrated = true,
                (Some(_), Some(other)) if few(other) <= few(t) => {}
                (Some(_), _) => found = Some(t),
            }
        }
        if let Some(found) = found {
            return Opened::By(found);
        }
        let to = plan.circuit(here).to.as_ref().and_then(|e| e.node.as_ref());
        let kind = to.and_then(|n| plan.plan.nodes.get(n)).map(|n| n.kind);
        if matches!(kind, Some(NodeKind::Panel)) {
            break;
        }
    }
    if unrated { Opened::Unrated } else { Opened::ByNothing }
}

/// Of a rating, what inverters may add where the grid is said to drive just that rating: such a
/// figure is a class, the largest there can be.
const LITTLE: f64 = 0.01;

/// What flows into a short circuit: from the grid, and with what the inverters add.
struct Faults {
    grid: Handle<Amps>,
    all: Handle<Amps>,
}

impl Faults {
    /// What a device of this rating has to break.
    fn against(&self, rating: &Handle<Amps>) -> Bound {
        let added = self.all.value().zip(self.grid.value()).map(|(all, grid)| all - grid);
        let fault = match added.zip(rating.value()) {
            Some((added, rating))
                if self.grid.value() == Some(rating) && !above(added, LITTLE * rating) =>
            {
                &self.grid
            }
            _ => &self.all,
        };
        Bound::at_least(fault, "fault current there")
    }
}

fn fault(bench: &Bench, sheet: &mut Sheet) -> Faults {
    sheet.subject = Subject::Site;
    let entered = bench.job.protection.fault_ka.map(|ka| ka * 1000.0);
    let own = bench.job.inverters.iter().map(|i| bench.library.inverter(&i.sheet)?.fault_a);
    let own: Option<f64> = own.sum();
    let grid = sheet.figure(&GRID, |w| {
        w.need("from the grid", entered, "protection.fault_ka", "network operator")
    });
    let all = sheet.figure(&FAULT, |w| {
        let grid = w.take("from the grid", &grid)?;
        if !bench.job.branches.is_empty() {
            w.note("What microinverters add is not on their data sheets: about their output.");
        }
        match own {
            Some(own) if own > 0.0 => {
                Some(grid + w.given("from the inverters", Amps(own), "inverter data sheets"))
            }
            Some(_) => Some(grid),
            None => {
                w.note("What the inverters add is not on their data sheets.");
                Some(grid)
            }
        }
    });
    sheet.known(&FAULT, all.missing().iter().copied());
    Faults { grid, all }
}

/// Breakers and fuses of the AC side; the wire between lowers the current, and is left out.
fn breaking(
    bench: &Bench,
    plan: &PlanFound,
    nodes: &BTreeMap<&NodeKey, BTreeSet<usize>>,
    sheet: &mut Sheet,
) {
    let faults = fault(bench, sheet);
    for key in nodes.keys() {
        let Some(node) = plan.plan.nodes.get(*key) else { continue };
        // A fault current that nobody asked for is open once, at the site.
        if node.kind == NodeKind::Panel && faults.all.value().is_some() {
            sheet.subject = Subject::Panel { panel: (*key).clone() };
            let own = node.panel.as_ref().and_then(|p| p.breaking_ka).map(|ka| ka * 1000.0);
            let amps =
                sheet.figure(&PANEL, |w| w.need("rated", own, "panel.breaking_ka", "on the panel"));
            sheet
                .hold(&amps, faults.against(&amps), Verdict::Fail)
                .beyond(|short| format!("{short} too little for its main and breakers."))
                .cure("A panel and breakers of a higher interrupting rating.", Vec::new());
        }
        for (device, own) in node.devices.iter().filter(|(_, d)| d.what.protects()) {
            sheet.subject = Subject::Device { node: (*key).clone(), device: device.clone() };
            let breaks = own.breaking_ka.map(|ka| ka * 1000.0);
            let amps = sheet
                .figure(&BREAKING, |w| w.need("rated", breaks, "device.breaking_ka", "data sheet"));
            sheet
                .hold(&amps, faults.against(&amps), Verdict::Fail)
                .beyond(|short| format!("{short} too little: it bursts instead of opening."))
                .cure("A device of a higher interrupting rating.", Vec::new());
        }
    }
}
