//! Rows of the rule tables, as they stand in `data/`.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// A row of NEC Table 310.16 or 310.17: amps by insulation column.
#[derive(Debug, Deserialize)]
pub struct Ampacity {
    /// AWG or kcmil.
    pub size: String,
    /// `cu` or `al`.
    pub material: String,
    /// 60 °C column, A.
    pub a60: Option<f64>,
    /// 75 °C column, A.
    pub a75: Option<f64>,
    /// 90 °C column, A.
    pub a90: Option<f64>,
}

impl Ampacity {
    /// The column of an insulation temperature: 60, 75 or 90.
    pub fn column(&self, insulation_c: u32) -> Option<f64> {
        match insulation_c {
            60 => self.a60,
            75 => self.a75,
            90 => self.a90,
            _ => None,
        }
    }
}

/// A row of 310.15(B)(1)(1).
#[derive(Debug, Deserialize)]
pub(super) struct TemperatureFactor {
    #[cfg_attr(not(test), expect(dead_code, reason = "read by the test that looks for gaps"))]
    pub(super) c_from: f64,
    pub(super) c_to: f64,
    pub(super) f60: Option<f64>,
    pub(super) f75: Option<f64>,
    pub(super) f90: Option<f64>,
}

#[derive(Debug, Deserialize)]
pub(super) struct RangeFactor {
    #[serde(alias = "c_from")]
    pub(super) from: f64,
    #[serde(alias = "c_to")]
    pub(super) to: f64,
    pub(super) factor: f64,
}

/// A row of 250.122.
#[derive(Debug, Deserialize)]
pub struct Egc {
    /// Rating of the protective device not above this, A.
    pub ocpd_a: f64,
    /// Copper size.
    pub cu: String,
    /// Aluminium size.
    pub al: String,
}

/// A raceway of Chapter 9, Table 4.
#[derive(Debug, Deserialize)]
pub struct Raceway {
    /// Kind, e.g. `emt`.
    pub kind: String,
    /// Trade size.
    pub trade: String,
    /// Inner diameter, in.
    pub id_in: f64,
    /// Whole inner area, in².
    pub area_in2: f64,
}

/// Dimensions and resistance of a wire, Chapter 9, Tables 5 and 8.
#[derive(Debug, Deserialize)]
pub struct Wire {
    /// AWG or kcmil.
    pub size: String,
    /// Circular mils.
    pub cmil: f64,
    /// THHN and THWN-2: diameter, in.
    pub thhn_od_in: f64,
    /// THHN and THWN-2: area, in².
    pub thhn_area_in2: f64,
    /// XHHW-2: diameter, in.
    pub xhhw_od_in: f64,
    /// XHHW-2: area, in².
    pub xhhw_area_in2: f64,
    /// PV wire: usual diameter, in.
    pub pv_od_in: Option<f64>,
    /// Copper, ohm per 1000 ft at 75 °C.
    pub r_cu_ohm_kft: f64,
    /// Aluminium, ohm per 1000 ft at 75 °C.
    pub r_al_ohm_kft: Option<f64>,
}

/// mm² of a circular mil.
const MM2_PER_CMIL: f64 = 5.067_075e-4;

impl Wire {
    /// Its metal, mm².
    pub fn section_mm2(&self) -> f64 {
        self.cmil * MM2_PER_CMIL
    }
}

/// A place a route passes through.
#[derive(Debug, Deserialize)]
pub struct PlaceRow {
    /// Key.
    pub place: String,
    /// Plain title.
    pub title: String,
    /// Added to the site's high ambient, K.
    pub ambient_add_c: f64,
    /// `wet`, `damp` or `dry`.
    pub wet: String,
    /// `yes` or `no`.
    pub indoors: String,
    /// `yes` or `no`.
    pub sunlit: String,
    /// iec: ambient that is never gone below there, °C (60364-7-712).
    pub iec_ambient_min_c: Option<f64>,
}

/// A wiring method and where it may be: `yes`, `no`, or a condition.
#[derive(Debug, Deserialize)]
pub struct WiringMethod {
    /// Key of the method.
    pub method: String,
    /// DC inside a building (690.31(D)).
    pub dc_indoors: String,
    /// AC inside a building.
    pub ac_indoors: String,
    /// In a wet place.
    pub wet: String,
    /// In a damp place.
    pub damp: String,
    /// On a roof in the sun.
    pub sunlit_roof: String,
    /// Article of the code.
    pub rule: String,
}

/// A cable of IEC 60364-5-52.
#[derive(Debug, Deserialize)]
pub struct IecCable {
    /// `pvc70` or `xlpe90`.
    pub insulation: String,
    /// Conductor, mm².
    pub mm2: f64,
    /// Loaded conductors: 2 or 3.
    pub loaded_n: u32,
    /// Wires in conduit in an insulated wall, A.
    pub method_a1_a: f64,
    /// Multicore in conduit in an insulated wall, A.
    pub method_a2_a: f64,
    /// Wires in conduit on a wall, A.
    pub method_b1_a: f64,
    /// Multicore in conduit on a wall, A.
    pub method_b2_a: f64,
    /// Clipped to a surface, A.
    pub method_c_a: f64,
    /// Ohm per km at 20 °C.
    pub r20_ohm_km: f64,
    /// Usual outside diameter of one core, mm.
    pub od_mm: f64,
}

