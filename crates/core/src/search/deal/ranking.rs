//! The best ways of dealing modules out: fewest cautions, then fewest strings, then the largest
//! margin; balance last. The best by the first three are found at once, the most balanced of them
//! band by band.

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
    let (Some(low), Some(high)) = (sizes.first().copied(), sizes.last().copied()) else {
        return (Vec::new(), None);
    };
    // The best of all widths; which of those alike is the most balanced is open yet.
    let wide = Band { low, high, exactly: false };
    let mut found = in_band(shares, groups, x, &usable, wide, budget);
    if found.is_empty() {
        return (found, budget.spent().then_some(0));
    }
    let worst = if found.len() < x.keep { None } else { found.last().map(Deal::score) };
    // Without cautions and with no more strings than the worst kept: others cannot come in.
    let bound = |p: &Pick| usable(p) && worst.is_none_or(|w| w.warns_n > 0 || p.warns_n == 0);
    let within = Wanted {
        strings_max: match worst {
            Some(w) if w.warns_n == 0 => {
                Some(x.strings_max.map_or(w.strings_n, |most| most.min(w.strings_n)))
            }
            _ => x.strings_max,
        },
        ..*x
    };
    let mut searched = None;
    for unbalance_n in differences {
        let mut here: Vec<Deal> = Vec::new();
        for low in
            sizes.iter().copied().filter(|low| sizes.binary_search(&(low + unbalance_n)).is_ok())
        {
            let band = Band { low, high: low + unbalance_n, exactly: true };
            here.extend(in_band(shares, groups, &within, &bound, band, budget));
            if budget.spent() {
                return (best(found, here, x.keep), Some(searched.unwrap_or(0)));
            }
        }
        found = best(found, here, x.keep);
        searched = Some(unbalance_n);
        // As balanced as can be: every one kept is as good as the best by all but its balance, and
        // none of those still to come differs by less.
        let first = found.first().map(Deal::score);
        let alike = found.iter().all(|d| Some(d.score()) == first && d.unbalance_n <= unbalance_n);
        if found.len() >= x.keep && alike {
            break;
        }
    }
    (found, None)
}

/// The best of both, each once.
fn best(mut found: Vec<Deal>, here: Vec<Deal>, keep: usize) -> Vec<Deal> {
    for deal in here {
        if !found.iter().any(|d| d.picks == deal.picks) {
            found.push(deal);
        }
    }
    found.sort_by(Deal::order);
    found.truncate(keep);
    found
}

/// Sizes of the inputs in use, modules.
#[derive(Clone, Copy)]
struct Band {
    low: u32,
    high: u32,
    /// Both ends are taken by an input.
    exactly: bool,
}

/// What a way is ranked by before its balance.
#[derive(Clone, Copy, Debug, PartialEq)]
pub(super) struct Score {
    pub warns_n: u32,
    pub strings_n: u32,
    pub margin_pct: f64,
}

impl Score {
    const NOTHING: Score = Score { warns_n: 0, strings_n: 0, margin_pct: f64::INFINITY };

    fn plus(self, other: Score) -> Score {
        Score {
            warns_n: self.warns_n + other.warns_n,
            strings_n: self.strings_n + other.strings_n,
            margin_pct: self.margin_pct.min(other.margin_pct),
        }
    }

    fn of(pick: &Pick) -> Score {
        let strings_n = pick.strings();
        Score { warns_n: pick.warns_n, strings_n, margin_pct: pick.margin_pct }
    }

    /// The better one first.
    pub fn order(&self, other: &Score) -> std::cmp::Ordering {
        (self.warns_n, self.strings_n)
            .cmp(&(other.warns_n, other.strings_n))
            .then(other.margin_pct.total_cmp(&self.margin_pct))
    }

    fn before(self, other: Score) -> bool {
        self.order(&other).is_lt()
    }
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
    score: Score,
    node: u32,
}

/// Share, sum, marks.
type Cells = BTreeMap<(usize, usize, u8), Vec<Entry>>;

/// The best ways of a group by share and marks.
type Ends = BTreeMap<(usize, u8), Vec<Entry>>;

/// One of the best ways of several groups: its score, the node of each group.
type Joined = (Score, Vec<u32>);

/// The last pick, and the node before it.
type Nodes = Vec<(u32, u32)>;

const ROOT: u32 = u32::MAX;

/// Keeps the `keep` best, the earlier one where two are alike. Says whether it went in.
fn put<T>(list: &mut Vec<T>, keep: usize, score: impl Fn(&T) -> Score, item: T) -> bool {
    let own = score(&item);
    let at = list.partition_point(|e| !own.before(score(e)));
    if at >= keep {
        return false;
    }
    list.insert(at, item);
    list.truncate(keep);
    true
}

/// The best ways whose inputs in use lie in the band, or span exactly it.
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
        u8::from(!band.exactly || p.modules() == band.low)
            | u8::from(!band.exactly || p.modules() == band.high) << 1
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
    // By share and marks.
    let mut all: BTreeMap<(usize, u8), Vec<Joined>> =
        BTreeMap::from([((0, 0), vec![(Score::NOTHING, Vec::new())])]);
    for (_, ends) in &reached {
        let mut next: BTreeMap<(usize, u8), Vec<Joined>> = BTreeMap::new();
        for ((a, marks), lists) in &all {
            for ((b, more), entries) in ends {
                let Some(share) = shares.sum(*a, *b) else { continue };
                let cell = next.entry((share, marks | more)).or_default();
                for (i, so_far) in lists.iter().enumerate() {
                    // The j-th with the i-th has (i + 1) x (j + 1) - 1 before it.
                    for e in entries.iter().take(x.keep / (i + 1)) {
                        let score = so_far.0.plus(e.score);
                        if x.strings_max.is_some_and(|most| score.strings_n > most) {
                            continue;
                        }
                        budget.spend(1);
                        if cell.len() >= x.keep && cell.last().is_some_and(|l| !score.before(l.0)) {
                            continue;
                        }
                        let mut nodes = so_far.1.clone();
                        nodes.push(e.node);
                        put(cell, x.keep, |e: &Joined| e.0, (score, nodes));
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
            put(&mut best, x.keep, |e: &Joined| e.0, entry);
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
    let deals = best.into_iter().map(|(score, nodes)| {
        let picks: Vec<Vec<usize>> =
            reached.iter().zip(nodes).map(|((all, _), node)| walk(all, node)).collect();
        let own = groups.iter().zip(&picks);
        let sizes = own.flat_map(|(g, p)| p.iter().map(|i| g.picks[*i].modules()));
        let (low, high) = sizes.fold((u32::MAX, 0), |(low, high), n| (low.min(n), high.max(n)));
        let Score { warns_n, strings_n, margin_pct } = score;
        Deal { picks, unbalance_n: high.saturating_sub(low), warns_n, strings_n, margin_pct }
    });
    deals.collect()
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
    layers[0].insert((0, 0, 0), vec![Entry { score: Score::NOTHING, node: ROOT }]);
    for (p, pick) in group.picks.iter().enumerate().filter(|(_, p)| usable(p)) {
        let (step, marks, own) = (shares.step(pick.class), mark(pick), Score::of(pick));
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
                    let score = e.score.plus(own);
                    if x.strings_max.is_some_and(|most| score.strings_n > most) {
                        continue;
                    }
                    let node = nodes.len() as u32;
                    if put(cell, x.keep, |e: &Entry| e.score, Entry { score, node }) {
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
