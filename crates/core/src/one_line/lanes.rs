//! Where everything stands: lanes of sources, columns of nodes, circuits between them.

use std::collections::{BTreeMap, BTreeSet};

use super::{Paper, Point};
use crate::job::{Circuit, DeviceKind, Job, JobInverter, Letter, NodeKey, NodeKind, WayKey};
use crate::library::Library;
use crate::plan::PlanFound;

/// Strings that are drawn as one, or a branch.
#[derive(Clone, Debug)]
pub(super) struct Source {
    /// Letters of the strings, or of the branch.
    pub(super) letters: Vec<Letter>,
    /// Their circuits, by places in the plan's list.
    pub(super) circuits: Vec<usize>,
}

/// Sources that end in one node: the strings of a combiner or of an inverter, or a branch.
#[derive(Clone, Debug)]
pub(super) struct Block {
    pub(super) sources: Vec<Source>,
    /// Lanes it keeps: those of strings that may come later are empty.
    pub(super) lanes: usize,
}

/// Strings from which on like ones of an input are drawn as one.
const MANY: usize = 12;
/// Lanes between what flows together and what flows elsewhere.
const APART: f64 = 0.6;
/// Lanes are kept in steps of so many.
const KEPT: usize = 4;

/// The sources of a job, inverter by inverter and by where they end, then branch by branch.
pub(super) fn grouped(job: &Job, plan: &PlanFound, library: &Library, lanes: usize) -> Vec<Block> {
    let circuit_of = |letter: &Letter| {
        let own = |c: &Circuit| c.from.string.as_ref() == Some(letter);
        (0..plan.circuits.len()).find(|at| own(plan.circuit(*at)))
    };
    let many = job.strings.len() > MANY;
    let mut blocks = Vec::new();
    for inverter in &job.inverters {
        let mut ends: Vec<(Option<&NodeKey>, Vec<Source>)> = Vec::new();
        let mut like: BTreeMap<String, [usize; 2]> = BTreeMap::new();
        for s in job.strings.iter().filter(|s| s.inverter == inverter.id) {
            let Some(at) = circuit_of(&s.letter) else { continue };
            let circuit = plan.circuit(at);
            let to = circuit.to.as_ref().and_then(|e| plan.node_at(e));
            let to = to.or_else(|| plan.node_of(&inverter.id));
            let end = ends.iter().position(|(end, _)| *end == to).unwrap_or(ends.len());
            if end == ends.len() {
                ends.push((to, Vec::new()));
            }
            let wires: Vec<_> = circuit.legs.iter().map(|l| (&l.wire, &l.via)).collect();
            let module = (&s.module.sheet, s.module.revision);
            let alike = format!("{end} {} {} {module:?} {wires:?}", s.mppt, s.n);
            let sources = &mut ends[end].1;
            match like.get(&alike).filter(|_| many) {
                Some([end, own]) => {
                    let own = &mut ends[*end].1[*own];
                    own.letters.push(s.letter.clone());
                    own.circuits.push(at);
                }
                None => {
                    like.insert(alike, [end, sources.len()]);
                    let (letters, circuits) = (vec![s.letter.clone()], vec![at]);
                    sources.push(Source { letters, circuits });
                }
            }
        }
        // An inverter without strings stands alone.
        if ends.is_empty()
            && let Some(at) = plan.output_of(&inverter.id)
        {
            let source = Source { letters: Vec::new(), circuits: vec![at] };
            blocks.push(Block { sources: vec![source], lanes: 1 });
        }
        for (end, sources) in ends {
            let places = end.map_or(0, |end| places(plan, library, inverter, end));
            let places = if many { KEPT } else { places.max(KEPT) };
            let n = sources.len();
            let kept = if n <= places { places } else { n.next_multiple_of(KEPT) };
            for (k, part) in sources.chunks(lanes).enumerate() {
                let lanes = kept.saturating_sub(k * lanes).clamp(part.len(), lanes);
                blocks.push(Block { sources: part.to_vec(), lanes });
            }
        }
    }
    for b in &job.branches {
        let own = |c: &Circuit| c.from.branch.as_ref() == Some(&b.letter);
        let Some(at) = (0..plan.circuits.len()).find(|at| own(plan.circuit(*at))) else { continue };
        let source = Source { letters: vec![b.letter.clone()], circuits: vec![at] };
        blocks.push(Block { sources: vec![source], lanes: 1 });
    }
    blocks
}

/// Strings that can come to a node: the inputs of a combiner, the connectors of an inverter.
fn places(plan: &PlanFound, library: &Library, inverter: &JobInverter, end: &NodeKey) -> usize {
    let Some(node) = plan.plan.nodes.get(end) else { return 0 };
    if node.kind == NodeKind::Combiner {
        let fuses = node.devices.values().filter(|d| d.what == DeviceKind::Fuse).count();
        let sheet = node.enclosure.as_ref().and_then(|s| library.combiner(s));
        let inputs = sheet.and_then(|s| s.inputs_n).map_or(0, |n| n as usize);
        return if fuses > 0 { fuses } else { inputs };
    }
    let sheet = library.inverter(&inverter.sheet);
    let connectors = sheet.into_iter().flat_map(|s| &s.mppts).filter_map(|m| m.connectors_n);
    connectors.map(|n| n as usize).sum()
}

