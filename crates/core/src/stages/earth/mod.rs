//! Grounding and bonding (na), earthing (iec): every metal part on its way to the electrode, what
//! each conductor of that way has to be, and the backup output that stands alone while the grid is
//! gone.

mod backup;
mod checks;
mod conductor;
mod graph;

pub(crate) use graph::is_metal;
pub use graph::{BondBy, BondEdge, Bonding, MetalPart, PartKind};

use crate::figure::Sheet;
use crate::plan::PlanFound;
use crate::registry::{Bench, Registry, need};
use crate::stages::roof::RoofFound;
use crate::stages::runs::RunsFound;

/// What the stage brings with it.
pub fn define(r: &mut Registry) {
    for cards in [checks::CARDS, conductor::CARDS, backup::CARDS] {
        r.figures(cards);
    }
    let needs = [need::<PlanFound>(), need::<RunsFound>(), need::<RoofFound>()];
    r.pass("bonding", &needs, earth_of_job);
}

fn earth_of_job(bench: &Bench, sheet: &mut Sheet) -> Bonding {
    let bonding = graph::bonding(bench, sheet);
    checks::of_job(bench, sheet, &bonding);
    conductor::of_job(bench, sheet);
    backup::of_job(bench, sheet, &bonding);
    bonding
}
