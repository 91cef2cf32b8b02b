//! An optimizer's data sheet.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::field::{Field, number, other};
use super::{BODY, SheetData, ordered};
use crate::problem::Problem;

const FIELDS: &[Field] = &[
    number("Input", "ratings.in_v_max_v", "Largest input volts", "V"),
    number("Input", "ratings.in_isc_max_a", "Largest input short-circuit current", "A"),
    number("Input", "ratings.in_w_max_w", "Largest module watts", "W"),
    number("Output", "ratings.out_a_max_a", "Largest output current", "A"),
    number("String", "ratings.n_min", "Fewest in a string", "n"),
    number("String", "ratings.n_max", "Most in a string", "n"),
    number("String", "ratings.string_w_max_w", "Most watts of a string", "W"),
    number("String", "ratings.string_v", "String volts the inverter holds", "V"),
    number("String", "ratings.safety_v", "Volts of one device when safe", "V"),
    number(BODY, "lead_m", "Length of each output lead", "m"),
    number(BODY, "weight_kg", "Weight", "kg"),
    other(BODY, "mount_bonds", "Its mount bonds its case to the rail", "yes_no"),
];

/// What an optimizer's data sheet says.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields, default)]
pub struct OptimizerRatings {
    /// Largest input volts, V.
    #[schema(minimum = 10, maximum = 200)]
    pub in_v_max_v: Option<f64>,
    /// Largest input short-circuit current, A.
    #[schema(minimum = 0.1, maximum = 100)]
    pub in_isc_max_a: Option<f64>,
    /// Largest input watts, W.
    #[schema(minimum = 1, maximum = 5000)]
    pub in_w_max_w: Option<f64>,
    /// Largest output current, A.
    #[schema(minimum = 0.1, maximum = 100)]
    pub out_a_max_a: Option<f64>,
    /// Fewest in a string.
    #[schema(minimum = 1, maximum = 200)]
    pub n_min: Option<f64>,
    /// Most in a string.
    #[schema(minimum = 1, maximum = 200)]
    pub n_max: Option<f64>,
    /// Most watts of a string, W.
    #[schema(minimum = 1, maximum = 100000)]
    pub string_w_max_w: Option<f64>,
    /// Volts the inverter holds the string at, V.
    #[schema(minimum = 10, maximum = 2000)]
    pub string_v: Option<f64>,
    /// Volts of one device when safe, V.
    #[schema(minimum = 0, maximum = 30)]
    pub safety_v: Option<f64>,
}

/// One revision of an optimizer's data sheet.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct OptimizerSheet {
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
    /// Limits and counts.
    pub ratings: OptimizerRatings,
    /// Length of each output lead, m.
    #[serde(default)]
    #[schema(minimum = 0, maximum = 10)]
    pub lead_m: Option<f64>,
    /// Weight, kg.
    #[serde(default)]
    #[schema(minimum = 0.1, maximum = 100)]
    pub weight_kg: Option<f64>,
    /// Its mount bonds its case to the rail; absent: the sheet does not say.
    #[serde(default)]
    pub mount_bonds: Option<bool>,
}

impl SheetData for OptimizerSheet {
    const FIELDS: &'static [Field] = FIELDS;

    fn problems(&self, path: &str, found: &mut Vec<Problem>) {
        let r = &self.ratings;
        ordered(found, &format!("{path}/ratings/n_min"), "a string", (r.n_min, r.n_max), "");
    }
}
