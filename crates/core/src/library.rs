//! Data sheets: what the maker says of modules and inverters, by sheet and revision. A job pins the
//! revision it was planned with; a newer one never changes it in silence.

pub mod entry;
pub mod table;

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

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
    /// One plus the bifacial gain; 1 where the sheet gives none.
    pub fn gain(&self) -> f64 {
        self.bifacial_gain.unwrap_or(0.0)
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
}

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

impl ModuleSheet {
    /// What a job names it by.
    pub fn reference(&self) -> SheetRef {
        SheetRef { sheet: self.sheet.clone(), revision: self.revision }
    }
}

impl InverterSheet {
    /// What a job names it by.
    pub fn reference(&self) -> SheetRef {
        SheetRef { sheet: self.sheet.clone(), revision: self.revision }
    }

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
}

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
    /// Most units on a branch.
    #[serde(default)]
    #[schema(minimum = 1, maximum = 200)]
    pub branch_max_n: Option<f64>,
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
}

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

/// The kinds of data sheets.
#[derive(
    Clone, Copy, Debug, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize, Deserialize, ToSchema,
)]
#[serde(rename_all = "snake_case")]
pub enum SheetKind {
    /// PV modules.
    Module,
    /// String and hybrid inverters.
    Inverter,
    /// Optimizers.
    Optimizer,
    /// Microinverters.
    Micro,
}

impl SheetKind {
    /// All kinds, in the order they are listed.
    pub const ALL: [SheetKind; 4] =
        [SheetKind::Module, SheetKind::Inverter, SheetKind::Optimizer, SheetKind::Micro];

    /// The word on the wire.
    pub fn word(self) -> &'static str {
        match self {
            SheetKind::Module => "module",
            SheetKind::Inverter => "inverter",
            SheetKind::Optimizer => "optimizer",
            SheetKind::Micro => "micro",
        }
    }

    /// The kind a word names.
    pub fn of(word: &str) -> Option<SheetKind> {
        SheetKind::ALL.into_iter().find(|k| k.word() == word)
    }
}

/// A reference to one revision of a data sheet.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct SheetRef {
    /// Key of the sheet.
    #[schema(min_length = 1, max_length = 60)]
    pub sheet: String,
    /// Its revision.
    #[schema(minimum = 1, maximum = 9999)]
    pub revision: u32,
}

/// The data sheets a job uses.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields, default)]
pub struct Library {
    /// Modules.
    #[schema(max_items = 200)]
    pub modules: Vec<ModuleSheet>,
    /// Inverters.
    #[schema(max_items = 200)]
    pub inverters: Vec<InverterSheet>,
    /// Optimizers.
    #[schema(max_items = 200)]
    pub optimizers: Vec<OptimizerSheet>,
    /// Microinverters.
    #[schema(max_items = 200)]
    pub micros: Vec<MicroSheet>,
}

impl Library {
    /// The module a reference names.
    pub fn module(&self, r: &SheetRef) -> Option<&ModuleSheet> {
        self.modules.iter().find(|m| m.sheet == r.sheet && m.revision == r.revision)
    }

    /// The inverter a reference names.
    pub fn inverter(&self, r: &SheetRef) -> Option<&InverterSheet> {
        self.inverters.iter().find(|i| i.sheet == r.sheet && i.revision == r.revision)
    }

    /// The optimizer a reference names.
    pub fn optimizer(&self, r: &SheetRef) -> Option<&OptimizerSheet> {
        self.optimizers.iter().find(|o| o.sheet == r.sheet && o.revision == r.revision)
    }

    /// The microinverter a reference names.
    pub fn micro(&self, r: &SheetRef) -> Option<&MicroSheet> {
        self.micros.iter().find(|m| m.sheet == r.sheet && m.revision == r.revision)
    }
}
