//! The roof map as it is drawn.

use std::ops::Add;

use serde::Serialize;
use utoipa::ToSchema;

use super::box_place::BoxPlace;
use super::face::{Sides, planned_on};
use super::leads::{Leads, Pose, laid_mm};
use super::map::{Map, box_of};
use super::rails::RoofRails;
use super::rows::RoofRows;
use super::string::OnMap;
use super::trunk::{Hop, OnTrunk};
use crate::job::{
    Face, FaceKey, FaceMap, JobBranch, JobString, Letter, ModuleKey, NodeKey, ObstructionKey,
};
use crate::plan::PlanFound;

/// A face with all that lies on it. Places are mm along the eave and up the slope.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct RoofFace {
    /// Its key.
    pub face: FaceKey,
    /// What it is called.
    pub name: String,
    /// Tilt from level, °.
    pub tilt_deg: f64,
    /// Azimuth from north, clockwise, °.
    pub azimuth_deg: f64,
    /// Its corners: eave left and right, ridge right and left; none where its sizes are not known.
    pub outline_mm: Option<[[f64; 2]; 4]>,
    /// What is drawn: left, lower, right, upper.
    pub extent_mm: [f64; 4],
    /// What stands in the way.
    pub obstructions: Vec<RoofObstruction>,
    /// Gap between modules, mm.
    pub gap_mm: f64,
    /// The four ways a module lies.
    pub poses: Vec<RoofPose>,
    /// Modules on it.
    pub modules_n: usize,
    /// Modules its strings and branches were planned with.
    pub planned_n: usize,
    /// The node its strings' tails come to.
    pub node: Option<NodeKey>,
    /// Where they end on the face.
    pub box_mm: Option<[f64; 2]>,
    /// Where the box would sit better.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub better_box: Option<BoxPlace>,
    /// What is kept free along its sides.
    pub free: Sides,
    /// Its strings.
    pub strings: Vec<RoofString>,
    /// Its frames, where they stand in rows.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub rows: Option<RoofRows>,
    /// Its rails.
    pub rails: RoofRails,
    /// Trunks of the branches that are fed on it.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub trunks: Vec<RoofTrunk>,
}

/// The trunk of a branch. Its units stand in the job; each way from one to the next has a check.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct RoofTrunk {
    /// Its letter.
    pub letter: Letter,
    /// Units it was planned with.
    pub n: u32,
    /// Drops lost between units, by the place of the unit before them, from 1.
    pub lost: Vec<RoofLost>,
    /// Field-wired bridges, by the place of the unit before them.
    pub bridges: Vec<RoofJumper>,
    /// From the box to each arm's first unit.
    pub feeds: Vec<RoofFeed>,
    /// Pieces it is cut into.
    pub pieces: Vec<RoofPiece>,
}

/// Drops between two units.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct RoofLost {
    /// Place of the unit before them.
    pub place: usize,
    /// How many.
    pub n: u32,
}

/// The trunk from the box to the first unit of an arm.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct RoofFeed {
    /// Place of the unit, from 1.
    pub place: usize,
    /// Its length, m.
    pub m: f64,
}

/// A piece of trunk, cut from a reel.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct RoofPiece {
    /// Drops on it.
    pub drops_n: u32,
    /// Its length with its feed, m.
    pub m: f64,
}

/// Something in the way.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct RoofObstruction {
    /// Its key.
    pub key: ObstructionKey,
    /// What it is.
    pub name: String,
    /// Left, lower, right, upper, mm.
    pub area_mm: [f64; 4],
    /// Kept free around it, mm.
    pub clearance_mm: f64,
}

/// A way modules of a face lie: their size, and where the leads leave them, from the lower left
/// corner.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct RoofPose {
    /// A quarter turn to the left.
    pub landscape: bool,
    /// Half a turn more.
    pub turned: bool,
    /// Along the eave and up the slope, mm.
    pub size_mm: [f64; 2],
    /// Where + leaves it; none where its sheet does not say.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub plus_mm: Option<[f64; 2]>,
    /// Where - leaves it.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub minus_mm: Option<[f64; 2]>,
}

