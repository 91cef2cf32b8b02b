//! The roof map: modules as they lie, how their leads join, and what the tails to the box take.

mod box_place;
mod drawing;
mod face;
mod leads;
mod map;
mod rails;
mod rows;
mod serials;
mod string;
mod trunk;

pub use box_place::BoxPlace;
pub use drawing::{
    RoofFace, RoofJumper, RoofObstruction, RoofPose, RoofString, RoofTail, RoofTrunk, outline,
};
pub use face::Sides;
pub use leads::{Exits, Join, Leads, Pose, join, laid_mm, path_m, tail_m};
pub use map::{Map, RoofFound, leads_of, module_of};
pub use rails::RoofRails;
pub use rows::{RoofRows, RowShade, row_shade};
pub use trunk::{Hop, OnTrunk, Pitch, Spread, most_sections, spread};

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
    for cards in [
        string::CARDS,
        box_place::CARDS,
        trunk::CARDS,
        face::CARDS,
        rows::CARDS,
        rails::CARDS,
        serials::CARDS,
    ] {
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
    let trunks: Vec<_> = job
        .branches
        .iter()
        .filter(|b| !b.modules.is_empty() || job.roof.contains_key(&b.face))
        .map(|b| (b, trunk::trunk(sheet, &map, bench.library, b)))
        .collect();
    trunk::reels(sheet, bench.library, &trunks);
    let mut found = RoofFound::default();
    for face in job.site.faces.iter().filter(|f| job.roof.contains_key(&f.id)) {
        let fed_strings: Vec<_> = strings.iter().filter(|(s, _)| s.face == face.id).collect();
        face::face(sheet, &map, face, &fed_strings);
        serials::serials(sheet, &map, &face.id);
        let fed: Vec<_> = trunks.iter().filter(|(b, _)| b.face == face.id).collect();
        let mut drawn = drawing::drawn(&map, plan, face, &fed_strings, &fed);
        if let Some(own) = job.roof.get(&face.id) {
            drawn.better_box = box_place::box_place(sheet, &map, &face.id, &fed_strings);
            drawn.rows = rows::rows(sheet, &job.site, face, own);
            drawn.rails = rails::rails(sheet, &map, bench.library, face, own);
        }
        found.faces.push(drawn);
    }
    found
}
