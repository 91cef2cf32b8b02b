//! The job file: what a person enters, as one JSON document with a version and a published schema.
//! [`read`] parses, migrates and validates; it finds every problem at once.
//!
//! Types stand in files by subject; nothing here knows a rule.

mod change_over;
mod choices;
mod command;
mod demands;
mod device;
mod edit;
mod file;
pub mod incoming;
mod keys;
mod migrate;
mod place;
mod plan;
mod plan_problems;
mod protection;
mod read;
mod records;
mod references;
mod roof;
mod roof_problems;
mod routes;
mod settings;
mod settle;
mod site;
mod stock;
mod stored;
mod strings;
mod twice;
mod v2;
mod validate;
mod weather;
mod wire;

use std::collections::BTreeMap;

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::school::School;

pub use crate::limits::{MOST_CIRCUITS, MOST_MODULES, MOST_NODES, MOST_WAYS};
pub use crate::problem::Problem;
pub use choices::{Choices, RacewaySizes, choices};
pub use command::{Command, commanded};
pub use demands::{Demand, DemandKind, Party};
pub use device::{Ct, CtMeasures, CurrentKind, Device, DeviceKind, Earthed};
pub use edit::{Edit, applied};
pub use file::{Document, JobFile, MOST_READINGS, VERSION};
pub use keys::{
    CircuitKey, DemandKey, DeviceKey, FaceKey, InverterKey, Letter, ModuleKey, NodeKey,
    ObstructionKey, PieceKey, ReadingKey, WayKey,
};
pub use place::{CircuitKind, Method, Place, RacewayChoice, RacewayKind};
pub use plan::{
    Bend, BendKind, BoxSize, Circuit, End, Leg, Node, NodeKind, Part, Plan, Stand, Way,
};
pub(crate) use plan_problems::plan_problems;
pub use protection::{
    Backup, Earthing, IsolatorPer, Protection, ShutdownBy, SurgePolicy, SurgeSite,
};
pub use read::{MAX_FILE_BYTES, MAX_PLAN_BYTES, Opened, json_schema, read, read_job, read_value};
pub use records::{Reading, ReadingValues, Withdrawn};
pub use references::{Reference, Used};
pub use roof::{Crossing, FaceMap, FrameRows, FreePaths, Obstruction, Placed, Rails};
pub use routes::{FIRST_ROUTE, KeptRoute, MOST_ROUTES, rate_problems};
pub use settings::{
    Appliance, Confirmed, InverterPlace, KeptSheet, LoadSheet, Panel, Settings, SupplySide,
};
pub use settle::settle;
pub use site::{Building, ColdMethod, Face, Mounting, Site};
pub use stock::{MOST_PIECES, StockPiece};
pub use stored::{Unreadable, stored, stored_reading, stored_sheet};
pub use strings::{JobBranch, JobInverter, JobString};
pub use validate::validate;
pub use weather::{WeatherBin, WeatherRecord};
pub use wire::{Cable, Insulation, Material, WireChoice};

/// Prices and times by the keys of `data/rates.csv`.
pub type Rates = BTreeMap<String, f64>;

/// A job: one PV system on one site.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Job {
    /// What the job is called.
    #[schema(min_length = 1, max_length = 120)]
    pub name: String,
    /// The school of practice; it decides units, tables and wording.
    pub school: School,
    /// Where it is, as the customer writes it.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    #[schema(max_length = 300)]
    pub address: String,
    /// Who it is for.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    #[schema(max_length = 120)]
    pub customer: String,
    /// How the customer is reached.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    #[schema(max_length = 200)]
    pub contact: String,
    /// The zone whose clock hangs on the site, by its name in the IANA database; times on paper are
    /// of it.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(max_length = 60)]
    pub time_zone: Option<String>,
    /// Notes of the planner; lines stay lines.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    #[schema(max_length = 4000)]
    pub notes: String,
    /// The site.
    pub site: Site,
    /// The inverters.
    #[serde(default)]
    #[schema(max_items = 50)]
    pub inverters: Vec<JobInverter>,
    /// The strings.
    #[serde(default)]
    #[schema(max_items = 500)]
    pub strings: Vec<JobString>,
    /// Branches of microinverters.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    #[schema(max_items = 100)]
    pub branches: Vec<JobBranch>,
    /// The roof map, by face.
    #[serde(default, skip_serializing_if = "BTreeMap::is_empty")]
    pub roof: BTreeMap<FaceKey, FaceMap>,
    /// Nodes, ways and circuits.
    #[serde(default)]
    pub plan: Plan,
    /// What is asked of protection and earthing, and what the supply is.
    #[serde(default, skip_serializing_if = "Protection::nothing_said")]
    pub protection: Protection,
    /// What the parties ask for, by key.
    #[serde(default, skip_serializing_if = "BTreeMap::is_empty")]
    pub demands: BTreeMap<DemandKey, Demand>,
    /// What the plan is called among routes that are compared.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    #[schema(max_length = 60)]
    pub route: String,
    /// Other routes, kept beside it.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    #[schema(max_items = 5)]
    pub routes: Vec<KeptRoute>,
    /// Cable that is there already, by key.
    #[serde(default, skip_serializing_if = "BTreeMap::is_empty")]
    pub stock: BTreeMap<PieceKey, StockPiece>,
    /// The company's own prices and times, by the keys of `data/rates.csv`.
    #[serde(default, skip_serializing_if = "BTreeMap::is_empty")]
    pub rates: Rates,
    /// Places the inverter might go, to be compared.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    #[schema(max_items = 6)]
    pub places: Vec<InverterPlace>,
    /// Settings in which practice differs.
    #[serde(default)]
    pub settings: Settings,
    /// Assumptions that somebody confirmed.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    #[schema(max_items = 100)]
    pub confirmed: Vec<Confirmed>,
    /// Older data sheets that are kept on purpose although there is a newer one.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    #[schema(max_items = 200)]
    pub kept_sheets: Vec<KeptSheet>,
}

impl Job {
    /// A job with nothing in it yet.
    pub fn new(name: impl Into<String>, school: School) -> Self {
        Job {
            name: name.into(),
            school,
            address: String::new(),
            customer: String::new(),
            contact: String::new(),
            time_zone: None,
            notes: String::new(),
            site: Site::default(),
            inverters: Vec::new(),
            strings: Vec::new(),
            branches: Vec::new(),
            roof: BTreeMap::new(),
            plan: Plan::default(),
            protection: Protection::default(),
            demands: BTreeMap::new(),
            route: String::new(),
            routes: Vec::new(),
            stock: BTreeMap::new(),
            rates: Rates::new(),
            places: Vec::new(),
            settings: Settings::default(),
            confirmed: Vec::new(),
            kept_sheets: Vec::new(),
        }
    }

    /// The face with this id.
    pub fn face(&self, id: &FaceKey) -> Option<&Face> {
        self.site.faces.iter().find(|f| f.id == *id)
    }
}