/// A string on the face. Its modules stand in the job; each of its joins has a check.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct RoofString {
    /// Its letter.
    pub letter: Letter,
    /// Modules it was planned with.
    pub n: u32,
    /// Jumpers it takes, planned or needed.
    pub jumpers: Vec<RoofJumper>,
    /// Their lengths together, m.
    pub jumpers_m: f64,
    /// + tail.
    pub tail_plus: Option<RoofTail>,
    /// - tail.
    pub tail_minus: Option<RoofTail>,
}

/// A jumper.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct RoofJumper {
    /// Place of the module before it, from 1.
    pub place: usize,
    /// Its length, m.
    pub m: f64,
}

/// A tail.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct RoofTail {
    /// The free exit.
    pub from_mm: [f64; 2],
    /// The box.
    pub to_mm: [f64; 2],
    /// Wire beyond the lead, m.
    pub wire_m: f64,
}

/// The corners of a face: eave left and right, ridge right and left; none without its sizes. Of
/// frames in rows from the first one's foot to the last one's upper edge.
pub fn outline(map: &FaceMap) -> Option<[[f64; 2]; 4]> {
    let (eave, slope) = (map.eave_m? * 1000.0, map.slope_m? * 1000.0);
    if let Some(rows) = map.rows {
        let deep = f64::from(rows.n) * (slope + rows.gap_m * 1000.0) - rows.gap_m * 1000.0;
        return Some([[0.0, 0.0], [eave, 0.0], [eave, deep], [0.0, deep]]);
    }
    let ridge = map.ridge_m.map_or(eave, |m| m * 1000.0);
    let from = map.ridge_from_m.map_or((eave - ridge) / 2.0, |m| m * 1000.0);
    Some([[0.0, 0.0], [eave, 0.0], [from + ridge, slope], [from, slope]])
}

/// Drawn around modules where the face's sizes are not known, mm.
const MARGIN_MM: f64 = 500.0;

pub(super) fn drawn(
    map: &Map,
    plan: &PlanFound,
    face: &Face,
    strings: &[&(&JobString, OnMap)],
    trunks: &[&(&JobBranch, OnTrunk)],
) -> RoofFace {
    let none = FaceMap::default();
    let own = map.job.roof.get(&face.id).unwrap_or(&none);
    let leads = map.leads(&face.id).ok();
    let poses = poses(leads.as_ref());
    let outline_mm = outline(own);
    let strung = strings.iter().map(|(s, _)| &s.letter);
    let letters: Vec<&Letter> = strung.chain(trunks.iter().map(|(b, _)| &b.letter)).collect();
    let node = box_of(plan, &letters);
    RoofFace {
        face: face.id.clone(),
        name: face.name.clone(),
        tilt_deg: face.tilt_deg,
        azimuth_deg: face.azimuth_deg,
        extent_mm: extent(outline_mm.as_ref(), &poses, own),
        outline_mm,
        poses,
        obstructions: own
            .obstructions
            .iter()
            .map(|(key, o)| RoofObstruction {
                key: key.clone(),
                name: o.name.clone(),
                area_mm: [o.x_mm, o.y_mm, o.x_mm + o.width_mm, o.y_mm + o.height_mm],
                clearance_mm: o.clearance_mm,
            })
            .collect(),
        gap_mm: own.gap_mm.unwrap_or(super::GAP_MM),
        modules_n: own.modules.len(),
        planned_n: planned_on(map, &face.id),
        node: node.cloned(),
        box_mm: own.box_mm,
        better_box: None,
        free: Sides::of(own, map.job),
        strings: strings.iter().map(|(s, on_map)| of_string(s, on_map)).collect(),
        rows: None,
        rails: RoofRails::default(),
        trunks: trunks.iter().map(|(b, on_map)| of_trunk(b, on_map)).collect(),
    }
}

