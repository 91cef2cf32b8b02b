//! From a job to its report: every pass of every stage, in the order of what they need.

use std::collections::HashMap;

use serde::Serialize;
use utoipa::ToSchema;

use crate::editions::cited;
use crate::figure::{Assumed, Check, Figure, Recording, Sheet, Stage, Subject, Verdict};
use crate::job::{Job, Reading};
use crate::library::Library;
use crate::registry::{Bench, Findings};
use crate::rules::rules;
use crate::school::{Edition, School};
use crate::stages::branches::{BranchDrawing, BranchesFound};
use crate::stages::earth::Bonding;
use crate::stages::places::Places;
use crate::stages::protection::{
    Board, Boards, DemandDrawn, Demands, EnclosureDrawing, Enclosures,
};
use crate::stages::roof::{RoofFace, RoofFound};
use crate::stages::runs::{RacewayCut, Route, RunsFound};
use crate::stages::strings::{StringWindow, StringWindows, Tape, Tapes};
use crate::stages::test::{JudgedReading, ReadingsFound};

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
    pub(crate) fn of<'a>(checks: impl Iterator<Item = &'a Check>) -> Counts {
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
    /// Every figure; with its working where that was asked for.
    pub figures: Vec<Figure>,
    /// Every check.
    pub checks: Vec<Check>,
    /// The tape of each string.
    pub tapes: Vec<Tape>,
    /// The voltage window of each inverter with its strings.
    pub string_windows: Vec<StringWindow>,
    /// The volts along each branch of microinverters.
    pub branches: Vec<BranchDrawing>,
    /// The roof map, face by face.
    pub roof: Vec<RoofFace>,
    /// The way of the circuits through the house.
    pub route: Route,
    /// The cut through each raceway.
    pub raceway_cuts: Vec<RacewayCut>,
    /// Enclosures with what is in them.
    pub enclosures: Vec<EnclosureDrawing>,
    /// Panels with what feeds them.
    pub boards: Vec<Board>,
    /// What the parties ask for, with what it adds.
    pub demands: Vec<DemandDrawn>,
    /// Every metal part and how it comes to earth.
    pub bonding: Bonding,
    /// Places for the inverter, compared.
    pub places: Places,
    /// Readings, judged.
    pub readings: Vec<JudgedReading>,
    /// What was taken by habit, and who confirmed it.
    pub assumptions: Vec<Assumed>,
}

impl Report {
    /// The figure of this id and subject, by the subject's short name.
    pub fn figure(&self, id: &str, subject: &str) -> Option<&Figure> {
        self.figures.iter().find(|f| f.id == id && f.subject.to_string() == subject)
    }

    /// The number of a figure of this id and subject; none where it is open or no number.
    pub fn number(&self, id: &str, subject: &str) -> Option<f64> {
        self.figure(id, subject)?.value.as_ref()?.number()
    }

    /// The figure a check judges; none where it has none of its own.
    pub fn judged(&self, check: &Check) -> Option<&Figure> {
        self.figures.iter().find(|f| f.id == check.figure && f.subject == check.subject)
    }

    /// The check of this id and subject, by the subject's short name.
    pub fn check(&self, id: &str, subject: &str) -> Option<&Check> {
        self.checks.iter().find(|c| c.id == id && c.subject.to_string() == subject)
    }
}

