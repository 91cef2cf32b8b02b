//! Readings taken on a string.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::{Letter, ReadingKey};

/// A reading taken on a string. Readings are only ever added.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Reading {
    /// Its id.
    pub id: ReadingKey,
    /// When it was taken, UTC, as RFC 3339 writes it.
    #[schema(min_length = 1, max_length = 40, format = DateTime)]
    pub at: String,
    /// Who took it.
    #[schema(min_length = 1, max_length = 120)]
    pub by: String,
    /// Who brought it in with a file; none for one that was entered here.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(max_length = 120)]
    pub brought_by: Option<String>,
    /// What was read.
    pub values: ReadingValues,
}

/// What a meter said, and the light and warmth it said it in.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct ReadingValues {
    /// The string, by letter.
    pub string: Letter,
    /// Irradiance in the plane of the modules, W/m².
    #[serde(default)]
    #[schema(minimum = 0, maximum = 2000)]
    pub irradiance_w_m2: Option<f64>,
    /// Cell temperature as known, °C; goes first.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(minimum = -60, maximum = 120)]
    pub cell_c: Option<f64>,
    /// Back of a module, °C.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(minimum = -60, maximum = 120)]
    pub back_c: Option<f64>,
    /// Air, °C; needs the module's NMOT.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(minimum = -60, maximum = 70)]
    pub ambient_c: Option<f64>,
    /// Open-circuit volts, V; negative as the meter shows it.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(minimum = -3000, maximum = 3000)]
    pub voc_v: Option<f64>,
    /// Short-circuit amps, A.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(minimum = -1000, maximum = 1000)]
    pub isc_a: Option<f64>,
}
