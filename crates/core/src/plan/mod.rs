//! The plan indexed: what a circuit carries, what lies in a way, what is parallel with what. Built
//! once per evaluation; every rule asks it.

mod ends;
mod rated;
mod through;

use std::collections::{BTreeMap, BTreeSet, HashMap, HashSet};

use crate::job::{
    Circuit, CircuitKey, End, InverterKey, Job, Leg, Letter, NodeKey, NodeKind, Part, Place, Plan,
    Way, WayKey,
};
use crate::library::Library;
use crate::tables;

pub use ends::{candidates, chain};
pub use through::{Guard, Through};

/// A circuit and what it carries, as places in the job's lists.
#[derive(Clone, Debug)]
pub struct Indexed {
    /// Its key.
    pub key: CircuitKey,
    /// Strings.
    pub strings: Vec<usize>,
    /// Inverters, on an AC circuit.
    pub inverters: Vec<usize>,
    /// Branches.
    pub branches: Vec<usize>,
}

/// A circuit that lies in a way, with one of its legs.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Laid {
    /// Its place in [`PlanFound::circuits`].
    pub circuit: usize,
    /// The leg, from 0.
    pub leg: usize,
}

/// The plan of a job with its indices.
#[derive(Clone, Debug, Default)]
pub struct PlanFound {
    /// The plan.
    pub plan: Plan,
    /// Every circuit, in the order of their keys.
    pub circuits: Vec<Indexed>,
    keys: Vec<CircuitKey>,
    laid: HashMap<WayKey, Vec<Laid>>,
    /// Ways that begin or end at a node, in the order of their keys.
    touching: HashMap<NodeKey, Vec<WayKey>>,
    /// Where each inverter stands.
    stands: BTreeMap<InverterKey, NodeKey>,
    /// Circuits that end at a node.
    coming: BTreeMap<NodeKey, Vec<usize>>,
    /// Circuits that begin at a node, an inverter's own among them.
    leaving: BTreeMap<NodeKey, Vec<usize>>,
    /// The circuit of each inverter's output to the grid.
    outputs: BTreeMap<InverterKey, usize>,
    /// Outputs that lead away from the grid.
    backups: BTreeSet<usize>,
    /// What comes through each device of the AC side.
    through: Vec<Through>,
    /// Those each AC circuit comes through, by their places.
    through_of: BTreeMap<usize, Vec<usize>>,
}

impl PlanFound {
    /// The plan of a job; what a data sheet says of a device or an enclosure is filled in.
    pub fn of(job: &Job, library: &Library) -> Self {
        let mut plan = job.plan.clone();
        rated::fill(&mut plan, library);
        ends::settle(&mut plan);
        let stands = plan.inverters_at().map(|(i, key)| (i.clone(), key.clone())).collect();
        let mut found = PlanFound { plan, stands, ..PlanFound::default() };
        found.index();
        found.find_outputs(job);
        let lists = Lists::of(job);
        let all = 0..found.plan.circuits.len();
        found.circuits = found
            .plan
            .circuits
            .keys()
            .zip(all)
            .map(|(key, at)| found.carried_by(&lists, key, at))
            .collect();
        found.find_through();
        found
    }

    fn index(&mut self) {
        self.keys = self.plan.circuits.keys().cloned().collect();
        for (key, way) in &self.plan.ways {
            self.touching.entry(way.from.clone()).or_default().push(key.clone());
            if way.to != way.from {
                self.touching.entry(way.to.clone()).or_default().push(key.clone());
            }
        }
        for (at, circuit) in self.plan.circuits.values().enumerate() {
            for (leg, planned) in circuit.legs.iter().enumerate() {
                for way in &planned.via {
                    self.laid.entry(way.clone()).or_default().push(Laid { circuit: at, leg });
                }
            }
            if let Some(node) = circuit.to.as_ref().and_then(|end| end.node.as_ref()) {
                self.coming.entry(node.clone()).or_default().push(at);
            }
            let from = &circuit.from;
            let own = from.inverter.as_ref().and_then(|i| self.stands.get(i));
            if let Some(node) = from.node.as_ref().or(own) {
                self.leaving.entry(node.clone()).or_default().push(at);
            }
        }
    }

