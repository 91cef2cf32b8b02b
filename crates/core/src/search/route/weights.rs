//! What joins and ends weigh to the search: wire first, then the fewest jumpers and turned modules,
//! then next to nothing for what looks straight.

use super::question::Field;
use crate::quantity::slack;

/// A jumper more, m of wire.
const JUMPER: f64 = 2e-3;
/// A turned module more.
const TURNED: f64 = 1e-4;
/// A join that cannot be.
const LOST: f64 = 1e4;
/// A module the other way round than it is to lie.
const BARRED: f64 = 1e7;
/// A metre of path within reach and a change of the row: rows stay whole where that costs nothing.
const PATH: f64 = 1e-4;
const ROW: f64 = 2e-4;

/// Modules up to which the joins are written out in tables: twice 23 MB. Looking a join up is three
/// times as fast as working it out.
const TABLE_N: usize = 1200;

pub(super) struct Weights {
    /// By module and way round: where + leaves, m.
    plus: Vec<[f64; 2]>,
    /// The same for -.
    minus: Vec<[f64; 2]>,
    /// The row each module lies in.
    row: Vec<u32>,
    /// By module and way round: first in a string, last in a string.
    first: Vec<f64>,
    last: Vec<f64>,
    /// The longest path that two leads reach, m.
    reach: f64,
    /// The longest path each jumper bridges, and what it weighs, m.
    bridged: Vec<(f64, f64)>,
    /// Joins by the module they lead from, then by the one they lead to; and the other way round.
    /// Empty on a face with too many modules for it.
    table: Vec<f32>,
    back: Vec<f32>,
    side: usize,
    /// Modules the other way round than they are to lie.
    barred: Vec<bool>,
    /// Ways round there are: one or two.
    pub ways: usize,
}

/// A module with its way round, packed.
pub(super) fn laid(module: usize, turned: bool) -> usize {
    module * 2 + usize::from(turned)
}

impl Weights {
    pub fn of(field: &Field) -> Self {
        let side = field.len() * 2;
        let ends = |tail: fn(&Field, usize, bool) -> f64| -> Vec<f64> {
            let barred = |at: usize| !field.may_lie(at / 2, at % 2 == 1);
            let weight = |at: usize| tail(field, at / 2, at % 2 == 1);
            (0..side).map(|at| if barred(at) { BARRED } else { weight(at) }).collect()
        };
        let exits = || (0..side).map(|at| field.exits(at / 2, at % 2 == 1));
        let metres = |[x, y]: [f64; 2]| [x / 1000.0, y / 1000.0];
        // As the rule has it: on the reach is inside it.
        let on = |m: f64| m + slack(m);
        let mut rows: Vec<u64> = field.row.iter().map(|y| y.to_bits()).collect();
        rows.sort_unstable();
        rows.dedup();
        let row = |y: &f64| rows.binary_search(&y.to_bits()).unwrap_or(0) as u32;
        let stock = field.stock_m.iter();
        let mut own = Weights {
            plus: exits().map(|e| metres(e.plus)).collect(),
            minus: exits().map(|e| metres(e.minus)).collect(),
            row: field.row.iter().map(row).collect(),
            first: ends(Field::tail_minus_m),
            last: ends(Field::tail_plus_m),
            reach: on(field.reach_m),
            bridged: stock.map(|m| (on(field.reach_m + m), m + JUMPER)).collect(),
            ways: field.ways_round().len(),
            barred: (0..side).map(|at| !field.may_lie(at / 2, at % 2 == 1)).collect(),
            table: Vec::new(),
            back: Vec::new(),
            side,
        };
        if field.len() <= TABLE_N {
            let pairs = || (0..side).flat_map(|a| (0..side).map(move |b| (a, b)));
            own.table = pairs().map(|(a, b)| own.computed(a, b) as f32).collect();
            own.back = pairs().map(|(b, a)| own.table[a * side + b]).collect();
        }
        own
    }

