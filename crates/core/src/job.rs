//! The job file: what a person enters, as one JSON document with a version and a published schema.
//! [`read`] parses, migrates and validates; it finds every problem at once.

mod choices;
mod migrate;
mod read;
mod validate;

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::library::{Library, SheetKind, SheetRef};
use crate::school::School;
use crate::weather::WeatherRecord;

pub use choices::{Choices, RacewaySizes, choices};
pub use read::{MAX_FILE_BYTES, Opened, Problem, json_schema, read, read_value};
pub use validate::validate;

/// The version this program writes.
pub const VERSION: u32 = 2;

/// The document: job, the data sheets it uses, the readings taken on it.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct JobFile {
    /// Always `heliant-job`.
    #[schema(pattern = "^heliant-job$")]
    pub format: String,
    /// Version of the format.
    #[schema(minimum = 2, maximum = 2)]
    pub version: u32,
    /// What was planned.
    pub job: Job,
    /// The data sheets it was planned with.
    pub library: Library,
    /// Readings, in the order they were taken.
    #[serde(default)]
    #[schema(max_items = 10000)]
    pub readings: Vec<Reading>,
}

impl JobFile {
    /// A file of the current version.
    pub fn new(job: Job, library: Library, readings: Vec<Reading>) -> Self {
        JobFile { format: "heliant-job".to_owned(), version: VERSION, job, library, readings }
    }

    /// The file as text: pretty JSON with a closing newline. The same job gives the same bytes.
    pub fn to_text(&self) -> String {
        let mut text = serde_json::to_string_pretty(self).expect("a job file has only string keys");
        text.push('\n');
        text
    }
}

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
    /// Notes of the planner.
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
    /// Circuits with their way through the house.
    #[serde(default)]
    #[schema(max_items = 200)]
    pub runs: Vec<Run>,
    /// The main panel; needed for the busbar rules of the North American school.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub panel: Option<Panel>,
    /// Places the inverter might go, to be compared.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    #[schema(max_items = 6)]
    pub places: Vec<InverterPlace>,
    /// Settings in which practice differs.
    #[serde(default)]
    pub settings: Settings,
    /// Older data sheets that are kept on purpose although there is a newer one.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    #[schema(max_items = 200)]
    pub kept_sheets: Vec<KeptSheet>,
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

impl Job {
    /// A job with nothing in it yet.
    pub fn new(name: impl Into<String>, school: School) -> Self {
        Job {
            name: name.into(),
            school,
            address: String::new(),
            notes: String::new(),
            site: Site::default(),
            inverters: Vec::new(),
            strings: Vec::new(),
            branches: Vec::new(),
            runs: Vec::new(),
            panel: None,
            places: Vec::new(),
            settings: Settings::default(),
            kept_sheets: Vec::new(),
        }
    }

    /// The face with this id.
    pub fn face(&self, id: &str) -> Option<&Face> {
        self.site.faces.iter().find(|f| f.id == id)
    }
}

/// How the array stands off its roof; it decides how much hotter than the air a cell gets.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Mounting {
    /// Flush with the roof: 35 K.
    Flush,
    /// Raised or tilted: 30 K.
    Raised,
    /// On the ground or a pole: 25 K.
    Ground,
}

impl Mounting {
    /// Cell rise above the air on a hot day, K.
    pub fn cell_rise_c(self) -> f64 {
        match self {
            Mounting::Flush => 35.0,
            Mounting::Raised => 30.0,
            Mounting::Ground => 25.0,
        }
    }
}

/// The kind of building, for its DC ceiling (690.7).
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
pub enum Building {
    /// na: one- and two-family dwelling.
    #[serde(rename = "dwelling_1_2")]
    Dwelling12,
    /// na: another building's roof.
    #[serde(rename = "other_roof")]
    OtherRoof,
    /// iec: on a building.
    #[serde(rename = "building")]
    Building,
    /// Ground mount.
    #[serde(rename = "ground")]
    Ground,
}

/// How cold open-circuit volts are had.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum ColdMethod {
    /// By the module's own coefficient.
    #[default]
    Coefficient,
    /// By table 690.7(A).
    Table,
    /// By the factor 1.15; iec only.
    Factor,
}