/// Figures and checks of a report by id and subject: for who looks up many of them.
pub struct Lookup<'r> {
    figures: HashMap<(&'r str, String), &'r Figure>,
    checks: HashMap<(&'r str, String), &'r Check>,
}

impl<'r> Lookup<'r> {
    /// Those of a report; of several alike the first, as [`Report::figure`] and [`Report::check`].
    pub fn of(report: &'r Report) -> Self {
        let (mut figures, mut checks) = (HashMap::new(), HashMap::new());
        for f in &report.figures {
            figures.entry((f.id, f.subject.to_string())).or_insert(f);
        }
        for c in &report.checks {
            checks.entry((c.id, c.subject.to_string())).or_insert(c);
        }
        Lookup { figures, checks }
    }

    /// The number of a figure of this id and subject; none where it is open or no number.
    pub fn number(&self, id: &'r str, subject: &str) -> Option<f64> {
        self.figures.get(&(id, subject.to_owned()))?.value.as_ref()?.number()
    }

    /// The check of this id and subject.
    pub fn check(&self, id: &'r str, subject: &str) -> Option<&'r Check> {
        self.checks.get(&(id, subject.to_owned())).copied()
    }
}

/// Computes every figure and check of a job, without workings: see [`evaluate_with`]. The same
/// inputs give the same report, byte for byte.
///
/// References that lead nowhere (a string on an inverter that is not there) are left out;
/// validation names them before a job is saved.
pub fn evaluate(job: &Job, library: &Library, readings: &[Reading]) -> Report {
    evaluate_with(job, library, readings, Recording::Nothing)
}

/// As [`evaluate`], with the workings that are asked for. Values, limits, verdicts and cures are
/// the same whatever is recorded.
pub fn evaluate_with(
    job: &Job,
    library: &Library,
    readings: &[Reading],
    recording: Recording,
) -> Report {
    let (mut sheet, mut found) = computed(job, library, readings, recording);
    for own in &mut sheet.assumed {
        let confirmed = job.confirmed.iter().find(|c| c.assumption == own.key);
        own.confirmed_by = confirmed.map(|c| c.by.clone());
    }
    let stages = Stage::ALL.map(|stage| {
        let counts = Counts::of(sheet.checks.iter().filter(|c| c.stage == stage));
        StageSummary { stage, verdict: counts.worst().unwrap_or(Verdict::Unknown), counts }
    });
    let counts = Counts::of(sheet.checks.iter());
    Report {
        school: job.school,
        counts,
        verdict: counts.worst().unwrap_or(Verdict::Unknown),
        stages: stages.to_vec(),
        figures: sheet.figures,
        checks: sheet.checks,
        tapes: found.take::<Tapes>().0,
        string_windows: found.take::<StringWindows>().0,
        branches: found.take::<BranchesFound>().drawings,
        roof: found.take::<RoofFound>().faces,
        route: found.take::<Route>(),
        raceway_cuts: found.take::<RunsFound>().cuts,
        enclosures: found.take::<Enclosures>().0,
        boards: found.take::<Boards>().0,
        demands: found.take::<Demands>().0,
        bonding: found.take::<Bonding>(),
        places: found.take::<Places>(),
        readings: found.take::<ReadingsFound>().0,
        assumptions: sheet.assumed,
    }
}

/// The figures whose working is asked for, with it.
pub fn workings(
    job: &Job,
    library: &Library,
    readings: &[Reading],
    recording: &Recording,
) -> Vec<Figure> {
    let (sheet, _) = computed(job, library, readings, recording.clone());
    let asked = |f: &Figure| recording.asks_for(f.stage, &f.subject);
    sheet.figures.into_iter().filter(asked).collect()
}

fn computed(
    job: &Job,
    library: &Library,
    readings: &[Reading],
    recording: Recording,
) -> (Sheet, Findings) {
    let mut sheet = Sheet::with(job.school, Subject::Site, recording);
    if job.school == School::Na {
        sheet.edition = job.settings.edition.unwrap_or_default();
    }
    // As many as jobs of that size have, so that the lists seldom have to move.
    let laid = job.plan.circuits.len() + job.plan.ways.len();
    let modules: usize = job.strings.iter().map(|s| s.n as usize).sum();
    sheet.figures.reserve(64 + 24 * laid + 2 * modules);
    sheet.checks.reserve(32 + 14 * laid + modules);
    let mut bench = Bench { job, library, readings, found: Findings::default() };
    for pass in rules().all_passes() {
        pass.run(&mut bench, &mut sheet);
    }
    if sheet.edition != Edition::default() {
        for check in &mut sheet.checks {
            let texts = check.reason.iter_mut().chain(check.cures.iter_mut().map(|c| &mut c.text));
            for text in texts {
                *text = cited(sheet.edition, text).into_owned();
            }
        }
    }
    (sheet, bench.found)
}
