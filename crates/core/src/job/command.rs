//! Edits of the plan that keep all its references whole. Each says what it changed; one that cannot
//! be done changes nothing.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::change_over::{change_over, disconnect, pull_box};
use super::routes::{draw_route, keep_route};
use super::settle::{circuit, settle};
use super::{
    Circuit, CircuitKey, CircuitKind, Ct, Device, DeviceKey, DeviceKind, End, Job, Leg, Node,
    NodeKey, NodeKind, Part, Plan, RacewayChoice, Way, WayKey,
};
use crate::problem::{Problem, Problems};

/// One edit of the plan.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(tag = "do", rename_all = "snake_case", deny_unknown_fields)]
pub enum Command {
    /// Every string, branch and inverter gets its circuit, and circuits of what is gone go.
    Settle,
    /// Puts in a node.
    AddNode {
        /// Its key.
        node: NodeKey,
        /// What it is.
        kind: NodeKind,
    },
    /// Takes out a node with the ways that end there.
    RetireNode {
        /// Its key.
        node: NodeKey,
    },
    /// Puts a device into a node.
    AddDevice {
        /// The node.
        node: NodeKey,
        /// Key of the device.
        device: DeviceKey,
        /// What it is.
        what: DeviceKind,
    },
    /// Takes a device out of a node; what it was fed by feeds what it fed, and circuits that were
    /// connected to it end at the node.
    RetireDevice {
        /// The node.
        node: NodeKey,
        /// Key of the device.
        device: DeviceKey,
    },
    /// Puts in a way with one open part.
    AddWay {
        /// Its key.
        way: WayKey,
        /// Where it begins.
        from: NodeKey,
        /// Where it ends.
        to: NodeKey,
    },
    /// Splits a way behind a part, with a new node between.
    SplitWay {
        /// The way; it keeps the parts before.
        way: WayKey,
        /// How many parts it keeps.
        after: usize,
        /// Key of the node between.
        node: NodeKey,
        /// What stands there.
        kind: NodeKind,
        /// Key of the way with the parts behind.
        rest: WayKey,
    },
    /// Joins the two ways that meet in a node, and takes the node out.
    JoinWays {
        /// The node between.
        node: NodeKey,
    },
    /// Takes out a way; circuits lose it from their legs.
    RetireWay {
        /// Its key.
        way: WayKey,
    },
    /// Puts in a circuit that is not led anywhere yet.
    AddCircuit {
        /// Its key.
        circuit: CircuitKey,
        /// What it carries.
        kind: CircuitKind,
        /// Where it begins.
        from: End,
        /// Where it goes.
        to: Option<End>,
    },
    /// Leads a leg of a circuit over other ways.
    Reroute {
        /// The circuit.
        circuit: CircuitKey,
        /// The leg, from 0; one behind the last adds a leg.
        leg: usize,
        /// The ways, in order.
        via: Vec<WayKey>,
    },
    /// Takes out a circuit.
    RetireCircuit {
        /// Its key.
        circuit: CircuitKey,
    },
    /// Puts a part of a way into raceway, with a box where the method changes.
    ChangeOver {
        /// The way.
        way: WayKey,
        /// The part, from 0.
        part: usize,
        /// What it lies in from now on.
        raceway: RacewayChoice,
    },
    /// Sets a pull box into a way, inside or at an end of a part.
    PullBox {
        /// The way.
        way: WayKey,
        /// The part, from 0.
        part: usize,
        /// Where, from the beginning of the part, m.
        at_m: f64,
    },
    /// Sets a disconnect into the last part of a way: seen open, locked open.
    SetDisconnect {
        /// The way.
        way: WayKey,
    },
    /// Keeps the plan as it is and goes on with a copy under a new name.
    KeepRoute {
        /// What the copy is called.
        name: String,
    },
    /// Draws a kept route; what was drawn is kept in its stead.
    DrawRoute {
        /// Its name.
        name: String,
    },
}

