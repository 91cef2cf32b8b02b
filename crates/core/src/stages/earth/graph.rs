//! The bonding graph: every metal part, what joins it to others, and the way from each to an
//! electrode.

use std::collections::{BTreeMap, HashMap, HashSet, VecDeque};

use serde::Serialize;
use utoipa::ToSchema;

use crate::figure::{Assumption, Sheet, Subject, Verdict};
use crate::job::{CircuitKind, FaceKey, Job, Letter, Node, NodeKey, NodeKind, RacewayKind, WayKey};
use crate::plan::PlanFound;
use crate::registry::Bench;
use crate::school::School;
use crate::stages::runs::RunsFound;

/// What a metal part is.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum PartKind {
    /// Frames of the modules of a face, and the rails under them.
    Frames,
    /// Cases of microinverters or optimizers.
    Units,
    /// A box, an enclosure, a switch.
    Case,
    /// An inverter.
    Inverter,
    /// A panel.
    Panel,
    /// Metal raceway.
    Raceway,
    /// An earth electrode.
    Electrode,
}

/// What joins two parts.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum BondBy {
    /// Lugs on the rails and a conductor to the box.
    Lugs,
    /// The mount bites through to the rail.
    Mount,
    /// The earth wire in a way.
    EarthWire,
    /// A bonding conductor of its own.
    Conductor,
    /// The fittings of a metal raceway.
    Fittings,
}

/// A metal part on its way to the electrode.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct MetalPart {
    /// Its key: the kind and the key of what it is part of.
    pub key: String,
    /// What it is.
    pub kind: PartKind,
    /// What its checks are about.
    pub subject: Subject,
    /// It is of metal; what is not only passes the earth wire on.
    pub metal: bool,
    /// Whether it comes to an electrode: pass, fail, or open.
    pub verdict: Verdict,
    /// The next part on its way to the electrode; absent at the electrode and where it comes to
    /// none.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub next: Option<String>,
    /// Parts from it to the electrode; absent where it comes to none.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub steps_n: Option<u32>,
}

/// What joins two parts.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct BondEdge {
    /// One part.
    pub from: String,
    /// The other.
    pub to: String,
    /// What joins them.
    pub by: BondBy,
    /// The way it runs in.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub way: Option<WayKey>,
    /// Size of the conductor as it is written; absent where there is none or it is open.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub size: Option<String>,
    /// Insulated, where it lies in a raceway; bare outside.
    pub insulated: bool,
    /// Whether it is known to join them.
    pub known: bool,
}

/// Every metal part and what joins them.
#[derive(Clone, Debug, Default, Serialize, ToSchema)]
pub struct Bonding {
    /// The parts, from the roof down.
    pub parts: Vec<MetalPart>,
    /// What joins them.
    pub edges: Vec<BondEdge>,
}

/// Nobody said that a case is on the earth wire that comes through it.
static CASES: Assumption = Assumption {
    key: "cases_bonded",
    text: "Cases of metal are connected to the earth wire that comes through them.",
};

/// What is known of a bond: there, not there, not said.
type Known = Option<bool>;

/// The key of a face's frames.
pub(super) fn frames(face: &FaceKey) -> String {
    format!("frames {face}")
}

/// The key of a node's case.
pub(super) fn case(node: &NodeKey) -> String {
    format!("node {node}")
}

fn raceway(way: &WayKey) -> String {
    format!("way {way}")
}

/// Whether a raceway is of metal.
pub(crate) fn is_metal(kind: RacewayKind) -> bool {
    matches!(
        kind,
        RacewayKind::Emt
            | RacewayKind::Rmc
            | RacewayKind::Imc
            | RacewayKind::Fmc
            | RacewayKind::Lfmc
    )
}

/// Whether such a case usually is of metal; an array is its frames.
fn usually_metal(school: School, kind: NodeKind) -> bool {
    match kind {
        NodeKind::Array | NodeKind::Tee => false,
        NodeKind::Inverter | NodeKind::Electrode => true,
        _ => school == School::Na,
    }
}

