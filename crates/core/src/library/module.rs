//! A module's data sheet.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::field::{Field, below_nought, number};
use super::{BODY, LIMITS, SELDOM, SheetData};
use crate::problem::Problem;
use crate::quantity::below;

const STC: &str = "At standard test conditions";
const WARM: &str = "With temperature";

const FIELDS: &[Field] = &[
    number(STC, "ratings.pmax_w", "Pmax, rated power", "W"),
    number(STC, "ratings.voc_v", "Voc, open circuit", "V"),
    number(STC, "ratings.vmp_v", "Vmp, maximum power", "V"),
    number(STC, "ratings.isc_a", "Isc, short circuit", "A"),
    number(STC, "ratings.imp_a", "Imp, maximum power", "A"),
    below_nought(WARM, "ratings.b_voc_pct_c", "Coefficient of Voc", "%/°C"),
    below_nought(WARM, "ratings.g_pmax_pct_c", "Coefficient of Pmax", "%/°C"),
    number(WARM, "ratings.a_isc_pct_c", "Coefficient of Isc", "%/°C"),
    number(WARM, "ratings.nmot_c", "NMOT", "°C"),
    number(LIMITS, "ratings.max_system_v", "System voltage", "V"),
    number(LIMITS, "ratings.series_fuse_a", "Series fuse rating", "A"),
    number(LIMITS, "ratings.cells_series_n", "Cells in series", "n"),
    number(SELDOM, "ratings.bifacial_gain", "Bifacial gain, share", ""),
    below_nought(SELDOM, "ratings.c_vmp_pct_c", "Coefficient of Vmp", "%/°C"),
    number(BODY, "width_mm", "Width", "mm"),
    number(BODY, "length_mm", "Length", "mm"),
    number(BODY, "depth_mm", "Frame depth", "mm"),
    number(BODY, "weight_kg", "Weight", "kg"),
    number(BODY, "lead_m", "Length of each lead", "m"),
    number(BODY, "lead_minus_m", "Length of the − lead, where it differs", "m"),
    number(BODY, "exits.plus_u_mm", "+ leaves, from the left edge", "mm"),
    number(BODY, "exits.plus_v_mm", "+ leaves, from the lower edge", "mm"),
    number(BODY, "exits.minus_u_mm", "− leaves, from the left edge", "mm"),
    number(BODY, "exits.minus_v_mm", "− leaves, from the lower edge", "mm"),
];

/// A module's electrical values at standard test conditions (1000 W/m², 25 °C).
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields, default)]
pub struct ModuleRatings {
    /// Open-circuit voltage, V.
    #[schema(minimum = 1, maximum = 200)]
    pub voc_v: Option<f64>,
    /// Voltage at maximum power, V.
    #[schema(minimum = 1, maximum = 200)]
    pub vmp_v: Option<f64>,
    /// Short-circuit current, A.
    #[schema(minimum = 0.1, maximum = 50)]
    pub isc_a: Option<f64>,
    /// Current at maximum power, A.
    #[schema(minimum = 0.1, maximum = 50)]
    pub imp_a: Option<f64>,
    /// Rated power, W.
    #[schema(minimum = 1, maximum = 2000)]
    pub pmax_w: Option<f64>,
    /// Temperature coefficient of Voc, %/°C; negative.
    #[schema(minimum = -1, maximum = -0.01)]
    pub b_voc_pct_c: Option<f64>,
    /// Temperature coefficient of Vmp, %/°C; negative. Where it is absent that of Pmax stands in.
    #[schema(minimum = -1, maximum = -0.01)]
    pub c_vmp_pct_c: Option<f64>,
    /// Temperature coefficient of Pmax, %/°C; negative.
    #[schema(minimum = -1, maximum = -0.01)]
    pub g_pmax_pct_c: Option<f64>,
    /// Temperature coefficient of Isc, %/°C; positive, small.
    #[schema(minimum = 0, maximum = 0.5)]
    pub a_isc_pct_c: Option<f64>,
    /// Maximum system voltage, V.
    #[schema(minimum = 50, maximum = 2000)]
    pub max_system_v: Option<f64>,
    /// Maximum series fuse rating, A.
    #[schema(minimum = 1, maximum = 100)]
    pub series_fuse_a: Option<f64>,
    /// Cells in series: 54 for 108 half-cut cells.
    #[schema(minimum = 1, maximum = 500)]
    pub cells_series_n: Option<f64>,
    /// Share by which light from behind raises Isc and Imp, 0.07 for 7 %.
    #[schema(minimum = 0, maximum = 0.5)]
    pub bifacial_gain: Option<f64>,
    /// Nominal module operating temperature, °C.
    #[schema(minimum = 20, maximum = 80)]
    pub nmot_c: Option<f64>,
}

