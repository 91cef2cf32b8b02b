//! The roof map: the measured size of each face, what stands in the way, and the modules as they
//! lie.

use std::collections::BTreeMap;

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::{ModuleKey, ObstructionKey};
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
