//! The API, one file per noun.

pub mod accounts;
pub mod consequences;
pub mod drawings;
pub mod events;
pub mod guests;
pub mod health;
pub mod job_list;
pub mod jobs;
pub mod laying;
pub mod library;
pub mod pack;
pub mod plan;
pub mod rates;
pub mod readings;
pub mod revisions;
pub mod roof;
pub mod session;
pub mod shown;
pub mod sums;
pub mod web;

use std::time::Duration;

use rocket::data::{Data, ToByteUnit};
use rocket::tokio::time::timeout;
use serde::de::DeserializeOwned;

use crate::problem::ApiError;

/// How long a body may take to come in: the largest in this time is a slow line's 6 Mbit/s.
const BODY_TIME: Duration = Duration::from_secs(45);

/// Reads a body up to a limit as text.
pub(crate) async fn body_text(data: Data<'_>, limit: usize) -> Result<String, ApiError> {
    let read = timeout(BODY_TIME, data.open(limit.bytes()).into_bytes()).await;
    let read = read.map_err(|_| ApiError::TooSlow)?;
    let bytes = read
        .map_err(|e| ApiError::invalid("", format!("the body broke off: {e}"), "send it again"))?;
    if !bytes.is_complete() {
        return Err(ApiError::TooLarge { limit });
    }
    String::from_utf8(bytes.into_inner())
        .map_err(|_| ApiError::invalid("", "the body is not UTF-8 text", "send JSON in UTF-8"))
}

/// The words of a search; the first eight are looked for.
pub(crate) fn words(find: Option<&str>) -> Vec<String> {
    const MOST: usize = 8;
    find.unwrap_or_default().split_whitespace().take(MOST).map(str::to_owned).collect()
}

/// Reads a small JSON body.
pub(crate) async fn body_json<T: DeserializeOwned>(data: Data<'_>) -> Result<T, ApiError> {
    const SMALL: usize = 64 * 1024;
    parsed(&body_text(data, SMALL).await?)
}

/// The JSON of a body.
pub(crate) fn parsed<T: DeserializeOwned>(text: &str) -> Result<T, ApiError> {
    serde_json::from_str(text).map_err(|e| {
        ApiError::invalid("", format!("not what is expected here: {e}"), "see /api/openapi.json")
    })
}
