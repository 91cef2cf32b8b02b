//! A small face searched whole: over every set of modules used so far, the last of them and which
//! way round it lies. Where one string ends and the next begins follows from the count.

use super::question::Field;
use super::tours::{Cost, Tours};

/// No way there.
const NOWHERE: u64 = u64::MAX;
/// Nothing before.
const NONE: u8 = u8::MAX;

/// The table of the search. A state is a set of modules and the last of them as it lies.
struct Table {
    /// Ways a module may lie, for all modules.
    side: usize,
    joins: Vec<u64>,
    first: Vec<u64>,
    last: Vec<u64>,
    /// Cheapest way to each state, and the module as it lies before its last.
    cost: Vec<u64>,
    before: Vec<u8>,
    /// Cheapest way to each set at which a string is whole, its tail counted, and its last module.
    closed: Vec<(u64, u8)>,
}

/// The best routing of a face.
pub(super) fn exact(field: &Field) -> Tours {
    let total: usize = field.sizes.iter().sum();
    let starts = starts(&field.sizes);
    let mut table = Table::of(field);
    table.closed[0] = (0, NONE);
    for set in 0..table.closed.len() {
        let used = set.count_ones() as usize;
        if used > total {
            continue;
        }
        let begins = starts[used];
        if begins && used > 0 {
            table.close(set);
        }
        if used < total {
            table.go_on(set, begins);
        }
    }
    table.traced(field, total)
}

impl Table {
    fn of(field: &Field) -> Self {
        let side = field.len() * 2;
        let may = |at: usize| field.may_lie(at / 2, at % 2 == 1);
        let lies = |at: usize| (at / 2, at % 2 == 1);
        let own = |at: usize, cost: Cost| if may(at) { cost.packed() } else { NOWHERE };
        let turned = |at: usize| Cost::turned(at % 2 == 1);
        let join = |a: usize, b: usize| {
            let ((m, way), (next, next_way)) = (lies(a), lies(b));
            own(b, field.arc(m, way, next, next_way) + turned(b))
        };
        let sets = 1 << field.len();
        Table {
            side,
            joins: (0..side)
                .flat_map(|a| (0..side).map(move |b| (a, b)))
                .map(|(a, b)| join(a, b))
                .collect(),
            first: (0..side).map(|a| own(a, field.first(a / 2, a % 2 == 1) + turned(a))).collect(),
            last: (0..side).map(|a| own(a, field.last(a / 2, a % 2 == 1))).collect(),
            cost: vec![NOWHERE; sets * side],
            before: vec![NONE; sets * side],
            closed: vec![(NOWHERE, NONE); sets],
        }
    }

    /// Ends a string at a set.
    fn close(&mut self, set: usize) {
        for at in laid(set) {
            let cost = self.cost[set * self.side + at].saturating_add(self.last[at]);
            if cost < self.closed[set].0 {
                self.closed[set] = (cost, at as u8);
            }
        }
    }

    /// One module more, in the string at hand or as the first of the next.
    fn go_on(&mut self, set: usize, begins: bool) {
        let free = !set & (self.closed.len() - 1);
        if begins {
            let (cost, at) = self.closed[set];
            for next in laid(free) {
                self.reach(set, next, cost.saturating_add(self.first[next]), at);
            }
            return;
        }
        for at in laid(set) {
            let cost = self.cost[set * self.side + at];
            if cost == NOWHERE {
                continue;
            }
            for next in laid(free) {
                let join = self.joins[at * self.side + next];
                self.reach(set, next, cost.saturating_add(join), at as u8);
            }
        }
    }

    fn reach(&mut self, set: usize, next: usize, cost: u64, before: u8) {
        let slot = (set | 1 << (next / 2)) * self.side + next;
        if cost < self.cost[slot] {
            (self.cost[slot], self.before[slot]) = (cost, before);
        }
    }

    /// The best end, followed back.
    fn traced(&self, field: &Field, total: usize) -> Tours {
        let ends = (0..self.closed.len()).filter(|s| s.count_ones() as usize == total);
        let Some(mut set) = ends.min_by_key(|s| self.closed[*s].0) else { return Tours::default() };
        let mut order = Vec::with_capacity(total);
        let mut turned = vec![false; field.len()];
        let mut at = self.closed[set].1;
        while at != NONE {
            let (module, way) = (usize::from(at / 2), at % 2 == 1);
            order.push(module);
            turned[module] = way;
            at = self.before[set * self.side + usize::from(at)];
            set &= !(1 << module);
        }
        order.reverse();
        let mut rest = order.as_slice();
        let strings = field.sizes.iter().map(|n| {
            let (own, others) = rest.split_at((*n).min(rest.len()));
            rest = others;
            own.to_vec()
        });
        Tours { strings: strings.collect(), turned }
    }
}

/// The modules of a set, each both ways round.
fn laid(mut set: usize) -> impl Iterator<Item = usize> {
    std::iter::from_fn(move || {
        let module = (set != 0).then(|| set.trailing_zeros() as usize)?;
        set &= set - 1;
        Some(module)
    })
    .flat_map(|m| [m * 2, m * 2 + 1])
}

/// Whether a string begins after so many modules.
fn starts(sizes: &[usize]) -> Vec<bool> {
    let mut starts = vec![false; sizes.iter().sum::<usize>() + 1];
    let mut sum = 0;
    starts[0] = true;
    for n in sizes {
        sum += n;
        starts[sum] = true;
    }
    starts
}
