//! What a job asks of its protection and earthing: which practice is followed, what the supply is.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::NodeKey;

/// How many DC isolators a job has.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum IsolatorPer {
    /// One for each string.
    String,
    /// One for each input of an inverter.
    Input,
}

/// When DC surge devices are asked for.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum SurgePolicy {
    /// Always.
    #[default]
    Always,
    /// iec: where the cable is longer than the critical length.
    ByLength,
}

/// What a system stands on, as lightning sees it.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum SurgeSite {
    /// A dwelling.
    Dwelling,
    /// An array in a field.
    Field,
    /// A building that serves the public or a trade.
    Service,
}

/// How the supply is earthed (iec).
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Earthing {
    /// The network brings the earth: the loop trips the breaker.
    Tn,
    /// An electrode of its own: an RCD trips.
    Tt,
}

/// What takes the volts off the array in a rapid shutdown.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum ShutdownBy {
    /// The optimizers, or the microinverters.
    ModuleElectronics,
    /// Devices of their own, one at each module.
    ModuleDevices,
    /// An array listed for it as a whole.
    ListedArray,
}

/// A backup output: what goes on while the grid is gone.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields, default)]
pub struct Backup {
    /// The board it feeds.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub board: Option<NodeKey>,
    /// The electrode that holds its neutral while the grid's is gone.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub electrode: Option<NodeKey>,
    /// Its neutral is connected to earth while the grid is gone, by a relay of the inverter or a
    /// device of its own; absent: not said.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub neutral_earthed: Option<bool>,
    /// Largest current it drives into a fault, A.
    #[serde(skip_serializing_if = "Option::is_none")]
    #[schema(minimum = 0.1, maximum = 10000)]
    pub fault_a: Option<f64>,
}

/// Practice and supply.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields, default)]
pub struct Protection {
    /// DC isolators; the school's where absent: one for each input (na), for each string (iec).
    #[serde(skip_serializing_if = "Option::is_none")]
    pub isolators: Option<IsolatorPer>,
    /// Surge devices; always where absent.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub surge: Option<SurgePolicy>,
    /// iec: what the system stands on; absent: not said.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub surge_site: Option<SurgeSite>,
    /// iec: flashes to ground, each km² and year.
    #[serde(skip_serializing_if = "Option::is_none")]
    #[schema(minimum = 0, maximum = 100)]
    pub flashes_per_km2: Option<f64>,
    /// Spare inputs a combiner keeps; 1 where absent.
    #[serde(skip_serializing_if = "Option::is_none")]
    #[schema(minimum = 0, maximum = 50)]
    pub spare_n: Option<u32>,
    /// na: what takes the volts off; absent: not said.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub shutdown: Option<ShutdownBy>,
    /// na: volts inside the array 30 s after the start, where devices of their own do it, V.
    #[serde(skip_serializing_if = "Option::is_none")]
    #[schema(minimum = 0, maximum = 1500)]
    pub shutdown_inside_v: Option<f64>,
    /// na: volts outside the array 30 s after the start, where devices of their own do it, V.
    #[serde(skip_serializing_if = "Option::is_none")]
    #[schema(minimum = 0, maximum = 1500)]
    pub shutdown_outside_v: Option<f64>,
    /// Current the supply drives into a short circuit where it comes in, kA.
    #[serde(skip_serializing_if = "Option::is_none")]
    #[schema(minimum = 0.1, maximum = 500)]
    pub fault_ka: Option<f64>,
    /// iec: how the supply is earthed; absent: not said.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub earthing: Option<Earthing>,
    /// iec, TN: impedance of the loop outside the building, ohm.
    #[serde(skip_serializing_if = "Option::is_none")]
    #[schema(minimum = 0.001, maximum = 100)]
    pub ze_ohm: Option<f64>,
    /// iec, TT: resistance of the electrode and its conductor, ohm.
    #[serde(skip_serializing_if = "Option::is_none")]
    #[schema(minimum = 0.01, maximum = 10000)]
    pub ra_ohm: Option<f64>,
    /// A lightning protection system is on the building; absent: not said.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub lightning_protection: Option<bool>,
    /// iec: bonding conductor of frames that the local rule asks for, mm²; 6 where absent.
    #[serde(skip_serializing_if = "Option::is_none")]
    #[schema(minimum = 1, maximum = 95)]
    pub frame_bond_mm2: Option<f64>,
    /// Backup output, where there is one.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub backup: Option<Backup>,
}

impl Protection {
    pub(super) fn nothing_said(&self) -> bool {
        *self == Protection::default()
    }
}
