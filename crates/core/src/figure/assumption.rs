//! What a figure takes by habit: listed with what rests on it, to be confirmed by who looked.

use serde::Serialize;
use utoipa::ToSchema;

use super::Subject;

/// Something taken by habit.
#[derive(Debug, PartialEq, Eq)]
pub struct Assumption {
    /// Its key, by which a job confirms it.
    pub key: &'static str,
    /// What is taken, in words.
    pub text: &'static str,
}

/// An assumption that a subject's figures rest on.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct Assumed {
    /// Its key.
    pub key: &'static str,
    /// What is taken, in words.
    pub text: &'static str,
    /// What rests on it.
    pub subjects: Vec<Subject>,
    /// Who looked and found it so; absent: nobody yet.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub confirmed_by: Option<String>,
}
