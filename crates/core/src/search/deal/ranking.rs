//! The best ways of dealing modules out, band by band.

use std::collections::BTreeMap;

use super::{Budget, Deal, Group, Pick, Shares};

/// What is asked of a ranking.
pub(in crate::search) struct Wanted<'a> {
    /// How many ways at most.
    pub keep: usize,
    /// Strings in all at most.
    pub strings_max: Option<u32>,
    /// Only picks of this many in series.
    pub n: Option<u32>,
    /// Ways with a failure in them, rather than those without.
    pub failing: bool,
    /// What is placed on each group's faces.
    pub placed: &'a [Vec<u32>],
}

/// The best ways in order, and the widest difference up to which every way was looked at (none: all
/// of them).
pub(in crate::search) fn ranked(
    shares: &Shares,
    groups: &[Group],
    x: &Wanted,
    budget: &mut Budget,
) -> (Vec<Deal>, Option<u32>) {
    let usable = |p: &Pick| (x.failing || !p.fails()) && x.n.is_none_or(|n| p.n == n);
    let mut sizes: Vec<u32> = groups
        .iter()
        .flat_map(|g| g.picks.iter().filter(|p| usable(p)).map(Pick::modules))
        .collect();
    sizes.sort_unstable();
    sizes.dedup();
    let mut differences: Vec<u32> = sizes
        .iter()
        .flat_map(|a| sizes.iter().filter(move |b| *b >= a).map(move |b| b - a))
        .collect();
    differences.sort_unstable();
    differences.dedup();
    let mut found: Vec<Deal> = Vec::new();
    let mut searched = None;
    for unbalance_n in differences {
        let mut here: Vec<Deal> = Vec::new();
        for low in
            sizes.iter().copied().filter(|low| sizes.binary_search(&(low + unbalance_n)).is_ok())
        {
            here.extend(in_band(
                shares,
                groups,
                x,
                &usable,
                Band { low, high: low + unbalance_n },
                budget,
            ));
            if budget.spent() {
                found.extend(here);
                found.sort_by(Deal::order);
                found.truncate(x.keep);
                return (found, Some(searched.unwrap_or(0)));
            }
        }
        here.sort_by(Deal::order);
        found.extend(here);
        if found.len() >= x.keep {
            found.truncate(x.keep);
            break;
        }
        searched = Some(unbalance_n);
    }
    (found, None)
}

/// Sizes of the inputs in use, modules.
#[derive(Clone, Copy)]
struct Band {
    low: u32,
    high: u32,
}

impl Band {
    /// Whether `left` modules can be placed on at most `inputs` inputs of the band, by size alone.
    fn holds(self, left: u32, inputs: usize) -> bool {
        left == 0 || {
            let needed = left.div_ceil(self.high);
            needed as usize <= inputs && needed * self.low <= left
        }
    }
}

/// One of the best ways to a cell.
#[derive(Clone, Copy)]
struct Entry {
    strings_n: u32,
    margin_pct: f64,
    node: u32,
}

/// Share, sum, marks.
type Cells = BTreeMap<(usize, usize, u8), Vec<Entry>>;

/// The best ways of a group by share and marks.
type Ends = BTreeMap<(usize, u8), Vec<Entry>>;

/// One of the best ways of several groups: strings, margin, the node of each group.
type Joined = (u32, f64, Vec<u32>);

/// The last pick, and the node before it.
type Nodes = Vec<(u32, u32)>;

const ROOT: u32 = u32::MAX;

fn before(a: (u32, f64), b: (u32, f64)) -> bool {
    a.0 < b.0 || (a.0 == b.0 && a.1 > b.1)
}

/// Keeps the `keep` best, the earlier one where two are alike. Says whether it went in.
fn put<T>(list: &mut Vec<T>, keep: usize, score: impl Fn(&T) -> (u32, f64), item: T) -> bool {
    let own = score(&item);
    let at = list.partition_point(|e| !before(own, score(e)));
    if at >= keep {
        return false;
    }
    list.insert(at, item);
    list.truncate(keep);
    true
}

