//! What units figures are shown in.

use rocket::State;
use rocket::data::Data;
use rocket::serde::json::Json;
use rocket::{get, put};

use super::body_json;
use crate::guard::{Anybody, Guarded};
use crate::problem::{ApiError, ProblemBody};
use crate::store::Store;
use crate::store::accounts::Role;
use crate::store::shown::{self as store_shown, Shown, ShownTo};

/// What is shown to whoever asks.
#[utoipa::path(
    operation_id = "shown",
    context_path = "/api",
    tag = "session",
    responses((status = 200, body = ShownTo), (status = 401, body = ProblemBody)),
)]
#[get("/shown")]
pub async fn to(
    anybody: Result<Anybody, ApiError>,
    store: &State<Store>,
) -> Result<Json<ShownTo>, ApiError> {
    let id = anybody?.0.id;
    Ok(Json(store.run(move |db| store_shown::to(db, id)).await?))
}

/// Sets what is shown to oneself.
#[utoipa::path(
    operation_id = "set_shown",
    context_path = "/api",
    tag = "session",
    request_body = Shown,
    responses((status = 200, body = ShownTo), (status = 422, body = ProblemBody)),
)]
#[put("/shown", data = "<data>")]
pub async fn set_own(
    signed: Guarded,
    data: Data<'_>,
    store: &State<Store>,
) -> Result<Json<ShownTo>, ApiError> {
    let id = signed?.0.id;
    let shown: Shown = body_json(data).await?;
    let done = store.run(move |db| {
        store_shown::set_own(db, id, shown)?;
        store_shown::to(db, id)
    });
    Ok(Json(done.await?))
}

/// Sets what the company shows to everybody who chose nothing else.
#[utoipa::path(
    operation_id = "set_company_shown",
    context_path = "/api",
    tag = "session",
    request_body = Shown,
    responses((status = 200, body = ShownTo), (status = 403, body = ProblemBody)),
)]
#[put("/shown/company", data = "<data>")]
pub async fn set_company(
    signed: Guarded,
    data: Data<'_>,
    store: &State<Store>,
) -> Result<Json<ShownTo>, ApiError> {
    let signed = signed?;
    let id = signed.at_least(Role::Owner)?.id;
    let shown: Shown = body_json(data).await?;
    let done = store.run(move |db| {
        store_shown::set_company(db, shown)?;
        store_shown::to(db, id)
    });
    Ok(Json(done.await?))
}
