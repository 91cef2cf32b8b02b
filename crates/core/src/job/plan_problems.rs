//! What a schema cannot say of a plan: keys that can be written into an address, references that
//! lead somewhere, ways that meet, circuits that end where they can, no loop toward the grid.

use std::collections::{BTreeMap, HashMap};

use super::validate::raceway_sizes;
use super::{
    Circuit, CircuitKind, End, InverterKey, Job, Leg, MOST_CIRCUITS, MOST_NODES, MOST_WAYS, Node,
    NodeKey, Part, WayKey, WireChoice, keys,
};
use crate::problem::Problem;
use crate::quantity::above;
use crate::school::School;
use crate::tables;

/// Every problem of a job's plan.
pub(crate) fn plan_problems(job: &Job) -> Vec<Problem> {
    let ends = job.plan.ways.iter().map(|(key, w)| (key, (&w.from, &w.to))).collect();
    let mut v = Plans { job, ends, problems: Vec::new() };
    v.numbers();
    if !v.problems.is_empty() {
        // What else is wrong with so much is not looked for.
        return v.problems;
    }
    v.keys();
    v.nodes();
    v.ways();
    v.circuits();
    v.loops();
    v.problems
}

/// The nodes a leg may have come to: its first way is gone from either end.
type Reached<'p> = [Option<&'p NodeKey>; 2];

/// Most devices of a node: a large board.
const MOST_DEVICES: usize = 500;
/// Most devices of all nodes together.
const MOST_DEVICES_N: usize = 4_000;
/// Most parts of all ways together.
const MOST_PARTS: usize = 10_000;
/// Most ways that all legs go over, each counted as often as a leg goes over it.
const MOST_VIA: usize = 40_000;
/// Most circuits one after the other toward the grid.
const MOST_DEEP: usize = 100;

struct Plans<'a> {
    job: &'a Job,
    /// The nodes at both ends of each way.
    ends: HashMap<&'a WayKey, (&'a NodeKey, &'a NodeKey)>,
    problems: Vec<Problem>,
}

