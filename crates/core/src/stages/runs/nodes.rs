//! What finds room at the nodes: devices in their enclosure, wires in their box, a box under
//! modules.

use std::collections::{BTreeMap, BTreeSet};

use super::boxes::{BOX_FILL, BOX_LENGTH, BoxWire, DEPTH};
use super::carried::{Carried, Loads};
use super::raceway::roles;
use super::{BoxInputs, RunsFound, boxed, stand};
use crate::figure::{Sheet, Subject};
use crate::job::{BoxSize, Node, NodeKey, NodeKind, Part, Place, Way, WayKey};
use crate::plan::PlanFound;
use crate::quantity::MM_PER_INCH;
use crate::registry::Bench;
use crate::school::School;

/// Nothing rests on the nodes.
pub struct NodesFound;

pub(super) fn nodes_of_job(bench: &Bench, sheet: &mut Sheet) -> NodesFound {
    let plan = bench.found.get::<PlanFound>();
    let runs = bench.found.get::<RunsFound>();
    let none = Loads::new();
    for (key, node) in &plan.plan.nodes {
        sheet.subject = Subject::Node { node: key.clone() };
        stand::of_node(bench, sheet, key, node);
        if is_box(node.kind) {
            if bench.job.school == School::Na {
                wires_in(bench, sheet, plan, runs, &none, key, node);
            }
            under_modules(bench, sheet, key, node);
        }
    }
    NodesFound
}

fn is_box(kind: NodeKind) -> bool {
    matches!(kind, NodeKind::RoofBox | NodeKind::PullBox | NodeKind::JunctionBox)
}

/// Wires of 6 AWG and smaller by their room; for larger ones the length of the box.
fn wires_in(
    bench: &Bench,
    sheet: &mut Sheet,
    plan: &PlanFound,
    runs: &RunsFound,
    none: &Loads,
    key: &NodeKey,
    node: &Node,
) {
    let ways: Vec<(&WayKey, &Way)> = plan.ways_at(key).collect();
    // One that goes through unbroken lies in two of its ways and counts once.
    let lying = ways.iter().flat_map(|(way, _)| plan.lying_in(way));
    let legs: BTreeSet<(usize, usize)> = lying.map(|l| (l.circuit, l.leg)).collect();
    if legs.is_empty() {
        return;
    }
    let (mut wires, mut large, mut open) = (BTreeMap::<BoxWire, u32>::new(), false, false);
    for (at, k) in legs {
        let c = Carried::of(bench, plan, none, at);
        let leg = &c.circuit.legs[k];
        let Some(size) = &leg.wire.awg else {
            open = true;
            continue;
        };
        let Some(wire) = BoxWire::of(size) else {
            large = true;
            continue;
        };
        // At its beginning the leads of the modules or the trunk end here too, as many and taken as
        // thick.
        let from = &c.circuit.from;
        let begins = k == 0
            && (from.string.is_some() || from.branch.is_some())
            && leg.via.first().is_some_and(|first| ways.iter().any(|(own, _)| *own == first));
        let n = roles(&c).len() as u32 * if begins { 2 } else { 1 };
        *wires.entry(wire).or_default() += n;
    }
    let size = node.size.clone().unwrap_or_default();
    if open {
        sheet.known(&BOX_FILL, ["wire.awg"]);
    } else if !wires.is_empty() {
        let earths = ways.iter().filter_map(|(k, _)| runs.earths.get(*k));
        let x = BoxInputs {
            wires: Some(wires),
            egc: earths.filter_map(|e| BoxWire::of(e)).collect(),
            clamps: size.clamps.unwrap_or(true),
            volume_in3: size.volume_in3,
            ..BoxInputs::default()
        };
        let from = sheet.checks.len();
        boxed(sheet, &x);
        if size.clamps.is_none() {
            let mut better = sheet.trial();
            boxed(&mut better, &BoxInputs { clamps: false, ..x });
            sheet.open_between(from, &better, "node.clamps");
        }
    }
    if large {
        length(sheet, &size, &ways, key);
    }
}

/// The length of a box that 4 AWG and larger is pulled through. Raceways of all ways are taken as
/// on one wall and row, which asks for the most.
fn length(sheet: &mut Sheet, size: &BoxSize, ways: &[(&WayKey, &Way)], key: &NodeKey) {
    let entry = |w: &Way| {
        let part = if w.from == *key { w.parts.first() } else { w.parts.last() };
        part.and_then(|p| p.raceway.as_ref()).map(|r| r.size.clone())
    };
    let entries: Vec<String> = ways.iter().filter_map(|(_, w)| entry(w)).collect();
    if entries.is_empty() {
        sheet.known(&BOX_LENGTH, ["raceway.size"]);
        return;
    }
    let x = BoxInputs {
        entries_trade: Some(entries),
        straight: size.straight,
        length_in: size.length_mm.map(|mm| mm / MM_PER_INCH),
        ..BoxInputs::default()
    };
    boxed(sheet, &x);
}

/// A box that stands under modules against the room there.
fn under_modules(bench: &Bench, sheet: &mut Sheet, key: &NodeKey, node: &Node) {
    if node.place.is_none() && end_parts(bench, key).iter().any(|p| p.place.is_none()) {
        // It may stand there.
        sheet.known(&DEPTH, ["way.parts.place"]);
        return;
    }
    if !stands_under(bench, key, node) {
        return;
    }
    let size = node.size.clone().unwrap_or_default();
    let free = bench.job.site.module_clearance_mm;
    if size.depth_mm.is_none() && size.stands_on_mm.is_none() && free.is_none() {
        sheet.known(&DEPTH, ["node.depth_mm", "node.stands_on_mm", "site.module_clearance_mm"]);
        return;
    }
    let x = BoxInputs {
        depth_mm: size.depth_mm,
        stands_on_mm: size.stands_on_mm,
        module_clearance_mm: free,
        ..BoxInputs::default()
    };
    boxed(sheet, &x);
}

/// Where a node says nothing of its place, it stands where a way of it begins or ends.
fn stands_under(bench: &Bench, key: &NodeKey, node: &Node) -> bool {
    let under = Some(Place::UnderModules);
    if node.place.is_some() {
        return node.place == under;
    }
    end_parts(bench, key).iter().any(|p| p.place == under)
}

/// The parts of ways that begin or end at a node.
fn end_parts<'b>(bench: &'b Bench, key: &NodeKey) -> Vec<&'b Part> {
    let ways = bench.found.get::<PlanFound>().ways_at(key);
    let parts = ways.flat_map(|(_, w)| {
        let first = w.parts.first().filter(|_| w.from == *key);
        let last = w.parts.last().filter(|_| w.to == *key);
        first.into_iter().chain(last)
    });
    parts.collect()
}
