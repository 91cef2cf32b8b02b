//! A microinverter's data sheet.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::field::{Field, number, other};
use super::{AC, BODY, SheetData, ordered};
use crate::problem::Problem;

const FIELDS: &[Field] = &[
    number("Input", "in_v_max_v", "Largest input volts", "V"),
    number("Input", "mppt_min_v", "Tracking from", "V"),
    number("Input", "mppt_max_v", "Tracking up to", "V"),
    number("Input", "in_isc_max_a", "Largest input short-circuit current", "A"),
    number(AC, "ac_w", "Rated AC output", "W"),
    number(AC, "ac_v", "Nominal AC volts", "V"),
    number(AC, "ac_a", "Rated AC output current", "A"),
    number(AC, "max_ocpd_a", "Largest overcurrent device", "A"),
    number(AC, "branch_max_n", "Most units on a branch", "n"),
    number("Trunk cable", "trunk.pitch_m", "From drop to drop", "m"),
    number("Trunk cable", "lead_m", "Lead from the unit to its drop", "m"),
    number("Trunk cable", "trunk.reel_n", "Drops on a reel", "n"),
    number("Trunk cable", "trunk.section_ohm", "Loop resistance of a section", "ohm"),
    number(AC, "reconnect_s", "Wait before feeding in again", "s"),
    number(BODY, "weight_kg", "Weight", "kg"),
    other(BODY, "mount_bonds", "Its mount bonds its case to the rail", "yes_no"),
];

/// The trunk cable a microinverter plugs into.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields, default)]
pub struct Trunk {
    /// Distance from drop to drop, m.
    #[schema(minimum = 0.2, maximum = 10)]
    pub pitch_m: Option<f64>,
    /// Loop resistance of one section, ohm.
    #[schema(minimum = 0.00001, maximum = 1)]
    pub section_ohm: Option<f64>,
    /// Drops on a reel.
    #[schema(minimum = 1, maximum = 2000)]
    pub reel_n: Option<f64>,
}

/// One revision of a microinverter's data sheet.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct MicroSheet {
    /// Key of the sheet, the same over all its revisions.
    #[schema(min_length = 1, max_length = 60)]
    pub sheet: String,
    /// Revision of the data sheet, from 1.
    #[schema(minimum = 1, maximum = 9999)]
    pub revision: u32,
    /// Maker.
    #[schema(min_length = 1, max_length = 80)]
    pub maker: String,
    /// Model.
    #[schema(min_length = 1, max_length = 80)]
    pub model: String,
    /// Made-up sample data: not for a real job.
    #[serde(default)]
    pub demo: bool,
    /// Largest input volts, V.
    #[serde(default)]
    #[schema(minimum = 10, maximum = 200)]
    pub in_v_max_v: Option<f64>,
    /// Lower end of the tracking window, V.
    #[serde(default)]
    #[schema(minimum = 1, maximum = 200)]
    pub mppt_min_v: Option<f64>,
    /// Upper end of the tracking window, V.
    #[serde(default)]
    #[schema(minimum = 1, maximum = 200)]
    pub mppt_max_v: Option<f64>,
    /// Largest input short-circuit current, A.
    #[serde(default)]
    #[schema(minimum = 0.1, maximum = 100)]
    pub in_isc_max_a: Option<f64>,
    /// Rated AC output, W.
    #[serde(default)]
    #[schema(minimum = 1, maximum = 5000)]
    pub ac_w: Option<f64>,
    /// Nominal AC volts, V.
    #[serde(default)]
    #[schema(minimum = 50, maximum = 1000)]
    pub ac_v: Option<f64>,
    /// Rated AC output current, A.
    #[serde(default)]
    #[schema(minimum = 0.05, maximum = 50)]
    pub ac_a: Option<f64>,
    /// Largest overcurrent device of a branch, A.
    #[serde(default)]
    #[schema(minimum = 1, maximum = 200)]
    pub max_ocpd_a: Option<f64>,
    /// Most units on a branch.
    #[serde(default)]
    #[schema(minimum = 1, maximum = 200)]
    pub branch_max_n: Option<f64>,
    /// Length of its lead to the trunk's drop, m.
    #[serde(default)]
    #[schema(minimum = 0, maximum = 10)]
    pub lead_m: Option<f64>,
    /// Its trunk cable.
    #[serde(default)]
    pub trunk: Trunk,
    /// Wait before feeding in again, s.
    #[serde(default)]
    #[schema(minimum = 0, maximum = 3600)]
    pub reconnect_s: Option<f64>,
    /// Weight, kg.
    #[serde(default)]
    #[schema(minimum = 0.1, maximum = 100)]
    pub weight_kg: Option<f64>,
    /// Its mount bonds its case to the rail; absent: the sheet does not say.
    #[serde(default)]
    pub mount_bonds: Option<bool>,
}

impl SheetData for MicroSheet {
    const FIELDS: &'static [Field] = FIELDS;

    fn problems(&self, path: &str, found: &mut Vec<Problem>) {
        let tracking = (self.mppt_min_v, self.mppt_max_v);
        ordered(found, &format!("{path}/mppt_min_v"), "tracking", tracking, " V");
    }
}
