//! The plan of a job as version 2 wrote it: runs that owned their segments, one panel, home runs
//! that stood with their branches. It becomes a graph: a way per run, a circuit per string,
//! inverter and branch. Runs that follow one another on the same string or inverter are legs of one
//! circuit.

use std::collections::BTreeMap;

use serde::Deserialize;

use super::{
    Circuit, CircuitKey, CircuitKind, End, InverterKey, JobInverter, JobString, Leg, Letter,
    Method, Node, NodeKey, NodeKind, Panel, Part, Place, Plan, RacewayChoice, Way, WayKey,
    WireChoice,
};

/// What of a job of version 2 the plan comes from.
#[derive(Debug, Deserialize)]
pub(super) struct Old {
    #[serde(default)]
    inverters: Vec<JobInverter>,
    #[serde(default)]
    strings: Vec<JobString>,
    #[serde(default)]
    branches: Vec<OldBranch>,
    #[serde(default)]
    runs: Vec<Run>,
    panel: Option<Panel>,
}

impl Old {
    /// Whether there is a branch.
    pub(super) fn has_branches(&self) -> bool {
        !self.branches.is_empty()
    }
}

#[derive(Debug, Deserialize)]
struct OldBranch {
    letter: Letter,
    home_run_m: Option<f64>,
    #[serde(default)]
    wire: WireChoice,
}

#[derive(Debug, Deserialize)]
#[serde(deny_unknown_fields)]
struct Run {
    id: String,
    #[serde(default)]
    name: String,
    kind: CircuitKind,
    #[serde(default)]
    strings: Vec<Letter>,
    inverter: Option<InverterKey>,
    #[serde(default)]
    wire: WireChoice,
    #[serde(default)]
    neutral: bool,
    ocpd_a: Option<f64>,
    #[serde(default)]
    segments: Vec<Segment>,
}

#[derive(Debug, Deserialize)]
#[serde(deny_unknown_fields)]
struct Segment {
    place: Place,
    #[serde(default)]
    method: Method,
    length_m: Option<f64>,
    ambient_add_c: Option<f64>,
    roof_clearance_mm: Option<f64>,
    raceway: Option<RacewayChoice>,
}

/// Either end of a run.
type Tip = (usize, bool);

/// Which tips of runs are one and the same place, and which of them are at an inverter.
struct Tips {
    same: BTreeMap<Tip, Tip>,
    named: BTreeMap<Tip, NodeKey>,
}

impl Tips {
    fn root(&self, mut tip: Tip) -> Tip {
        while let Some(next) = self.same.get(&tip) {
            tip = *next;
        }
        tip
    }

    fn join(&mut self, a: Tip, b: Tip) {
        let (a, b) = (self.root(a), self.root(b));
        if a != b {
            self.same.insert(b, a);
        }
    }
}

struct Grower<'a> {
    job: &'a Old,
    way_keys: Vec<WayKey>,
    plan: Plan,
    tips: Tips,
}

const FROM: bool = false;
const TO: bool = true;

/// The plan that runs, branches and panel come to.
pub(super) fn plan(job: &Old) -> Plan {
    let tips = Tips { same: BTreeMap::new(), named: BTreeMap::new() };
    let mut way_keys: Vec<WayKey> = Vec::new();
    for run in &job.runs {
        let key = free(&run.id, |k: &WayKey| way_keys.contains(k));
        way_keys.push(key);
    }
    let mut g = Grower { job, way_keys, plan: Plan::default(), tips };
    for inverter in &job.inverters {
        let key = g.free_node(&inverter.id);
        let node = Node { inverter: Some(inverter.id.clone()), ..Node::new(NodeKind::Inverter) };
        g.plan.nodes.insert(key, node);
    }
    let main = g.free_node("MP");
    let ac = job.inverters.len() + job.branches.len() > 0 || job.panel.is_some();
    if ac {
        let node = Node { panel: job.panel.clone(), ..Node::new(NodeKind::Panel) };
        g.plan.nodes.insert(main.clone(), node);
    }
    g.dc();
    g.ac(&main);
    g.ways();
    g.ends();
    g.plan
}

impl<'a> Grower<'a> {
    fn free_node(&self, wanted: &str) -> NodeKey {
        let taken = |key: &NodeKey| self.plan.nodes.contains_key(key);
        free(wanted, taken)
    }

    fn free_circuit(&self, wanted: &str) -> CircuitKey {
        free(wanted, |key: &CircuitKey| self.plan.circuits.contains_key(key))
    }

    fn runs(&self, kind: CircuitKind) -> impl Iterator<Item = (usize, &'a Run)> {
        self.job.runs.iter().enumerate().filter(move |(_, r)| r.kind == kind)
    }

    fn inverter_node(&self, key: &InverterKey) -> Option<NodeKey> {
        let own = self.plan.nodes.iter().find(|(_, n)| n.inverter.as_ref() == Some(key));
        own.map(|(key, _)| key.clone())
    }

    fn add(&mut self, key: CircuitKey, circuit: Circuit, runs: &[usize]) {
        for pair in runs.windows(2) {
            self.tips.join((pair[0], TO), (pair[1], FROM));
        }
        self.plan.circuits.insert(key, circuit);
    }

