//! The job file: one JSON document with a version and a published schema.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::{Job, Reading};
use crate::library::Library;

/// The version this program writes.
pub const VERSION: u32 = 7;

/// Readings a job may hold: as many as its file.
pub const MOST_READINGS: usize = 10_000;

/// What a revision of a job holds: the job and the data sheets it was planned with.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct Document {
    /// The job.
    pub job: Job,
    /// Its data sheets.
    pub library: Library,
}

/// The document: job, the data sheets it uses, the readings taken on it.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct JobFile {
    /// Always `heliant-job`.
    #[schema(pattern = "^heliant-job$")]
    pub format: String,
    /// Version of the format.
    #[schema(minimum = 7, maximum = 7)]
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
