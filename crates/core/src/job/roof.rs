//! The roof map: the measured size of each face, what stands in the way, and the modules as they
//! lie.

use std::collections::BTreeMap;

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::{FaceKey, ModuleKey, ObstructionKey};
use crate::library::SheetRef;

/// The map of one face. x runs along the eave from the left corner as one stands before it, y up
/// the slope, both in the plane of the face.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct FaceMap {
    /// The module that lies on it; that of its strings where absent.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub module: Option<SheetRef>,
    /// Width at the eave, m.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(minimum = 0.1, maximum = 500)]
    pub eave_m: Option<f64>,
    /// Width at the ridge, m; as the eave where absent, 0 for a triangle.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(minimum = 0, maximum = 500)]
    pub ridge_m: Option<f64>,
    /// From the left end of the eave to below the left end of the ridge, m; the ridge is centred
    /// where absent.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(minimum = -500, maximum = 500)]
    pub ridge_from_m: Option<f64>,
    /// Length up the slope, m.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(minimum = 0.1, maximum = 500)]
    pub slope_m: Option<f64>,
    /// Where the tails of its strings end, mm along the eave and up the slope: a box, or where they
    /// go through the roof.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub box_mm: Option<[f64; 2]>,
    /// What is kept free along each side.
    #[serde(default, skip_serializing_if = "FreePaths::nothing_said")]
    pub free: FreePaths,
    /// Gap between modules, where clamps sit, mm; 20 where absent.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(minimum = 0, maximum = 1000)]
    pub gap_mm: Option<f64>,
    /// What stands in the way, by key.
    #[serde(default, skip_serializing_if = "BTreeMap::is_empty")]
    pub obstructions: BTreeMap<ObstructionKey, Obstruction>,
    /// Frames on the ground or a flat roof, in rows one behind the other; `slope_m` is then that of
    /// one row, and on the map a row lies behind the other by slope and gap.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub rows: Option<FrameRows>,
    /// Rails, and what holds them.
    #[serde(default, skip_serializing_if = "Rails::nothing_said")]
    pub rails: Rails,
    /// Where leads and trunk leave it for another face, by that face. Two faces share one, entered
    /// at either.
    #[serde(default, skip_serializing_if = "BTreeMap::is_empty")]
    pub crossings: BTreeMap<FaceKey, Crossing>,
    /// The modules, by key. A key stands once in a job.
    #[serde(default, skip_serializing_if = "BTreeMap::is_empty")]
    pub modules: BTreeMap<ModuleKey, Placed>,
}

/// What is kept free along the sides of a face, m; the setting's where absent.
#[derive(Clone, Copy, Debug, Default, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct FreePaths {
    /// Along the eave.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(minimum = 0, maximum = 50)]
    pub eave_m: Option<f64>,
    /// Along the ridge.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(minimum = 0, maximum = 50)]
    pub ridge_m: Option<f64>,
    /// Along the left side.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(minimum = 0, maximum = 50)]
    pub left_m: Option<f64>,
    /// Along the right side.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(minimum = 0, maximum = 50)]
    pub right_m: Option<f64>,
}

impl FreePaths {
    fn nothing_said(&self) -> bool {
        *self == FreePaths::default()
    }
}

/// Something modules keep away from.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Obstruction {
    /// What it is.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    #[schema(max_length = 60)]
    pub name: String,
    /// Its left side, mm.
    #[schema(minimum = -500_000, maximum = 500_000)]
    pub x_mm: f64,
    /// Its lower side, mm.
    #[schema(minimum = -500_000, maximum = 500_000)]
    pub y_mm: f64,
    /// Along the eave, mm.
    #[schema(minimum = 1, maximum = 500_000)]
    pub width_mm: f64,
    /// Up the slope, mm.
    #[schema(minimum = 1, maximum = 500_000)]
    pub height_mm: f64,
    /// Kept free around it, mm.
    #[serde(default)]
    #[schema(minimum = 0, maximum = 50_000)]
    pub clearance_mm: f64,
}

/// Frames in rows.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct FrameRows {
    /// Rows.
    #[schema(minimum = 1, maximum = 200)]
    pub n: u32,
    /// Level distance from the upper edge of a row to the lower edge of the row behind, m.
    #[schema(minimum = 0, maximum = 100)]
    pub gap_m: f64,
    /// By how much the lower edge of each row stands higher than that of the row before, m: the
    /// ground rises.
    #[serde(default)]
    #[schema(minimum = -20, maximum = 20)]
    pub step_m: f64,
}

/// Rails of a face: two under each row of modules.
#[derive(Clone, Copy, Debug, Default, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields, default)]
pub struct Rails {
    /// They run up the slope, under columns of modules; along the eave where not.
    #[serde(skip_serializing_if = "std::ops::Not::not")]
    pub up_slope: bool,
    /// Most between two attachments, m; 1.2 where absent.
    #[serde(skip_serializing_if = "Option::is_none")]
    #[schema(minimum = 0.1, maximum = 10)]
    pub span_m: Option<f64>,
    /// Most beyond the last attachment, m; a third of the span where absent.
    #[serde(skip_serializing_if = "Option::is_none")]
    #[schema(minimum = 0, maximum = 5)]
    pub cantilever_m: Option<f64>,
    /// Length of a piece of rail, m.
    #[serde(skip_serializing_if = "Option::is_none")]
    #[schema(minimum = 0.5, maximum = 20)]
    pub piece_m: Option<f64>,
    /// Weight of a metre of rail, kg; 0.9 where absent.
    #[serde(skip_serializing_if = "Option::is_none")]
    #[schema(minimum = 0.1, maximum = 20)]
    pub kg_per_m: Option<f64>,
    /// Its splices carry the bond from piece to piece, by their sheet; absent: not known.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub splices_bond: Option<bool>,
    /// Its clamps bond the modules to it, by their sheet; absent: not known.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub clamps_bond: Option<bool>,
    /// A bonding conductor is led from its lugs to the box; absent: as it is planned.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub bonded: Option<bool>,
}

impl Rails {
    fn nothing_said(&self) -> bool {
        *self == Rails::default()
    }
}

/// Where leads and trunk cross from one face to another.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Crossing {
    /// Where they leave this face, mm along its eave and up its slope.
    pub from_mm: [f64; 2],
    /// Where they come to the other face, mm on that.
    pub to_mm: [f64; 2],
    /// Between the two points, m: across a gap between roofs, say. 0 where they are one.
    #[serde(default)]
    #[schema(minimum = 0, maximum = 500)]
    pub over_m: f64,
}

/// A module as it lies on its face.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Placed {
    /// Lower left corner of its box along the eave, mm.
    #[schema(minimum = -500_000, maximum = 500_000)]
    pub x_mm: f64,
    /// The same up the slope, mm.
    #[schema(minimum = -500_000, maximum = 500_000)]
    pub y_mm: f64,
    /// A quarter turn to the left: its length lies along the eave.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub landscape: bool,
    /// Half a turn more.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub turned: bool,
    /// Its serial number.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(min_length = 1, max_length = 60)]
    pub serial: Option<String>,
}
