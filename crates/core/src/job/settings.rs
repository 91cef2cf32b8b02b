//! Settings in which practice differs, the panel, places for the inverter, data sheets kept on
//! purpose.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::{CircuitKey, Place};
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
    /// Load calculation, A; where absent and `loads` is entered, what that comes to.
    #[serde(skip_serializing_if = "Option::is_none")]
    #[schema(minimum = 0, maximum = 10000)]
    pub load_calc_a: Option<f64>,
    /// The load calculation appliance by appliance.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub loads: Option<LoadSheet>,
    /// The main feeds the middle of the bus; absent: not said.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub centre_fed: Option<bool>,
    /// The PV breaker sits at one end of a bus that is fed in the middle; absent: not said.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub pv_at_one_end: Option<bool>,
    /// Ways the panel has in all; poles of breakers (na), 17.5 mm (iec).
    #[serde(skip_serializing_if = "Option::is_none")]
    #[schema(minimum = 1, maximum = 500)]
    pub ways_n: Option<f64>,
    /// Ways taken by breakers that feed loads.
    #[serde(skip_serializing_if = "Option::is_none")]
    #[schema(minimum = 0, maximum = 500)]
    pub taken_n: Option<f64>,
    /// Interrupting rating of the panel with its main and the breakers of its loads, kA.
    #[serde(skip_serializing_if = "Option::is_none")]
    #[schema(minimum = 0.1, maximum = 500)]
    pub breaking_ka: Option<f64>,
    /// A connection before the main instead of on the bus.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub supply_side: Option<SupplySide>,
    /// It is the panel the service comes in at; absent: where nothing leads on from it.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub service: Option<bool>,
}

/// A connection on the supply side of the main (705.11).
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields, default)]
pub struct SupplySide {
    /// It is what is built; else it is one of the ways that are compared.
    pub chosen: bool,
    /// The circuits that are connected so; absent: the only one that comes to the panel.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    #[schema(max_items = 50)]
    pub circuits: Vec<CircuitKey>,
    /// Rating of the service, A.
    #[serde(skip_serializing_if = "Option::is_none")]
    #[schema(minimum = 1, maximum = 10000)]
    pub service_a: Option<f64>,
    /// Size of its conductors, AWG.
    #[serde(skip_serializing_if = "Option::is_none")]
    #[schema(max_length = 6)]
    pub awg: Option<String>,
    /// From the connection to its overcurrent device, m.
    #[serde(skip_serializing_if = "Option::is_none")]
    #[schema(minimum = 0, maximum = 1000)]
    pub to_device_m: Option<f64>,
}

/// A load calculation by the optional method of a dwelling (220.82).
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields, default)]
pub struct LoadSheet {
    /// Floor, m².
    #[serde(skip_serializing_if = "Option::is_none")]
    #[schema(minimum = 1, maximum = 10000)]
    pub floor_m2: Option<f64>,
    /// Circuits of 20 A for small appliances and laundry; at least 3.
    #[serde(skip_serializing_if = "Option::is_none")]
    #[schema(minimum = 0, maximum = 50)]
    pub small_circuits_n: Option<u32>,
    /// Appliances that are fastened in place, ranges, dryers, water heaters, motors.
    #[schema(max_items = 100)]
    pub appliances: Vec<Appliance>,
    /// Cooling, VA.
    #[serde(skip_serializing_if = "Option::is_none")]
    #[schema(minimum = 0, maximum = 1000000)]
    pub cooling_va: Option<f64>,
    /// Central electric heating, its heat pump's supplement included, VA.
    #[serde(skip_serializing_if = "Option::is_none")]
    #[schema(minimum = 0, maximum = 1000000)]
    pub heating_va: Option<f64>,
    /// Volts of the service; 240 where absent.
    #[serde(skip_serializing_if = "Option::is_none")]
    #[schema(minimum = 100, maximum = 1000)]
    pub volts_v: Option<f64>,
}

/// A load by its nameplate.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Appliance {
    /// What it is.
    #[schema(min_length = 1, max_length = 60)]
    pub name: String,
    /// Its nameplate, VA.
    #[schema(minimum = 0, maximum = 1000000)]
    pub va: f64,
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