impl Plans<'_> {
    fn say(
        &mut self,
        path: impl Into<String>,
        message: impl Into<String>,
        hint: impl Into<String>,
    ) {
        self.problems.push(Problem::new(path, message, hint));
    }

    fn numbers(&mut self) {
        let plan = &self.job.plan;
        let devices = plan.nodes.values().map(|n| n.devices.len()).sum();
        let parts = plan.ways.values().map(|w| w.parts.len()).sum();
        let via = plan.circuits.values().flat_map(|c| &c.legs).map(|l| l.via.len()).sum();
        let lists = [
            ("nodes", "nodes", plan.nodes.len(), MOST_NODES),
            ("ways", "ways", plan.ways.len(), MOST_WAYS),
            ("circuits", "circuits", plan.circuits.len(), MOST_CIRCUITS),
            ("nodes", "devices in nodes", devices, MOST_DEVICES_N),
            ("ways", "parts of ways", parts, MOST_PARTS),
            ("circuits", "ways under legs of circuits", via, MOST_VIA),
        ];
        for (key, node) in plan.nodes.iter().filter(|(_, n)| n.devices.len() > MOST_DEVICES) {
            let message = format!("{} devices are more than a node holds", node.devices.len());
            let at = format!("/job/plan/nodes/{key}/devices");
            self.problems.push(Problem::new(at, message, format!("{MOST_DEVICES} at most")));
        }
        for (list, what, n, most) in lists.into_iter().filter(|(.., n, most)| n > most) {
            let message = format!("{n} {what} are more than a plan holds");
            self.say(format!("/job/plan/{list}"), message, format!("{most} at most"));
        }
    }

    fn keys(&mut self) {
        let plan = &self.job.plan;
        let nodes = plan.nodes.keys().map(|k| ("nodes", k.as_str()));
        let ways = plan.ways.keys().map(|k| ("ways", k.as_str()));
        let circuits = plan.circuits.keys().map(|k| ("circuits", k.as_str()));
        for (list, key) in nodes.chain(ways).chain(circuits) {
            self.key(key, || format!("/job/plan/{list}"));
        }
    }

    fn key(&mut self, key: &str, list: impl FnOnce() -> String) {
        if let Some((message, hint)) = keys::problem(key) {
            self.say(list(), message, hint);
        }
    }

    fn nodes(&mut self) {
        let mut seen = BTreeMap::new();
        for (key, node) in &self.job.plan.nodes {
            let at = format!("/job/plan/nodes/{key}");
            if let Some(id) = &node.inverter {
                if !self.job.inverters.iter().any(|i| i.id == *id) {
                    let hint = "an inverter of this job";
                    self.say(format!("{at}/inverter"), format!("no inverter `{id}`"), hint);
                }
                if let Some(other) = seen.insert(id, key) {
                    let message = format!("inverter {id} stands at {other} already");
                    self.say(format!("{at}/inverter"), message, "one node for each inverter");
                }
            }
            if let Some(face) = node.face.as_ref().filter(|f| self.job.face(f).is_none()) {
                let message = format!("no face `{face}`");
                self.say(format!("{at}/face"), message, "a face of the site");
            }
            self.devices(node, &at);
            let loads = node.panel.iter().flat_map(|p| p.load_breakers_a.iter().enumerate());
            for (i, a) in loads.filter(|(_, a)| !(0.0..=10_000.0).contains(*a)) {
                self.say(
                    format!("{at}/panel/load_breakers_a/{i}"),
                    format!("{a} A is not a breaker"),
                    "0 to 10000 A",
                );
            }
        }
    }

    /// Devices feed one another inside their node, and none of them itself.
    fn devices(&mut self, node: &Node, at: &str) {
        for (key, device) in &node.devices {
            self.key(key, || format!("{at}/devices"));
            if device.sheet.is_some() && device.what.sheet_kind().is_none() {
                let path = format!("{at}/devices/{key}/sheet");
                self.say(path, "a device of this kind has no data sheet", "leave it out");
            }
            let around = device.ct.as_ref().and_then(|ct| ct.around.as_ref());
            if let Some(gone) = around.filter(|c| !self.job.plan.circuits.contains_key(*c)) {
                self.say(
                    format!("{at}/devices/{key}/ct/around"),
                    format!("no circuit `{gone}`"),
                    "a circuit of the plan, or nothing for the conductors toward the grid",
                );
            }
            let at = format!("{at}/devices/{key}/feeds");
            let mut chain = vec![key];
            let mut next = device.feeds.as_ref();
            while let Some(fed) = next {
                let Some(device) = node.devices.get(fed) else {
                    if chain.len() == 1 {
                        self.say(&at, format!("no device `{fed}`"), "a device of the same node");
                    }
                    break;
                };
                if fed == key {
                    let ring: Vec<&str> = chain.iter().map(|k| k.as_str()).collect();
                    let message = format!("it feeds itself: {}, {key}", ring.join(", "));
                    self.say(&at, message, "each device feeds one nearer to the grid");
                }
                if chain.contains(&fed) {
                    break;
                }
                chain.push(fed);
                next = device.feeds.as_ref();
            }
        }
    }

    fn ways(&mut self) {
        for (key, way) in &self.job.plan.ways {
            let at = format!("/job/plan/ways/{key}");
            for (end, node) in [("from", &way.from), ("to", &way.to)] {
                if !self.job.plan.nodes.contains_key(node) {
                    let message = format!("no node `{node}`");
                    self.say(format!("{at}/{end}"), message, "a key of /job/plan/nodes");
                }
            }
            if way.from == way.to {
                let message = format!("it begins and ends at {}", way.to);
                self.say(format!("{at}/to"), message, "another node");
            }
            if let Some(earth) = &way.earth {
                let known = match self.job.school {
                    School::Na => tables::wire(earth).is_some(),
                    School::Iec => earth.parse().is_ok_and(section),
                };
                if !known {
                    let message = format!("no wire size `{earth}`");
                    self.say(format!("{at}/earth"), message, sizes(self.job.school));
                }
            }
            for (k, part) in way.parts.iter().enumerate() {
                self.part(part, &format!("{at}/parts/{k}"));
            }
        }
    }

    fn part(&mut self, part: &Part, at: &str) {
        if let Some(length) = part.length_m {
            if let Some(rise) = part.rise_m.filter(|rise| above(rise.abs(), length)) {
                let message = format!("a part of {length} m does not rise by {rise} m");
                self.say(format!("{at}/rise_m"), message, format!("-{length} to {length} m"));
            }
            for (i, bend) in part.bends.iter().flatten().enumerate() {
                if let Some(own) = bend.at_m.filter(|own| above(*own, length)) {
                    let message = format!("the part ends at {length} m, before {own} m");
                    self.say(
                        format!("{at}/bends/{i}/at_m"),
                        message,
                        format!("0 to {length} m from where the part begins"),
                    );
                }
            }
        }
        let Some(r) = &part.raceway else { return };
        if r.kind.school() != self.job.school {
            self.say(
                format!("{at}/raceway/kind"),
                "this raceway belongs to the other school",
                "pick one of this job's school",
            );
        } else if !raceway_sizes(r.kind).contains(&r.size) {
            self.say(
                format!("{at}/raceway/size"),
                format!("no size `{}`", r.size),
                format!("one of {}", raceway_sizes(r.kind).join(", ")),
            );
        }
    }

    fn wire(&mut self, wire: &WireChoice, at: &str) {
        if let Some(size) = wire.awg.as_ref().filter(|s| tables::wire(s).is_none()) {
            self.say(format!("{at}/awg"), format!("no wire size `{size}`"), sizes(School::Na));
        }
        if let Some(mm2) = wire.mm2.filter(|mm2| !section(*mm2)) {
            self.say(format!("{at}/mm2"), format!("no section of {mm2} mm²"), sizes(School::Iec));
        }
    }

    fn circuits(&mut self) {
        let mut begins: BTreeMap<String, Vec<&str>> = BTreeMap::new();
        for (key, c) in &self.job.plan.circuits {
            let at = format!("/job/plan/circuits/{key}");
            self.end(&c.from, &format!("{at}/from"));
            if let Some(to) = &c.to {
                self.end(to, &format!("{at}/to"));
            }
            self.kind(c, &at);
            self.device(c, &at);
            if let Some(source) = source(&c.from) {
                // One output goes to the grid, another may go to a backup board.
                let most = if c.from.inverter.is_some() { 2 } else { 1 };
                let others = begins.entry(source.clone()).or_default();
                if others.len() >= most {
                    let message = format!("{source} is on circuit {} already", others.join(", "));
                    let hint = "each string and branch is on one circuit, an inverter on one to \
                                the grid and one to a backup board";
                    self.say(format!("{at}/from"), message, hint);
                } else {
                    others.push(key);
                }
            }
            let mut reached = None;
            for (k, leg) in c.legs.iter().enumerate() {
                self.wire(&leg.wire, &format!("{at}/legs/{k}/wire"));
                if let Some(piece) = leg.piece.as_ref().filter(|p| !self.job.stock.contains_key(*p))
                {
                    let message = format!("no cable `{piece}` is there");
                    self.say(format!("{at}/legs/{k}/piece"), message, "a key of /job/stock");
                }
                reached = self.leg(leg, &format!("{at}/legs/{k}"), reached);
            }
        }
    }

    /// Follows a leg over its ways; gives the nodes it may have come to.
    fn leg<'p>(
        &mut self,
        leg: &'p Leg,
        at: &str,
        mut reached: Option<Reached<'p>>,
    ) -> Option<Reached<'p>>
    where
        Self: 'p,
    {
        if leg.via.is_empty() {
            // Not led yet: it may go on from anywhere.
            return None;
        }
        let mut last: Option<&str> = None;
        for (i, key) in leg.via.iter().enumerate() {
            let Some((from, to)) = self.ends.get(key).copied() else {
                let message = format!("no way `{key}`");
                self.say(format!("{at}/via/{i}"), message, "a key of /job/plan/ways");
                return None;
            };
            let (from, to): (&'p NodeKey, &'p NodeKey) = (from, to);
            let next = match reached {
                None => [Some(from), Some(to)],
                Some(here) => {
                    let from_there = |a, b| here.contains(&Some(a)).then_some(b);
                    [from_there(from, to), from_there(to, from)]
                }
            };
            if next == [None, None] {
                let before = last.unwrap_or("the leg before");
                self.say(
                    format!("{at}/via/{i}"),
                    format!("way {key} does not meet {before}"),
                    "ways in the order the circuit goes, each from where the last one ended",
                );
                return None;
            }
            reached = Some(next);
            last = Some(key);
        }
        reached
    }

    fn end(&mut self, end: &End, at: &str) {
        let job = self.job;
        let given = [
            end.string
                .as_ref()
                .map(|l| (format!("string `{l}`"), job.strings.iter().any(|s| s.letter == *l))),
            end.branch
                .as_ref()
                .map(|l| (format!("branch `{l}`"), job.branches.iter().any(|b| b.letter == *l))),
            end.inverter
                .as_ref()
                .map(|i| (format!("inverter `{i}`"), job.inverters.iter().any(|v| v.id == *i))),
            end.node.as_ref().map(|n| (format!("node `{n}`"), job.plan.nodes.contains_key(n))),
        ];
        let given: Vec<(String, bool)> = given.into_iter().flatten().collect();
        if let Some(device) = &end.device {
            let node = end.node.as_ref().and_then(|n| job.plan.nodes.get(n));
            if node.is_none_or(|n| !n.devices.contains_key(device)) {
                let message = format!("no device `{device}`");
                self.say(format!("{at}/device"), message, "a device of the node it names");
            }
        }
        match given.as_slice() {
            [(_, true)] => {}
            [(what, false)] => self.say(at, format!("no {what}"), "one of this job"),
            _ => self.say(
                at,
                format!("an end names one thing, this one {}", given.len()),
                "string, branch, inverter or node",
            ),
        }
    }

    /// A circuit begins and ends where its kind can.
    fn kind(&mut self, c: &Circuit, at: &str) {
        use CircuitKind::{AcFeeder, Bond, Control, InverterOut, MicroBranch, PvOutput, PvString};
        let from = &c.from;
        let (right, hint) = match c.kind {
            PvString => (from.string.is_some(), "a string"),
            PvOutput => (from.node.is_some(), "the combiner's node"),
            InverterOut => (from.inverter.is_some(), "an inverter"),
            MicroBranch => (from.branch.is_some(), "a branch"),
            AcFeeder | Bond | Control => (from.node.is_some(), "a node"),
        };
        if !right {
            self.say(format!("{at}/from"), "this kind of circuit does not begin there", hint);
        }
        let needs_end = !c.kind.is_dc();
        let to = c.to.as_ref();
        if needs_end && to.is_none_or(|t| t.node.is_none()) {
            self.say(format!("{at}/to"), "where it goes is not said", "the node it ends at");
        }
        if c.kind.is_dc() && to.is_some_and(|t| t.string.is_some() || t.branch.is_some()) {
            self.say(format!("{at}/to"), "DC does not end there", "a combiner's node, or nothing");
        }
        if c.kind == MicroBranch && c.ocpd_a.is_some() {
            self.say(
                format!("{at}/ocpd_a"),
                "the breaker of a branch stands with the branch",
                "leave it out here; /job/branches has breaker_a",
            );
        }
    }

    /// What the circuit says of its device is what the device says of itself.
    fn device(&mut self, c: &Circuit, at: &str) {
        let named = self.job.plan.protected_a(&Circuit { ocpd_a: None, ..c.clone() });
        let branch = c.from.branch.as_ref().and_then(|l| {
            let own = self.job.branches.iter().find(|b| b.letter == *l);
            own.and_then(|b| b.breaker_a)
        });
        if let (Some(named), Some(said)) = (named, c.ocpd_a.or(branch))
            && named != said
        {
            self.say(
                format!("{at}/to/device"),
                format!("this device has {named} A, the circuit's is said to have {said} A"),
                "one and the same rating",
            );
        }
    }

    /// What flows from node to node toward the grid never comes back.
    fn loops(&mut self) {
        let stands: BTreeMap<&InverterKey, &NodeKey> = self.job.plan.inverters_at().collect();
        let mut edges: BTreeMap<&NodeKey, Vec<(&NodeKey, &str)>> = BTreeMap::new();
        for (key, c) in self.job.plan.circuits.iter().filter(|(_, c)| c.kind.is_power()) {
            // An inverter's ends are the node it stands at.
            let [from, to] = [Some(&c.from), c.to.as_ref()].map(|end| {
                end.and_then(|e| {
                    let own = || stands.get(e.inverter.as_ref()?).copied();
                    e.node.as_ref().or_else(own)
                })
            });
            if let (Some(from), Some(to)) = (from, to) {
                edges.entry(from).or_default().push((to, key));
            }
        }
        // Not by recursion: a chain may be as long as a file.
        let mut graph = petgraph::graphmap::DiGraphMap::<&NodeKey, ()>::new();
        for (from, to) in edges.iter().flat_map(|(f, list)| list.iter().map(move |(t, _)| (*f, *t)))
        {
            graph.add_edge(from, to, ());
        }
        // Those nearest to the grid come first, so what a node leads on to is known by then.
        let mut deep: HashMap<&NodeKey, usize> = HashMap::new();
        let mut deepest = (0, None);
        for part in petgraph::algo::kosaraju_scc(&graph) {
            let [first, ..] = part.as_slice() else { continue };
            if part.len() == 1 && !graph.contains_edge(first, first) {
                let on = graph.neighbors(first).filter_map(|n| deep.get(n));
                let own = on.max().map_or(0, |d| d + 1);
                deep.insert(*first, own);
                deepest = deepest.max((own, Some(*first)));
                continue;
            }
            let inside = |n: &&NodeKey| part.contains(n);
            let circuits: Vec<&str> = edges
                .iter()
                .filter(|(from, _)| inside(from))
                .flat_map(|(_, list)| list.iter().filter(|(to, _)| inside(to)).map(|(_, key)| *key))
                .collect();
            let mut names: Vec<&str> = part.iter().map(|n| n.as_str()).collect();
            names.sort_unstable();
            let place = circuits.first().copied().unwrap_or_default();
            self.say(
                format!("/job/plan/circuits/{place}/to"),
                format!(
                    "a loop toward the grid: {} over {}",
                    names.join(", "),
                    circuits.join(", ")
                ),
                "each circuit leads nearer to the grid",
            );
        }
        if let (own @ MOST_DEEP.., Some(node)) = deepest {
            let message = format!("{own} circuits lie one after the other from here to the grid");
            let hint = format!("fewer than {MOST_DEEP}");
            self.say(format!("/job/plan/nodes/{node}"), message, hint);
        }
    }
}

/// What a circuit takes its power from, where that is on one circuit only.
fn source(from: &End) -> Option<String> {
    let string = from.string.as_ref().map(|l| format!("string {l}"));
    let branch = from.branch.as_ref().map(|l| format!("branch {l}"));
    let inverter = from.inverter.as_ref().map(|i| format!("the output of {i}"));
    string.or(branch).or(inverter)
}

fn section(mm2: f64) -> bool {
    tables::iec_cable("xlpe90", mm2, 2).is_some()
}

fn sizes(school: School) -> String {
    match school {
        School::Na => {
            let known: Vec<&str> = tables::WIRES.iter().map(|w| w.size.as_str()).collect();
            format!("one of {}", known.join(", "))
        }
        School::Iec => {
            let two = tables::IEC_CABLES.iter();
            let two = two.filter(|c| c.insulation == "xlpe90" && c.loaded_n == 2);
            let known: Vec<String> = two.map(|c| c.mm2.to_string()).collect();
            format!("one of {}", known.join(", "))
        }
    }
}