    /// What a circuit carries, from its beginning back to where the power comes from.
    fn carried_by(&self, lists: &Lists, key: &CircuitKey, at: usize) -> Indexed {
        let (mut strings, mut inverters, mut branches) = (Vec::new(), Vec::new(), Vec::new());
        let circuits: Vec<&Circuit> = match self.plan.circuits.get(key) {
            Some(own) if !own.kind.is_power() => Vec::new(),
            Some(own) if own.from.node.is_none() => vec![own],
            _ => self.upstream(at),
        };
        for circuit in circuits {
            let End { string, branch, inverter, node, .. } = &circuit.from;
            strings.extend(string.as_ref().and_then(|l| lists.strings.get(l)));
            branches.extend(branch.as_ref().and_then(|l| lists.branches.get(l)));
            // What begins at an inverter's own node is an output of it.
            let here = node.as_ref().and_then(|n| self.plan.nodes.get(n)?.inverter.as_ref());
            let here = here.filter(|_| circuit.kind.is_ac());
            inverters.extend(inverter.as_ref().or(here).and_then(|i| lists.inverters.get(i)));
        }
        for list in [&mut strings, &mut inverters, &mut branches] {
            list.sort_unstable();
            list.dedup();
        }
        Indexed { key: key.clone(), strings, inverters, branches }
    }

    /// A circuit and everything that flows into it. Each is met once: a loop is refused by
    /// validation and ends here.
    fn upstream(&self, at: usize) -> Vec<&Circuit> {
        let all: Vec<&Circuit> = self.plan.circuits.values().collect();
        let mut seen = vec![false; all.len()];
        let (mut found, mut open) = (Vec::new(), vec![at]);
        while let Some(at) = open.pop() {
            if std::mem::replace(&mut seen[at], true) {
                continue;
            }
            let circuit = all[at];
            found.push(circuit);
            let coming = circuit.from.node.as_ref().and_then(|n| self.coming.get(n));
            // What bonds or only tells something brings no power.
            let kind = circuit.kind;
            let like = |at: &&usize| {
                let own = all[**at].kind;
                own.is_power() && own.is_dc() == kind.is_dc()
            };
            open.extend(coming.into_iter().flatten().filter(like));
        }
        found
    }

    /// The circuit of this place in the list.
    pub fn circuit(&self, at: usize) -> &Circuit {
        &self.plan.circuits[&self.keys[at]]
    }

    /// What lies in a way.
    pub fn lying_in(&self, way: &WayKey) -> &[Laid] {
        self.laid.get(way).map_or(&[], Vec::as_slice)
    }

    /// The ways that begin or end at a node.
    pub fn ways_at(&self, node: &NodeKey) -> impl Iterator<Item = (&WayKey, &Way)> {
        let keys = self.touching.get(node).into_iter().flatten();
        keys.filter_map(|key| self.plan.ways.get_key_value(key))
    }

    /// Whether DC lies in a way that begins or ends at a node.
    pub fn dc_comes_to(&self, node: &NodeKey) -> bool {
        let mut lying = self.ways_at(node).flat_map(|(way, _)| self.lying_in(way));
        lying.any(|l| self.circuit(l.circuit).kind.is_dc())
    }

    /// The circuits that end at a node, by their places in the list.
    pub fn into_node(&self, node: &NodeKey) -> &[usize] {
        self.coming.get(node).map_or(&[], Vec::as_slice)
    }

    /// The circuits that begin at a node, those of an inverter that stands there among them.
    pub fn out_of_node(&self, node: &NodeKey) -> &[usize] {
        self.leaving.get(node).map_or(&[], Vec::as_slice)
    }

    /// The circuit an inverter's output to the grid takes, by its place in the list.
    pub fn output_of(&self, inverter: &InverterKey) -> Option<usize> {
        self.outputs.get(inverter).copied()
    }

    /// The node an inverter stands at.
    pub fn node_of(&self, inverter: &InverterKey) -> Option<&NodeKey> {
        self.stands.get(inverter)
    }

