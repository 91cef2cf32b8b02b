//! The company's data sheets.

use heliant_core::library::Library;
use rocket::State;
use rocket::get;
use rocket::serde::json::Json;

use crate::guard::Guarded;
use crate::problem::{ApiError, ProblemBody};
use crate::store::{Store, library as store_library};

/// Every data sheet with every revision.
#[utoipa::path(context_path = "/api", tag = "library", responses((status = 200, body = Library), (status = 401, body = ProblemBody)))]
#[get("/library")]
pub async fn all(signed: Guarded, store: &State<Store>) -> Result<Json<Library>, ApiError> {
    signed?;
    Ok(Json(store.run(store_library::all).await?))
}
