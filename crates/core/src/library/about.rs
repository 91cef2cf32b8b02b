//! What a data sheet is looked at for while it is entered.

use serde::Deserialize;
use utoipa::ToSchema;

use super::ModuleRatings;

/// The site a data sheet is looked at for, and the module that stands for modules.
#[derive(Clone, Debug, Default, Deserialize, ToSchema)]
#[serde(deny_unknown_fields, default)]
pub struct About {
    /// Lowest expected ambient, °C.
    pub t_min_c: Option<f64>,
    /// 2 % high ambient, °C.
    pub t_max_c: Option<f64>,
    /// Cell rise on a hot day, K.
    pub cell_rise_hot_c: Option<f64>,
    /// DC ceiling of the building, V.
    pub dc_ceiling_v: Option<f64>,
    /// The module an inverter, optimizer or microinverter is looked at with.
    pub module: Option<ModuleRatings>,
}