    /// The node at an end, that of an inverter included.
    pub fn node_at<'p>(&'p self, end: &'p End) -> Option<&'p NodeKey> {
        end.node.as_ref().or_else(|| self.node_of(end.inverter.as_ref()?))
    }

    /// The ways of a circuit, leg by leg.
    pub fn ways<'p>(&'p self, circuit: &'p Circuit) -> impl Iterator<Item = &'p Way> + 'p {
        let via = circuit.legs.iter().flat_map(|l| &l.via);
        via.filter_map(|key| self.plan.ways.get(key))
    }

    /// The nodes a circuit comes through way by way, then those at its ends; some more than once.
    pub fn nodes_on<'p>(&'p self, circuit: &'p Circuit) -> impl Iterator<Item = &'p NodeKey> + 'p {
        let ways = self.ways(circuit).flat_map(|w| [&w.from, &w.to]);
        ways.chain(circuit.ends().filter_map(|e| self.node_at(e)))
    }

    /// Whether AC flows on from a node: no service comes in there.
    pub fn leads_on(&self, node: &NodeKey) -> bool {
        self.out_of_node(node).iter().any(|at| self.circuit(*at).kind.is_ac())
    }

    /// The circuits from this AC one toward the grid, itself first.
    pub fn to_the_grid(&self, at: usize) -> Vec<usize> {
        let mut chain = vec![at];
        let mut met = HashSet::from([at]);
        let mut here = at;
        while let Some(node) = self.circuit(here).to.as_ref().and_then(|e| e.node.as_ref()) {
            let on = |at: &&usize| self.circuit(**at).kind.is_ac() && !met.contains(*at);
            let Some(&next) = self.out_of_node(node).iter().find(on) else { break };
            chain.push(next);
            met.insert(next);
            here = next;
        }
        chain
    }

    /// Length of all ways of a leg, m; none where one is not known or there is none.
    pub fn length_m(&self, leg: &Leg) -> Option<f64> {
        let ways = leg.via.iter().filter_map(|key| self.plan.ways.get(key));
        let lengths: Vec<Option<f64>> = ways.flat_map(|w| &w.parts).map(|p| p.length_m).collect();
        if lengths.is_empty() { None } else { lengths.into_iter().sum() }
    }

    /// Length of a way from box to box, m, where all of it is what is asked; none where it is not,
    /// or not known. A tee is no box: what begins or ends there is a piece of something longer.
    pub fn whole_m(&self, way: &Way, is: impl Fn(&Part) -> bool) -> Option<f64> {
        let tee = |key| self.plan.nodes.get(key).is_some_and(|n| n.kind == NodeKind::Tee);
        let whole = !tee(&way.from) && !tee(&way.to) && way.parts.iter().all(is);
        way.parts.iter().map(|p| p.length_m).sum::<Option<f64>>().filter(|_| whole)
    }

    /// Whether a string's DC runs inside a building anywhere on its way to the inverter.
    pub fn enters_building(&self, string: usize) -> bool {
        let own = self.circuits.iter().filter(|c| c.strings.contains(&string));
        own.flat_map(|c| self.ways(&self.plan.circuits[&c.key]))
            .flat_map(|w| &w.parts)
            .any(|p| p.place.is_some_and(indoors))
    }
}

/// Places in the job's lists by key.
struct Lists<'j> {
    strings: HashMap<&'j Letter, usize>,
    inverters: HashMap<&'j InverterKey, usize>,
    branches: HashMap<&'j Letter, usize>,
}

impl<'j> Lists<'j> {
    fn of(job: &'j Job) -> Self {
        Lists {
            strings: job.strings.iter().enumerate().map(|(i, s)| (&s.letter, i)).collect(),
            inverters: job.inverters.iter().enumerate().map(|(i, v)| (&v.id, i)).collect(),
            branches: job.branches.iter().enumerate().map(|(i, b)| (&b.letter, i)).collect(),
        }
    }
}

/// Whether a place is inside a building.
pub fn indoors(place: Place) -> bool {
    tables::place(place.key()).is_some_and(|row| row.indoors == "yes")
}