impl ModuleRatings {
    /// The bifacial gain as a share; 0 where the sheet gives none.
    pub fn gain(&self) -> f64 {
        self.bifacial_gain.unwrap_or(0.0)
    }

    /// Short-circuit current at STC with the bifacial gain, A; none where the sheet gives none.
    pub fn isc_gained_a(&self) -> Option<f64> {
        self.isc_a.map(|isc| isc * (1.0 + self.gain()))
    }
}

/// One revision of a module's data sheet.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct ModuleSheet {
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
    /// Electrical values.
    pub ratings: ModuleRatings,
    /// Width (short side), mm.
    #[serde(default)]
    #[schema(minimum = 100, maximum = 5000)]
    pub width_mm: Option<f64>,
    /// Length (long side), mm.
    #[serde(default)]
    #[schema(minimum = 100, maximum = 5000)]
    pub length_mm: Option<f64>,
    /// Depth of the frame, mm.
    #[serde(default)]
    #[schema(minimum = 1, maximum = 200)]
    pub depth_mm: Option<f64>,
    /// Weight, kg.
    #[serde(default)]
    #[schema(minimum = 0.1, maximum = 200)]
    pub weight_kg: Option<f64>,
    /// Length of each lead, m.
    #[serde(default)]
    #[schema(minimum = 0, maximum = 10)]
    pub lead_m: Option<f64>,
    /// Length of the - lead where it differs, m.
    #[serde(default)]
    #[schema(minimum = 0, maximum = 10)]
    pub lead_minus_m: Option<f64>,
    /// Where the leads leave it.
    #[serde(default)]
    pub exits: LeadExits,
}

/// Where the leads leave a module, mm from the lower left corner of the portrait module seen from
/// its front.
#[derive(Clone, Copy, Debug, Default, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields, default)]
pub struct LeadExits {
    /// +, along the width.
    #[schema(minimum = 0, maximum = 5000)]
    pub plus_u_mm: Option<f64>,
    /// +, along the length.
    #[schema(minimum = 0, maximum = 5000)]
    pub plus_v_mm: Option<f64>,
    /// -, along the width.
    #[schema(minimum = 0, maximum = 5000)]
    pub minus_u_mm: Option<f64>,
    /// -, along the length.
    #[schema(minimum = 0, maximum = 5000)]
    pub minus_v_mm: Option<f64>,
}

impl SheetData for ModuleSheet {
    const FIELDS: &'static [Field] = FIELDS;

    fn problems(&self, path: &str, found: &mut Vec<Problem>) {
        module(&self.ratings, path, found);
    }
}

fn module(m: &ModuleRatings, path: &str, found: &mut Vec<Problem>) {
    let mut smaller =
        |field: &str, small: (&str, Option<f64>), large: (&str, Option<f64>), unit: &str| {
            if let (Some(a), Some(b)) = (small.1, large.1)
                && !below(a, b)
            {
                let (small, large) = (small.0, large.0);
                found.push(Problem::new(
                    format!("{path}/ratings/{field}"),
                    format!("{small} {a} {unit} is not below {large} {b} {unit}"),
                    format!("{small} is always the smaller one: are they swapped?"),
                ));
            }
        };
    smaller("vmp_v", ("Vmp", m.vmp_v), ("Voc", m.voc_v), "V");
    smaller("imp_a", ("Imp", m.imp_a), ("Isc", m.isc_a), "A");
    if let (Some(p), Some(v), Some(i)) = (m.pmax_w, m.vmp_v, m.imp_a)
        && (p / (v * i) - 1.0).abs() > 0.5
    {
        found.push(Problem::new(
            format!("{path}/ratings/pmax_w"),
            format!("{p} W is far from Vmp × Imp = {:.0} W", v * i),
            "check the three against the data sheet",
        ));
    }
}