fn kind_of(kind: NodeKind) -> PartKind {
    match kind {
        NodeKind::Inverter => PartKind::Inverter,
        NodeKind::Panel => PartKind::Panel,
        NodeKind::Electrode => PartKind::Electrode,
        _ => PartKind::Case,
    }
}

pub(super) fn bonding(bench: &Bench, sheet: &mut Sheet) -> Bonding {
    let job = bench.job;
    let plan = bench.found.get::<PlanFound>();
    let runs = bench.found.get::<RunsFound>();
    let mut g = Graph { job, plan, found: Bonding::default() };
    if plan.plan.nodes.is_empty() {
        return g.found;
    }
    g.faces(sheet);
    g.units(bench);
    g.nodes(sheet);
    g.ways(runs);
    g.conductors();
    let roots = g.roots();
    g.reach(&roots);
    g.found
}

struct Graph<'a> {
    job: &'a Job,
    plan: &'a PlanFound,
    found: Bonding,
}

impl Bonding {
    /// The cases a conductor goes from straight to an electrode.
    pub(super) fn cases_at_electrodes(&self) -> HashSet<&str> {
        let electrodes = self.parts.iter().filter(|p| p.kind == PartKind::Electrode);
        let electrodes: HashSet<&str> = electrodes.map(|p| p.key.as_str()).collect();
        let ends = self.edges.iter().flat_map(|e| [(&e.from, &e.to), (&e.to, &e.from)]);
        let at = ends.filter(|(_, other)| electrodes.contains(other.as_str()));
        at.map(|(own, _)| own.as_str()).collect()
    }

    /// Whether all that joins a part to the electrode over its way there is known, by the part's
    /// key. Where two parts are joined more than once the first counts.
    pub(super) fn known_ways(&self) -> HashMap<&str, bool> {
        let mut joints: HashMap<(&str, &str), bool> = HashMap::new();
        for e in &self.edges {
            for pair in [(e.from.as_str(), e.to.as_str()), (e.to.as_str(), e.from.as_str())] {
                joints.entry(pair).or_insert(e.known);
            }
        }
        let next: HashMap<&str, Option<&str>> =
            self.parts.iter().map(|p| (p.key.as_str(), p.next.as_deref())).collect();
        let mut known: HashMap<&str, bool> = HashMap::new();
        for part in &self.parts {
            let mut way = Vec::new();
            let mut here = Some(part.key.as_str());
            let mut rest = true;
            while let Some(key) = here {
                if let Some(found) = known.get(key) {
                    rest = *found;
                    break;
                }
                let on = next.get(key).copied().flatten();
                way.push((key, on));
                here = on;
            }
            for (key, on) in way.into_iter().rev() {
                rest &= on.is_none_or(|on| joints.get(&(key, on)).copied().unwrap_or(true));
                known.insert(key, rest);
            }
        }
        known
    }

    /// The conductors from a node straight to an electrode.
    pub fn electrodes_at(&self, node: &NodeKey) -> Vec<&BondEdge> {
        let own = case(node);
        let leads = |e: &&BondEdge| {
            let other = if e.from == own { &e.to } else { &e.from };
            (e.from == own || e.to == own)
                && self.parts.iter().any(|p| p.key == *other && p.kind == PartKind::Electrode)
        };
        self.edges.iter().filter(leads).collect()
    }

    /// The parts on the way from one to the electrode, itself first; itself alone where it comes to
    /// none.
    pub fn path<'b>(&'b self, from: &'b MetalPart) -> Vec<&'b MetalPart> {
        let by_key: BTreeMap<&str, &MetalPart> =
            self.parts.iter().map(|p| (p.key.as_str(), p)).collect();
        let mut path = vec![from];
        let mut next = from.next.as_deref();
        while let Some(part) = next.and_then(|key| by_key.get(key)) {
            path.push(part);
            next = part.next.as_deref();
        }
        path
    }
}

