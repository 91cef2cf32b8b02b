//! The pack: the job on paper. It is asked for, set by the press in the background, and had when it
//! is ready.

use rocket::State;
use rocket::http::{ContentType, Header, Status};
use rocket::serde::json::Json;
use rocket::serde::uuid::Uuid;
use rocket::{delete, get, post, put};
use serde::Serialize;
use utoipa::ToSchema;

use crate::attachment::{Attachment, file_name};
use crate::guard::{Guarded, Seated, Sees};
use crate::press::{Press, Readiness};
use crate::problem::{ApiError, ProblemBody};
use crate::store::Store;
use crate::store::accounts::Role;
use crate::store::packs::{self, Of, PackState};

/// A pack, and the press it waits for.
#[derive(Debug, Serialize, ToSchema)]
pub struct PackView {
    /// The pack of the job as it is now.
    #[serde(flatten)]
    pub pack: PackState,
    /// Whether the press can set something.
    pub press: Readiness,
}

impl Seated {
    /// The pack somebody sees: of the job as it is now, or of the revision they were given.
    fn pack_of(&self, job: Uuid) -> Of {
        let revision = match self.sees {
            Sees::All => None,
            Sees::Outside(given) => given,
        };
        Of { job, revision }
    }
}

async fn viewed(store: &Store, press: &Press, of: Of) -> Result<Json<PackView>, ApiError> {
    let edition = press.settings().edition();
    let pack = store.run(move |db| packs::state(db, of, &edition)).await?;
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
    let of = seated?.pack_of(id);
    viewed(store, press, of).await
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
    let seated = seated?;
    let (of, account) = (seated.pack_of(id), seated.account);
    let edition = press.settings().edition();
    store.run(move |db| packs::ask(db, of, &account, &edition)).await?;
    press.nudge();
    viewed(store, press, of).await
}

/// Puts the pack of a job that waits before all others.
#[utoipa::path(
    operation_id = "put_pack_first",
    context_path = "/api",
    tag = "jobs",
    params(("id" = Uuid, Path)),
    responses(
        (status = 200, body = PackView),
        (status = 403, body = ProblemBody),
        (status = 404, body = ProblemBody),
    ),
)]
#[put("/jobs/<id>/pack/first")]
pub async fn put_first(
    signed: Guarded,
    id: Uuid,
    store: &State<Store>,
    press: &State<Press>,
) -> Result<Json<PackView>, ApiError> {
    signed?.at_least(Role::Owner)?;
    if store.run(move |db| packs::put_first(db, id)).await? {
        viewed(store, press, Of { job: id, revision: None }).await
    } else {
        Err(ApiError::NotFound("pack that waits"))
    }
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
    let account = seated?.account;
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
    params(
        ("id" = Uuid, Path),
        ("appendix" = Option<i32>, Query, description = "Of a large pack: an appendix, from 1"),
    ),
    responses(
        (status = 200, content_type = "application/pdf", body = Vec<u8>),
        (status = 404, body = ProblemBody),
        (status = 409, body = ProblemBody),
    ),
)]
#[get("/jobs/<id>/pack.pdf?<appendix>")]
pub async fn pack(
    seated: Result<Seated, ApiError>,
    id: Uuid,
    appendix: Option<i32>,
    store: &State<Store>,
    press: &State<Press>,
) -> Result<Attachment<Vec<u8>>, ApiError> {
    let of = seated?.pack_of(id);
    let edition = press.settings().edition();
    let (name, body) = store.run(move |db| packs::pdf(db, of, appendix, &edition)).await?;
    let body = body.ok_or(ApiError::NotSetYet)?;
    let part = appendix.map(|n| format!(" appendix {n}")).unwrap_or_default();
    let name = file_name(&format!("{name}{part}"), "pdf");
    Ok(Attachment {
        body,
        content_type: ContentType::PDF,
        disposition: Header::new("Content-Disposition", format!("inline; filename=\"{name}\"")),
    })
}
