//! What a circuit carries, the places it passes through, and how it lies there.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

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
    /// Bonding conductor.
    Bond,
    /// Communication; it keeps out of raceways with power.
    Control,
}

impl CircuitKind {
    /// Whether it carries DC.
    pub fn is_dc(self) -> bool {
        matches!(self, CircuitKind::PvString | CircuitKind::PvOutput)
    }

    /// Whether it carries AC power.
    pub fn is_ac(self) -> bool {
        self.is_power() && !self.is_dc()
    }

    /// Whether it carries power.
    pub fn is_power(self) -> bool {
        !matches!(self, CircuitKind::Bond | CircuitKind::Control)
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
