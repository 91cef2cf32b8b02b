//! What the database holds, and how it goes out: the same noun at every stage, known to the store,
//! to the refusals and to the routes.

use chrono::{DateTime, Utc};
use heliant_core::evaluate::Report;
use heliant_core::figure::{Figure, Recording};
use heliant_core::job::{Document, Job, JobFile, Reading, VERSION};
use heliant_core::library::Library;
use serde::Serialize;
use utoipa::ToSchema;
use uuid::Uuid;

use crate::packed::PackedReport;

/// A job as it stands.
#[derive(Clone, Debug)]
pub struct Stored {
    /// Id.
    pub id: Uuid,
    /// Its newest revision.
    pub revision: i32,
    /// When that was saved.
    pub saved_at: DateTime<Utc>,
    /// By whom.
    pub saved_by: String,
    /// What it holds.
    pub document: Document,
    /// Readings, oldest first.
    pub readings: Vec<Reading>,
    /// For somebody from outside: prices and notes of the company are left out of all that is told.
    pub outside: bool,
}

impl Stored {
    /// The report of the job as it stands, without workings.
    pub fn report(&self) -> Report {
        self.report_with(Recording::Nothing)
    }

    /// The same with the workings asked for.
    pub fn report_with(&self, recording: Recording) -> Report {
        let Document { job, library } = &self.document;
        let report = heliant_core::evaluate_with(job, library, &self.readings, recording);
        if self.outside { report.without_prices() } else { report }
    }

    /// The figures whose workings are asked for, with them.
    pub fn workings(&self, recording: &Recording) -> Vec<Figure> {
        let Document { job, library } = &self.document;
        let mut figures = heliant_core::workings(job, library, &self.readings, recording);
        if self.outside {
            figures.retain(|f| !f.is_price());
        }
        figures
    }

    /// The job as it is told.
    pub fn told(&self) -> Job {
        let job = self.document.job.clone();
        if self.outside { job.for_outside() } else { job }
    }

    /// The job as a file.
    pub fn file(self) -> JobFile {
        JobFile::new(self.told(), self.document.library, self.readings)
    }

    /// Its records of readings, as `jobs.readings_n` counts them.
    pub fn readings_n(&self) -> i32 {
        count(&self.readings)
    }
}

/// Records of readings: each that was taken, and each that was withdrawn.
pub(crate) fn count(readings: &[Reading]) -> i32 {
    let withdrawn_n = readings.iter().filter(|r| r.withdrawn.is_some()).count();
    i32::try_from(readings.len() + withdrawn_n).unwrap_or(i32::MAX)
}

/// A job as it stands, with its report.
#[derive(Debug, Serialize, ToSchema)]
pub struct JobView {
    /// Id.
    pub id: Uuid,
    /// Version of the job file's format that job and data sheets are of.
    pub version: u32,
    /// Newest revision.
    pub revision: i32,
    /// When it was saved.
    pub saved_at: DateTime<Utc>,
    /// By whom.
    pub saved_by: String,
    /// The job.
    pub job: Job,
    /// The data sheets it was planned with.
    pub library: Library,
    /// What it comes to, without workings.
    pub report: PackedReport,
}

impl From<Stored> for JobView {
    fn from(stored: Stored) -> Self {
        let (report, job) = (stored.report().into(), stored.told());
        JobView {
            id: stored.id,
            version: VERSION,
            revision: stored.revision,
            saved_at: stored.saved_at,
            saved_by: stored.saved_by,
            job,
            library: stored.document.library,
            report,
        }
    }
}

/// What a save or a reading came to. Job and data sheets are as they were sent.
#[derive(Debug, Serialize, ToSchema)]
pub struct Outcome {
    /// Newest revision.
    pub revision: i32,
    /// When it was saved.
    pub saved_at: DateTime<Utc>,
    /// By whom.
    pub saved_by: String,
    /// What the job comes to, without workings.
    pub report: PackedReport,
}

impl Outcome {
    /// What a stored job comes to.
    pub fn of(stored: Stored, report: Report) -> Self {
        let Stored { revision, saved_at, saved_by, .. } = stored;
        Outcome { revision, saved_at, saved_by, report: report.into() }
    }
}
