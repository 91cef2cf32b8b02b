//! A routing and what it costs.

use std::ops::Add;

use super::RouteSum;
use super::question::Field;

/// What a routing costs, in the order it is ranked: joins lost, wire, jumpers, turned modules.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, PartialOrd, Ord)]
pub(super) struct Cost {
    lost: u32,
    /// Whole micrometres, so that sums do not depend on their order.
    wire_um: u64,
    jumpers: u32,
    turned: u32,
}

impl Cost {
    /// A join that cannot be.
    pub const LOST: Cost = Cost { lost: 1, wire_um: 0, jumpers: 0, turned: 0 };
    pub fn wire(m: f64) -> Cost {
        Cost { wire_um: (m * 1e6).round() as u64, ..Cost::default() }
    }

    pub fn jumper(m: f64) -> Cost {
        Cost { jumpers: 1, ..Cost::wire(m) }
    }

    pub fn turned(turned: bool) -> Cost {
        Cost { turned: u32::from(turned), ..Cost::default() }
    }

    /// One number in the same order, for up to 31 modules: a thousand kilometres of wire at most.
    pub fn packed(self) -> u64 {
        let (lost, jumpers, turned) =
            (u64::from(self.lost), u64::from(self.jumpers), u64::from(self.turned));
        lost << 56 | self.wire_um << 10 | jumpers << 5 | turned
    }

    /// What it comes to; none where a join is lost.
    pub fn sum(self) -> Option<RouteSum> {
        let (jumpers_n, turned_n) = (self.jumpers as usize, self.turned as usize);
        (self.lost == 0).then(|| RouteSum { wire_m: self.wire_m(), jumpers_n, turned_n })
    }

    fn wire_m(self) -> f64 {
        self.wire_um as f64 / 1e6
    }
}

impl Add for Cost {
    type Output = Cost;

    fn add(self, other: Cost) -> Cost {
        Cost {
            lost: self.lost + other.lost,
            wire_um: self.wire_um + other.wire_um,
            jumpers: self.jumpers + other.jumpers,
            turned: self.turned + other.turned,
        }
    }
}

/// A routing of a face.
#[derive(Clone, Debug, Default)]
pub(super) struct Tours {
    /// The modules of each string in order: - of the first is free, + of the last.
    pub strings: Vec<Vec<usize>>,
    /// Which modules are turned.
    pub turned: Vec<bool>,
}

impl Tours {
    /// What it costs.
    pub fn cost(&self, field: &Field) -> Cost {
        self.strings
            .iter()
            .map(|s| string_cost(field, s, &self.turned))
            .fold(Cost::default(), Add::add)
    }
}

/// What one string costs.
fn string_cost(field: &Field, order: &[usize], turned: &[bool]) -> Cost {
    let [first, .., last] = order else {
        return order.first().map_or(Cost::default(), |m| {
            let t = turned[*m];
            field.first(*m, t) + field.last(*m, t) + Cost::turned(t)
        });
    };
    let ends = field.first(*first, turned[*first]) + field.last(*last, turned[*last]);
    let joins = order.windows(2).map(|p| field.arc(p[0], turned[p[0]], p[1], turned[p[1]]));
    let turns = order.iter().map(|m| Cost::turned(turned[*m]));
    joins.chain(turns).fold(ends, Add::add)
}