/// Solar cable of EN 50618.
#[derive(Debug, Deserialize)]
pub struct SolarCable {
    /// Conductor, mm².
    pub mm2: f64,
    /// One cable in free air, A.
    pub free_air_a: f64,
    /// One cable on a surface, A.
    pub on_surface_a: f64,
    /// Two touching on a surface, A.
    pub two_touching_a: f64,
    /// Ohm per km at 20 °C.
    pub r20_ohm_km: f64,
    /// Usual outside diameter, mm.
    pub od_mm: f64,
}

#[derive(Debug, Deserialize)]
pub(super) struct IecFactor {
    pub(super) kind: String,
    pub(super) key: f64,
    pub(super) factor: f64,
}

#[derive(Debug, Deserialize)]
pub(super) struct UpTo {
    #[serde(alias = "c")]
    pub(super) to: f64,
    pub(super) factor: f64,
}

/// A conduit of IEC 61386.
#[derive(Debug, Deserialize)]
pub struct Conduit {
    /// `medium` or `heavy`.
    pub class: String,
    /// Nominal size, mm.
    pub size_mm: f64,
    /// Least inner diameter, mm.
    pub id_mm: f64,
}

/// What a row of the rates counts.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Deserialize, Serialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum RateGroup {
    /// Hours, energy, years.
    Year,
    /// Prices of material.
    Material,
    /// Minutes of laying a way.
    Work,
    /// Minutes of repairs.
    Repair,
    /// What it takes to bring PV onto a panel.
    Panel,
}

/// A price or a time by which routes, places and repairs are compared.
#[derive(Clone, Debug, Deserialize, Serialize, ToSchema)]
pub struct Rate {
    /// Its key.
    pub key: String,
    /// What it counts.
    pub group: RateGroup,
    /// `cost`, `min`, `%` or `years`.
    pub unit: String,
    /// What it is where nobody said another.
    pub value: f64,
    /// What it is of.
    pub title: String,
}

#[derive(Debug, Deserialize)]
pub(super) struct Ratings {
    pub(super) kind: String,
    pub(super) ratings: String,
}

/// A metal-clad cable by the size of its conductors.
#[derive(Debug, Deserialize)]
pub(super) struct MetalClad {
    pub(super) size: String,
    pub(super) ground: String,
}

/// Supports of a kind of raceway or cable.
#[derive(Debug, Deserialize)]
pub struct Support {
    /// Kind, e.g. `emt`.
    pub kind: String,
    /// From this size on; a row without sizes takes any.
    pub trade_from: Option<String>,
    /// Up to this size.
    pub trade_to: Option<String>,
    /// Largest spacing, m.
    pub spacing_m: f64,
    /// Largest distance from a box, m.
    pub from_box_m: f64,
}

/// A row of Chapter 9, Table 2.
#[derive(Debug, Deserialize)]
pub(super) struct BendRadius {
    pub(super) trade: String,
    pub(super) radius_in: f64,
}

/// The hole a raceway comes in by.
#[derive(Debug, Deserialize)]
pub struct Knockout {
    /// Trade size.
    pub trade: String,
    /// Diameter of the hole, mm.
    pub hole_mm: f64,
}

/// Who can stop a job.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Party {
    /// The fire service.
    Fire,
    /// The building or wiring authority.
    Authority,
    /// The network operator.
    Network,
}

/// What is asked for.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum DemandKind {
    /// Paths kept free on the roof.
    FreePaths,
    /// Rapid shutdown.
    RapidShutdown,
    /// A disconnect at the array.
    RoofDisconnect,
    /// DC in metal raceway indoors.
    MetalRaceway,
    /// A board behind an inverter on a wall that burns.
    BackingBoard,
    /// A visible, lockable disconnect between inverter and panel.
    AcDisconnect,
    /// A limit of what is sent to the grid.
    ExportLimit,
    /// A switch by which the network takes the system off.
    RemoteOff,
    /// Another meter.
    MeterChange,
    /// Consent before the work.
    Consent,
    /// Labels in their places.
    Labels,
    /// Something else, in words.
    Other,
}

/// What a party usually asks for.
#[derive(Clone, Debug, Deserialize, Serialize, ToSchema)]
pub struct DemandRow {
    /// What for.
    pub kind: DemandKind,
    /// Who asks.
    pub party: Party,
    /// `na`, `iec` or `both`.
    pub school: String,
    /// Plain title.
    pub title: String,
    /// Rule number.
    pub source: String,
    /// `yes` where a label goes with it.
    pub label: String,
    /// Key of its price in the rates; empty: none.
    pub price: String,
    /// Key of its minutes; empty: none.
    pub minutes: String,
}

/// A label as a school usually asks for it.
#[derive(Debug, Deserialize)]
pub struct LabelRow {
    /// Which one.
    pub kind: String,
    /// `na`, `iec` or `both`.
    pub school: String,
    /// Lines with `|` between them, figures in braces.
    pub text: String,
    /// Rule number.
    pub source: String,
    /// Width, mm.
    pub width_mm: f64,
    /// Height, mm.
    pub height_mm: f64,
}