    /// A join from one module as it lies to the next.
    #[inline]
    pub fn join(&self, a: usize, b: usize) -> f64 {
        match self.table.get(a * self.side + b) {
            Some(weight) => f64::from(*weight),
            None => self.computed(a, b),
        }
    }

    /// The same, looked up beside the other joins that lead to `b`.
    #[inline]
    pub fn join_to(&self, b: usize, a: usize) -> f64 {
        match self.back.get(b * self.side + a) {
            Some(weight) => f64::from(*weight),
            None => self.computed(a, b),
        }
    }

    fn computed(&self, a: usize, b: usize) -> f64 {
        let ([px, py], [mx, my]) = (self.plus[a], self.minus[b]);
        let path = (px - mx).abs() + (py - my).abs();
        let wire = if path <= self.reach {
            0.0
        } else {
            let taken = self.bridged.iter().find(|(most, _)| path <= *most);
            taken.map_or(LOST, |(_, weight)| *weight)
        };
        let row = if self.row[a / 2] == self.row[b / 2] { 0.0 } else { ROW };
        if self.barred[a] || self.barred[b] {
            return BARRED;
        }
        // Turned modules count where they are come to.
        let turned = if b % 2 == 1 { TURNED } else { 0.0 };
        wire + PATH * path + row + turned
    }

    /// The first module of a string.
    pub fn first(&self, a: usize) -> f64 {
        self.first[a] + if a % 2 == 1 { TURNED } else { 0.0 }
    }

    /// The last module of a string.
    pub fn last(&self, a: usize) -> f64 {
        self.last[a]
    }

    /// What a module weighs between two others: to come to it and to go on from it.
    pub fn between(&self, before: Option<usize>, own: usize, after: Option<usize>) -> (f64, f64) {
        let come = before.map_or_else(|| self.first(own), |b| self.join_to(own, b));
        (come, after.map_or_else(|| self.last(own), |a| self.join(own, a)))
    }

    /// Lays a string the way round that weighs least, from its other end too where that is asked;
    /// gives its weight.
    pub fn settle(
        &self,
        order: &mut [usize],
        turned: &mut [bool],
        both_ends: bool,
        room: &mut Room,
    ) -> f64 {
        let mut back = (f64::INFINITY, 0);
        if both_ends {
            back.0 = self.viterbi(order.iter().rev().copied(), room);
            back.1 = room.end;
            std::mem::swap(&mut room.came, &mut room.other);
        }
        let ahead = self.viterbi(order.iter().copied(), room);
        let (weight, end) = if back.0 < ahead {
            order.reverse();
            std::mem::swap(&mut room.came, &mut room.other);
            back
        } else {
            (ahead, room.end)
        };
        let mut way = end;
        for (m, came) in order.iter().zip(&room.came).rev() {
            turned[*m] = way == 1;
            way = came[way];
        }
        weight
    }

    fn viterbi(&self, order: impl Iterator<Item = usize>, room: &mut Room) -> f64 {
        room.came.clear();
        let mut before: Option<(usize, [f64; 2])> = None;
        for m in order {
            let mut weights = [f64::INFINITY; 2];
            let mut came = [0; 2];
            for way in 0..self.ways {
                let own = m * 2 + way;
                match before {
                    None => weights[way] = self.first(own),
                    Some((p, reached)) => {
                        for (w, reached) in reached.iter().enumerate().take(self.ways) {
                            let weight = reached + self.join(p * 2 + w, own);
                            if weight < weights[way] {
                                (weights[way], came[way]) = (weight, w);
                            }
                        }
                    }
                }
            }
            before = Some((m, weights));
            room.came.push(came);
        }
        let Some((last, reached)) = before else { return 0.0 };
        let ends = [reached[0] + self.last(last * 2), reached[1] + self.last(last * 2 + 1)];
        room.end = usize::from(ends[1] < ends[0]);
        ends[room.end]
    }
}

/// Room for laying a string, used again and again.
#[derive(Default)]
pub(super) struct Room {
    came: Vec<[usize; 2]>,
    other: Vec<[usize; 2]>,
    end: usize,
}
