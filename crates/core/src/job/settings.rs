//! Settings in which practice differs, the panel, places for the inverter, data sheets kept on
//! purpose.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::Place;
use crate::library::SheetKind;
use crate::school::Edition;

/// Settings in which practice differs; shown where they act.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields, default)]
pub struct Settings {
    /// na: edition of the code; 2023 where absent.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub edition: Option<Edition>,
    /// Limit of voltage drop, dc, %; the school's where absent.
    #[serde(skip_serializing_if = "Option::is_none")]
    #[schema(minimum = 0.1, maximum = 20)]
    pub vdrop_dc_pct: Option<f64>,
    /// Limit of voltage drop, ac, %; the school's where absent.
    #[serde(skip_serializing_if = "Option::is_none")]
    #[schema(minimum = 0.1, maximum = 20)]
    pub vdrop_ac_pct: Option<f64>,
    /// iec: space factor of a conduit, %; 40 where absent.
    #[serde(skip_serializing_if = "Option::is_none")]
    #[schema(minimum = 1, maximum = 100)]
    pub fill_limit_pct: Option<f64>,
    /// iec: amps per phase from which the network wants to be asked before; 16 where absent.
    #[serde(skip_serializing_if = "Option::is_none")]
    #[schema(minimum = 1, maximum = 1000)]
    pub network_a: Option<f64>,
    /// Paths for the fire service are kept free on the roof; absent: not said. They are not asked
    /// of out-buildings.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub fire_paths: Option<bool>,
    /// Slack kept for clips at each join and tail of a string, m; 0.10 where absent.
    #[serde(skip_serializing_if = "Option::is_none")]
    #[schema(minimum = 0, maximum = 5)]
    pub lead_slack_m: Option<f64>,
    /// Stock lengths of jumpers, m; 0.5, 1, 2, 3, 5 and 10 where none is said.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    #[schema(max_items = 50)]
    pub jumpers_m: Vec<f64>,
    /// Sections of trunk cable between two units from which on a field-wired cable bridges them
    /// instead; more than 3 where absent.
    #[serde(skip_serializing_if = "Option::is_none")]
    #[schema(minimum = 1, maximum = 20)]
    pub trunk_sections_n: Option<u32>,
    /// Friction of the pull; 0.5 where absent, less with lubricant.
    #[serde(skip_serializing_if = "Option::is_none")]
    #[schema(minimum = 0.05, maximum = 1)]
    pub pull_mu: Option<f64>,
    /// Length of a pull from which on it is a caution, m; 30 where absent.
    #[serde(skip_serializing_if = "Option::is_none")]
    #[schema(minimum = 1, maximum = 500)]
    pub pull_length_m: Option<f64>,
    /// One piece of raceway as it is sold, m; 3.048 (na) or 3 (iec) where absent.
    #[serde(skip_serializing_if = "Option::is_none")]
    #[schema(minimum = 0.5, maximum = 12)]
    pub piece_m: Option<f64>,
}

/// The main panel.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields, default)]
pub struct Panel {
    /// Busbar rating, A.
    #[schema(minimum = 1, maximum = 10000)]
    pub bus_a: Option<f64>,
    /// Main breaker, A.
    #[schema(minimum = 1, maximum = 10000)]
    pub main_a: Option<f64>,
    /// Breakers that feed loads, A; empty: not entered. A panel with no loads is written `[0]`.
    #[schema(max_items = 200)]
    pub load_breakers_a: Vec<f64>,
    /// The PV breaker sits at the end of the bus away from the main; absent: not known.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub pv_at_far_end: Option<bool>,
    /// Load calculation, A.
    #[serde(skip_serializing_if = "Option::is_none")]
    #[schema(minimum = 0, maximum = 10000)]
    pub load_calc_a: Option<f64>,
}

/// A place the inverter might go.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct InverterPlace {
    /// What it is called.
    #[schema(min_length = 1, max_length = 60)]
    pub name: String,
    /// The kind of place.
    pub place: Place,
    /// DC cable from the array, one way, m.
    #[serde(default)]
    #[schema(minimum = 0, maximum = 5000)]
    pub dc_m: Option<f64>,
    /// AC cable to the panel, one way, m.
    #[serde(default)]
    #[schema(minimum = 0, maximum = 5000)]
    pub ac_m: Option<f64>,
}

/// An assumption of the report that somebody has looked at and found to be so.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Confirmed {
    /// Key of the assumption.
    #[schema(min_length = 1, max_length = 60)]
    pub assumption: String,
    /// Who looked.
    #[schema(min_length = 1, max_length = 120)]
    pub by: String,
}

/// A decision to keep an older revision of a data sheet: the equipment on site is of that revision,
/// say.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct KeptSheet {
    /// Kind of the sheet.
    pub kind: SheetKind,
    /// Key of the sheet.
    #[schema(min_length = 1, max_length = 60)]
    pub sheet: String,
    /// The revision that is kept.
    #[schema(minimum = 1, maximum = 9999)]
    pub revision: u32,
    /// The newer one that is not taken.
    #[schema(minimum = 1, maximum = 9999)]
    pub newer: u32,
    /// Why.
    #[schema(min_length = 1, max_length = 400)]
    pub reason: String,
}
