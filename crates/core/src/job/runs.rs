//! Runs: circuits with their way through the house.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::{InverterKey, Letter, RunKey, WireChoice};
use crate::school::School;

/// What kind of circuit a conductor carries.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum CircuitKind {
    /// One string.
    PvString,
    /// Parallel strings after a combiner.
    PvOutput,
    /// An inverter's output.
    InverterOut,
    /// A branch of microinverters.
    MicroBranch,
    /// Combined output to the panel.
    AcFeeder,
}

impl CircuitKind {
    /// Whether it carries DC.
    pub fn is_dc(self) -> bool {
        matches!(self, CircuitKind::PvString | CircuitKind::PvOutput)
    }
}

/// A place a route passes through, from the top of the house down.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Place {
    /// Under the modules.
    UnderModules,
    /// On the roof in the sun.
    RoofSun,
    /// On the roof in shade.
    RoofShade,
    /// Attic or loft.
    Attic,
    /// Inside the building.
    Inside,
    /// Wall cavity.
    Cavity,
    /// Garage or shed.
    Garage,
    /// Outside wall in sun.
    OutsideWallSun,
    /// Outside wall in shade.
    OutsideWallShade,
    /// Under eave or porch.
    Sheltered,
    /// In the ground.
    Underground,
}

impl Place {
    /// Key in `data/segment_places.csv`.
    pub fn key(self) -> &'static str {
        match self {
            Place::UnderModules => "under_modules",
            Place::RoofSun => "roof_sun",
            Place::RoofShade => "roof_shade",
            Place::Attic => "attic",
            Place::Inside => "inside",
            Place::Cavity => "cavity",
            Place::Garage => "garage",
            Place::OutsideWallSun => "outside_wall_sun",
            Place::OutsideWallShade => "outside_wall_shade",
            Place::Sheltered => "sheltered",
            Place::Underground => "underground",
        }
    }
}

/// How the conductors lie in a segment.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Method {
    /// In a raceway or conduit.
    #[default]
    Raceway,
    /// As a cable.
    Cable,
    /// In free air.
    FreeAir,
}

/// A raceway by kind and size.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct RacewayChoice {
    /// na `emt rmc imc pvc40 pvc80 fmc lfmc`; iec `medium heavy`.
    pub kind: RacewayKind,
    /// na: trade size; iec: millimetres.
    #[schema(min_length = 1, max_length = 6)]
    pub size: String,
}

/// Kind of raceway.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum RacewayKind {
    /// Electrical metallic tubing.
    Emt,
    /// Rigid metal conduit.
    Rmc,
    /// Intermediate metal conduit.
    Imc,
    /// Rigid PVC conduit, schedule 40.
    Pvc40,
    /// Rigid PVC conduit, schedule 80.
    Pvc80,
    /// Flexible metal conduit.
    Fmc,
    /// Liquidtight flexible metal conduit.
    Lfmc,
    /// IEC rigid conduit, medium duty.
    Medium,
    /// IEC rigid conduit, heavy duty.
    Heavy,
}

impl RacewayKind {
    /// Key in the tables.
    pub fn key(self) -> &'static str {
        match self {
            RacewayKind::Emt => "emt",
            RacewayKind::Rmc => "rmc",
            RacewayKind::Imc => "imc",
            RacewayKind::Pvc40 => "pvc40",
            RacewayKind::Pvc80 => "pvc80",
            RacewayKind::Fmc => "fmc",
            RacewayKind::Lfmc => "lfmc",
            RacewayKind::Medium => "medium",
            RacewayKind::Heavy => "heavy",
        }
    }

    /// The school whose tables hold it.
    pub fn school(self) -> School {
        match self {
            RacewayKind::Medium | RacewayKind::Heavy => School::Iec,
            _ => School::Na,
        }
    }
}

/// One segment of a run: one place, one method.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Segment {
    /// The place.
    pub place: Place,
    /// How the conductors lie there.
    #[serde(default)]
    pub method: Method,
    /// Length one way, m.
    #[serde(default)]
    #[schema(minimum = 0, maximum = 5000)]
    pub length_m: Option<f64>,
    /// Added to the site's high ambient instead of the place's figure, K.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(minimum = -30, maximum = 60)]
    pub ambient_add_c: Option<f64>,
    /// Height above the roof, mm; below 23 mm (7/8 in) in the sun the wire gets hotter.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(minimum = 0, maximum = 2000)]
    pub roof_clearance_mm: Option<f64>,
    /// The raceway, where there is one.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub raceway: Option<RacewayChoice>,
}

/// A run: circuits of one kind that go the same way in the same conductors' size.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Run {
    /// Key within the job.
    pub id: RunKey,
    /// What it is called.
    #[schema(min_length = 1, max_length = 80)]
    pub name: String,
    /// What it carries.
    pub kind: CircuitKind,
    /// The strings it carries, by letter (dc).
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    #[schema(max_items = 100)]
    pub strings: Vec<Letter>,
    /// The inverter whose output it carries (ac).
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub inverter: Option<InverterKey>,
    /// The conductor.
    #[serde(default)]
    pub wire: WireChoice,
    /// A neutral runs along (ac).
    #[serde(default)]
    pub neutral: bool,
    /// Overcurrent device that protects it, A; ac where absent: the next standard size.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(minimum = 1, maximum = 10000)]
    pub ocpd_a: Option<f64>,
    /// The way, segment by segment.
    #[serde(default)]
    #[schema(max_items = 50)]
    pub segments: Vec<Segment>,
}