/// The job with the edit made, and what it changed, in words.
///
/// # Errors
/// What the edit names that is not there, or what would not hold together after it.
pub fn commanded(job: &Job, command: &Command) -> Result<(Job, Vec<String>), Vec<Problem>> {
    let mut next = job.clone();
    let mut changes = Vec::new();
    apply(&mut next, command, &mut changes).map_err(|p| vec![p])?;
    lose_circuits(&mut next.plan);
    let before = super::plan_problems(job);
    let mut fresh = Problems::default();
    fresh.extend(super::plan_problems(&next).into_iter().filter(|p| !before.contains(p)));
    if fresh.is_empty() { Ok((next, changes)) } else { Err(fresh.told()) }
}

/// A current transformer around a circuit that is gone is around nothing that is known.
fn lose_circuits(plan: &mut Plan) {
    let circuits = &plan.circuits;
    let devices = plan.nodes.values_mut().flat_map(|n| n.devices.values_mut());
    for ct in devices.filter_map(|d| d.ct.as_mut()) {
        if ct.around.as_ref().is_some_and(|c| !circuits.contains_key(c)) {
            *ct = Ct { around: None, measures: None, ..ct.clone() };
        }
    }
}

pub(super) fn missing(what: &str, key: &str) -> Problem {
    Problem::new("", format!("no {what} `{key}`"), format!("a {what} of the plan"))
}

fn apply(job: &mut Job, command: &Command, changes: &mut Vec<String>) -> Result<(), Problem> {
    let plan = &mut job.plan;
    let taken = |what: &str, key: &str| {
        Problem::new("", format!("{what} `{key}` is there already"), "a key that is free")
    };
    match command {
        Command::Settle => settle(job, changes),
        Command::AddNode { node, kind } => {
            if plan.nodes.contains_key(node) {
                return Err(taken("node", node));
            }
            plan.nodes.insert(node.clone(), Node::new(*kind));
            changes.push(format!("node {node} added"));
        }
        Command::RetireNode { node } => {
            if let Some(backup) = &mut job.protection.backup {
                for own in [&mut backup.board, &mut backup.electrode] {
                    *own = own.take().filter(|n| n != node);
                }
            }
            plan.nodes.remove(node).ok_or_else(|| missing("node", node))?;
            let touching = |w: &&Way| w.from == *node || w.to == *node;
            let gone: Vec<WayKey> =
                plan.ways.iter().filter(|(_, w)| touching(w)).map(|(k, _)| k.clone()).collect();
            for way in gone {
                retire_way(plan, &way, changes);
            }
            let ends = |e: &End| e.node.as_ref() == Some(node);
            plan.circuits.retain(|key, c| {
                let goes = ends(&c.from) || c.to.as_ref().is_some_and(ends);
                if goes {
                    changes.push(format!("circuit {key} taken out"));
                }
                !goes
            });
            changes.push(format!("node {node} taken out"));
        }
        Command::AddDevice { node, device, what } => {
            let own = plan.nodes.get_mut(node).ok_or_else(|| missing("node", node))?;
            if own.devices.contains_key(device) {
                return Err(taken("device", device));
            }
            let added = Device::new(*what);
            own.devices.insert(device.clone(), added);
            changes.push(format!("device {device} added in {node}"));
        }
        Command::RetireDevice { node, device } => retire_device(plan, node, device, changes)?,
        Command::AddWay { way, from, to } => {
            if plan.ways.contains_key(way) {
                return Err(taken("way", way));
            }
            plan.ways.insert(way.clone(), open_way(from, to));
            changes.push(format!("way {way} from {from} to {to} added"));
        }
        Command::SplitWay { way, after, node, kind, rest } => {
            if plan.nodes.contains_key(node) {
                return Err(taken("node", node));
            }
            if plan.ways.contains_key(rest) {
                return Err(taken("way", rest));
            }
            split(plan, way, *after, node, *kind, rest)?;
            changes.push(format!("way {way} split at {node}; {rest} goes on from there"));
        }
        Command::JoinWays { node } => {
            let (first, second) = join(plan, node)?;
            changes.push(format!("ways {first} and {second} joined; node {node} taken out"));
        }
        Command::RetireWay { way } => {
            if !plan.ways.contains_key(way) {
                return Err(missing("way", way));
            }
            retire_way(plan, way, changes);
        }
        Command::AddCircuit { circuit: key, kind, from, to } => {
            if plan.circuits.contains_key(key) {
                return Err(taken("circuit", key));
            }
            plan.circuits.insert(key.clone(), circuit(*kind, from.clone(), to.clone()));
            changes.push(format!("circuit {key} added"));
        }
        Command::Reroute { circuit, leg, via } => {
            let own = plan.circuits.get_mut(circuit).ok_or_else(|| missing("circuit", circuit))?;
            let wire = own.legs.last().map(|l| l.wire.clone()).unwrap_or_default();
            match own.legs.get_mut(*leg) {
                Some(own) => own.via.clone_from(via),
                None => own.legs.push(Leg::over(wire, via.clone())),
            }
            own.legs.retain(|l| !l.via.is_empty());
            changes.push(format!("circuit {circuit} goes over {}", list(via)));
        }
        Command::ChangeOver { way, part, raceway } => {
            change_over(plan, way, *part, raceway, changes)?;
        }
        Command::PullBox { way, part, at_m } => pull_box(plan, way, *part, *at_m, changes)?,
        Command::SetDisconnect { way } => disconnect(plan, way, changes)?,
        Command::KeepRoute { name } => keep_route(job, name, changes)?,
        Command::DrawRoute { name } => draw_route(job, name, changes)?,
        Command::RetireCircuit { circuit } => {
            plan.circuits.remove(circuit).ok_or_else(|| missing("circuit", circuit))?;
            changes.push(format!("circuit {circuit} taken out"));
        }
    }
    Ok(())
}

