//! Dealing modules out over inputs: how many ways there are, and the best of them in order.
//!
//! An input takes nothing, or one [`Pick`]: some strings of one length. Inputs of a class are
//! alike, so a way is, for each group of faces, a bag of picks. Groups meet only in the inputs they
//! share.
//!
//! - Counting: `ways[share][sum]` over every sum of modules and every share of the inputs,
//!   multiplied over groups.
//! - Ranking: inside a band of sizes (modules of an input in use) the fewest strings, then the
//!   largest margin. Strings add up and margins take the smaller one, so the k best of a part hold
//!   the k best of the whole. Bands are tried by their width, which is the difference between the
//!   fullest and the emptiest input; marks say whether both ends of the band are in use, so each
//!   way comes up in exactly one band.
//!
//! Memory: counting `(modules + 1) x product of (inputs of a class + 1)` numbers of 16 bytes a
//! group; ranking keeps
//! `keep` entries for each share and sum a band can reach.

use std::collections::BTreeMap;

/// Strings an input may take: `strings_n[f]` strings of `n` modules on face `f` of its group.
#[derive(Clone, Debug)]
pub(super) struct Pick {
    /// The class of inputs.
    pub class: usize,
    /// Index of the choice in its class.
    pub choice: usize,
    /// Modules in series.
    pub n: u32,
    /// Strings on each face of the group.
    pub strings_n: Vec<u32>,
    /// Smallest margin to either end of the window, %.
    pub margin_pct: f64,
    /// How far the worst failing check is beyond its limit, %; 0 where none fails.
    pub miss_pct: f64,
}

impl Pick {
    fn strings(&self) -> u32 {
        self.strings_n.iter().sum()
    }

    fn fails(&self) -> bool {
        self.miss_pct > 0.0
    }

    /// Modules on the input.
    pub fn modules(&self) -> u32 {
        self.n * self.strings()
    }
}

/// Faces that may share an input; most often one alone.
#[derive(Clone, Debug)]
pub(super) struct Group {
    /// The faces, as indices of the job's.
    pub faces: Vec<usize>,
    /// Modules to place on each.
    pub modules: Vec<u32>,
    /// What an input may take of them.
    pub picks: Vec<Pick>,
}

impl Group {
    /// Sums of modules, one dimension for each face, as one index.
    fn sums(&self) -> usize {
        self.modules.iter().map(|m| *m as usize + 1).product()
    }

    fn total(&self) -> u32 {
        self.modules.iter().sum()
    }

    /// What is placed on each face in a sum's index.
    fn placed(&self, mut index: usize) -> Vec<u32> {
        let part = |m: &u32| {
            let base = *m as usize + 1;
            let here = index % base;
            index /= base;
            here as u32
        };
        self.modules.iter().map(part).collect()
    }

    /// The index with a pick added; none where a face has not that many modules.
    fn add(&self, index: usize, pick: &Pick) -> Option<usize> {
        let (mut rest, mut step, mut sum) = (index, 1, index);
        for (most, strings) in self.modules.iter().zip(&pick.strings_n) {
            let base = *most as usize + 1;
            let more = (strings * pick.n) as usize;
            if rest % base + more >= base {
                return None;
            }
            sum += more * step;
            rest /= base;
            step *= base;
        }
        Some(sum)
    }

    fn index(&self, placed: &[u32]) -> usize {
        self.modules
            .iter()
            .zip(placed)
            .rev()
            .fold(0, |index, (most, here)| index * (*most as usize + 1) + *here as usize)
    }
}

/// A number of inputs of each class, as one index.
#[derive(Clone, Debug)]
pub(super) struct Shares {
    /// Inputs of each class.
    pub most: Vec<usize>,
}

impl Shares {
    fn count(&self) -> usize {
        self.most.iter().map(|k| k + 1).product()
    }

    /// Step of the index for one more input of a class.
    fn step(&self, class: usize) -> usize {
        self.most[..class].iter().map(|k| k + 1).product()
    }

    /// Inputs of a class in an index.
    fn of(&self, index: usize, class: usize) -> usize {
        index / self.step(class) % (self.most[class] + 1)
    }

    /// Inputs in an index.
    fn used(&self, index: usize) -> usize {
        (0..self.most.len()).map(|c| self.of(index, c)).sum()
    }