/// Blocks by sheets, so many lanes on each.
pub(super) fn pages(blocks: Vec<Block>, lanes: usize) -> Vec<Vec<Block>> {
    let mut pages: Vec<Vec<Block>> = Vec::new();
    let mut taken = 0.0;
    for block in blocks {
        let n = block.lanes as f64 + APART;
        match pages.last_mut().filter(|_| taken + n <= lanes as f64 + APART) {
            Some(page) => page.push(block),
            None => {
                pages.push(vec![block]);
                taken = 0.0;
            }
        }
        taken += n;
    }
    pages
}

/// A circuit on its lane.
#[derive(Clone, Debug)]
pub(super) struct Line {
    /// Its place in the plan's list; of like strings the first.
    pub(super) at: usize,
    /// Letters of the strings or the branch it begins at.
    pub(super) letters: Vec<Letter>,
    /// The nodes it comes through with the way before each; the first has none.
    pub(super) nodes: Vec<(Option<WayKey>, NodeKey)>,
    /// Height of its lane, mm.
    pub(super) y: f64,
}

/// A node on the sheet.
#[derive(Clone, Debug)]
pub(super) struct Stand {
    pub(super) x: f64,
    /// From its lowest to its highest lane, mm.
    pub(super) y: [f64; 2],
    /// Where its power leaves, mm.
    pub(super) out: f64,
}

/// Everything on its place.
#[derive(Debug)]
pub(super) struct Laid {
    pub(super) lines: Vec<Line>,
    pub(super) nodes: BTreeMap<NodeKey, Stand>,
    /// Where sources stand, mm from the left.
    pub(super) left: f64,
    /// From column to column, mm.
    pub(super) step: f64,
}

/// The nodes a circuit comes through, from where it begins, with the way before each.
pub(super) fn along(plan: &PlanFound, circuit: &Circuit) -> Vec<(Option<WayKey>, NodeKey)> {
    let via: Vec<&WayKey> = circuit.legs.iter().flat_map(|l| &l.via).collect();
    let begins = plan.node_at(&circuit.from).cloned();
    let ends = circuit.to.as_ref().and_then(|e| plan.node_at(e)).cloned();
    let Some(first) = via.first().and_then(|w| plan.plan.ways.get(*w)) else {
        return begins.into_iter().chain(ends).map(|n| (None, n)).collect();
    };
    let walk = |start: &NodeKey| {
        let mut found = vec![(None, start.clone())];
        let mut here = start.clone();
        for key in &via {
            let way = plan.plan.ways.get(*key)?;
            here = if way.from == here {
                way.to.clone()
            } else if way.to == here {
                way.from.clone()
            } else {
                return None;
            };
            found.push((Some((*key).clone()), here.clone()));
        }
        Some(found)
    };
    let right = |path: &Vec<(Option<WayKey>, NodeKey)>| {
        begins.as_ref().is_none_or(|b| path[0].1 == *b)
            && ends.as_ref().is_none_or(|e| path[path.len() - 1].1 == *e)
    };
    let both = [walk(&first.from), walk(&first.to)];
    let found = both.iter().flatten().find(|p| right(p)).or_else(|| both.iter().flatten().next());
    found.cloned().unwrap_or_default()
}

/// From lane to lane, mm.
const LANE_MM: f64 = 14.0;
/// From output to output of one node, mm: what hangs below the upper one has room.
const OUTPUT_MM: f64 = 21.0;
/// Above the title block, mm.
const BOTTOM_MM: f64 = 32.0;
/// Left of the columns, mm.
pub(super) const LEFT_MM: f64 = 27.0;
/// Right of the last panel: main, meter, grid, mm.
const GRID_MM: f64 = 36.0;
/// Room for the frame and the title block, mm.
const TOP_MM: f64 = 16.0;

/// A node while everything is laid: from its lowest to its highest lane, and where its power
/// leaves.
struct Reach {
    y: [f64; 2],
    out: f64,
}

/// Makes a node as tall as what comes to it. Its power leaves where the first of it came, so that
/// what comes later moves nothing that follows.
fn reach(nodes: &mut BTreeMap<NodeKey, Reach>, node: &NodeKey, [low, high]: [f64; 2]) {
    match nodes.get_mut(node) {
        Some(own) => own.y = [own.y[0].min(low), own.y[1].max(high)],
        None => {
            let own = Reach { y: [low, high], out: (low + high) / 2.0 };
            nodes.insert(node.clone(), own);
        }
    }
}