fn list(keys: &[WayKey]) -> String {
    keys.iter().map(|k| k.as_str()).collect::<Vec<_>>().join(", ")
}

pub(super) fn open_way(from: &NodeKey, to: &NodeKey) -> Way {
    let parts = vec![Part::default()];
    Way::between(from.clone(), to.clone(), parts)
}

fn retire_device(
    plan: &mut Plan,
    node: &NodeKey,
    device: &DeviceKey,
    changes: &mut Vec<String>,
) -> Result<(), Problem> {
    let own = plan.nodes.get_mut(node).ok_or_else(|| missing("node", node))?;
    let gone = own.devices.remove(device).ok_or_else(|| missing("device", device))?;
    for other in own.devices.values_mut().filter(|d| d.feeds.as_ref() == Some(device)) {
        other.feeds.clone_from(&gone.feeds);
    }
    changes.push(format!("device {device} taken out of {node}"));
    for (key, circuit) in &mut plan.circuits {
        for end in std::iter::once(&mut circuit.from).chain(&mut circuit.to) {
            if end.node.as_ref() == Some(node) && end.device.as_ref() == Some(device) {
                end.device = None;
                changes.push(format!("circuit {key} ends at {node}"));
            }
        }
    }
    Ok(())
}

fn retire_way(plan: &mut Plan, way: &WayKey, changes: &mut Vec<String>) {
    plan.ways.remove(way);
    changes.push(format!("way {way} taken out"));
    for (key, circuit) in &mut plan.circuits {
        // The leg keeps its wire and is open: what is left of its ways no longer meets.
        for leg in circuit.legs.iter_mut().filter(|l| l.via.contains(way)) {
            leg.via.clear();
            changes.push(format!("circuit {key} has lost its way"));
        }
    }
}