impl Bonding {
    /// Whether two nodes are joined; none where only what is open joins them.
    pub(super) fn joined(&self, one: &NodeKey, other: &NodeKey) -> Option<bool> {
        let (root, other) = (case(one), case(other));
        let Some(other) = self.parts.iter().position(|p| p.key == other) else {
            return Some(false);
        };
        let reached =
            |over: fn(&BondEdge) -> bool| self.walk([root.as_str()].into_iter(), over)[other];
        let reached = |over| reached(over).is_some();
        match (reached(|e| e.known), reached(|_| true)) {
            (true, _) => Some(true),
            (false, true) => None,
            (false, false) => Some(false),
        }
    }

    /// The next part on the shortest way from every part that is reached to a root, and how many
    /// there are, in the order of the parts.
    fn walk<'r>(
        &self,
        roots: impl Iterator<Item = &'r str>,
        over: impl Fn(&BondEdge) -> bool,
    ) -> Vec<Option<Step>> {
        let keys = self.parts.iter().enumerate();
        let at: BTreeMap<&str, usize> = keys.map(|(i, p)| (p.key.as_str(), i)).collect();
        let mut beside: Vec<Vec<usize>> = vec![Vec::new(); self.parts.len()];
        for e in self.edges.iter().filter(|e| over(e)) {
            if let (Some(&a), Some(&b)) = (at.get(e.from.as_str()), at.get(e.to.as_str())) {
                beside[a].push(b);
                beside[b].push(a);
            }
        }
        let mut found: Vec<Option<Step>> = vec![None; self.parts.len()];
        let mut open: VecDeque<(usize, u32)> = VecDeque::new();
        for root in roots.filter_map(|r| at.get(r)) {
            found[*root] = Some((None, 0));
            open.push_back((*root, 0));
        }
        while let Some((here, steps)) = open.pop_front() {
            for &next in &beside[here] {
                if found[next].is_none() {
                    found[next] = Some((Some(here), steps + 1));
                    open.push_back((next, steps + 1));
                }
            }
        }
        found
    }
}

/// The next part toward an electrode, by its place in the list, and how many there are to it.
type Step = (Option<usize>, u32);