fn of_string(s: &JobString, on_map: &OnMap) -> RoofString {
    let jumpers = on_map.joins.iter().filter_map(|j| {
        let m = j.jumper_m?;
        Some(RoofJumper { place: j.place, m })
    });
    RoofString {
        letter: s.letter.clone(),
        n: s.n,
        jumpers: jumpers.collect(),
        jumpers_m: on_map.joins.iter().filter_map(|j| j.jumper_m).fold(0.0, f64::add),
        tail_plus: on_map.tail_plus.clone(),
        tail_minus: on_map.tail_minus.clone(),
    }
}

fn of_trunk(b: &JobBranch, own: &OnTrunk) -> RoofTrunk {
    let hops = || own.hops.iter().enumerate().map(|(at, hop)| (at + 1, hop));
    let first = b.first_units();
    let place = |m: &ModuleKey| b.modules.iter().position(|o| o == m).map_or(0, |at| at + 1);
    RoofTrunk {
        letter: b.letter.clone(),
        n: b.units(),
        lost: hops()
            .filter_map(|(place, hop)| match hop {
                Hop::Trunk(n) if *n > 1 => Some(RoofLost { place, n: n - 1 }),
                _ => None,
            })
            .collect(),
        bridges: hops()
            .filter_map(|(place, hop)| match hop {
                Hop::Bridge(m) => Some(RoofJumper { place, m: *m }),
                _ => None,
            })
            .collect(),
        feeds: first
            .into_iter()
            .zip(&own.feeds_m)
            .map(|(first, m)| RoofFeed { place: place(first), m: *m })
            .collect(),
        pieces: own.pieces.iter().map(|(n, m)| RoofPiece { drops_n: *n, m: *m }).collect(),
    }
}

/// Size of a module whose sheet does not say, mm: it is drawn all the same.
const SOME_MM: [f64; 2] = [1000.0, 1700.0];

/// The four ways a module lies: portrait, portrait turned, landscape, landscape turned.
fn poses(leads: Option<&Leads>) -> Vec<RoofPose> {
    let each = [(false, false), (false, true), (true, false), (true, true)];
    let pose = |(landscape, turned)| {
        let exits = leads.map(|l| l.exits(Pose { corner_mm: [0.0, 0.0], landscape, turned }));
        let unknown = laid_mm(SOME_MM, landscape);
        RoofPose {
            landscape,
            turned,
            size_mm: leads.map_or(unknown, |l| l.size_mm(landscape)),
            plus_mm: exits.map(|e| e.plus),
            minus_mm: exits.map(|e| e.minus),
        }
    };
    each.into_iter().map(pose).collect()
}

fn extent(outline: Option<&[[f64; 2]; 4]>, poses: &[RoofPose], own: &FaceMap) -> [f64; 4] {
    let corners = outline.into_iter().flatten().map(|[x, y]| [*x, *y, *x, *y]);
    let around = own.modules.values().map(|m| {
        let lies = poses.iter().find(|p| p.landscape == m.landscape);
        let [w, h] = lies.map_or(SOME_MM, |p| p.size_mm);
        let more = if outline.is_some() { 0.0 } else { MARGIN_MM };
        [m.x_mm - more, m.y_mm - more, m.x_mm + w + more, m.y_mm + h + more]
    });
    let at_box = own.box_mm.map(|[x, y]| [x, y, x, y]);
    let all = corners.chain(around).chain(at_box);
    let wide = |[l, b, r, t]: [f64; 4], [l2, b2, r2, t2]: [f64; 4]| {
        [l.min(l2), b.min(b2), r.max(r2), t.max(t2)]
    };
    all.reduce(wide).unwrap_or([0.0, 0.0, 5000.0, 4000.0])
}
