//! What comes through a device of the AC side, and what ends an overcurrent on a circuit: both are
//! followed toward the grid.

use std::collections::{BTreeMap, BTreeSet};

use super::PlanFound;
use super::ends::{carries, chain};
use crate::job::{
    CircuitKind, Device, DeviceKey, DeviceKind, End, InverterKey, Job, NodeKey, NodeKind,
};

/// A device, or a disconnect of which only the node is planned, with all that comes through it.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Through {
    /// The node.
    pub node: NodeKey,
    /// The device; none where the node is a disconnect in which nothing is entered.
    pub device: Option<DeviceKey>,
    /// Circuits that come through it, by their places in the plan's list.
    pub circuits: Vec<usize>,
    /// Inverters that feed them, by their places in the job's list.
    pub inverters: Vec<usize>,
    /// Branches that feed them.
    pub branches: Vec<usize>,
}

/// What ends an overcurrent that the grid drives into a circuit.
#[derive(Clone, Copy, Debug)]
pub enum Guard<'p> {
    /// This device.
    Device {
        /// The node it stands in.
        node: &'p NodeKey,
        /// Its key.
        key: &'p DeviceKey,
        /// The device.
        own: &'p Device,
    },
    /// It comes to a busbar, or to the service, and through nothing before.
    Nothing(&'p NodeKey),
    /// It is not planned as far as that.
    Open,
}

impl<'p> Guard<'p> {
    /// The device, where there is one.
    pub fn device(self) -> Option<&'p Device> {
        match self {
            Guard::Device { own, .. } => Some(own),
            Guard::Nothing(_) | Guard::Open => None,
        }
    }
}

impl PlanFound {
    /// The devices of the AC side with what comes through each.
    pub fn ac_devices(&self) -> &[Through] {
        &self.through
    }

    /// Those an AC circuit comes through.
    pub fn ac_devices_of(&self, at: usize) -> impl Iterator<Item = &Through> {
        let own = self.through_of.get(&at).into_iter().flatten();
        own.map(|place| &self.through[*place])
    }

