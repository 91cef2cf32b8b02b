//! From a job to its report: every calculation, in the order of the stages.

mod branches;
mod drawings;
mod equipment;
mod readings;
mod runs;
mod strings;

use serde::Serialize;
use utoipa::ToSchema;

use crate::figure::{Check, Figure, Sheet, Stage, Subject, SubjectKind, Verdict};
use crate::job::{Job, Reading};
use crate::library::Library;
use crate::places::{Places, places};
use crate::quantity::Celsius;
use crate::runs::RacewayCut;
use crate::school::School;
use crate::site::{self, DC_CEILING, SiteInputs, T_MAX, T_MIN};

pub use branches::BranchDrawing;
pub use drawings::{Band, Leg, Route, StringWindow, Tape, WindowRow};
pub use readings::{JudgedReading, Preview, preview};

/// How many checks came to what.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, ToSchema)]
pub struct Counts {
    /// Inside their limits.
    pub pass: u32,
    /// With a loss or risk.
    pub warn: u32,
    /// Must not be built so.
    pub fail: u32,
    /// An input is missing.
    pub unknown: u32,
}

impl Counts {
    fn of<'a>(checks: impl Iterator<Item = &'a Check>) -> Counts {
        checks.filter(|c| !c.alternative).fold(Counts::default(), |mut n, c| {
            match c.verdict {
                Verdict::Pass => n.pass += 1,
                Verdict::Warn => n.warn += 1,
                Verdict::Fail => n.fail += 1,
                Verdict::Unknown => n.unknown += 1,
            }
            n
        })
    }

    /// The worst verdict there is, in the order pass, warn, unknown, fail; none without checks.
    pub fn worst(&self) -> Option<Verdict> {
        match self {
            Counts { fail: 1.., .. } => Some(Verdict::Fail),
            Counts { unknown: 1.., .. } => Some(Verdict::Unknown),
            Counts { warn: 1.., .. } => Some(Verdict::Warn),
            Counts { pass: 1.., .. } => Some(Verdict::Pass),
            _ => None,
        }
    }
}

/// One stage of the job in short.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct StageSummary {
    /// The stage.
    pub stage: Stage,
    /// Its worst verdict.
    pub verdict: Verdict,
    /// Its checks.
    pub counts: Counts,
}

/// Everything computed of a job.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct Report {
    /// The school of practice.
    pub school: School,
    /// All checks together.
    pub counts: Counts,
    /// The worst verdict of all.
    pub verdict: Verdict,
    /// Stage by stage.
    pub stages: Vec<StageSummary>,
    /// Every figure with its working.
    pub figures: Vec<Figure>,
    /// Every check.
    pub checks: Vec<Check>,
    /// The tape of each string.
    pub tapes: Vec<Tape>,
    /// The voltage window of each inverter with its strings.
    pub string_windows: Vec<StringWindow>,
    /// The volts along each branch of microinverters.
    pub branches: Vec<BranchDrawing>,
    /// The way of the circuits through the house.
    pub route: Route,
    /// The cut through each raceway.
    pub raceway_cuts: Vec<RacewayCut>,
    /// Places for the inverter, compared.
    pub places: Places,
    /// Readings, judged.
    pub readings: Vec<JudgedReading>,
}

impl Report {
    /// The figure of this id and subject.
    pub fn figure(&self, id: &str, subject: &str) -> Option<&Figure> {
        self.figures.iter().find(|f| f.id == id && f.subject.name == subject)
    }

    /// The check of this id and subject.
    pub fn check(&self, id: &str, subject: &str) -> Option<&Check> {
        self.checks.iter().find(|c| c.id == id && c.subject.name == subject)
    }
}

/// Computes every figure and check of a job. The same inputs give the same report, byte for byte.
///
/// References that lead nowhere (a string on an inverter that is not there) are left out;
/// validation names them before a job is saved.
pub fn evaluate(job: &Job, library: &Library, readings: &[Reading]) -> Report {
    let mut sheet = Sheet::new(job.school, Subject::new(SubjectKind::Site, "site"));
    let ceiling = evaluate_site(&mut sheet, job);
    equipment::equipment(&mut sheet, job, library);
    strings::strings(&mut sheet, job, library, ceiling);
    let branches = branches::branches(&mut sheet, job, library);
    let raceway_cuts = runs::runs(&mut sheet, job, library);
    let places = places(&mut sheet, job, library);
    let judged = readings::readings(&mut sheet, job, library, readings);
    let tapes = drawings::tapes(job);
    let string_windows = drawings::string_windows(&sheet, job, library);
    let stages = [Stage::Site, Stage::Equipment, Stage::Strings, Stage::Runs, Stage::Test]
        .map(|stage| {
            let counts = Counts::of(sheet.checks.iter().filter(|c| c.stage == stage));
            StageSummary { stage, verdict: counts.worst().unwrap_or(Verdict::Unknown), counts }
        })
        .to_vec();
    let counts = Counts::of(sheet.checks.iter());
    Report {
        school: job.school,
        counts,
        verdict: counts.worst().unwrap_or(Verdict::Unknown),
        stages,
        figures: sheet.figures,
        checks: sheet.checks,
        tapes,
        string_windows,
        branches,
        route: drawings::route(job),
        raceway_cuts,
        places,
        readings: judged,
    }
}

/// The site's figures; gives the DC ceiling.
fn evaluate_site(sheet: &mut Sheet, job: &Job) -> Option<f64> {
    let s = &job.site;
    let record = |values: &[f64]| (!values.is_empty()).then(|| values.to_vec());
    for (def, value, has_record) in [
        (&T_MIN, s.t_min_c, !s.yearly_min_c.is_empty()),
        (&T_MAX, s.t_max_c, !s.hottest_month_hourly_c.is_empty()),
    ] {
        if !has_record {
            sheet.figure(def, |w| w.need::<Celsius>("as entered", value, def.id, "site"));
        }
        if value.is_none() {
            sheet.judge(def, Verdict::Unknown).missing = vec![def.id.to_owned()];
        } else if !has_record {
            sheet.judge(def, Verdict::Pass);
        }
    }
    let inputs = SiteInputs {
        yearly_min_c: record(&s.yearly_min_c),
        hottest_month_hourly_c: record(&s.hottest_month_hourly_c),
        t_min_c_entered: s.t_min_c,
        t_max_c_entered: s.t_max_c,
        t_max_c: s.t_max_c,
        mounting: s.mounting,
        cell_rise_hot_c: s.cell_rise_hot_c,
        building: s.building,
    };
    site::site(sheet, &inputs);
    let places = s
        .weather
        .as_ref()
        .map(|w| (s.latitude_deg, s.longitude_deg, w.latitude_deg, w.longitude_deg));
    if let Some((Some(a), Some(b), Some(c), Some(d))) = places {
        site::station(sheet, (a, b), (c, d));
    }
    let rise_known = s.mounting.is_some() || s.cell_rise_hot_c.is_some();
    let check =
        sheet.judge(&site::T_CELL_HOT, if rise_known { Verdict::Pass } else { Verdict::Unknown });
    if !rise_known {
        check.missing = vec!["site.mounting".to_owned()];
    }
    let ceiling = s.building.and_then(|b| job.school.dc_ceiling_v(b));
    let check =
        sheet.judge(&DC_CEILING, if ceiling.is_some() { Verdict::Pass } else { Verdict::Unknown });
    if ceiling.is_none() {
        check.missing = vec!["site.building".to_owned()];
    }
    ceiling
}
