//! Something wrong in what was entered.

use serde::Serialize;
use utoipa::ToSchema;

/// Something wrong in a job file: where, what, and what would be right.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, ToSchema)]
pub struct Problem {
    /// JSON pointer into the file.
    pub path: String,
    /// What is wrong.
    pub message: String,
    /// What would be right.
    #[serde(skip_serializing_if = "String::is_empty")]
    pub hint: String,
}

impl Problem {
    /// A problem at a place.
    pub fn new(
        path: impl Into<String>,
        message: impl Into<String>,
        hint: impl Into<String>,
    ) -> Self {
        Problem { path: path.into(), message: message.into(), hint: hint.into() }
    }
}
