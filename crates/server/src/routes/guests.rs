//! Who sees a job besides the company: inspectors with a seat, and links that end on a date.

use chrono::{DateTime, TimeDelta, Utc};
use rocket::State;
use rocket::data::Data;
use rocket::http::{CookieJar, Status};
use rocket::serde::json::Json;
use rocket::serde::uuid::Uuid;
use rocket::{delete, get, post, put};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::body_json;
use super::session::session_cookie;
use crate::Settings;
use crate::guard::{COOKIE, Caller, Guarded};
use crate::problem::{ApiError, ProblemBody};
use crate::store::Store;
use crate::store::accounts::Role;
use crate::store::guests::{self as store_guests, Given, Guests};
use crate::store::sessions;

/// How long a link may hold.
const LONGEST: TimeDelta = TimeDelta::days(366);

/// Who sees a job besides the company.
#[utoipa::path(
    operation_id = "guests",
    context_path = "/api",
    tag = "guests",
    params(("id" = Uuid, Path)),
    responses((status = 200, body = Guests), (status = 404, body = ProblemBody)),
)]
#[get("/jobs/<id>/guests")]
pub async fn list(
    signed: Guarded,
    id: Uuid,
    store: &State<Store>,
) -> Result<Json<Guests>, ApiError> {
    signed?.at_least(Role::Designer)?;
    Ok(Json(store.run(move |db| store_guests::of(db, id)).await?))
}

/// Whether an inspector has a seat at a job.
#[derive(Debug, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct GiveSeat {
    /// They see the job.
    pub given: bool,
    /// The revision they see; the present one where absent.
    #[serde(default)]
    #[schema(minimum = 1)]
    pub revision: Option<i32>,
}

/// Gives an inspector a seat at a job, or takes it back.
#[utoipa::path(
    operation_id = "give_seat",
    context_path = "/api",
    tag = "guests",
    params(("id" = Uuid, Path), ("account" = Uuid, Path)),
    request_body = GiveSeat,
    responses((status = 200, body = Guests), (status = 404, body = ProblemBody)),
)]
#[put("/jobs/<id>/seats/<account>", data = "<data>")]
pub async fn seat(
    signed: Guarded,
    id: Uuid,
    account: Uuid,
    data: Data<'_>,
    store: &State<Store>,
) -> Result<Json<Guests>, ApiError> {
    let signed = signed?;
    let by = signed.at_least(Role::Designer)?.name.clone();
    let GiveSeat { given, revision } = body_json(data).await?;
    let done = store.run(move |db| {
        match given {
            true => store_guests::seat(db, account, Given { job: id, revision, by: &by })?,
            false => store_guests::unseat(db, id, account)?,
        }
        store_guests::of(db, id)
    });
    Ok(Json(done.await?))
}

/// A link to be made.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct NewLink {
    /// Until when it holds: a year at most.
    pub until: DateTime<Utc>,
    /// The revision it shows; the present one, whichever that is, where absent.
    #[serde(default)]
    #[schema(minimum = 1)]
    pub revision: Option<i32>,
}

/// A link that was made.
#[derive(Debug, Serialize, ToSchema)]
pub struct MadeLink {
    /// Its id.
    pub id: Uuid,
    /// Its token, shown this once; the front end's address for it is `/look#token`.
    pub token: String,
}

/// Makes a link by which anybody who has it sees the job, and nothing else, until it ends.
#[utoipa::path(
    operation_id = "make_job_link",
    context_path = "/api",
    tag = "guests",
    params(("id" = Uuid, Path)),
    request_body = NewLink,
    responses(
        (status = 200, body = MadeLink),
        (status = 404, body = ProblemBody),
        (status = 422, body = ProblemBody),
    ),
)]
#[post("/jobs/<id>/links", data = "<data>")]
pub async fn make_link(
    signed: Guarded,
    id: Uuid,
    data: Data<'_>,
    store: &State<Store>,
) -> Result<Json<MadeLink>, ApiError> {
    let signed = signed?;
    let by = signed.at_least(Role::Designer)?.name.clone();
    let NewLink { until, revision } = body_json(data).await?;
    let now = Utc::now();
    if until <= now || until > now + LONGEST {
        let hint = "a day after today and within a year";
        return Err(ApiError::invalid("/until", "is over or too far off", hint));
    }
    let made = store
        .run(move |db| store_guests::make_link(db, Given { job: id, revision, by: &by }, until));
    let (link, token) = made.await?;
    tracing::info!(job = %id, link = %link, %until, "a link to a job was made");
    Ok(Json(MadeLink { id: link, token }))
}

/// Ends a link.
#[utoipa::path(
    operation_id = "end_job_link",
    context_path = "/api",
    tag = "guests",
    params(("id" = Uuid, Path), ("link" = Uuid, Path)),
    responses((status = 204), (status = 404, body = ProblemBody)),
)]
#[delete("/jobs/<id>/links/<link>")]
pub async fn end_link(
    signed: Guarded,
    id: Uuid,
    link: Uuid,
    store: &State<Store>,
) -> Result<Status, ApiError> {
    signed?.at_least(Role::Designer)?;
    store.run(move |db| store_guests::end_link(db, id, link)).await?;
    Ok(Status::NoContent)
}

/// A link's token.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct LinkToken {
    /// The token.
    #[schema(max_length = 100)]
    pub token: String,
}

/// The job a link opens.
#[derive(Debug, Serialize, ToSchema)]
pub struct LinkedJob {
    /// The job.
    pub job: Uuid,
}

/// Opens a link: sets the session cookie by which its job is seen. Whoever is of the company stays
/// signed in as who they are, and sees the job anyhow.
#[utoipa::path(
    operation_id = "open_link",
    context_path = "/api",
    tag = "guests",
    request_body = LinkToken,
    responses((status = 200, body = LinkedJob), (status = 404, body = ProblemBody)),
)]
#[post("/session/link", data = "<data>")]
pub async fn open(
    caller: Result<Caller, ApiError>,
    data: Data<'_>,
    cookies: &CookieJar<'_>,
    store: &State<Store>,
    settings: &State<Settings>,
) -> Result<Json<LinkedJob>, ApiError> {
    caller?;
    let LinkToken { token } = body_json(data).await?;
    let asked = token.clone();
    let own = cookies.get(COOKIE).map(|c| c.value().to_owned());
    let (found, own) = store
        .run(move |db| {
            let own = own.map(|token| sessions::account(db, &token)).transpose()?.flatten();
            Ok((store_guests::opened(db, &asked)?, own))
        })
        .await?;
    let (job, until) = found.ok_or(ApiError::NotFound("link: it has ended or was taken back"))?;
    if own.is_none_or(|account| account.role == Role::Inspector) {
        let days = (until - Utc::now()).num_days() + 1;
        cookies.add(session_cookie(token, days, settings));
    }
    Ok(Json(LinkedJob { job }))
}
