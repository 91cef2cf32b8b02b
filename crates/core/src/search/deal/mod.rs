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

mod ranking;

use std::collections::BTreeMap;

use ranking::Score;
pub(super) use ranking::{Wanted, ranked};

use crate::work::Work;

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
    /// Checks that are a caution.
    pub warns_n: u32,
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

/// Work the ranking may still do, in entries looked at, as long as it goes on.
#[derive(Clone, Debug)]
pub(super) struct Budget(pub u64, pub Work);

impl Budget {
    fn spend(&mut self, work: usize) {
        self.0 = self.0.saturating_sub(work as u64);
    }

    pub fn spent(&self) -> bool {
        self.0 == 0 || !self.1.goes_on()
    }
}

/// A way: for each group the picks, one an input.
#[derive(Clone, Debug, PartialEq)]
pub(super) struct Deal {
    /// Picks of each group by index.
    pub picks: Vec<Vec<usize>>,
    /// Modules of the fullest less those of the emptiest input in use.
    pub unbalance_n: u32,
    /// Cautions of the inputs in use.
    pub warns_n: u32,
    /// Strings in all.
    pub strings_n: u32,
    /// Smallest margin of its strings, %.
    pub margin_pct: f64,
}

impl Deal {
    fn score(&self) -> Score {
        let Deal { warns_n, strings_n, margin_pct, .. } = *self;
        Score { warns_n, strings_n, margin_pct }
    }

    /// The better one first: fewest cautions, fewest strings, largest margin, best balance.
    pub fn order(&self, other: &Deal) -> std::cmp::Ordering {
        self.score().order(&other.score()).then(self.unbalance_n.cmp(&other.unbalance_n))
    }
}
