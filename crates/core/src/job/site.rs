//! The site: temperatures, building, mounting, faces.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::{FaceKey, WeatherRecord};
use crate::school::School;

/// How the array stands off its roof; it decides how much hotter than the air a cell gets.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Mounting {
    /// Flush with the roof: 35 K.
    Flush,
    /// Raised or tilted: 30 K.
    Raised,
    /// On the ground or a pole: 25 K.
    Ground,
}

impl Mounting {
    /// Cell rise above the air on a hot day, K.
    pub fn cell_rise_c(self) -> f64 {
        match self {
            Mounting::Flush => 35.0,
            Mounting::Raised => 30.0,
            Mounting::Ground => 25.0,
        }
    }
}

/// The kind of building, for its DC ceiling (690.7).
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
pub enum Building {
    /// na: one- and two-family dwelling.
    #[serde(rename = "dwelling_1_2")]
    Dwelling12,
    /// na: another building's roof.
    #[serde(rename = "other_roof")]
    OtherRoof,
    /// iec: on a building.
    #[serde(rename = "building")]
    Building,
    /// Ground mount.
    #[serde(rename = "ground")]
    Ground,
}

impl Building {
    /// Whether a school knows this kind of building.
    pub fn is_of(self, school: School) -> bool {
        match self {
            Building::Dwelling12 | Building::OtherRoof => school == School::Na,
            Building::Building => school == School::Iec,
            Building::Ground => true,
        }
    }
}

/// How cold open-circuit volts are had.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum ColdMethod {
    /// By the module's own coefficient.
    #[default]
    Coefficient,
    /// By table 690.7(A).
    Table,
    /// By the factor 1.15; iec only.
    Factor,
}

/// The site.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields, default)]
pub struct Site {
    /// Lowest expected ambient, °C.
    #[schema(minimum = -70, maximum = 40)]
    pub t_min_c: Option<f64>,
    /// 2 % high ambient, °C.
    #[schema(minimum = -20, maximum = 60)]
    pub t_max_c: Option<f64>,
    /// Lowest value of each year of a weather record, °C; held against `t_min_c`.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    #[schema(max_items = 200)]
    pub yearly_min_c: Vec<f64>,
    /// Hourly values of the hottest month of a weather record, °C; held against `t_max_c`.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    #[schema(max_items = 30000)]
    pub hottest_month_hourly_c: Vec<f64>,
    /// The weather file the two are of.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub weather: Option<WeatherRecord>,
    /// Latitude of the site, north positive, °.
    #[serde(skip_serializing_if = "Option::is_none")]
    #[schema(minimum = -90, maximum = 90)]
    pub latitude_deg: Option<f64>,
    /// Longitude of the site, east positive, °.
    #[serde(skip_serializing_if = "Option::is_none")]
    #[schema(minimum = -180, maximum = 180)]
    pub longitude_deg: Option<f64>,
    /// How the array is mounted.
    pub mounting: Option<Mounting>,
    /// Cell rise as entered, K; wins over the mounting's.
    #[schema(minimum = 0, maximum = 60)]
    pub cell_rise_hot_c: Option<f64>,
    /// Kind of building.
    pub building: Option<Building>,
    /// The kind of building that DC of a ground mount enters, where it enters one.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub dc_enters: Option<Building>,
    /// How cold volts are had.
    pub cold_method: ColdMethod,
    /// Free height below the modules, mm.
    #[serde(skip_serializing_if = "Option::is_none")]
    #[schema(minimum = 0, maximum = 5000)]
    pub module_clearance_mm: Option<f64>,
    /// The faces modules lie on.
    #[schema(max_items = 100)]
    pub faces: Vec<Face>,
}

/// A plane modules lie on.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Face {
    /// Key within the job.
    pub id: FaceKey,
    /// What it is called.
    #[schema(min_length = 1, max_length = 80)]
    pub name: String,
    /// Tilt from level, °.
    #[schema(minimum = 0, maximum = 90)]
    pub tilt_deg: f64,
    /// Azimuth from north, clockwise, °.
    #[schema(minimum = 0, maximum = 360)]
    pub azimuth_deg: f64,
}