/// The site.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields, default)]
pub struct Site {
    /// Lowest expected ambient, °C.
    #[schema(minimum = -70, maximum = 40)]
    pub t_min_c: Option<f64>,
    /// 2 % high ambient, °C.
    #[schema(minimum = -20, maximum = 60)]
    pub t_max_c: Option<f64>,
    /// Lowest value of each year of a weather record, °C; held against `t_min_c`.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    #[schema(max_items = 200)]
    pub yearly_min_c: Vec<f64>,
    /// Hourly values of the hottest month of a weather record, °C; held against `t_max_c`.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    #[schema(max_items = 30000)]
    pub hottest_month_hourly_c: Vec<f64>,
    /// The weather file the two are of.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub weather: Option<WeatherRecord>,
    /// Latitude of the site, north positive, °.
    #[serde(skip_serializing_if = "Option::is_none")]
    #[schema(minimum = -90, maximum = 90)]
    pub latitude_deg: Option<f64>,
    /// Longitude of the site, east positive, °.
    #[serde(skip_serializing_if = "Option::is_none")]
    #[schema(minimum = -180, maximum = 180)]
    pub longitude_deg: Option<f64>,
    /// How the array is mounted.
    pub mounting: Option<Mounting>,
    /// Cell rise as entered, K; wins over the mounting's.
    #[schema(minimum = 0, maximum = 60)]
    pub cell_rise_hot_c: Option<f64>,
    /// Kind of building.
    pub building: Option<Building>,
    /// How cold volts are had.
    pub cold_method: ColdMethod,
    /// The faces modules lie on.
    #[schema(max_items = 100)]
    pub faces: Vec<Face>,
}

/// A plane modules lie on.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Face {
    /// Key within the job.
    #[schema(min_length = 1, max_length = 40)]
    pub id: String,
    /// What it is called.
    #[schema(min_length = 1, max_length = 80)]
    pub name: String,
    /// Tilt from level, °.
    #[schema(minimum = 0, maximum = 90)]
    pub tilt_deg: f64,
    /// Azimuth from north, clockwise, °.
    #[schema(minimum = 0, maximum = 360)]
    pub azimuth_deg: f64,
}

/// An inverter of the job.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct JobInverter {
    /// Key within the job.
    #[schema(min_length = 1, max_length = 40)]
    pub id: String,
    /// Its data sheet.
    pub sheet: SheetRef,
}

/// A string: modules in series on one MPPT.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct JobString {
    /// Its letter; tape, labels and tests go by it.
    #[schema(pattern = "^[A-Z]{1,3}$")]
    pub letter: String,
    /// The face its modules lie on.
    #[schema(min_length = 1, max_length = 40)]
    pub face: String,
    /// Its modules' data sheet.
    pub module: SheetRef,
    /// Modules in series.
    #[schema(minimum = 1, maximum = 200)]
    pub n: u32,
    /// The inverter it goes to.
    #[schema(min_length = 1, max_length = 40)]
    pub inverter: String,
    /// The MPPT, counted from 1.
    #[schema(minimum = 1, maximum = 50)]
    pub mppt: u32,
    /// The optimizer on each module, where there are any: the inverter then holds the string at
    /// fixed volts.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub optimizer: Option<SheetRef>,
}

/// A branch of microinverters on one trunk cable.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct JobBranch {
    /// Its letter; tape, labels and tests go by it. No string of the job has the same.
    #[schema(pattern = "^[A-Z]{1,3}$")]
    pub letter: String,
    /// The face its modules lie on.
    #[schema(min_length = 1, max_length = 40)]
    pub face: String,
    /// Its modules' data sheet.
    pub module: SheetRef,
    /// Its units' data sheet.
    pub micro: SheetRef,
    /// Units of each arm: one arm is fed from its end, two in between.
    #[schema(min_items = 1, max_items = 2)]
    pub arms_n: Vec<u32>,
    /// Breaker, A.
    #[serde(default)]
    #[schema(minimum = 1, maximum = 200)]
    pub breaker_a: Option<f64>,
    /// The phase it feeds on a three-phase supply, 1 to 3.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(minimum = 1, maximum = 3)]
    pub phase: Option<u32>,
    /// Home run from the trunk to the breaker, one way, m.
    #[serde(default)]
    #[schema(minimum = 0, maximum = 1000)]
    pub home_run_m: Option<f64>,
    /// Its wire; copper.
    #[serde(default)]
    pub wire: WireChoice,
}

impl JobBranch {
    /// Units of all arms.
    pub fn units(&self) -> u32 {
        self.arms_n.iter().sum()
    }
}

/// What kind of circuit a conductor carries.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum CircuitKind {
    /// One string.
    PvString,
    /// Parallel strings after a combiner.
    PvOutput,
    /// An inverter's output.
    InverterOut,
    /// A branch of microinverters.
    MicroBranch,
    /// Combined output to the panel.
    AcFeeder,
}

impl CircuitKind {
    /// Whether it carries DC.
    pub fn is_dc(self) -> bool {
        matches!(self, CircuitKind::PvString | CircuitKind::PvOutput)
    }
}

