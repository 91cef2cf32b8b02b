//! What protects, switches and measures inside a node.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::{CircuitKey, DeviceKey};
use crate::library::{RcdType, SheetKind, SheetRef};

/// What a device in a node is.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum DeviceKind {
    /// Breaker.
    Breaker,
    /// Fuse in its holder.
    Fuse,
    /// Switch that isolates.
    Isolator,
    /// Surge protective device.
    SurgeDevice,
    /// Residual-current device.
    Rcd,
    /// Busbar.
    Bus,
    /// Bar for earth wires.
    EarthBar,
    /// Meter.
    Meter,
    /// Current transformer.
    CurrentTransformer,
    /// Switch that starts the rapid shutdown.
    ShutdownStarter,
}

impl DeviceKind {
    /// Whether it ends an overcurrent.
    pub fn protects(self) -> bool {
        matches!(self, DeviceKind::Breaker | DeviceKind::Fuse)
    }

    /// The kind of data sheet it has; none where it needs none.
    pub fn sheet_kind(self) -> Option<SheetKind> {
        match self {
            DeviceKind::Breaker | DeviceKind::Rcd => Some(SheetKind::Breaker),
            DeviceKind::Fuse => Some(SheetKind::Fuse),
            DeviceKind::Isolator | DeviceKind::ShutdownStarter => Some(SheetKind::Isolator),
            DeviceKind::SurgeDevice => Some(SheetKind::Surge),
            DeviceKind::Bus
            | DeviceKind::EarthBar
            | DeviceKind::Meter
            | DeviceKind::CurrentTransformer => None,
        }
    }

    /// Whether it opens a circuit by hand.
    pub fn switches(self) -> bool {
        matches!(self, DeviceKind::Breaker | DeviceKind::Isolator)
    }
}

/// What current a device is made for.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum CurrentKind {
    /// Alternating.
    Ac,
    /// Direct.
    Dc,
    /// Both.
    Both,
}

/// What a current transformer measures.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum CtMeasures {
    /// What is drawn from the grid and sent to it.
    Grid,
    /// What the inverters make.
    Production,
}

/// How a current transformer sits.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields, default)]
pub struct Ct {
    /// What it measures; absent: not said.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub measures: Option<CtMeasures>,
    /// The circuit it is around; absent: the conductors toward the grid.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub around: Option<CircuitKey>,
    /// Its arrow points toward the grid; absent: not said.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub toward_grid: Option<bool>,
    /// The maker's meter wants the arrow toward the grid; absent: not said.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub wanted_toward_grid: Option<bool>,
    /// Primary amps printed on it, A.
    #[serde(skip_serializing_if = "Option::is_none")]
    #[schema(minimum = 1, maximum = 10000)]
    pub primary_a: Option<f64>,
    /// Primary amps entered in the meter, A.
    #[serde(skip_serializing_if = "Option::is_none")]
    #[schema(minimum = 1, maximum = 10000)]
    pub entered_a: Option<f64>,
}

/// A device in a node.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Device {
    /// What it is.
    pub what: DeviceKind,
    /// Its data sheet; what it says holds where nothing is said here.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub sheet: Option<SheetRef>,
    /// Rated amps.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(minimum = 0.5, maximum = 10000)]
    pub amps_a: Option<f64>,
    /// Rated volts; of a surge device those it stands for good (Ucpv), V.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(minimum = 1, maximum = 3000)]
    pub volts_v: Option<f64>,
    /// Poles.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(minimum = 1, maximum = 20)]
    pub poles_n: Option<f64>,
    /// What current it is made for; absent: not said.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub current: Option<CurrentKind>,
    /// Interrupting rating, kA.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(minimum = 0.1, maximum = 500)]
    pub breaking_ka: Option<f64>,
    /// It trips at once from this many times its rating: 5 (B), 10 (C), 20 (D).
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(minimum = 2, maximum = 30)]
    pub trip_times: Option<f64>,
    /// Residual current it sees.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub rcd: Option<RcdType>,
    /// Rated residual current, mA.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(minimum = 1, maximum = 5000)]
    pub rcd_ma: Option<f64>,
    /// It can be locked open; absent: not said.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub lockable: Option<bool>,
    /// Its contacts are seen to be open; absent: not said.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub visible: Option<bool>,
    /// Width in ways of 17.5 mm.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(minimum = 0, maximum = 200)]
    pub ways_n: Option<f64>,
    /// The rail it sits on, from 1 at the top; absent: where there is room.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(minimum = 1, maximum = 20)]
    pub rail: Option<u32>,
    /// Ways to the left of it on that rail.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(minimum = 0, maximum = 200)]
    pub left_ways: Option<f64>,
    /// How a current transformer sits.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub ct: Option<Ct>,
    /// The next device of the node toward the grid.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub feeds: Option<DeviceKey>,
}

impl Device {
    /// A device of a kind, with nothing said of it yet.
    pub fn new(what: DeviceKind) -> Self {
        Device {
            what,
            sheet: None,
            amps_a: None,
            volts_v: None,
            poles_n: None,
            current: None,
            breaking_ka: None,
            trip_times: None,
            rcd: None,
            rcd_ma: None,
            lockable: None,
            visible: None,
            ways_n: None,
            rail: None,
            left_ways: None,
            ct: None,
            feeds: None,
        }
    }
}

/// How a node is earthed.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields, default)]
pub struct Earthed {
    /// An electrode is connected here: at a panel that of the service, at an electrode itself;
    /// absent: not said.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub electrode: Option<bool>,
    /// Its resistance to earth, ohm.
    #[serde(skip_serializing_if = "Option::is_none")]
    #[schema(minimum = 0.01, maximum = 10000)]
    pub ohm: Option<f64>,
    /// Earth wires end on a bar; crimped together where not; absent: not said.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub bar: Option<bool>,
    /// Its case is of metal; absent: as such things usually are.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub metal: Option<bool>,
    /// Its case is bonded to the earth wire; absent: not said.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub bonded: Option<bool>,
    /// It stands in another building than the service; absent: not said.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub out_building: Option<bool>,
}
