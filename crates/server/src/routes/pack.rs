//! The pack: the job on paper. It is asked for, set by the press in the background, and had when it
//! is ready.

use rocket::State;
use rocket::http::{ContentType, Header, Status};
use rocket::serde::json::Json;
use rocket::serde::uuid::Uuid;
use rocket::{delete, get, post};
use serde::Serialize;
use utoipa::ToSchema;

use super::jobs::{Attachment, file_name};
use crate::guard::Seated;
use crate::press::{Press, Readiness};
use crate::problem::{ApiError, ProblemBody};
use crate::store::Store;
use crate::store::accounts::Role;
use crate::store::packs::{self, PackState};

/// A pack, and the press it waits for.
#[derive(Debug, Serialize, ToSchema)]
pub struct PackView {
    /// The pack of the job as it is now.
    #[serde(flatten)]
    pub pack: PackState,
    /// Whether the press can set something.
    pub press: Readiness,
}

async fn viewed(store: &Store, press: &Press, id: Uuid) -> Result<Json<PackView>, ApiError> {
    let edition = press.settings().edition();
    let pack = store.run(move |db| packs::state(db, id, &edition)).await?;
    Ok(Json(PackView { pack, press: press.settings().readiness() }))
}

/// How the pack of a job as it is now stands.
#[utoipa::path(
    operation_id = "pack_state",
    context_path = "/api",
    tag = "jobs",
    params(("id" = Uuid, Path)),
    responses((status = 200, body = PackView), (status = 404, body = ProblemBody)),
)]
#[get("/jobs/<id>/pack")]
pub async fn state(
    seated: Result<Seated, ApiError>,
    id: Uuid,
    store: &State<Store>,
    press: &State<Press>,
) -> Result<Json<PackView>, ApiError> {
    seated?;
    viewed(store, press, id).await
}

/// Asks for the pack of a job as it is now; one that is there already is not set again.
#[utoipa::path(
    operation_id = "ask_pack",
    context_path = "/api",
    tag = "jobs",
    params(("id" = Uuid, Path)),
    responses(
        (status = 200, body = PackView),
        (status = 404, body = ProblemBody),
        (status = 429, body = ProblemBody),
    ),
)]
#[post("/jobs/<id>/pack")]
pub async fn ask(
    seated: Result<Seated, ApiError>,
    id: Uuid,
    store: &State<Store>,
    press: &State<Press>,
) -> Result<Json<PackView>, ApiError> {
    let account = seated?.0;
    let edition = press.settings().edition();
    store.run(move |db| packs::ask(db, id, &account, &edition)).await?;
    press.nudge();
    viewed(store, press, id).await
}

/// Takes back a pack that waits, is being set or failed: one's own, or as a designer anybody's.
#[utoipa::path(
    operation_id = "cancel_pack",
    context_path = "/api",
    tag = "jobs",
    params(("id" = Uuid, Path)),
    responses((status = 204), (status = 404, body = ProblemBody)),
)]
#[delete("/jobs/<id>/pack")]
pub async fn cancel(
    seated: Result<Seated, ApiError>,
    id: Uuid,
    store: &State<Store>,
) -> Result<Status, ApiError> {
    let account = seated?.0;
    let anyones = account.role >= Role::Designer;
    if store.run(move |db| packs::cancel(db, id, account.id, anyones)).await? {
        Ok(Status::NoContent)
    } else {
        Err(ApiError::NotFound("pack of yours that waits"))
    }
}

/// The pack of a job as it is now, as PDF, once it is ready.
#[utoipa::path(
    operation_id = "pack",
    context_path = "/api",
    tag = "jobs",
    params(("id" = Uuid, Path)),
    responses(
        (status = 200, content_type = "application/pdf", body = Vec<u8>),
        (status = 404, body = ProblemBody),
        (status = 409, body = ProblemBody),
    ),
)]
#[get("/jobs/<id>/pack.pdf")]
pub async fn pack(
    seated: Result<Seated, ApiError>,
    id: Uuid,
    store: &State<Store>,
    press: &State<Press>,
) -> Result<Attachment<Vec<u8>>, ApiError> {
    seated?;
    let edition = press.settings().edition();
    let (name, body) = store.run(move |db| packs::pdf(db, id, &edition)).await?;
    let body = body.ok_or(ApiError::NotSetYet)?;
    let name = file_name(&name, "pdf");
    Ok(Attachment {
        body,
        content_type: ContentType::PDF,
        disposition: Header::new("Content-Disposition", format!("inline; filename=\"{name}\"")),
    })
}
