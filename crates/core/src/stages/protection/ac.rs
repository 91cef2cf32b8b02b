//! The AC side: what opens an output, what breaks the fault current that comes from the grid, and
//! (iec) what trips on a fault to earth.

use std::collections::{BTreeMap, BTreeSet};

use super::dc::devices_planned;
use super::{earth_loop, residual};
use crate::figure::{Bound, Handle, Sheet, Subject, Verdict};
use crate::figures;
use crate::job::{CircuitKind, DeviceKind, NodeKey, NodeKind};
use crate::plan::PlanFound;
use crate::quantity::{Amps, Ratio};
use crate::registry::Bench;
use crate::school::School;
use crate::stages::runs::RunsFound;
use crate::traced::exact;

figures! { Protection;
    /// Whether an output can be opened.
    FITTED: Rule = "disconnect.fitted",
        "AC disconnect", na "690.13, 705.20", iec "IEC 60364-7-712";
    /// Current a disconnect is for.
    NEED: Amps = "disconnect.need_a", "Current of the disconnect", na "690.8(B)", iec "data sheet";
    /// Rating of a disconnect.
    AMPS: Amps = "disconnect.amps_a", "Rating of the disconnect", na "690.13(D)", iec "data sheet";
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
    outputs(plan, runs, sheet);
    disconnects(plan, runs, &nodes, sheet);
    breaking(bench, plan, &nodes, sheet);
    match sheet.school {
        School::Na => earth_loop::of_job(bench, plan, runs, sheet),
        School::Iec => residual::of_job(bench, plan, runs, sheet),
    }
    AcFound
}

/// Each output and each branch is opened by something on its way to the grid.
fn outputs(plan: &PlanFound, runs: &RunsFound, sheet: &mut Sheet) {
    for (at, own) in plan.circuits.iter().enumerate() {
        let circuit = plan.circuit(at);
        let source = matches!(circuit.kind, CircuitKind::InverterOut | CircuitKind::MicroBranch);
        if !source {
            continue;
        }
        sheet.subject = Subject::circuit(&own.key);
        let chain = plan.to_the_grid(at);
        let opens = |at: &usize| {
            let c = plan.circuit(*at);
            // A breaker at its end opens it too.
            let breaker = runs.devices.get(&plan.circuits[*at].key).copied().flatten();
            breaker.is_some()
                || plan.nodes_on(c).any(|n| {
                    plan.plan.nodes.get(n).is_some_and(|n| {
                        n.kind == NodeKind::Isolator
                            || n.devices.values().any(|d| d.what.switches())
                    })
                })
        };
        let verdict = if chain.iter().any(opens) {
            Verdict::Pass
        } else if devices_planned(plan) {
            Verdict::Fail
        } else {
            Verdict::Unknown
        };
        sheet
            .judge(&FITTED, verdict)
            .misses(["circuit.ocpd_a"])
            .found("Nothing between it and the grid opens it.")
            .cure("A breaker or a disconnect within reach.", Vec::new());
    }
}

/// Isolators on the AC side against all that flows through them.
fn disconnects(
    plan: &PlanFound,
    runs: &RunsFound,
    nodes: &BTreeMap<&NodeKey, BTreeSet<usize>>,
    sheet: &mut Sheet,
) {
    let factor = sheet.school.design_factor();
    for (key, circuits) in nodes {
        let Some(node) = plan.plan.nodes.get(*key) else { continue };
        let own: Vec<_> =
            node.devices.iter().filter(|(_, d)| d.what == DeviceKind::Isolator).collect();
        let bare = node.kind == NodeKind::Isolator && own.is_empty();
        if own.is_empty() && !bare {
            continue;
        }
        // What comes in flows out again: the largest of them is what it carries.
        let mut carried = circuits.iter().map(|at| runs.output_of(&plan.circuits[*at].key));
        let carried = carried.try_fold(0.0, |most: f64, a| Some(most.max(a?)));
        for (device, rated) in
            own.iter().map(|(k, d)| (Some(*k), d.amps_a)).chain(bare.then_some((None, None)))
        {
            sheet.subject = match device {
                Some(device) => Subject::Device { node: (*key).clone(), device: device.clone() },
                None => Subject::Node { node: (*key).clone() },
            };
            let need = sheet.figure(&NEED, |w| {
                let i = w.need::<Amps>("output", carried, "inverter.ac_a", "data sheets")?;
                Some(exact::<Ratio>(factor) * i)
            });
            let amps =
                sheet.figure(&AMPS, |w| w.need("rated", rated, "device.amps_a", "data sheet"));
            sheet
                .hold(&amps, Bound::at_least(&need, "current it is for"), Verdict::Fail)
                .beyond(|short| format!("{short} too little."))
                .cure("A disconnect for more current.", Vec::new());
        }
    }
}

/// What the supply drives into a short circuit, and what the inverters add.
fn fault(bench: &Bench, sheet: &mut Sheet) -> Handle<Amps> {
    sheet.subject = Subject::Site;
    let entered = bench.job.protection.fault_ka.map(|ka| ka * 1000.0);
    let own = bench.job.inverters.iter().map(|i| bench.library.inverter(&i.sheet)?.fault_a);
    let own: Option<f64> = own.sum();
    let fault = sheet.figure(&FAULT, |w| {
        let grid =
            w.need::<Amps>("from the grid", entered, "protection.fault_ka", "network operator")?;
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
    sheet.known(&FAULT, fault.missing().iter().copied());
    fault
}

/// Breakers and fuses of the AC side; the wire between lowers the current, and is left out.
fn breaking(
    bench: &Bench,
    plan: &PlanFound,
    nodes: &BTreeMap<&NodeKey, BTreeSet<usize>>,
    sheet: &mut Sheet,
) {
    let fault = fault(bench, sheet);
    for key in nodes.keys() {
        let Some(node) = plan.plan.nodes.get(*key) else { continue };
        // A fault current that nobody asked for is open once, at the site.
        if node.kind == NodeKind::Panel && fault.value().is_some() {
            sheet.subject = Subject::Panel { panel: (*key).clone() };
            let own = node.panel.as_ref().and_then(|p| p.breaking_ka).map(|ka| ka * 1000.0);
            let amps =
                sheet.figure(&PANEL, |w| w.need("rated", own, "panel.breaking_ka", "on the panel"));
            sheet
                .hold(&amps, Bound::at_least(&fault, "fault current there"), Verdict::Fail)
                .beyond(|short| format!("{short} too little for its main and breakers."))
                .cure("A panel and breakers of a higher interrupting rating.", Vec::new());
        }
        for (device, own) in node.devices.iter().filter(|(_, d)| d.what.protects()) {
            sheet.subject = Subject::Device { node: (*key).clone(), device: device.clone() };
            let breaks = own.breaking_ka.map(|ka| ka * 1000.0);
            let amps = sheet
                .figure(&BREAKING, |w| w.need("rated", breaks, "device.breaking_ka", "data sheet"));
            sheet
                .hold(&amps, Bound::at_least(&fault, "fault current there"), Verdict::Fail)
                .beyond(|short| format!("{short} too little: it bursts instead of opening."))
                .cure("A device of a higher interrupting rating.", Vec::new());
        }
    }
}
