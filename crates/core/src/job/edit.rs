//! One edit of a job, as cures, ways and repairs carry them.

use serde::{Deserialize, Serialize};
use serde_json::Value;
use utoipa::ToSchema;

use super::Job;

/// One edit of the job file: a JSON pointer below `/job` and the value to put there.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Edit {
    /// JSON pointer, e.g. `/strings/0/n`.
    pub pointer: String,
    /// The new value.
    #[schema(value_type = Object)]
    pub value: Value,
}

impl Edit {
    /// An edit of one place.
    pub fn new(pointer: impl Into<String>, value: impl Into<Value>) -> Self {
        Edit { pointer: pointer.into(), value: value.into() }
    }
}

/// The job with the edits made; none where one of them points nowhere or leaves no job.
pub fn applied(job: &Job, edits: &[Edit]) -> Option<Job> {
    let mut value = serde_json::to_value(job).ok()?;
    for e in edits {
        *value.pointer_mut(&e.pointer)? = e.value.clone();
    }
    serde_json::from_value(value).ok()
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::school::School;

    #[test]
    fn an_edit_that_points_nowhere_or_breaks_the_job_makes_none() {
        let job = Job::new("Barn", School::Na);
        let edited = |pointer: &str, value: Value| applied(&job, &[Edit::new(pointer, value)]);
        assert_eq!(edited("/name", "Shed".into()).expect("a job").name, "Shed");
        assert!(edited("/strings/0/n", 3.into()).is_none());
        assert!(edited("/school", "both".into()).is_none());
    }
}