impl Graph<'_> {
    fn part(&mut self, key: String, kind: PartKind, subject: Subject, metal: bool) {
        let (verdict, next, steps_n) = (Verdict::Fail, None, None);
        self.found.parts.push(MetalPart { key, kind, subject, metal, verdict, next, steps_n });
    }

    fn edge(&mut self, from: &str, to: &str, by: BondBy, known: Known) -> Option<&mut BondEdge> {
        if known == Some(false) {
            return None;
        }
        let (from, to) = (from.to_owned(), to.to_owned());
        let known = known.is_some();
        self.found.edges.push(BondEdge {
            from,
            to,
            by,
            way: None,
            size: None,
            insulated: false,
            known,
        });
        self.found.edges.last_mut()
    }

    fn faces(&mut self, sheet: &Sheet) {
        let job = self.job;
        let mut all = boxes(job, self.plan);
        for face in &job.site.faces {
            let boxes = all.remove(&face.id).unwrap_or_default();
            let map = job.roof.get(&face.id);
            if boxes.is_empty() && map.is_none() {
                continue;
            }
            let key = frames(&face.id);
            let subject = Subject::Face { face: face.id.clone() };
            self.part(key.clone(), PartKind::Frames, subject.clone(), true);
            // Whether every frame and rail is on the lugs, the roof map says.
            let check = sheet.checks.iter().find(|c| c.id == "bond.whole" && c.subject == subject);
            let whole = check.and_then(|c| match c.verdict {
                Verdict::Pass | Verdict::Warn => Some(true),
                Verdict::Unknown => None,
                Verdict::Fail => Some(false),
            });
            let led = map.and_then(|m| m.rails.bonded);
            let known = if led == Some(false) { Some(false) } else { whole };
            for node in boxes {
                let size = self.frame_bond();
                if let Some(edge) = self.edge(&key, &case(&node), BondBy::Lugs, known) {
                    edge.size = size;
                }
            }
        }
    }

    /// Size of the bonding conductor of frames (250.120(C); IEC 60364-7-712).
    fn frame_bond(&self) -> Option<String> {
        super::checks::frame_bond(self.job)
    }

    fn units(&mut self, bench: &Bench) {
        for b in &self.job.branches {
            let mount = bench.library.micro(&b.micro).and_then(|m| m.mount_bonds);
            let subject = Subject::Branch { branch: b.letter.clone() };
            self.unit(&b.letter, &b.face, subject, mount);
        }
        for s in &self.job.strings {
            let Some(optimizer) = &s.optimizer else { continue };
            let mount = bench.library.optimizer(optimizer).and_then(|o| o.mount_bonds);
            self.unit(&s.letter, &s.face, Subject::string(&s.letter), mount);
        }
    }

    fn unit(&mut self, letter: &Letter, face: &FaceKey, subject: Subject, mount: Known) {
        let key = format!("units {letter}");
        self.part(key.clone(), PartKind::Units, subject, true);
        self.edge(&key, &frames(face), BondBy::Mount, mount);
    }

    fn nodes(&mut self, sheet: &mut Sheet) {
        for (key, node) in &self.plan.plan.nodes {
            let metal = self.metal(sheet.school, node);
            let subject = Subject::Node { node: key.clone() };
            self.part(case(key), kind_of(node.kind), subject.clone(), metal);
            let said = node.earthed.as_ref().and_then(|e| e.bonded);
            if metal && said.is_none() && node.kind != NodeKind::Electrode {
                sheet.subject = subject;
                sheet.assume(&CASES);
            }
        }
    }

    fn metal(&self, school: School, node: &Node) -> bool {
        let said = node.earthed.as_ref().and_then(|e| e.metal);
        said.unwrap_or_else(|| usually_metal(school, node.kind))
    }

    /// The earth wire of each way, and metal raceway on its fittings.
    fn ways(&mut self, runs: &RunsFound) {
        for (key, way) in &self.plan.plan.ways {
            let lying = self.plan.lying_in(key);
            let power = lying.iter().any(|l| self.plan.circuit(l.circuit).kind.is_power());
            let (from, to) = (case(&way.from), case(&way.to));
            if power {
                let size = runs.earths.get(key).cloned();
                let inside = way.parts.iter().any(|p| p.raceway.is_some());
                // An earth wire that is open is there all the same: one runs with every circuit.
                if let Some(edge) = self.edge(&from, &to, BondBy::EarthWire, Some(true)) {
                    (edge.size, edge.insulated, edge.way) = (size, inside, Some(key.clone()));
                }
            }
            let metal = |p: &crate::job::Part| p.raceway.as_ref().is_some_and(|r| is_metal(r.kind));
            if let Some(first) = way.parts.iter().position(metal) {
                let subject = Subject::Way { way: key.clone(), part: first + 1 };
                self.part(raceway(key), PartKind::Raceway, subject, true);
                for end in [&way.from, &way.to] {
                    let node = self.plan.plan.nodes.get(end);
                    let school = self.job.school;
                    let metal = node.is_some_and(|n| self.metal(school, n) && !loose(n));
                    self.edge(&raceway(key), &case(end), BondBy::Fittings, Some(metal));
                }
            }
        }
    }

    /// Bonding conductors that are circuits of their own.
    fn conductors(&mut self) {
        for c in self.plan.plan.circuits.values().filter(|c| c.kind == CircuitKind::Bond) {
            let to = c.to.as_ref().and_then(|e| self.plan.node_at(e));
            if let (Some(from), Some(to)) = (self.plan.node_at(&c.from), to) {
                let led = !c.legs.is_empty();
                let size = c.legs.last().and_then(|l| l.wire.size(self.job.school));
                let inside = self.plan.ways(c).flat_map(|w| &w.parts).any(|p| p.raceway.is_some());
                let (from, to) = (case(from), case(to));
                let known = if led { Some(true) } else { None };
                if let Some(edge) = self.edge(&from, &to, BondBy::Conductor, known) {
                    (edge.size, edge.insulated) = (size, inside);
                }
            }
        }
    }

    /// Where the way ends: electrodes, and panels at which one is connected or may be.
    fn roots(&self) -> Vec<(String, bool)> {
        let backup = self.job.protection.backup.as_ref().and_then(|b| b.electrode.as_ref());
        let nodes = self.plan.plan.nodes.iter();
        let root = nodes.filter_map(|(key, node)| {
            let said = node.earthed.as_ref().and_then(|e| e.electrode);
            match node.kind {
                // The electrode of a backup output serves while the grid's neutral is gone.
                NodeKind::Electrode if backup != Some(key) => {
                    (said != Some(false)).then_some((case(key), true))
                }
                NodeKind::Panel if said == Some(true) => Some((case(key), true)),
                NodeKind::Panel if said.is_none() && !self.plan.leads_on(key) => {
                    Some((case(key), false))
                }
                _ => None,
            }
        });
        root.collect()
    }

    /// Follows what joins the parts from the roots: by what is known first, then by what is open.
    fn reach(&mut self, roots: &[(String, bool)]) {
        let sure = roots.iter().filter(|(_, known)| *known).map(|(key, _)| key.as_str());
        let known = self.found.walk(sure, |e| e.known);
        let open = self.found.walk(roots.iter().map(|(key, _)| key.as_str()), |_| true);
        let keys: Vec<String> = self.found.parts.iter().map(|p| p.key.clone()).collect();
        for (i, part) in self.found.parts.iter_mut().enumerate() {
            let (verdict, step) = match (known[i], open[i]) {
                (Some(step), _) => (Verdict::Pass, Some(step)),
                (None, Some(step)) => (Verdict::Unknown, Some(step)),
                (None, None) => (Verdict::Fail, None),
            };
            part.verdict = verdict;
            part.next = step.and_then(|(next, _)| next).map(|next| keys[next].clone());
            part.steps_n = step.map(|(_, steps)| steps);
            // A case that is off the earth wire passes it on and is not earthed itself.
            let Subject::Node { node } = &part.subject else { continue };
            if self.plan.plan.nodes.get(node).is_some_and(loose) {
                (part.verdict, part.next, part.steps_n) = (Verdict::Fail, None, None);
            }
        }
    }
}

/// The nodes at which the circuits of each face begin.
fn boxes<'a>(job: &'a Job, plan: &PlanFound) -> BTreeMap<&'a FaceKey, Vec<NodeKey>> {
    let strings = job.strings.iter().map(|s| (&s.letter, &s.face));
    let strings: BTreeMap<&Letter, &FaceKey> = strings.collect();
    let branches = job.branches.iter().map(|b| (&b.letter, &b.face));
    let branches: BTreeMap<&Letter, &FaceKey> = branches.collect();
    let mut found: BTreeMap<&FaceKey, Vec<NodeKey>> = BTreeMap::new();
    for c in plan.plan.circuits.values() {
        let string = c.from.string.as_ref().and_then(|l| strings.get(l));
        let face = string.or(c.from.branch.as_ref().and_then(|l| branches.get(l)));
        let Some((face, way)) = face.zip(plan.ways(c).next()) else { continue };
        let own = found.entry(face).or_default();
        if !own.contains(&way.from) {
            own.push(way.from.clone());
        }
    }
    found
}

/// Whether a case is known to be off the earth wire.
fn loose(node: &Node) -> bool {
    node.earthed.as_ref().is_some_and(|e| e.bonded == Some(false))
}