    /// The index of both together; none where a class has not that many inputs.
    fn sum(&self, a: usize, b: usize) -> Option<usize> {
        (0..self.most.len()).all(|c| self.of(a, c) + self.of(b, c) <= self.most[c]).then_some(a + b)
    }

    fn inputs(&self) -> usize {
        self.most.iter().sum()
    }

    /// The shares that hold no other of the list.
    fn least(&self, mut list: Vec<usize>) -> Vec<usize> {
        list.sort_by_key(|s| self.used(*s));
        let mut kept: Vec<usize> = Vec::new();
        for s in list {
            if !kept.iter().any(|k| (0..self.most.len()).all(|c| self.of(*k, c) <= self.of(s, c))) {
                kept.push(s);
            }
        }
        kept
    }
}

/// Ways by what is placed, for one group: `table[share][sum]`.
pub(super) struct Counted {
    table: Vec<Vec<u128>>,
}

/// Counts the ways of one group for every share of the inputs and every sum of modules.
pub(super) fn counted(shares: &Shares, group: &Group, allowed: impl Fn(&Pick) -> bool) -> Counted {
    let mut table = vec![vec![0_u128; group.sums()]; shares.count()];
    table[0][0] = 1;
    // A pick may be taken any number of times, so shares grow upward within it; each bag comes up
    // once.
    for pick in group.picks.iter().filter(|p| allowed(p)) {
        let step = shares.step(pick.class);
        for share in 0..table.len() {
            if shares.of(share, pick.class) == shares.most[pick.class] {
                continue;
            }
            for sum in 0..table[share].len() {
                let ways = table[share][sum];
                if ways > 0
                    && let Some(next) = group.add(sum, pick)
                {
                    table[share + step][next] = table[share + step][next].saturating_add(ways);
                }
            }
        }
    }
    Counted { table }
}

/// Ways that place exactly `placed[g]` on the faces of group `g`.
pub(super) fn ways(
    shares: &Shares,
    groups: &[Group],
    counted: &[Counted],
    placed: &[Vec<u32>],
) -> u128 {
    let mut all: BTreeMap<usize, u128> = BTreeMap::from([(0, 1)]);
    for ((group, counts), placed) in groups.iter().zip(counted).zip(placed) {
        let at = group.index(placed);
        let mut next: BTreeMap<usize, u128> = BTreeMap::new();
        for (a, ways) in &all {
            for (b, sums) in counts.table.iter().enumerate().filter(|(_, sums)| sums[at] > 0) {
                if let Some(sum) = shares.sum(*a, b) {
                    let entry = next.entry(sum).or_default();
                    *entry = entry.saturating_add(ways.saturating_mul(sums[at]));
                }
            }
        }
        all = next;
    }
    all.into_values().fold(0, u128::saturating_add)
}