pub(super) fn lay(plan: &PlanFound, page: Vec<Block>, paper: Paper) -> Laid {
    let [width, height] = paper.size_mm();
    let mut lines: Vec<Line> = Vec::new();
    let mut nodes: BTreeMap<NodeKey, Reach> = BTreeMap::new();
    let mut taken: BTreeSet<usize> = BTreeSet::new();
    let mut lane = 1.0;
    for block in page {
        let at_y = |k: usize| height - TOP_MM - LANE_MM * (lane + k as f64);
        for (k, source) in block.sources.into_iter().enumerate() {
            let at = source.circuits[0];
            taken.extend(&source.circuits);
            let path = along(plan, plan.circuit(at));
            // What the sources end at keeps the lanes of strings that come later.
            if let Some((_, end)) = path.last() {
                reach(&mut nodes, end, [at_y(block.lanes - 1), at_y(0)]);
            }
            lines.push(Line { at, letters: source.letters, nodes: path, y: at_y(k) });
        }
        lane += block.lanes as f64 + APART;
    }
    // What flows on from where something ended, from the top, until nothing is new.
    let mut open: Vec<NodeKey> = nodes.keys().cloned().collect();
    open.sort_by(|a, b| nodes[a].y[1].total_cmp(&nodes[b].y[1]));
    while let Some(node) = open.pop() {
        let leaves = nodes[&node].out;
        let out = plan.out_of_node(&node).iter().copied();
        let out = out.filter(|at| plan.circuit(*at).kind.is_power() && !taken.contains(at));
        let out: Vec<usize> = out.collect();
        // Closer together only where the paper ends.
        let room = (leaves - BOTTOM_MM).max(0.0) / out.len().saturating_sub(1).max(1) as f64;
        for (k, at) in out.into_iter().enumerate() {
            taken.insert(at);
            let y = leaves - k as f64 * OUTPUT_MM.min(room);
            let path = along(plan, plan.circuit(at));
            if let Some((_, end)) = path.last() {
                reach(&mut nodes, end, [y, y]);
                open.push(end.clone());
            }
            lines.push(Line { at, letters: Vec::new(), nodes: path, y });
        }
    }
    // Nodes that circuits only come through are as tall as these.
    for line in &lines {
        for (_, node) in &line.nodes {
            reach(&mut nodes, node, [line.y, line.y]);
        }
    }
    let (columns, last) = columns(plan, &lines);
    let step = ((width - LEFT_MM - GRID_MM) / (last as f64 - 0.4).max(1.0)).min(58.0);
    let stands = nodes.into_iter().map(|(key, own)| {
        let column = columns.get(&key).copied().unwrap_or(0);
        let x = LEFT_MM + step * (column as f64 + 0.6);
        (key, Stand { x, y: own.y, out: own.out })
    });
    Laid { nodes: stands.collect(), lines, left: LEFT_MM, step }
}

/// The column of each node, and how many there are: on DC as far from the sources as the longest
/// way to it, on AC as far from the end. One is kept between where their number is odd.
fn columns(plan: &PlanFound, lines: &[Line]) -> (BTreeMap<NodeKey, usize>, usize) {
    let paths = || lines.iter().map(|l| l.nodes.iter().map(|(_, n)| n).collect::<Vec<_>>());
    let from_left = ranks(paths());
    let from_right = ranks(paths().map(|mut path| {
        path.reverse();
        path
    }));
    let longest = from_left.values().copied().max().unwrap_or(0) + 1;
    let last = longest.next_multiple_of(2);
    let ac = lines.iter().filter(|l| plan.circuit(l.at).kind.is_ac());
    let ac: BTreeSet<&NodeKey> = ac.flat_map(|l| l.nodes.iter().map(|(_, n)| n)).collect();
    let column = |(node, left): (&NodeKey, usize)| {
        let at = if ac.contains(node) { last - 1 - from_right[node] } else { left };
        (node.clone(), at)
    };
    (from_left.into_iter().map(column).collect(), last)
}

/// How many nodes stand before each on the longest way to it.
fn ranks<'l>(paths: impl Iterator<Item = Vec<&'l NodeKey>>) -> BTreeMap<&'l NodeKey, usize> {
    let paths: Vec<_> = paths.collect();
    let mut at: BTreeMap<&NodeKey, usize> = paths.iter().flatten().map(|n| (*n, 0)).collect();
    // A job whose circuits go round in a circle is named elsewhere: here it only has to end.
    for _ in 0..at.len() {
        let mut moved = false;
        for pair in paths.iter().flat_map(|p| p.windows(2)) {
            let behind = at[pair[0]] + 1;
            if at[pair[1]] < behind {
                at.insert(pair[1], behind);
                moved = true;
            }
        }
        if !moved {
            break;
        }
    }
    at
}

impl Laid {
    /// Where a line passes its nodes, mm.
    pub(super) fn points(&self, line: &Line) -> Vec<Point> {
        let nodes = line.nodes.iter().filter_map(|(_, n)| self.nodes.get(n));
        nodes.map(|stand| [stand.x, line.y]).collect()
    }
}
