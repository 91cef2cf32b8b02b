//! Routing of strings over a face: which modules belong to which string, in which order, which way
//! round each lies, so that jumpers and tails take the least wire.
//!
//! Each face is routed by itself. A face of a few modules is searched whole ([`exact`]); a larger
//! one begins with the best of several plain routings ([`start`]) and is bettered by taking
//! stretches of neighbouring strings out and putting their modules back where they cost least
//! ([`improve`]). Its work is counted, not timed, and its choices come from a fixed sequence, so
//! the same question has the same answer. What no routing can go below is proved apart from that
//! ([`bound`]).

mod bound;
mod exact;
mod improve;
mod job;
mod question;
mod start;
mod tours;
mod trunk;
mod weights;

pub use job::{Reroute, Rerouted, RouteSum, reroute};
pub use question::{RouteAsk, RouteFace, RouteModule, RouteString};
pub use start::Along;

use serde::Serialize;
use utoipa::ToSchema;

use crate::problem::Problem;
use crate::stages::roof::Join;
use question::Field;
use tours::Tours;
use weights::Weights;

use crate::work::Work;

/// Modules of a face up to which it is searched whole.
pub const WHOLE_N: usize = 16;

/// All faces routed.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct Routed {
    /// The faces, as they were asked.
    pub faces: Vec<RoutedFace>,
    /// Jumpers and tails of all, m.
    pub wire_m: f64,
}

/// A face routed.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct RoutedFace {
    /// Its key.
    pub id: String,
    /// Its strings, as they were asked.
    pub strings: Vec<RoutedString>,
    /// Jumpers and tails, m.
    pub wire_m: f64,
    /// Jumpers.
    pub jumpers_n: usize,
    /// Turned modules.
    pub turned_n: usize,
    /// What no routing can go below, m.
    pub bound_m: f64,
}

/// A string routed: - of the first is free and + of the last, or the other way round.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct RoutedString {
    /// Its letter.
    pub letter: String,
    /// Its modules in order.
    pub modules: Vec<String>,
    /// Those that lie the other way round.
    pub turned: Vec<String>,
    /// + of the first module is free, not -.
    pub plus_first: bool,
    /// Jumpers in order.
    pub jumpers: Vec<RoutedJumper>,
    /// Wire from the free + to the box beyond its lead, m.
    pub tail_plus_m: f64,
    /// Wire from the free - to the box beyond its lead, m.
    pub tail_minus_m: f64,
}

/// A jumper between two modules.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct RoutedJumper {
    /// The module before it.
    pub after: String,
    /// Its stock length, m.
    pub m: f64,
}

/// Why there is no routing.
#[derive(Clone, Debug, PartialEq)]
pub enum RouteError {
    /// The question is wrong.
    Invalid(Vec<Problem>),
    /// No routing was found that joins all modules of a string.
    Lost(Vec<Problem>),
}

/// Routes all strings of all faces.
///
/// # Errors
/// Everything that is wrong with the question; or the modules that cannot be joined.
pub fn route(ask: &RouteAsk) -> Result<Routed, RouteError> {
    routed(ask, WHOLE_N)
}

/// As [`route`], with no face searched whole: what the search of large faces comes to on small
/// ones.
///
/// # Errors
/// As [`route`].
pub fn route_unproved(ask: &RouteAsk) -> Result<Routed, RouteError> {
    routed(ask, 0)
}

/// Where a search goes on: the routing it begins with, and which turn it is.
type Begun = (Tours, u32);

fn routed(ask: &RouteAsk, whole_n: usize) -> Result<Routed, RouteError> {
    let problems = question::problems(ask);
    if !problems.is_empty() {
        return Err(RouteError::Invalid(problems));
    }
    let mut faces = Vec::new();
    let mut lost = Vec::new();
    for (at, face) in ask.faces.iter().enumerate() {
        match routed_face(&Field::of(ask, face), face, whole_n, None, &Work::default()) {
            Ok(done) => faces.push(done),
            Err(module) => lost.push(question::lost(&Field::of(ask, face), face, at, module)),
        }
    }
    if !lost.is_empty() {
        return Err(RouteError::Lost(lost));
    }
    // Not the sum of nothing, which is a negative zero.
    let wire_m = faces.iter().fold(0.0, |sum, f| sum + f.wire_m);
    Ok(Routed { faces, wire_m })
}

/// One face routed; the module that cannot be reached where not all are joined.
fn routed_face(
    field: &Field,
    face: &RouteFace,
    whole_n: usize,
    begun: Option<&Begun>,
    work: &Work,
) -> Result<RoutedFace, usize> {
    let tours = best(field, whole_n, begun, work);
    match lost_at(field, &tours) {
        Some(module) => Err(module),
        None => Ok(answer(field, face, &tours, whole_n)),
    }
}

fn best(field: &Field, whole_n: usize, begun: Option<&Begun>, work: &Work) -> Tours {
    let free = !field.stays.contains(&true);
    if field.len() <= whole_n && free {
        return exact::exact(field);
    }
    let weights = Weights::of(field);
    let begun = match begun {
        Some(begun) => begun.clone(),
        None => (start::plain(field, &weights), 0),
    };
    improve::improve(field, weights, begun, work)
}

/// The first module that is not joined to the next.
fn lost_at(field: &Field, tours: &Tours) -> Option<usize> {
    let joins = tours.strings.iter().flat_map(|s| s.windows(2));
    joins
        .map(|pair| (pair[0], pair[1]))
        .find(|&(a, b)| field.join(a, tours.turned[a], b, tours.turned[b]) == Join::Lost)
        .map(|(a, b)| if field.alone(b) { b } else { a })
}

fn answer(field: &Field, face: &RouteFace, tours: &Tours, whole_n: usize) -> RoutedFace {
    let id = |m: &usize| face.modules[*m].id.clone();
    let mut strings = Vec::new();
    for (asked, order) in face.strings.iter().zip(&tours.strings) {
        let (first, last) = (order[0], order[order.len() - 1]);
        let jumpers = order.windows(2).filter_map(|pair| {
            let [a, b] = [pair[0], pair[1]];
            match field.join(a, tours.turned[a], b, tours.turned[b]) {
                Join::Jumper(m) => Some(RoutedJumper { after: id(&a), m }),
                Join::Reaches | Join::Lost => None,
            }
        });
        strings.push(RoutedString {
            letter: asked.letter.clone(),
            modules: order.iter().map(id).collect(),
            turned: order.iter().filter(|m| tours.turned[**m]).map(id).collect(),
            plus_first: false,
            jumpers: jumpers.collect(),
            tail_plus_m: field.tail_plus_m(last, tours.turned[last]),
            tail_minus_m: field.tail_minus_m(first, tours.turned[first]),
        });
    }
    let jumper_m = |s: &RoutedString| s.jumpers.iter().map(|j| j.m).sum::<f64>();
    let wire_m = strings.iter().fold(0.0, |m, s| m + s.tail_plus_m + s.tail_minus_m + jumper_m(s));
    let whole = field.len() <= whole_n && !field.stays.contains(&true);
    RoutedFace {
        id: face.id.clone(),
        jumpers_n: strings.iter().map(|s| s.jumpers.len()).sum(),
        turned_n: strings.iter().map(|s| s.turned.len()).sum(),
        bound_m: if whole { wire_m } else { bound::bound_m(field).min(wire_m) },
        strings,
        wire_m,
    }
}
