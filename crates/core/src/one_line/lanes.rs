//! Where everything stands: lanes of sources, columns of nodes, circuits between them.

use std::collections::{BTreeMap, BTreeSet};

use super::{Paper, Point};
use crate::job::{Circuit, Job, Letter, NodeKey, WayKey};
use crate::plan::PlanFound;

/// Strings that are drawn as one, or a branch.
#[derive(Clone, Debug)]
pub(super) struct Source {
    /// Letters of the strings, or of the branch.
    pub(super) letters: Vec<Letter>,
    /// Their circuits, by places in the plan's list.
    pub(super) circuits: Vec<usize>,
}

/// Sources whose power flows together first: those of an inverter, or a branch.
#[derive(Clone, Debug, Default)]
pub(super) struct Block {
    pub(super) sources: Vec<Source>,
}

/// Strings from which on like ones of an input are drawn as one.
const MANY: usize = 12;
/// Lanes between what flows together and what flows elsewhere.
const APART: f64 = 0.6;
/// Lanes are kept in steps of so many.
const KEPT: usize = 4;

/// The sources of a job, inverter by inverter, then branch by branch.
pub(super) fn grouped(job: &Job, plan: &PlanFound) -> Vec<Block> {
    let circuit_of = |letter: &Letter| {
        let own = |c: &Circuit| c.from.string.as_ref() == Some(letter);
        (0..plan.circuits.len()).find(|at| own(plan.circuit(*at)))
    };
    let many = job.strings.len() > MANY;
    let mut blocks = Vec::new();
    for inverter in &job.inverters {
        let mut block = Block::default();
        let mut like: BTreeMap<String, usize> = BTreeMap::new();
        for s in job.strings.iter().filter(|s| s.inverter == inverter.id) {
            let Some(at) = circuit_of(&s.letter) else { continue };
            let circuit = plan.circuit(at);
            let to = circuit.to.as_ref().and_then(|e| e.node.as_ref());
            let wires: Vec<_> = circuit.legs.iter().map(|l| (&l.wire, &l.via)).collect();
            let module = (&s.module.sheet, s.module.revision);
            let alike = format!("{} {} {module:?} {to:?} {wires:?}", s.mppt, s.n);
            match like.get(&alike).filter(|_| many) {
                Some(own) => {
                    let own: &mut Source = &mut block.sources[*own];
                    own.letters.push(s.letter.clone());
                    own.circuits.push(at);
                }
                None => {
                    like.insert(alike, block.sources.len());
                    let (letters, circuits) = (vec![s.letter.clone()], vec![at]);
                    block.sources.push(Source { letters, circuits });
                }
            }
        }
        // An inverter without strings stands alone.
        if block.sources.is_empty()
            && let Some(at) = plan.output_of(&inverter.id)
        {
            block.sources.push(Source { letters: Vec::new(), circuits: vec![at] });
        }
        blocks.push(block);
    }
    for b in &job.branches {
        let own = |c: &Circuit| c.from.branch.as_ref() == Some(&b.letter);
        let Some(at) = (0..plan.circuits.len()).find(|at| own(plan.circuit(*at))) else { continue };
        let source = Source { letters: vec![b.letter.clone()], circuits: vec![at] };
        blocks.push(Block { sources: vec![source] });
    }
    blocks.retain(|b| !b.sources.is_empty());
    blocks
}

fn kept(n: usize) -> usize {
    if n <= 1 { n } else { n.div_ceil(KEPT) * KEPT }
}

