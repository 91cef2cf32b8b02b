//! Work that takes the processor: off the async threads, and without a connection to the database.

use crate::problem::ApiError;

/// Runs a calculation off the async threads.
///
/// # Errors
/// Where it panicked.
pub(crate) async fn computed<T: Send + 'static>(
    work: impl FnOnce() -> T + Send + 'static,
) -> Result<T, ApiError> {
    tokio::task::spawn_blocking(work).await.map_err(|e| ApiError::Internal(e.to_string()))
}
