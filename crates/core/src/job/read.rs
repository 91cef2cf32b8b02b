//! From text to a job file: size, JSON, version, schema, meaning. All problems at once.

use std::sync::LazyLock;

use serde_json::Value;

use super::{Job, JobFile, migrate::migrate, validate};
use crate::problem::Problem;
use crate::schema::Schema;

/// Largest job file that is read, in bytes.
pub const MAX_FILE_BYTES: usize = 32 * 1024 * 1024;

/// Largest plan, job and data sheets, in bytes. What is exported of the largest with the most
/// readings, in lines, stays below `MAX_FILE_BYTES`.
pub const MAX_PLAN_BYTES: usize = 4 * 1024 * 1024;

/// Most values in a job file: the largest plan with the most readings has half of them.
const MOST_VALUES: usize = 1_000_000;

static SCHEMA: LazyLock<Schema> = LazyLock::new(|| Schema::of::<JobFile>("Heliant job file"));

/// The published JSON Schema (draft 2020-12) of the current version.
pub fn json_schema() -> &'static Value {
    SCHEMA.json()
}

/// A job file that was read, and what its migration changed.
#[derive(Debug)]
pub struct Opened {
    /// The file in the current version.
    pub file: JobFile,
    /// Changes an older version needed.
    pub changes: Vec<String>,
}

/// Reads a job file.
///
/// # Errors
/// Every problem found, each with its place: too large, not JSON, an unknown version, fields that
/// are unknown, missing, of the wrong type or out of range, references that lead nowhere.
pub fn read(text: &str) -> Result<Opened, Vec<Problem>> {
    if text.len() > MAX_FILE_BYTES {
        let message =
            format!("the file has {} bytes; a job file has {MAX_FILE_BYTES} at most", text.len());
        return Err(vec![Problem::new("", message, "is this the right file?")]);
    }
    let text = text.strip_prefix('\u{feff}').unwrap_or(text);
    // Counted by what parts them, before anything is made of them.
    let values = text.bytes().filter(|b| *b == b',').count();
    if values > MOST_VALUES {
        let message = format!("the file has {values} values; a job file has {MOST_VALUES} at most");
        return Err(vec![Problem::new("", message, "is this the right file?")]);
    }
    let value = serde_json::from_str(text).map_err(|e| {
        vec![Problem::new(
            "",
            format!("not JSON: {e}"),
            "a job file is one JSON object, as the application exports it",
        )]
    })?;
    let twice = super::twice::twice(text);
    if !twice.is_empty() {
        return Err(twice);
    }
    read_value(value)
}

static JOB_SCHEMA: LazyLock<Schema> = LazyLock::new(|| Schema::of::<Job>("Heliant job"));

/// Reads a job that stands alone: each of its fields is in range, what they say together is not
/// asked.
///
/// # Errors
/// Every field that is not, with its place below `/job`.
pub fn read_job(value: Value) -> Result<Job, Vec<Problem>> {
    let mut problems = JOB_SCHEMA.problems(&value);
    for problem in &mut problems {
        problem.path.insert_str(0, "/job");
    }
    if !problems.is_empty() {
        return Err(problems);
    }
    serde_json::from_value(value).map_err(|e| vec![Problem::new("/job", e.to_string(), "")])
}

/// Reads a job file that is already parsed.
///
/// # Errors
/// As [`read`].
pub fn read_value(mut value: Value) -> Result<Opened, Vec<Problem>> {
    let changes =
        migrate(&mut value).map_err(|message| vec![Problem::new("/version", message, "")])?;
    let problems = SCHEMA.problems(&value);
    if !problems.is_empty() {
        return Err(problems);
    }
    let file: JobFile =
        serde_json::from_value(value).map_err(|e| vec![Problem::new("", e.to_string(), "")])?;
    let problems = validate(&file);
    if problems.is_empty() { Ok(Opened { file, changes }) } else { Err(problems) }
}