/// Blocks by sheets, so many lanes on each.
pub(super) fn pages(blocks: Vec<Block>, lanes: usize) -> Vec<Vec<Block>> {
    let mut pages: Vec<Vec<Block>> = Vec::new();
    let mut taken = 0.0;
    for block in blocks {
        let n = kept(block.sources.len()) as f64 + APART;
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
/// Left of the columns, mm.
pub(super) const LEFT_MM: f64 = 27.0;
/// Right of the last panel: main, meter, grid, mm.
const GRID_MM: f64 = 36.0;
/// Room for the frame and the title block, mm.
const TOP_MM: f64 = 16.0;

pub(super) fn lay(plan: &PlanFound, page: Vec<Block>, paper: Paper) -> Laid {
    let [width, height] = paper.size_mm();
    let mut lines: Vec<Line> = Vec::new();
    let mut kept_at: BTreeMap<NodeKey, BTreeSet<usize>> = BTreeMap::new();
    let mut at_y: Vec<f64> = Vec::new();
    let mut lane = 0;
    let mut taken: BTreeSet<usize> = BTreeSet::new();
    for (b, block) in page.into_iter().enumerate() {
        let lanes = kept(block.sources.len());
        let below = b as f64 * APART + 1.0;
        at_y.extend((lane..lane + lanes).map(|l| height - TOP_MM - LANE_MM * (l as f64 + below)));
        for (k, source) in block.sources.iter().enumerate() {
            let at = source.circuits[0];
            taken.extend(&source.circuits);
            let nodes = along(plan, plan.circuit(at));
            // What the sources end at keeps the lanes of strings that come later.
            if let Some((_, end)) = nodes.last() {
                kept_at.entry(end.clone()).or_default().extend(lane..lane + lanes);
            }
            let letters = source.letters.clone();
            lines.push(Line { at, letters, nodes, y: at_y[lane + k] });
        }
        lane += lanes;
    }
    // What flows on from where something ended, until nothing is new.
    let mut nodes: BTreeMap<NodeKey, [f64; 2]> = BTreeMap::new();
    for (node, lanes) in &kept_at {
        let ys = lanes.iter().map(|l| at_y[*l]);
        nodes.insert(
            node.clone(),
            [ys.clone().fold(f64::INFINITY, f64::min), ys.fold(0.0, f64::max)],
        );
    }
    let mut open: Vec<NodeKey> = kept_at.keys().cloned().collect();
    while let Some(node) = open.pop() {
        let out: Vec<usize> = plan
            .out_of_node(&node)
            .iter()
            .copied()
            .filter(|at| plan.circuit(*at).kind.is_power() && !taken.contains(at))
            .collect();
        let [low, high] = nodes[&node];
        let middle = (low + high) / 2.0;
        for (k, at) in out.iter().enumerate() {
            taken.insert(*at);
            let spread = k as f64 - (out.len() - 1) as f64 / 2.0;
            let y = middle - spread * LANE_MM;
            let path = along(plan, plan.circuit(*at));
            if let Some((_, end)) = path.last() {
                let own = nodes.entry(end.clone()).or_insert([y, y]);
                *own = [own[0].min(y), own[1].max(y)];
                if !open.contains(end) {
                    open.push(end.clone());
                }
            }
            lines.push(Line { at: *at, letters: Vec::new(), nodes: path, y });
        }
    }
    // Nodes that circuits only come through are as tall as these.
    for line in &lines {
        for (_, node) in &line.nodes {
            let own = nodes.entry(node.clone()).or_insert([line.y, line.y]);
            *own = [own[0].min(line.y), own[1].max(line.y)];
        }
    }
    let columns = columns(&lines);
    let last = columns.values().copied().max().unwrap_or(0) + 1;
    let step = ((width - LEFT_MM - GRID_MM) / (last as f64 - 0.4).max(1.0)).min(58.0);
    let stands = nodes.into_iter().map(|(key, y)| {
        let column = columns.get(&key).copied().unwrap_or(0);
        let x = LEFT_MM + step * (column as f64 + 0.6);
        (key, Stand { x, y })
    });
    Laid { nodes: stands.collect(), lines, left: LEFT_MM, step }
}

/// The column of each node: behind everything that leads to it.
fn columns(lines: &[Line]) -> BTreeMap<NodeKey, usize> {
    let mut at: BTreeMap<NodeKey, usize> = BTreeMap::new();
    for line in lines {
        for (_, node) in &line.nodes {
            at.entry(node.clone()).or_insert(0);
        }
    }
    for _ in 0..at.len() {
        let mut moved = false;
        for line in lines {
            for pair in line.nodes.windows(2) {
                let behind = at[&pair[0].1] + 1;
                if at[&pair[1].1] < behind {
                    at.insert(pair[1].1.clone(), behind);
                    moved = true;
                }
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
