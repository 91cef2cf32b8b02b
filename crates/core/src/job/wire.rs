//! Conductors and cables.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::school::School;

/// Conductor metal.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Material {
    /// Copper.
    #[default]
    Cu,
    /// Aluminium.
    Al,
}

impl Material {
    /// Key in the tables.
    pub fn key(self) -> &'static str {
        match self {
            Material::Cu => "cu",
            Material::Al => "al",
        }
    }
}

/// Insulation of a North American conductor.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
pub enum Insulation {
    /// THWN-2.
    #[default]
    #[serde(rename = "THWN-2")]
    Thwn2,
    /// XHHW-2: no roof adder.
    #[serde(rename = "XHHW-2")]
    Xhhw2,
    /// USE-2.
    #[serde(rename = "USE-2")]
    Use2,
    /// THWN.
    #[serde(rename = "THWN")]
    Thwn,
    /// THHN.
    #[serde(rename = "THHN")]
    Thhn,
    /// PV wire.
    #[serde(rename = "PV")]
    Pv,
    /// Nonmetallic-sheathed cable: 60 °C terminals.
    #[serde(rename = "NM")]
    Nm,
}

impl Insulation {
    /// As it is printed on the wire.
    pub fn word(self) -> &'static str {
        match self {
            Insulation::Thwn2 => "THWN-2",
            Insulation::Xhhw2 => "XHHW-2",
            Insulation::Use2 => "USE-2",
            Insulation::Thwn => "THWN",
            Insulation::Thhn => "THHN",
            Insulation::Pv => "PV",
            Insulation::Nm => "NM",
        }
    }
}

/// Cable of the IEC school.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Cable {
    /// EN 50618 solar cable.
    #[default]
    Solar,
    /// PVC insulated, 70 °C.
    Pvc70,
    /// XLPE insulated, 90 °C.
    Xlpe90,
}

impl Cable {
    /// Key in the tables.
    pub fn key(self) -> &'static str {
        match self {
            Cable::Solar => "solar",
            Cable::Pvc70 => "pvc70",
            Cable::Xlpe90 => "xlpe90",
        }
    }
}

/// A conductor. The school decides which fields are read: `awg`, `material`, `insulation`,
/// `terminal_c` (na); `mm2`, `cable` (iec).
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields, default)]
pub struct WireChoice {
    /// na: AWG or kcmil.
    #[serde(skip_serializing_if = "Option::is_none")]
    #[schema(max_length = 4)]
    pub awg: Option<String>,
    /// na: metal.
    pub material: Material,
    /// na: insulation.
    pub insulation: Insulation,
    /// na: temperature the terminals are marked for, 60 or 75 °C; 75 where absent.
    #[serde(skip_serializing_if = "Option::is_none")]
    #[schema(minimum = 60, maximum = 75)]
    pub terminal_c: Option<u32>,
    /// iec: section, mm².
    #[serde(skip_serializing_if = "Option::is_none")]
    #[schema(minimum = 0.5, maximum = 1000)]
    pub mm2: Option<f64>,
    /// iec: cable.
    pub cable: Cable,
    /// Measured outside diameter of one conductor, mm; wins over the tables.
    #[serde(skip_serializing_if = "Option::is_none")]
    #[schema(minimum = 0.5, maximum = 200)]
    pub od_mm: Option<f64>,
}

impl WireChoice {
    /// Its size as it is written: AWG or kcmil (na), mm² (iec); none where it is not picked.
    pub fn size(&self, school: School) -> Option<String> {
        match school {
            School::Na => self.awg.clone(),
            School::Iec => self.mm2.map(|mm2| mm2.to_string()),
        }
    }
}
