//! Where the leads leave a module as it lies on its face, and what joins two of them.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::quantity::{above, below};

/// A module's size and its leads, from its data sheet.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Leads {
    /// Width (short side), mm.
    pub width_mm: f64,
    /// Length (long side), mm.
    pub length_mm: f64,
    /// Where + leaves, mm from the lower left corner of the portrait module seen from its front.
    pub exit_plus_mm: [f64; 2],
    /// Where - leaves, the same.
    pub exit_minus_mm: [f64; 2],
    /// Length of the + lead, m.
    pub lead_plus_m: f64,
    /// Length of the - lead, m.
    pub lead_minus_m: f64,
}

/// How a module lies on its face.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Pose {
    /// Lower left corner of its box, mm along the eave and up the slope.
    pub corner_mm: [f64; 2],
    /// A quarter turn to the left.
    pub landscape: bool,
    /// Half a turn more.
    pub turned: bool,
}

/// Where a module's leads leave it on the face, mm.
#[derive(Clone, Copy, Debug, Default, PartialEq)]
pub struct Exits {
    /// The + lead.
    pub plus: [f64; 2],
    /// The - lead.
    pub minus: [f64; 2],
}

/// Along the eave and up the slope of a module of that width and length, mm.
pub fn laid_mm([width, length]: [f64; 2], landscape: bool) -> [f64; 2] {
    if landscape { [length, width] } else { [width, length] }
}

impl Leads {
    /// Size on the face, mm along the eave and up the slope.
    pub fn size_mm(&self, landscape: bool) -> [f64; 2] {
        laid_mm([self.width_mm, self.length_mm], landscape)
    }

    /// Where the leads of a module leave it.
    pub fn exits(&self, pose: Pose) -> Exits {
        let at = |exit| on_face(self, pose, exit);
        Exits { plus: at(self.exit_plus_mm), minus: at(self.exit_minus_mm) }
    }

    /// What + of one and - of the next reach together, m.
    pub fn reach_m(&self, slack_m: f64) -> f64 {
        self.lead_plus_m + self.lead_minus_m - slack_m
    }
}

/// A point (u, v) of the portrait module, on the face.
fn on_face(leads: &Leads, pose: Pose, [u, v]: [f64; 2]) -> [f64; 2] {
    let [x, y] = pose.corner_mm;
    let (w, l) = (leads.width_mm, leads.length_mm);
    match (pose.landscape, pose.turned) {
        (false, false) => [x + u, y + v],
        (false, true) => [x + w - u, y + l - v],
        (true, false) => [x + l - v, y + u],
        (true, true) => [x + v, y + w - u],
    }
}

/// Metres from one point of a face to another, along frame and rail.
pub fn path_m(from: [f64; 2], to: [f64; 2]) -> f64 {
    ((from[0] - to[0]).abs() + (from[1] - to[1]).abs()) / 1000.0
}

/// What a join takes.
#[derive(Clone, Copy, Debug, PartialEq)]
pub enum Join {
    /// The leads reach.
    Reaches,
    /// A jumper of a stock length, m.
    Jumper(f64),
    /// Further than the longest jumper bridges.
    Lost,
}

/// The join over a path, with jumpers in stock (m, ascending).
pub fn join(path_m: f64, reach_m: f64, stock_m: &[f64]) -> Join {
    if !above(path_m, reach_m) {
        return Join::Reaches;
    }
    let short = path_m - reach_m;
    stock_m.iter().find(|l| !below(**l, short)).map_or(Join::Lost, |l| Join::Jumper(*l))
}

/// Wire from a free exit to the box beyond what the lead itself does, m.
pub fn tail_m(exit: [f64; 2], at_box: [f64; 2], slack_m: f64, lead_m: f64) -> f64 {
    (path_m(exit, at_box) + slack_m - lead_m).max(0.0)
}