pub(super) fn split(
    plan: &mut Plan,
    key: &WayKey,
    after: usize,
    node: &NodeKey,
    kind: NodeKind,
    rest: &WayKey,
) -> Result<(), Problem> {
    let way = plan.ways.get_mut(key).ok_or_else(|| missing("way", key))?;
    if after == 0 || after >= way.parts.len() {
        return Err(Problem::new(
            "",
            format!("way {key} has no part on both sides"),
            format!("after part 1 to {}", way.parts.len().saturating_sub(1)),
        ));
    }
    let parts = way.parts.split_off(after);
    let end = std::mem::replace(&mut way.to, node.clone());
    let start = way.from.clone();
    let behind = Way { from: node.clone(), to: end.clone(), parts, ..way.clone() };
    plan.nodes.insert(node.clone(), Node::new(kind));
    let backward: Vec<bool> =
        plan.circuits.values().map(|c| goes_backward(plan, c, key, (&start, &end))).collect();
    plan.ways.insert(rest.clone(), behind);
    for (circuit, backward) in plan.circuits.values_mut().zip(backward) {
        for leg in &mut circuit.legs {
            if let Some(at) = leg.via.iter().position(|w| w == key) {
                leg.via.insert(if backward { at } else { at + 1 }, rest.clone());
            }
        }
    }
    Ok(())
}

/// Whether a circuit goes a way from its end to its start: the way before it, the place the circuit
/// comes from, or else the way behind it says so.
fn goes_backward(
    plan: &Plan,
    circuit: &Circuit,
    key: &WayKey,
    (start, end): (&NodeKey, &NodeKey),
) -> bool {
    let all: Vec<&WayKey> = circuit.legs.iter().flat_map(|l| &l.via).collect();
    let Some(at) = all.iter().position(|w| *w == key) else { return false };
    let touches = |way: &WayKey, node: &NodeKey| {
        plan.ways.get(way).is_some_and(|w| w.from == *node || w.to == *node)
    };
    if at > 0 {
        return touches(all[at - 1], end) && !touches(all[at - 1], start);
    }
    let own = || plan.node_of(circuit.from.inverter.as_ref()?);
    if let Some(begins) = circuit.from.node.as_ref().or_else(own) {
        return begins == end;
    }
    all.get(at + 1).is_some_and(|next| touches(next, start) && !touches(next, end))
}

/// The same way from its other end.
fn turn(way: &mut Way) {
    std::mem::swap(&mut way.from, &mut way.to);
    way.parts.reverse();
    way.parts.iter_mut().for_each(Part::turn);
}

fn join(plan: &mut Plan, node: &NodeKey) -> Result<(WayKey, WayKey), Problem> {
    if !plan.nodes.contains_key(node) {
        return Err(missing("node", node));
    }
    let refused = |why: &str| {
        Problem::new("", format!("ways cannot be joined at {node}: {why}"), "two ways that go on")
    };
    let touching: Vec<WayKey> = plan
        .ways
        .iter()
        .filter(|(_, w)| w.from == *node || w.to == *node)
        .map(|(k, _)| k.clone())
        .collect();
    let [a, b] = touching.as_slice() else {
        return Err(refused(&format!("{} ways meet there", touching.len())));
    };
    let (first, second) = if plan.ways[a].to == *node { (a, b) } else { (b, a) };
    let ends = |e: &End| e.node.as_ref() == Some(node);
    if plan.circuits.values().any(|c| ends(&c.from) || c.to.as_ref().is_some_and(ends)) {
        return Err(refused("a circuit ends there"));
    }
    for circuit in plan.circuits.values() {
        let over = |w: &WayKey| circuit.legs.iter().any(|l| l.via.contains(w));
        let in_one = circuit.legs.iter().all(|l| l.via.contains(first) == l.via.contains(second));
        if over(first) != over(second) || !in_one {
            return Err(refused("conductors part or are joined there"));
        }
    }
    let mut behind = plan.ways.remove(second).expect("it is there");
    let way = plan.ways.get_mut(first).expect("it is there");
    if way.to != *node {
        turn(way);
    }
    if behind.from != *node {
        turn(&mut behind);
    }
    way.parts.extend(behind.parts);
    way.to = behind.to;
    for circuit in plan.circuits.values_mut() {
        for leg in &mut circuit.legs {
            leg.via.retain(|w| w != second);
        }
    }
    plan.nodes.remove(node);
    Ok((first.clone(), second.clone()))
}