/// Conductor metal.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Material {
    /// Copper.
    #[default]
    Cu,
    /// Aluminium.
    Al,
}

impl Material {
    /// Key in the tables.
    pub fn key(self) -> &'static str {
        match self {
            Material::Cu => "cu",
            Material::Al => "al",
        }
    }
}

/// Insulation of a North American conductor.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
pub enum Insulation {
    /// THWN-2.
    #[default]
    #[serde(rename = "THWN-2")]
    Thwn2,
    /// XHHW-2: no roof adder.
    #[serde(rename = "XHHW-2")]
    Xhhw2,
    /// USE-2.
    #[serde(rename = "USE-2")]
    Use2,
    /// THWN.
    #[serde(rename = "THWN")]
    Thwn,
    /// THHN.
    #[serde(rename = "THHN")]
    Thhn,
    /// PV wire.
    #[serde(rename = "PV")]
    Pv,
    /// Nonmetallic-sheathed cable: 60 °C terminals.
    #[serde(rename = "NM")]
    Nm,
}

/// Cable of the IEC school.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Cable {
    /// EN 50618 solar cable.
    #[default]
    Solar,
    /// PVC insulated, 70 °C.
    Pvc70,
    /// XLPE insulated, 90 °C.
    Xlpe90,
}

impl Cable {
    /// Key in the tables.
    pub fn key(self) -> &'static str {
        match self {
            Cable::Solar => "solar",
            Cable::Pvc70 => "pvc70",
            Cable::Xlpe90 => "xlpe90",
        }
    }
}

/// A conductor. The school decides which fields are read: `awg`, `material`, `insulation`,
/// `terminal_c` (na); `mm2`, `cable` (iec).
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields, default)]
pub struct WireChoice {
    /// na: AWG or kcmil.
    #[serde(skip_serializing_if = "Option::is_none")]
    #[schema(max_length = 4)]
    pub awg: Option<String>,
    /// na: metal.
    pub material: Material,
    /// na: insulation.
    pub insulation: Insulation,
    /// na: temperature the terminals are marked for, 60 or 75 °C; 75 where absent.
    #[serde(skip_serializing_if = "Option::is_none")]
    #[schema(minimum = 60, maximum = 75)]
    pub terminal_c: Option<u32>,
    /// iec: section, mm².
    #[serde(skip_serializing_if = "Option::is_none")]
    #[schema(minimum = 0.5, maximum = 1000)]
    pub mm2: Option<f64>,
    /// iec: cable.
    pub cable: Cable,
}

/// A place a route passes through, from the top of the house down.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Place {
    /// Under the modules.
    UnderModules,
    /// On the roof in the sun.
    RoofSun,
    /// On the roof in shade.
    RoofShade,
    /// Attic or loft.
    Attic,
    /// Inside the building.
    Inside,
    /// Wall cavity.
    Cavity,
    /// Garage or shed.
    Garage,
    /// Outside wall in sun.
    OutsideWallSun,
    /// Outside wall in shade.
    OutsideWallShade,
    /// Under eave or porch.
    Sheltered,
    /// In the ground.
    Underground,
}

impl Place {
    /// Key in `data/segment_places.csv`.
    pub fn key(self) -> &'static str {
        match self {
            Place::UnderModules => "under_modules",
            Place::RoofSun => "roof_sun",
            Place::RoofShade => "roof_shade",
            Place::Attic => "attic",
            Place::Inside => "inside",
            Place::Cavity => "cavity",
            Place::Garage => "garage",
            Place::OutsideWallSun => "outside_wall_sun",
            Place::OutsideWallShade => "outside_wall_shade",
            Place::Sheltered => "sheltered",
            Place::Underground => "underground",
        }
    }
}

/// How the conductors lie in a segment.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Method {
    /// In a raceway or conduit.
    #[default]
    Raceway,
    /// As a cable.
    Cable,
    /// In free air.
    FreeAir,
}

/// A raceway by kind and size.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct RacewayChoice {
    /// na `emt rmc imc pvc40 pvc80 fmc lfmc`; iec `medium heavy`.
    pub kind: RacewayKind,
    /// na: trade size; iec: millimetres.
    #[schema(min_length = 1, max_length = 6)]
    pub size: String,
}

/// Kind of raceway.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum RacewayKind {
    /// Electrical metallic tubing.
    Emt,
    /// Rigid metal conduit.
    Rmc,
    /// Intermediate metal conduit.
    Imc,
    /// Rigid PVC conduit, schedule 40.
    Pvc40,
    /// Rigid PVC conduit, schedule 80.
    Pvc80,
    /// Flexible metal conduit.
    Fmc,
    /// Liquidtight flexible metal conduit.
    Lfmc,
    /// IEC rigid conduit, medium duty.
    Medium,
    /// IEC rigid conduit, heavy duty.
    Heavy,
}

