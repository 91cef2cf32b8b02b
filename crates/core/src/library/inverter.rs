//! An inverter's data sheet.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::field::{Field, number, other};
use super::{AC, BODY, SELDOM, SheetData, ordered};
use crate::problem::Problem;
use crate::quantity::above;

const INPUT: &str = "Each MPPT";

const FIELDS: &[Field] = &[
    number("DC side", "vdc_max_v", "Largest DC volts", "V"),
    number("DC side", "start_v", "Start volts", "V"),
    number("DC side", "dc_w_max_w", "Module watts in all", "W"),
    number(INPUT, "mppts.*.connectors_n", "Connector pairs", "n"),
    number(INPUT, "mppts.*.mppt_min_v", "Tracking from", "V"),
    number(INPUT, "mppts.*.mppt_max_v", "Tracking up to", "V"),
    number(INPUT, "mppts.*.full_power_min_v", "Full power from", "V"),
    number(INPUT, "mppts.*.full_power_max_v", "Full power up to", "V"),
    number(INPUT, "mppts.*.mppt_imp_max_a", "Working amps", "A"),
    number(INPUT, "mppts.*.mppt_isc_max_a", "Short-circuit amps", "A"),
    number(INPUT, "mppts.*.mppt_w_max_w", "Module watts", "W"),
    number(AC, "ac_w", "Rated AC output", "W"),
    number(AC, "ac_v", "Nominal AC volts", "V"),
    number(AC, "ac_a", "Rated AC output current", "A"),
    other(AC, "three_phase", "Three-phase", "flag"),
    number(AC, "max_ocpd_a", "Largest overcurrent device", "A"),
    other("Protection", "dc_switch", "DC isolator built in", "yes_no"),
    other("Protection", "dc_surge", "DC surge devices built in", "yes_no"),
    other("Protection", "rcd", "Residual-current device it needs", "choice"),
    other("Protection", "reports", "Reports what it makes", "yes_no"),
    number("Protection", "fault_a", "Current it drives into a fault", "A"),
    number(SELDOM, "backfeed_a", "Largest current fed back into the strings", "A"),
    other(AC, "switch_on", "Switched on first", "choice"),
    number(AC, "reconnect_s", "Wait before feeding in again", "s"),
    number(BODY, "weight_kg", "Weight", "kg"),
];

/// An MPPT input of an inverter.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields, default)]
pub struct Mppt {
    /// Pairs of connectors.
    #[schema(minimum = 1, maximum = 50)]
    pub connectors_n: Option<f64>,
    /// Lower end of the tracking window, V.
    #[schema(minimum = 1, maximum = 2000)]
    pub mppt_min_v: Option<f64>,
    /// Upper end of the tracking window, V.
    #[schema(minimum = 1, maximum = 2000)]
    pub mppt_max_v: Option<f64>,
    /// Lower end of the full-power window, V.
    #[schema(minimum = 1, maximum = 2000)]
    pub full_power_min_v: Option<f64>,
    /// Upper end of the full-power window, V.
    #[schema(minimum = 1, maximum = 2000)]
    pub full_power_max_v: Option<f64>,
    /// Largest short-circuit current, A.
    #[schema(minimum = 0.1, maximum = 1000)]
    pub mppt_isc_max_a: Option<f64>,
    /// Largest working current, A.
    #[schema(minimum = 0.1, maximum = 1000)]
    pub mppt_imp_max_a: Option<f64>,
    /// Largest module watts, W.
    #[schema(minimum = 1, maximum = 1000000)]
    pub mppt_w_max_w: Option<f64>,
}

/// Which side is switched on first.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum SwitchOn {
    /// DC, then AC.
    #[default]
    DcFirst,
    /// AC, set up, then DC.
    AcFirst,
}

/// What residual current a device sees.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum RcdType {
    /// Alternating only.
    Ac,
    /// Alternating and pulsating.
    A,
    /// As A, and of mixed frequencies.
    F,
    /// As F, and smooth direct current.
    B,
}

impl RcdType {
    /// Its letters.
    pub fn word(self) -> &'static str {
        match self {
            RcdType::Ac => "AC",
            RcdType::A => "A",
            RcdType::F => "F",
            RcdType::B => "B",
        }
    }
}