    fn legs(&self, runs: &[usize]) -> Vec<Leg> {
        let leg = |i: &usize| {
            let run = &self.job.runs[*i];
            Leg::over(run.wire.clone(), vec![self.way_keys[*i].clone()])
        };
        runs.iter().map(leg).collect()
    }

    /// The largest device of several runs: their conductors have to stand it.
    fn device(&self, runs: &[usize]) -> Option<f64> {
        runs.iter().filter_map(|i| self.job.runs[*i].ocpd_a).reduce(f64::max)
    }

    fn dc(&mut self) {
        let outputs: Vec<(usize, &Run)> = self.runs(CircuitKind::PvOutput).collect();
        let mut combiners: BTreeMap<usize, NodeKey> = BTreeMap::new();
        for (i, run) in &outputs {
            let key = self.free_node(&format!("{}-combiner", run.id));
            self.plan.nodes.insert(key.clone(), Node::new(NodeKind::Combiner));
            self.tips.named.insert((*i, FROM), key.clone());
            combiners.insert(*i, key.clone());
            let circuit = Circuit {
                kind: CircuitKind::PvOutput,
                name: run.name.clone(),
                from: End::node(&key),
                to: None,
                neutral: false,
                ocpd_a: run.ocpd_a,
                legs: self.legs(&[*i]),
            };
            let circuit_key = self.free_circuit(&run.id);
            self.add(circuit_key, circuit, &[*i]);
        }
        let mut last: BTreeMap<usize, Vec<&JobString>> = BTreeMap::new();
        for s in &self.job.strings {
            let own =
                self.runs(CircuitKind::PvString).filter(|(_, r)| r.strings.contains(&s.letter));
            let own: Vec<usize> = own.map(|(i, _)| i).collect();
            let output = outputs.iter().find(|(_, r)| r.strings.contains(&s.letter));
            if own.is_empty() && output.is_none() {
                continue;
            }
            let combiner = output.and_then(|(i, _)| combiners.get(i));
            let circuit = Circuit {
                kind: CircuitKind::PvString,
                name: String::new(),
                from: End::string(&s.letter),
                to: combiner.map(End::node),
                neutral: false,
                ocpd_a: self.device(&own),
                legs: self.legs(&own),
            };
            let key = self.free_circuit(&s.letter);
            self.add(key, circuit, &own);
            match (own.last(), output) {
                (Some(i), Some((o, _))) => self.tips.join((*o, FROM), (*i, TO)),
                (Some(i), None) => last.entry(*i).or_default().push(s),
                _ => {}
            }
        }
        for (i, run) in &outputs {
            let of = self.job.strings.iter().filter(|s| run.strings.contains(&s.letter));
            last.insert(*i, of.collect());
        }
        // A run whose strings all end at one inverter ends there.
        for (i, strings) in last {
            let first = strings.first().map(|s| &s.inverter);
            let one = first.filter(|f| strings.iter().all(|s| s.inverter == **f));
            let carries: usize = self.job.runs[i].strings.len();
            if let Some(node) = one.and_then(|k| self.inverter_node(k))
                && carries == strings.len()
            {
                self.tips.named.insert((i, TO), node);
            }
        }
    }

    fn ac(&mut self, main: &NodeKey) {
        let feeders: Vec<usize> = self.runs(CircuitKind::AcFeeder).map(|(i, _)| i).collect();
        let outputs: Vec<(InverterKey, Vec<usize>)> = self
            .job
            .inverters
            .iter()
            .map(|inverter| {
                let own = self.runs(CircuitKind::InverterOut);
                let own = own.filter(|(_, r)| r.inverter.as_ref() == Some(&inverter.id));
                (inverter.id.clone(), own.map(|(i, _)| i).collect::<Vec<_>>())
            })
            .filter(|(_, runs)| !runs.is_empty() || !feeders.is_empty())
            .collect();
        let branches = &self.job.branches;
        let gathered = !feeders.is_empty() || branches.len() > 1;
        let target = if gathered {
            let many = outputs.len() + branches.len() > 1;
            let kind = if many { NodeKind::Panel } else { NodeKind::Isolator };
            let key = self.free_node(if many { "COMBINED" } else { "DISCONNECT" });
            self.plan.nodes.insert(key.clone(), Node::new(kind));
            key
        } else {
            main.clone()
        };
        for (inverter, runs) in outputs {
            let first = runs.first().map(|i| &self.job.runs[*i]);
            // Without a feeder an inverter goes to the main panel by itself.
            let to = if feeders.is_empty() { main } else { &target };
            let circuit = Circuit {
                kind: CircuitKind::InverterOut,
                name: first.map(|r| r.name.clone()).unwrap_or_default(),
                from: End::inverter(&inverter),
                to: Some(End::node(to)),
                neutral: runs.iter().any(|i| self.job.runs[*i].neutral),
                ocpd_a: self.device(&runs),
                legs: self.legs(&runs),
            };
            if let (Some(i), Some(node)) = (runs.first(), self.inverter_node(&inverter)) {
                self.tips.named.insert((*i, FROM), node);
            }
            if let Some(i) = runs.last() {
                self.tips.named.insert((*i, TO), to.clone());
            }
            let id = first.map_or_else(|| inverter.to_string(), |r| r.id.to_string());
            let key = self.free_circuit(&id);
            self.add(key, circuit, &runs);
        }
        for b in branches {
            self.branch(b, &target);
        }
        if gathered {
            let name = feeders.first().map(|i| self.job.runs[*i].name.clone()).unwrap_or_default();
            let circuit = Circuit {
                kind: CircuitKind::AcFeeder,
                name,
                from: End::node(&target),
                to: Some(End::node(main)),
                neutral: feeders.iter().any(|i| self.job.runs[*i].neutral),
                ocpd_a: self.device(&feeders),
                legs: self.legs(&feeders),
            };
            if let (Some(first), Some(last)) = (feeders.first(), feeders.last()) {
                self.tips.named.insert((*first, FROM), target);
                self.tips.named.insert((*last, TO), main.clone());
            }
            let id = feeders.first().map_or("FEEDER", |i| &*self.job.runs[*i].id);
            let key = self.free_circuit(id);
            self.add(key, circuit, &feeders);
        }
    }

