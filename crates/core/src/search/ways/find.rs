//! The best ways, those that fail, and the one that misses by least.

use super::setup::Setup;
use super::{KEEP_FAILING, Way};
use crate::figure::said;
use crate::quantity::Unit;
use crate::search::deal::{
    Budget, Counted, Deal, Group, Pick, Wanted, counted, most_placed, ranked, ways as count_ways,
};

/// Ways kept while an inverter's watts in all may still strike some out.
const KEEP_WIDE: usize = 60;

/// Ways to leave modules off that are ranked.
const PLACEMENTS: usize = 20;

pub(super) struct Feasible {
    pub ways: Vec<Way>,
    pub unused_n: u32,
    pub feasible_n: Option<f64>,
    pub exact: bool,
    pub part: Option<String>,
}

impl Setup<'_> {
    /// The best ways with the fewest modules left off.
    pub(super) fn feasible(&self, keep: usize, budget: &mut Budget) -> Feasible {
        let total = self.total();
        let none = Feasible {
            ways: Vec::new(),
            unused_n: total,
            feasible_n: Some(0.0),
            exact: true,
            part: None,
        };
        let binds = self.cap_may_bind();
        let mut cap = self.cap();
        loop {
            let mut best: Vec<Deal> = Vec::new();
            let (mut placed_n, mut count, mut part): (u32, u128, Option<u32>) = (0, 0, None);
            let mut searched_all = true;
            for n in self.lengths() {
                let allowed = |p: &Pick| p.miss_pct == 0.0 && n.is_none_or(|n| p.n == n);
                let counts: Vec<Counted> =
                    self.groups.iter().map(|g| counted(&self.shares, g, allowed)).collect();
                let (here, placements) =
                    most_placed(&self.shares, &self.groups, &counts, cap, PLACEMENTS + 1);
                if here == 0 || here < placed_n {
                    continue;
                }
                if here > placed_n {
                    (placed_n, count, part) = (here, 0, None);
                    best.clear();
                }
                searched_all &= placements.len() <= PLACEMENTS;
                for placed in placements.iter().take(PLACEMENTS) {
                    count = count.saturating_add(count_ways(
                        &self.shares,
                        &self.groups,
                        &counts,
                        placed,
                    ));
                    let keep = if binds { KEEP_WIDE } else { keep };
                    let wanted = Wanted {
                        keep,
                        strings_max: self.ask.home_runs_max,
                        n,
                        failing: false,
                        placed,
                    };
                    let (deals, cut) = ranked(&self.shares, &self.groups, &wanted, budget);
                    part = cut.into_iter().chain(part).min();
                    best.extend(deals);
                }
            }
            if placed_n == 0 {
                return none;
            }
            best.sort_by(Deal::order);
            let unused_n = total - placed_n;
            let mut kept: Vec<Way> = Vec::new();
            let mut dropped = false;
            for deal in &best {
                match self.assigned(deal, true) {
                    Some(uses) => kept.push(self.way(deal, uses, unused_n)),
                    None => dropped = true,
                }
                if kept.len() == keep {
                    break;
                }
            }
            if kept.is_empty()
                && placed_n > 1
                && (binds || self.ask.home_runs_max.is_some())
                && !budget.spent()
            {
                // Every way with this many overloads an inverter, or has too many strings: with
                // fewer modules.
                cap = placed_n - 1;
                continue;
            }
            let exact = !binds && searched_all;
            let words = |cut: u32| {
                format!(
                    "Too many ways to look at all: those whose inputs differ by up to {} were all \
                        looked at; one as good may be found among the others.",
                    said(f64::from(cut) * self.pmax_w, Unit::W)
                )
            };
            let part = part.map(words).or_else(|| {
                (!searched_all).then(|| {
                    format!(
                        "There are more than {PLACEMENTS} ways to choose the modules \
                        left off: these are of the first."
                    )
                })
            });
            return Feasible {
                ways: kept,
                unused_n,
                feasible_n: self.ask.home_runs_max.is_none().then_some(count as f64),
                exact: exact && !dropped,
                part,
            };
        }
    }

    /// The most even ways that fail, with every module placed.
    pub(super) fn failing(&self, budget: &mut Budget) -> Vec<Way> {
        let placed: Vec<Vec<u32>> = self.groups.iter().map(|g| g.modules.clone()).collect();
        let mut deals: Vec<Deal> = Vec::new();
        for n in self.lengths() {
            let wanted = Wanted {
                keep: KEEP_FAILING,
                strings_max: self.ask.home_runs_max,
                n,
                failing: true,
                placed: &placed,
            };
            deals.extend(ranked(&self.shares, &self.groups, &wanted, budget).0);
        }
        let mut failing: Vec<Way> = deals
            .iter()
            .filter_map(|d| self.assigned(d, false).map(|uses| self.way(d, uses, 0)))
            .collect();
        failing.sort_by_key(|w| w.fails_n);
        failing.truncate(KEEP_FAILING);
        failing
    }

    /// The way with all modules whose worst check misses by least.
    pub(super) fn nearest(&self, budget: &mut Budget) -> Option<Way> {
        let placed: Vec<Vec<u32>> = self.groups.iter().map(|g| g.modules.clone()).collect();
        let mut steps: Vec<f64> =
            self.classes.iter().flat_map(|c| c.choices.iter().map(|o| o.miss_pct)).collect();
        steps.sort_by(f64::total_cmp);
        steps.dedup();
        let fits = |most: f64| {
            let counts: Vec<Counted> = self
                .groups
                .iter()
                .map(|g| counted(&self.shares, g, |p| p.miss_pct <= most))
                .collect();
            count_ways(&self.shares, &self.groups, &counts, &placed) > 0
        };
        let from = steps.partition_point(|step| !budget.spent() && !fits(*step));
        // With fewer strings than the counts reckon with, the first step that fits may be a later
        // one.
        steps[from..].iter().find_map(|most| {
            let near: Vec<Group> = self
                .groups
                .iter()
                .map(|g| {
                    let picks = g
                        .picks
                        .iter()
                        .filter(|p| p.miss_pct <= *most)
                        .map(|p| Pick { miss_pct: 0.0, ..p.clone() });
                    Group { picks: picks.collect(), ..g.clone() }
                })
                .collect();
            let wanted = Wanted {
                keep: 1,
                strings_max: self.ask.home_runs_max,
                n: None,
                failing: false,
                placed: &placed,
            };
            let deal = ranked(&self.shares, &near, &wanted, budget).0.into_iter().next()?;
            let uses = self.assigned_of(&near, &deal, false)?;
            Some(self.way(&deal, uses, 0))
        })
    }
}