/// One revision of an inverter's data sheet.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct InverterSheet {
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
    /// Largest DC volts, V.
    #[serde(default)]
    #[schema(minimum = 10, maximum = 2000)]
    pub vdc_max_v: Option<f64>,
    /// Start voltage, V.
    #[serde(default)]
    #[schema(minimum = 1, maximum = 2000)]
    pub start_v: Option<f64>,
    /// MPPT inputs, input 1 first.
    #[schema(min_items = 1, max_items = 50)]
    pub mppts: Vec<Mppt>,
    /// Largest module watts in all, W.
    #[serde(default)]
    #[schema(minimum = 1, maximum = 10000000)]
    pub dc_w_max_w: Option<f64>,
    /// Rated AC output, W.
    #[serde(default)]
    #[schema(minimum = 1, maximum = 10000000)]
    pub ac_w: Option<f64>,
    /// Nominal AC volts (line to line where three-phase), V.
    #[serde(default)]
    #[schema(minimum = 50, maximum = 1000)]
    pub ac_v: Option<f64>,
    /// Rated AC output current, A.
    #[serde(default)]
    #[schema(minimum = 0.1, maximum = 10000)]
    pub ac_a: Option<f64>,
    /// Three-phase output.
    #[serde(default)]
    pub three_phase: bool,
    /// Largest overcurrent device the maker allows on the output, A.
    #[serde(default)]
    #[schema(minimum = 1, maximum = 10000)]
    pub max_ocpd_a: Option<f64>,
    /// Largest current it can feed back into a faulty string, A; absent: none.
    #[serde(default)]
    #[schema(minimum = 0, maximum = 1000)]
    pub backfeed_a: Option<f64>,
    /// A DC isolator is built in; absent: the sheet does not say.
    #[serde(default)]
    pub dc_switch: Option<bool>,
    /// DC surge devices are built in; absent: the sheet does not say.
    #[serde(default)]
    pub dc_surge: Option<bool>,
    /// iec: the least residual-current device it needs, where one is asked for; absent: type B.
    #[serde(default)]
    pub rcd: Option<RcdType>,
    /// It reports what it makes; absent: the sheet does not say.
    #[serde(default)]
    pub reports: Option<bool>,
    /// Largest current its output drives into a fault, A.
    #[serde(default)]
    #[schema(minimum = 0.1, maximum = 10000)]
    pub fault_a: Option<f64>,
    /// Which side is switched on first.
    #[serde(default)]
    pub switch_on: SwitchOn,
    /// Wait before feeding in again, s.
    #[serde(default)]
    #[schema(minimum = 0, maximum = 3600)]
    pub reconnect_s: Option<f64>,
    /// Weight, kg.
    #[serde(default)]
    #[schema(minimum = 0.1, maximum = 5000)]
    pub weight_kg: Option<f64>,
}

impl InverterSheet {
    /// The limits that hold at MPPT `number`, counted from 1.
    pub fn ratings_at(&self, number: u32) -> Option<InverterRatings> {
        let m = self.mppts.get((number as usize).checked_sub(1)?)?;
        Some(InverterRatings {
            vdc_max_v: self.vdc_max_v,
            start_v: self.start_v,
            mppt_min_v: m.mppt_min_v,
            mppt_max_v: m.mppt_max_v,
            full_power_min_v: m.full_power_min_v,
            mppt_isc_max_a: m.mppt_isc_max_a,
            mppt_imp_max_a: m.mppt_imp_max_a,
            mppt_w_max_w: m.mppt_w_max_w,
            dc_w_max_w: self.dc_w_max_w,
        })
    }
}

/// The limits of one MPPT with those of the inverter it belongs to, as the string checks read them.
#[derive(Clone, Debug, Default, Serialize, Deserialize)]
#[serde(deny_unknown_fields, default)]
pub struct InverterRatings {
    /// Maximum DC volts, V.
    pub vdc_max_v: Option<f64>,
    /// Start voltage, V.
    pub start_v: Option<f64>,
    /// Lower end of the tracking window, V.
    pub mppt_min_v: Option<f64>,
    /// Upper end of the tracking window, V.
    pub mppt_max_v: Option<f64>,
    /// Lower end of the full-power window, V; absent: not checked.
    pub full_power_min_v: Option<f64>,
    /// Largest short-circuit current of the MPPT, A.
    pub mppt_isc_max_a: Option<f64>,
    /// Largest working current of the MPPT, A.
    pub mppt_imp_max_a: Option<f64>,
    /// Largest module watts on the MPPT, W.
    pub mppt_w_max_w: Option<f64>,
    /// Largest module watts in all, W.
    pub dc_w_max_w: Option<f64>,
}

impl SheetData for InverterSheet {
    const FIELDS: &'static [Field] = FIELDS;

    fn problems(&self, path: &str, found: &mut Vec<Problem>) {
        inverter(self, path, found);
    }
}

fn inverter(inverter: &InverterSheet, path: &str, found: &mut Vec<Problem>) {
    for (k, m) in inverter.mppts.iter().enumerate() {
        let at = format!("{path}/mppts/{k}");
        ordered(found, &format!("{at}/mppt_min_v"), "tracking", (m.mppt_min_v, m.mppt_max_v), " V");
        ordered(
            found,
            &format!("{at}/full_power_min_v"),
            "full power",
            (m.full_power_min_v, m.full_power_max_v),
            " V",
        );
        if let (Some(high), Some(max)) = (m.mppt_max_v, inverter.vdc_max_v)
            && above(high, max)
        {
            found.push(Problem::new(
                format!("{at}/mppt_max_v"),
                format!("tracking up to {high} V is above the largest DC volts, {max} V"),
                "check both against the data sheet",
            ));
        }
    }
}