    /// The devices a circuit comes through at one of its ends.
    pub fn devices_at<'p>(
        &'p self,
        end: &'p End,
    ) -> impl Iterator<Item = (&'p NodeKey, &'p DeviceKey, &'p Device)> {
        let node = end.node.as_ref().and_then(|n| self.plan.nodes.get_key_value(n));
        let own = node.zip(end.device.as_ref()).map(|((key, node), first)| {
            chain(node, first).into_iter().map(move |d| (key, d, &node.devices[d]))
        });
        own.into_iter().flatten()
    }

    /// What ends an overcurrent on an AC circuit.
    pub fn guard_of(&self, at: usize) -> Guard<'_> {
        let ends = |end| self.devices_at(end).find(|(.., d)| d.what.protects());
        if self.is_backup(at) {
            // What it carries comes from the inverter: the device there is the one that counts.
            let circuit = self.circuit(at);
            let own = ends(&circuit.from).or_else(|| ends(circuit.to.as_ref()?));
            let to = circuit.to.as_ref().and_then(|e| e.node.as_ref());
            return match (own, to) {
                (Some((node, key, own)), _) => Guard::Device { node, key, own },
                (None, Some(node)) => Guard::Nothing(node),
                (None, None) => Guard::Open,
            };
        }
        let mut before: Option<&NodeKey> = None;
        for here in self.to_the_grid(at) {
            let circuit = self.circuit(here);
            // Joined in a box: the conductors go on through what the next circuit begins at.
            let begins = before.is_some().then(|| ends(&circuit.from)).flatten();
            let Some(to) = &circuit.to else { return Guard::Open };
            if let Some((node, key, own)) = begins.or_else(|| ends(to)) {
                return Guard::Device { node, key, own };
            }
            let Some(node) = to.node.as_ref() else { return Guard::Open };
            before = Some(node);
            let kind = self.plan.nodes.get(node).map(|n| n.kind);
            if matches!(kind, Some(NodeKind::Panel | NodeKind::Meter | NodeKind::Inverter)) {
                return Guard::Nothing(node);
            }
        }
        Guard::Open
    }

    /// Whether a circuit is the backup output of an inverter: it leads away from the grid.
    pub fn is_backup(&self, at: usize) -> bool {
        self.backups.contains(&at)
    }

    /// Finds which output of each inverter is the grid's and which the backup's.
    pub(super) fn find_outputs(&mut self, job: &Job) {
        let board = job.protection.backup.as_ref().and_then(|b| b.board.as_ref());
        let mut own: BTreeMap<&InverterKey, Vec<usize>> = BTreeMap::new();
        for (at, circuit) in self.plan.circuits.values().enumerate() {
            let there = circuit.from.node.as_ref();
            let there = there.and_then(|n| self.plan.nodes.get(n)?.inverter.as_ref());
            if let Some(inverter) = circuit.from.inverter.as_ref().or(there)
                && circuit.kind.is_ac()
            {
                own.entry(inverter).or_default().push(at);
            }
        }
        let mut outputs = BTreeMap::new();
        let mut backups = BTreeSet::new();
        if let (Some(board), false) = (board, own.is_empty()) {
            let said = self.into_node(board).iter().copied();
            backups.extend(said.filter(|at| self.circuit(*at).kind.is_ac()));
        }
        for (inverter, circuits) in own {
            // The one that is said to be the backup's is; of others the one that leads less far.
            let rank = |at: &usize| {
                let circuit = self.circuit(*at);
                let to = circuit.to.as_ref().and_then(|e| e.node.as_ref());
                let node = to.and_then(|n| self.plan.nodes.get(n));
                let earthed = node.and_then(|n| n.earthed.as_ref()).and_then(|e| e.electrode);
                let service = node.and_then(|n| n.panel.as_ref()).and_then(|p| p.service);
                let meter = node.is_some_and(|n| n.kind == NodeKind::Meter);
                (
                    to.is_some() && to == board,
                    circuit.kind != CircuitKind::InverterOut,
                    !(to.is_some_and(|n| self.leads_on(n)) || meter || service == Some(true)),
                    earthed == Some(false),
                    *at,
                )
            };
            let mut ranked = circuits;
            ranked.sort_by_key(rank);
            let mut ranked = ranked.into_iter();
            if let Some(at) = ranked.next().filter(|at| !rank(at).0) {
                outputs.insert(inverter.clone(), at);
            }
            backups.extend(ranked);
        }
        (self.outputs, self.backups) = (outputs, backups);
    }

    /// Gathers what comes through every device of the AC side.
    pub(super) fn find_through(&mut self) {
        let mut found: BTreeMap<(NodeKey, Option<DeviceKey>), BTreeSet<usize>> = BTreeMap::new();
        let mut passing: BTreeMap<&NodeKey, BTreeSet<usize>> = BTreeMap::new();
        for (at, circuit) in self.plan.circuits.values().enumerate() {
            if !circuit.kind.is_ac() {
                continue;
            }
            for end in circuit.ends() {
                let own = self.devices_at(end).filter(|(.., device)| carries(device));
                for (node, key, _) in own {
                    found.entry((node.clone(), Some(key.clone()))).or_default().insert(at);
                }
            }
            for node in self.nodes_on(circuit) {
                passing.entry(node).or_default().insert(at);
            }
        }
        // Where DC comes through too, a switch nobody names is not known to be for AC.
        let dc = self.plan.circuits.values().filter(|c| c.kind.is_dc());
        let of_dc: BTreeSet<&NodeKey> = dc.flat_map(|c| self.nodes_on(c)).collect();
        for (key, circuits) in &passing {
            let Some((key, node)) = self.plan.nodes.get_key_value(*key) else { continue };
            // A switch in an inverter is its DC one; what is on a busbar is named.
            if matches!(node.kind, NodeKind::Panel | NodeKind::Inverter) || of_dc.contains(key) {
                continue;
            }
            let switches = node.devices.iter().filter(|(_, d)| d.what == DeviceKind::Isolator);
            let loose: Vec<&DeviceKey> = switches
                .map(|(k, _)| k)
                .filter(|k| !found.contains_key(&(key.clone(), Some((*k).clone()))))
                .collect();
            let ends = |at: &&usize| {
                !self
                    .circuit(**at)
                    .ends()
                    .any(|e| e.node.as_ref() == Some(key) && e.device.is_some())
            };
            match loose.as_slice() {
                [] if node.kind == NodeKind::Isolator && node.devices.is_empty() => {
                    found.entry((key.clone(), None)).or_default().extend(circuits);
                }
                [one] => {
                    let own = circuits.iter().filter(ends);
                    let at = (key.clone(), Some((*one).clone()));
                    found.entry(at).or_default().extend(own);
                }
                _ => {}
            }
        }
        let through = found.into_iter().filter(|(_, circuits)| !circuits.is_empty());
        let through = through.map(|((node, device), circuits)| {
            let of = |pick: fn(&super::Indexed) -> &Vec<usize>| {
                let all: BTreeSet<usize> =
                    circuits.iter().flat_map(|at| pick(&self.circuits[*at])).copied().collect();
                all.into_iter().collect()
            };
            let (inverters, branches) = (of(|c| &c.inverters), of(|c| &c.branches));
            Through { node, device, circuits: circuits.into_iter().collect(), inverters, branches }
        });
        self.through = through.collect();
        for (place, through) in self.through.iter().enumerate() {
            for at in &through.circuits {
                self.through_of.entry(*at).or_default().push(place);
            }
        }
    }
}
