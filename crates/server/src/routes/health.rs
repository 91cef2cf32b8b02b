//! Whether server and database are well.

use rocket::State;
use rocket::get;
use rocket::serde::json::Json;
use serde::Serialize;
use utoipa::ToSchema;

use crate::problem::ApiError;
use crate::store::Store;

/// All is well.
#[derive(Debug, Serialize, ToSchema)]
pub struct Health {
    /// Always `ok`; otherwise the answer is a problem.
    pub status: &'static str,
    /// Version of the program.
    pub version: &'static str,
}

/// Says that server and database answer.
#[utoipa::path(
    context_path = "/api",
    tag = "health",
    responses(
        (status = 200, body = Health),
        (status = 503, body = crate::problem::ProblemBody),
    ),
)]
#[get("/health")]
pub async fn health(store: &State<Store>) -> Result<Json<Health>, ApiError> {
    store
        .run(|db| {
            use diesel::RunQueryDsl;
            diesel::select(diesel::dsl::sql::<diesel::sql_types::Integer>("1")).execute(db)?;
            Ok(())
        })
        .await?;
    Ok(Json(Health { status: "ok", version: env!("CARGO_PKG_VERSION") }))
}
