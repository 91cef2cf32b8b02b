//! What no routing of a face can go below.
//!
//! Two bounds are proved and the larger one counts.
//!
//! **Assignment.** In any routing each module is first in its string or joined to one before it,
//! and last or joined to one after it, and there are as many firsts and lasts as strings. The
//! cheapest way to give every module one before and one after, each join the way round that costs
//! least, can only be cheaper than a routing: it may close rings and lay a module one way for one
//! join and the other way for the next.
//!
//! **Distance.** From a module of a string to the string's end there are so many joins, and each
//! comes nearer to the box by no more than reach, jumper and the width between a module's own
//! exits. So a string with a module far from the box has wire. The farthest module lies in some
//! string; the farthest that as many modules as the largest strings hold cannot hide lies in
//! another.

use pathfinding::kuhn_munkres::kuhn_munkres_min;
use pathfinding::matrix::Matrix;

use super::question::Field;
use crate::quantity::above;

/// Modules up to which the assignment is solved; it takes the cube of them.
const ASSIGN_N: usize = 400;
/// Stands for what cannot be, µm; more than all wire of a face.
const NEVER_UM: i64 = 1 << 40;

/// A lower bound of the wire, m.
pub(super) fn bound_m(field: &Field) -> f64 {
    if field.sizes.is_empty() {
        return 0.0;
    }
    distance_m(field).max(if field.len() <= ASSIGN_N { assignment_m(field) } else { ends_m(field) })
}

fn micrometres(m: f64) -> i64 {
    // Down, so that rounding never lifts the bound.
    (m * 1e6).floor() as i64
}

/// Cheapest jumper from + of one to - of another, µm.
fn least_jumper_um(field: &Field, a: usize, b: usize) -> i64 {
    use crate::stages::roof::Join;
    let round = field.ways_round();
    let each = round.iter().flat_map(|s| round.iter().map(move |t| (*s, *t)));
    each.map(|(s, t)| match field.join(a, s, b, t) {
        Join::Reaches => 0,
        Join::Jumper(m) => micrometres(m),
        Join::Lost => NEVER_UM,
    })
    .min()
    .unwrap_or(NEVER_UM)
}

fn least_tail_um(field: &Field, tail: impl Fn(&Field, usize, bool) -> f64, m: usize) -> i64 {
    let tails = field.ways_round().iter().map(|&t| tail(field, m, t));
    micrometres(tails.fold(f64::INFINITY, f64::min))
}

/// Rows: + of each module, then the tokens of strings that begin. Columns: - of each module, then
/// the tokens of strings that end. Where modules are left off, one may go to itself.
fn assignment_m(field: &Field) -> f64 {
    let (n, strings) = (field.len(), field.sizes.len());
    let all_used = field.sizes.iter().sum::<usize>() == n;
    let size = n + strings;
    let mut costs = Matrix::new(size, size, NEVER_UM);
    for a in 0..n {
        for b in 0..n {
            costs[(a, b)] = match (a == b, all_used) {
                (false, _) => least_jumper_um(field, a, b),
                (true, true) => NEVER_UM,
                (true, false) => 0,
            };
        }
        let (plus, minus) = (
            least_tail_um(field, Field::tail_plus_m, a),
            least_tail_um(field, Field::tail_minus_m, a),
        );
        for token in n..size {
            costs[(a, token)] = plus;
            costs[(token, a)] = minus;
        }
    }
    let (total, _) = kuhn_munkres_min(&costs);
    if total >= NEVER_UM { 0.0 } else { total as f64 / 1e6 }
}

/// The tails alone: the nearest modules as firsts and as lasts.
fn ends_m(field: &Field) -> f64 {
    let least = |tail: fn(&Field, usize, bool) -> f64| {
        let mut all: Vec<i64> = (0..field.len()).map(|m| least_tail_um(field, tail, m)).collect();
        all.sort_unstable();
        all.iter().take(field.sizes.len()).sum::<i64>() as f64 / 1e6
    };
    least(Field::tail_plus_m) + least(Field::tail_minus_m)
}

fn distance_m(field: &Field) -> f64 {
    let mut far: Vec<f64> = (0..field.len()).map(|m| field.far_m(m)).collect();
    far.sort_by(|a, b| b.total_cmp(a));
    let spare = field.len() - field.sizes.iter().sum::<usize>();
    let mut sizes = field.sizes.clone();
    sizes.sort_unstable_by(|a, b| b.cmp(a));
    let hops = sizes[0].saturating_sub(1) as f64 * (field.reach_m + field.across_m());
    let mut hidden = spare;
    let mut sum = 0.0;
    for size in sizes {
        let wire = far[hidden] - hops;
        sum += if above(wire, 0.0) { wire } else { 0.0 };
        hidden += size;
    }
    sum
}
