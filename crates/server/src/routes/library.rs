//! The company's data sheets.

use heliant_core::job::{Choices, choices};
use heliant_core::library::Library;
use heliant_core::school::School;
use rocket::State;
use rocket::get;
use rocket::serde::json::Json;

use crate::guard::Guarded;
use crate::problem::{ApiError, ProblemBody};
use crate::store::{Store, library as store_library};

/// Every data sheet with every revision.
#[utoipa::path(operation_id = "library", context_path = "/api", tag = "library", responses((status = 200, body = Library), (status = 401, body = ProblemBody)))]
#[get("/library")]
pub async fn all(signed: Guarded, store: &State<Store>) -> Result<Json<Library>, ApiError> {
    signed?;
    Ok(Json(store.run(store_library::all).await?))
}

/// What a form of a school may offer: sizes, kinds, ratings.
#[utoipa::path(context_path = "/api", tag = "library", params(("school" = School, Path)), responses((status = 200, body = Choices), (status = 404, body = ProblemBody)))]
#[get("/choices/<school>")]
pub async fn offered(signed: Guarded, school: &str) -> Result<Json<Choices>, ApiError> {
    signed?;
    let school = match school {
        "na" => School::Na,
        "iec" => School::Iec,
        _ => return Err(ApiError::NotFound("school")),
    };
    Ok(Json(choices(school)))
}
