//! What the database holds, and how it goes out: the same noun at every stage, known to the store,
//! to the refusals and to the routes.

use chrono::{DateTime, Utc};
use heliant_core::evaluate::Report;
use heliant_core::job::{Document, Job, JobFile, Reading, VERSION};
use heliant_core::library::Library;
use heliant_core::{evaluate, figure::Recording};
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
}

impl Stored {
    /// The report of the job as it stands, without workings.
    pub fn report(&self) -> Report {
        evaluate(&self.document.job, &self.document.library, &self.readings)
    }

    /// The same with the workings asked for.
    pub fn report_with(&self, recording: Recording) -> Report {
        let Document { job, library } = &self.document;
        heliant_core::evaluate_with(job, library, &self.readings, recording)
    }

    /// The job as a file.
    pub fn file(self) -> JobFile {
        JobFile::new(self.document.job, self.document.library, self.readings)
    }
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
        let report = stored.report().into();
        JobView {
            id: stored.id,
            version: VERSION,
            revision: stored.revision,
            saved_at: stored.saved_at,
            saved_by: stored.saved_by,
            job: stored.document.job,
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
