//! The roof map: modules as they lie, how their leads join, and what the tails to the box take.

mod drawing;
mod face;
mod leads;
mod map;
mod serials;
mod string;

pub use drawing::{RoofFace, RoofJumper, RoofObstruction, RoofPose, RoofString, RoofTail, outline};
pub use face::Sides;
pub use leads::{Exits, Join, Leads, Pose, join, path_m, tail_m};
pub use map::{Map, RoofFound, leads_of, module_of};

use crate::figure::Sheet;
use crate::plan::PlanFound;
use crate::registry::{Bench, Registry, need};

/// Gap between modules, mm.
pub const GAP_MM: f64 = 20.0;
/// Slack kept for clips at each join and tail, m.
pub const SLACK_M: f64 = 0.10;
/// Jumpers in stock, m.
pub const STOCK_M: [f64; 6] = [0.5, 1.0, 2.0, 3.0, 5.0, 10.0];

/// What the stage brings with it.
pub fn define(r: &mut Registry) {
    for cards in [string::CARDS, face::CARDS, serials::CARDS] {
        r.figures(cards);
    }
    r.pass("roof map", &[need::<PlanFound>()], roof_of_job);
}

fn roof_of_job(bench: &Bench, sheet: &mut Sheet) -> RoofFound {
    let job = bench.job;
    if job.roof.is_empty() {
        return RoofFound::default();
    }
    let map = Map::of(job, bench.library);
    let plan = bench.found.get::<PlanFound>();
    let strings: Vec<_> = job
        .strings
        .iter()
        .filter(|s| !s.modules.is_empty() || job.roof.contains_key(&s.face))
        .map(|s| (s, string::string(sheet, &map, s)))
        .collect();
    let mut found = RoofFound::default();
    for face in job.site.faces.iter().filter(|f| job.roof.contains_key(&f.id)) {
        let own: Vec<_> = strings.iter().filter(|(s, _)| s.face == face.id).collect();
        face::face(sheet, &map, face, &own);
        serials::serials(sheet, &map, &face.id);
        found.faces.push(drawing::drawn(&map, plan, face, &own));
    }
    found
}