/// The most modules, at most `cap`, that can be placed, and every way to leave the others off: what
/// is placed on each group's faces. Empty where nothing can be placed. At most `limit` of them.
pub(super) fn most_placed(
    shares: &Shares,
    groups: &[Group],
    counted: &[Counted],
    cap: u32,
    limit: usize,
) -> (u32, Vec<Vec<Vec<u32>>>) {
    // from[g][share] holds the totals that groups g and on can reach with that share of the inputs
    // still free.
    let all = shares.count();
    let full = all - 1;
    let width = groups.iter().map(Group::total).sum::<u32>().min(cap) as usize + 1;
    type Part = (u32, Vec<u32>, Vec<usize>);
    let parts: Vec<Vec<Part>> = groups
        .iter()
        .zip(counted)
        .map(|(group, counts)| {
            let part = |sum: usize| {
                let placed = group.placed(sum);
                (
                    placed.iter().sum(),
                    placed,
                    shares.least((0..all).filter(|s| counts.table[*s][sum] > 0).collect()),
                )
            };
            (0..group.sums()).map(part).filter(|p| !p.2.is_empty()).collect()
        })
        .collect();
    let mut from = vec![vec![Totals::none(width); all]; groups.len() + 1];
    for free in &mut from[groups.len()] {
        free.put(0);
    }
    for g in (0..groups.len()).rev() {
        // Placements of the same modules that take the same shares reach the same.
        let mut steps: Vec<(u32, usize)> =
            parts[g].iter().flat_map(|(m, _, s)| s.iter().map(move |s| (*m, *s))).collect();
        steps.sort_unstable();
        steps.dedup();
        let (head, tail) = from.split_at_mut(g + 1);
        for (free, reach) in head[g].iter_mut().enumerate() {
            for (modules, share) in &steps {
                if *share <= free && shares.sum(*share, full - free).is_some() {
                    reach.add(&tail[0][free - share], *modules as usize);
                }
            }
        }
    }
    let Some(most) = (1..width).rev().find(|t| from[0][full].has(*t)) else {
        return (0, Vec::new());
    };
    let mut found: Vec<Vec<Vec<u32>>> = Vec::new();
    // Group to go on with, modules left, shares still free, what is placed so far.
    type Open = (usize, usize, Vec<usize>, Vec<Vec<u32>>);
    let mut open: Vec<Open> = vec![(0, most, vec![full], Vec::new())];
    while let Some((g, left, free, placed)) = open.pop() {
        if found.len() >= limit {
            break;
        }
        if g == groups.len() {
            found.push(placed);
            continue;
        }
        for (modules, here, taken) in &parts[g] {
            let Some(rest) = left.checked_sub(*modules as usize) else { continue };
            let mut after: Vec<usize> = Vec::new();
            for f in &free {
                for s in taken.iter().filter(|s| **s <= *f && shares.sum(**s, full - f).is_some()) {
                    if from[g + 1][f - s].has(rest) {
                        after.push(f - s);
                    }
                }
            }
            after.sort_unstable();
            after.dedup();
            if !after.is_empty() {
                let mut placed = placed.clone();
                placed.push(here.clone());
                open.push((g + 1, rest, after, placed));
            }
        }
    }
    found.sort();
    (most as u32, found)
}

/// A set of totals, one bit each.
#[derive(Clone)]
struct Totals {
    width: usize,
    words: Vec<u64>,
}

impl Totals {
    fn none(width: usize) -> Self {
        Totals { width, words: vec![0; width.div_ceil(64)] }
    }

    fn put(&mut self, total: usize) {
        self.words[total / 64] |= 1 << (total % 64);
    }

    fn has(&self, total: usize) -> bool {
        total < self.width && self.words[total / 64] >> (total % 64) & 1 == 1
    }

    /// Puts in every total of another set with `more` added, as far as they go.
    fn add(&mut self, other: &Totals, more: usize) {
        let (words, bits) = (more / 64, more % 64);
        for i in (words..self.words.len()).rev() {
            let mut word = other.words[i - words] << bits;
            if bits > 0 && i > words {
                word |= other.words[i - words - 1] >> (64 - bits);
            }
            self.words[i] |= word;
        }
        let over = self.words.len() * 64 - self.width;
        if let Some(last) = self.words.last_mut() {
            *last &= u64::MAX >> over;
        }
    }
}

/// Work the ranking may still do, in entries looked at.
#[derive(Clone, Copy, Debug)]
pub(super) struct Budget(pub u64);

impl Budget {
    fn spend(&mut self, work: usize) {
        self.0 = self.0.saturating_sub(work as u64);
    }

    pub fn spent(&self) -> bool {
        self.0 == 0
    }
}

/// A way: for each group the picks, one an input.
#[derive(Clone, Debug, PartialEq)]
pub(super) struct Deal {
    /// Picks of each group by index.
    pub picks: Vec<Vec<usize>>,
    /// Modules of the fullest less those of the emptiest input in use.
    pub unbalance_n: u32,
    /// Strings in all.
    pub strings_n: u32,
    /// Smallest margin of its strings, %.
    pub margin_pct: f64,
}

impl Deal {
    /// The better one first.
    pub fn order(&self, other: &Deal) -> std::cmp::Ordering {
        (self.unbalance_n, self.strings_n)
            .cmp(&(other.unbalance_n, other.strings_n))
            .then(other.margin_pct.total_cmp(&self.margin_pct))
    }
}

/// What is asked of a ranking.
pub(super) struct Wanted<'a> {
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
pub(super) fn ranked(
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