    /// A branch's home run: one way of its own, of which only the length is known.
    fn branch(&mut self, b: &OldBranch, to: &NodeKey) {
        let box_key = self.free_node(&format!("{}-box", b.letter));
        self.plan.nodes.insert(box_key.clone(), Node::new(NodeKind::RoofBox));
        let parts = vec![Part { length_m: b.home_run_m, ..Part::default() }];
        let way = Way::between(box_key, to.clone(), parts);
        let taken = |key: &WayKey| self.way_keys.contains(key) || self.plan.ways.contains_key(key);
        let way_key: WayKey = free(&b.letter, taken);
        let circuit = Circuit {
            kind: CircuitKind::MicroBranch,
            name: String::new(),
            from: End::branch(&b.letter),
            to: Some(End::node(to)),
            neutral: false,
            ocpd_a: None,
            legs: vec![Leg::over(b.wire.clone(), vec![way_key.clone()])],
        };
        self.plan.ways.insert(way_key, way);
        let key = self.free_circuit(&b.letter);
        self.plan.circuits.insert(key, circuit);
    }

    /// A run that strings of several inverters shared ends at a box; nothing was planned beyond it.
    fn ends(&mut self) {
        let plan = &mut self.plan;
        for circuit in plan.circuits.values_mut().filter(|c| c.to.is_none()) {
            let last = circuit.legs.last().and_then(|l| plan.ways.get(l.via.last()?));
            let open = last.map(|w| &w.to).filter(|n| plan.nodes[*n].kind == NodeKind::JunctionBox);
            circuit.to = open.map(End::node);
        }
    }

    /// A way per run, between the places its tips come to.
    fn ways(&mut self) {
        let mut places: BTreeMap<Tip, NodeKey> = BTreeMap::new();
        let named: Vec<(Tip, NodeKey)> =
            self.tips.named.iter().map(|(tip, node)| (*tip, node.clone())).collect();
        for (tip, node) in named {
            places.entry(self.tips.root(tip)).or_insert(node);
        }
        for (i, run) in self.job.runs.iter().enumerate() {
            let [from, to] = [FROM, TO].map(|end| {
                let root = self.tips.root((i, end));
                if let Some(node) = places.get(&root) {
                    return node.clone();
                }
                let roof = end == FROM && run.kind.is_dc();
                let key = self.free_node(if roof { "RB" } else { "JB" });
                let kind = if roof { NodeKind::RoofBox } else { NodeKind::JunctionBox };
                self.plan.nodes.insert(key.clone(), Node::new(kind));
                places.insert(root, key.clone());
                key
            });
            let key = self.way_keys[i].clone();
            let parts = run.segments.iter().map(|s| Part {
                place: Some(s.place),
                method: s.method,
                length_m: s.length_m,
                ambient_add_c: s.ambient_add_c,
                roof_clearance_mm: s.roof_clearance_mm,
                insulated: None,
                listed: None,
                raceway: s.raceway.clone(),
                ..Part::default()
            });
            let parts = parts.collect();
            self.plan
                .ways
                .insert(key, Way { name: run.name.clone(), ..Way::between(from, to, parts) });
        }
    }
}

/// The wanted key, or the first that is free with a number behind it. What a key may not hold
/// becomes a dash.
pub(super) fn free<K: for<'k> From<&'k str>>(wanted: &str, taken: impl Fn(&K) -> bool) -> K {
    let clean: String = wanted
        .chars()
        .map(|c| if super::keys::allowed(c) { c } else { '-' })
        .take(super::keys::LONGEST - 4)
        .collect();
    let key = K::from(&clean);
    if !clean.is_empty() && !taken(&key) {
        return key;
    }
    let mut numbered = (2..).map(|n| K::from(format!("{clean}-{n}").as_str()));
    numbered.find(|k| !taken(k)).expect("numbers do not end")
}