/// The best ways whose inputs in use span exactly the band.
fn in_band(
    shares: &Shares,
    groups: &[Group],
    x: &Wanted,
    usable: &dyn Fn(&Pick) -> bool,
    band: Band,
    budget: &mut Budget,
) -> Vec<Deal> {
    let total: u32 = x.placed.iter().flatten().sum();
    if !band.holds(total, shares.inputs()) {
        return Vec::new();
    }
    let mark = |p: &Pick| {
        u8::from(p.modules() == band.low)
            | u8::from(p.modules() == band.high) << 1
            | u8::from(!x.failing || p.fails()) << 2
    };
    let mut reached: Vec<(Nodes, Ends)> = Vec::new();
    for (group, placed) in groups.iter().zip(x.placed) {
        let ends = of_group(
            shares,
            group,
            placed,
            x,
            &|p| usable(p) && (band.low..=band.high).contains(&p.modules()),
            &mark,
            band,
            budget,
        );
        if ends.1.is_empty() {
            return Vec::new();
        }
        reached.push(ends);
    }
    // (strings, margin, node of each group) by share and marks.
    let mut all: BTreeMap<(usize, u8), Vec<Joined>> =
        BTreeMap::from([((0, 0), vec![(0, f64::INFINITY, Vec::new())])]);
    for (_, ends) in &reached {
        let mut next: BTreeMap<(usize, u8), Vec<Joined>> = BTreeMap::new();
        for ((a, marks), lists) in &all {
            for ((b, more), entries) in ends {
                let Some(share) = shares.sum(*a, *b) else { continue };
                let cell = next.entry((share, marks | more)).or_default();
                for (i, so_far) in lists.iter().enumerate() {
                    // The j-th with the i-th has (i + 1) x (j + 1) - 1 before it.
                    for e in entries.iter().take(x.keep / (i + 1)) {
                        let (strings, margin) =
                            (so_far.0 + e.strings_n, so_far.1.min(e.margin_pct));
                        if x.strings_max.is_some_and(|most| strings > most) {
                            continue;
                        }
                        budget.spend(1);
                        if cell.len() >= x.keep
                            && cell.last().is_some_and(|l| !before((strings, margin), (l.0, l.1)))
                        {
                            continue;
                        }
                        let mut nodes = so_far.2.clone();
                        nodes.push(e.node);
                        put(cell, x.keep, |e: &Joined| (e.0, e.1), (strings, margin, nodes));
                    }
                }
            }
        }
        next.retain(|_, list| !list.is_empty());
        all = next;
    }
    let mut best: Vec<Joined> = Vec::new();
    for (_, list) in all.into_iter().filter(|((_, marks), _)| *marks == 7) {
        for entry in list {
            put(&mut best, x.keep, |e: &Joined| (e.0, e.1), entry);
        }
    }
    let walk = |nodes: &Nodes, mut node: u32| {
        let mut picks = Vec::new();
        while node != ROOT {
            let (pick, previous) = nodes[node as usize];
            picks.push(pick as usize);
            node = previous;
        }
        picks.reverse();
        picks
    };
    best.into_iter()
        .map(|(strings_n, margin_pct, nodes)| Deal {
            picks: reached.iter().zip(nodes).map(|((all, _), node)| walk(all, node)).collect(),
            unbalance_n: band.high - band.low,
            strings_n,
            margin_pct,
        })
        .collect()
}

/// For each share of the inputs and each set of marks the best ways to place a group.
#[expect(clippy::too_many_arguments, reason = "one inner step of the search, split off to be read")]
fn of_group(
    shares: &Shares,
    group: &Group,
    placed: &[u32],
    x: &Wanted,
    usable: &dyn Fn(&Pick) -> bool,
    mark: &dyn Fn(&Pick) -> u8,
    band: Band,
    budget: &mut Budget,
) -> (Nodes, Ends) {
    let group = Group { modules: placed.to_vec(), ..group.clone() };
    let total = group.total();
    let mut nodes: Nodes = Vec::new();
    let mut layers: Vec<Cells> = vec![Cells::new(); shares.inputs() + 1];
    layers[0]
        .insert((0, 0, 0), vec![Entry { strings_n: 0, margin_pct: f64::INFINITY, node: ROOT }]);
    for (p, pick) in group.picks.iter().enumerate().filter(|(_, p)| usable(p)) {
        let (step, marks, strings) = (shares.step(pick.class), mark(pick), pick.strings());
        for k in 0..layers.len() - 1 {
            let (done, rest) = layers.split_at_mut(k + 1);
            for ((share, sum, so_far), entries) in &done[k] {
                if shares.of(*share, pick.class) == shares.most[pick.class] {
                    continue;
                }
                let Some(next) = group.add(*sum, pick) else { continue };
                let left = total - group.placed(next).iter().sum::<u32>();
                if !band.holds(left, shares.inputs() - shares.used(share + step)) {
                    continue;
                }
                let cell = rest[0].entry((share + step, next, so_far | marks)).or_default();
                budget.spend(entries.len());
                for e in entries {
                    let (strings_n, margin_pct) =
                        (e.strings_n + strings, e.margin_pct.min(pick.margin_pct));
                    if x.strings_max.is_some_and(|most| strings_n > most) {
                        break;
                    }
                    let node = nodes.len() as u32;
                    if put(
                        cell,
                        x.keep,
                        |e: &Entry| (e.strings_n, e.margin_pct),
                        Entry { strings_n, margin_pct, node },
                    ) {
                        nodes.push((p as u32, e.node));
                    }
                }
            }
        }
        if budget.spent() {
            break;
        }
    }
    let end = group.index(placed);
    let mut ends = Ends::new();
    for ((share, sum, marks), entries) in layers.into_iter().flatten() {
        if sum == end && !entries.is_empty() {
            // A share has one number of inputs, so it stands in one layer only.
            ends.insert((share, marks), entries);
        }
    }
    (nodes, ends)
}