impl RacewayKind {
    /// Key in the tables.
    pub fn key(self) -> &'static str {
        match self {
            RacewayKind::Emt => "emt",
            RacewayKind::Rmc => "rmc",
            RacewayKind::Imc => "imc",
            RacewayKind::Pvc40 => "pvc40",
            RacewayKind::Pvc80 => "pvc80",
            RacewayKind::Fmc => "fmc",
            RacewayKind::Lfmc => "lfmc",
            RacewayKind::Medium => "medium",
            RacewayKind::Heavy => "heavy",
        }
    }

    /// The school whose tables hold it.
    pub fn school(self) -> School {
        match self {
            RacewayKind::Medium | RacewayKind::Heavy => School::Iec,
            _ => School::Na,
        }
    }
}

/// One segment of a run: one place, one method.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Segment {
    /// The place.
    pub place: Place,
    /// How the conductors lie there.
    #[serde(default)]
    pub method: Method,
    /// Length one way, m.
    #[serde(default)]
    #[schema(minimum = 0, maximum = 5000)]
    pub length_m: Option<f64>,
    /// Added to the site's high ambient instead of the place's figure, K.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(minimum = -30, maximum = 60)]
    pub ambient_add_c: Option<f64>,
    /// Height above the roof, mm; below 23 mm (7/8 in) in the sun the wire gets hotter.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(minimum = 0, maximum = 2000)]
    pub roof_clearance_mm: Option<f64>,
    /// The raceway, where there is one.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub raceway: Option<RacewayChoice>,
}

/// A run: circuits of one kind that go the same way in the same conductors' size.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Run {
    /// Key within the job.
    #[schema(min_length = 1, max_length = 40)]
    pub id: String,
    /// What it is called.
    #[schema(min_length = 1, max_length = 80)]
    pub name: String,
    /// What it carries.
    pub kind: CircuitKind,
    /// The strings it carries, by letter (dc).
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    #[schema(max_items = 100)]
    pub strings: Vec<String>,
    /// The inverter whose output it carries (ac).
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(max_length = 40)]
    pub inverter: Option<String>,
    /// The conductor.
    #[serde(default)]
    pub wire: WireChoice,
    /// A neutral runs along (ac).
    #[serde(default)]
    pub neutral: bool,
    /// Overcurrent device that protects it, A; ac where absent: the next standard size.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(minimum = 1, maximum = 10000)]
    pub ocpd_a: Option<f64>,
    /// The way, segment by segment.
    #[serde(default)]
    #[schema(max_items = 50)]
    pub segments: Vec<Segment>,
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
    /// Breakers that feed loads, A.
    #[schema(max_items = 200)]
    pub load_breakers_a: Vec<f64>,
    /// The PV breaker sits at the end of the bus away from the main.
    pub pv_at_far_end: bool,
    /// Load calculation, A.
    #[serde(skip_serializing_if = "Option::is_none")]
    #[schema(minimum = 0, maximum = 10000)]
    pub load_calc_a: Option<f64>,
}

/// Settings in which practice differs; shown where they act.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields, default)]
pub struct Settings {
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
}

/// A reading taken on a string. Readings are only ever added.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Reading {
    /// Its id.
    #[schema(min_length = 1, max_length = 40)]
    pub id: String,
    /// When it was taken, UTC, as RFC 3339 writes it.
    #[schema(min_length = 1, max_length = 40)]
    pub at: String,
    /// Who took it.
    #[schema(min_length = 1, max_length = 120)]
    pub by: String,
    /// What was read.
    pub values: ReadingValues,
}

/// What a meter said, and the light and warmth it said it in.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct ReadingValues {
    /// The string, by letter.
    #[schema(pattern = "^[A-Z]{1,3}$")]
    pub string: String,
    /// Irradiance in the plane of the modules, W/m².
    #[serde(default)]
    #[schema(minimum = 0, maximum = 2000)]
    pub irradiance_w_m2: Option<f64>,
    /// Cell temperature as known, °C; goes first.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(minimum = -60, maximum = 120)]
    pub cell_c: Option<f64>,
    /// Back of a module, °C.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(minimum = -60, maximum = 120)]
    pub back_c: Option<f64>,
    /// Air, °C; needs the module's NMOT.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(minimum = -60, maximum = 70)]
    pub ambient_c: Option<f64>,
    /// Open-circuit volts, V; negative as the meter shows it.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(minimum = -3000, maximum = 3000)]
    pub voc_v: Option<f64>,
    /// Short-circuit amps, A.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(minimum = -1000, maximum = 1000)]
    pub isc_a: Option<f64>,
}
