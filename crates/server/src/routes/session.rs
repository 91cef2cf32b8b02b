//! Signing in and out.

use rocket::State;
use rocket::data::Data;
use rocket::delete;
use rocket::get;
use rocket::http::{Cookie, CookieJar, SameSite, Status};
use rocket::post;
use rocket::serde::json::Json;
use rocket::time::Duration;
use serde::Deserialize;
use utoipa::ToSchema;

use super::body_json;
use crate::Settings;
use crate::guard::{COOKIE, Caller, Guarded};
use crate::problem::{ApiError, ProblemBody};
use crate::store::Store;
use crate::store::accounts::{self, Account, SESSION_DAYS};

/// Name and password.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct SignIn {
    /// Name to sign in with.
    #[schema(max_length = 120)]
    pub sign_in: String,
    /// Password.
    #[schema(max_length = 1000)]
    pub password: String,
}

/// Signs in: sets the session cookie.
#[utoipa::path(
    context_path = "/api",
    tag = "session",
    request_body = SignIn,
    responses(
        (status = 200, body = Account),
        (status = 401, body = ProblemBody),
        (status = 429, body = ProblemBody),
    ),
)]
#[post("/session", data = "<data>")]
pub async fn sign_in(
    caller: Result<Caller, ApiError>,
    data: Data<'_>,
    cookies: &CookieJar<'_>,
    store: &State<Store>,
    settings: &State<Settings>,
) -> Result<Json<Account>, ApiError> {
    let caller = caller?;
    let body: SignIn = body_json(data).await?;
    let (account, token) = store
        .run(move |db| accounts::sign_in(db, &body.sign_in, &body.password, &caller.0))
        .await?;
    let cookie = Cookie::build((COOKIE, token))
        .http_only(true)
        .same_site(SameSite::Strict)
        .secure(settings.secure_cookies)
        .path("/")
        .max_age(Duration::days(SESSION_DAYS));
    cookies.add(cookie);
    Ok(Json(account))
}

/// Who is signed in.
#[utoipa::path(
    context_path = "/api",
    tag = "session",
    responses(
        (status = 200, body = Account),
        (status = 401, body = ProblemBody),
    ),
)]
#[get("/session")]
pub async fn who(signed: Guarded) -> Result<Json<Account>, ApiError> {
    Ok(Json(signed?.0))
}

/// Signs out: ends the session and takes the cookie back.
#[utoipa::path(context_path = "/api", tag = "session", responses((status = 204)))]
#[delete("/session")]
pub async fn sign_out(
    caller: Result<Caller, ApiError>,
    cookies: &CookieJar<'_>,
    store: &State<Store>,
) -> Result<Status, ApiError> {
    caller?;
    if let Some(token) = cookies.get(COOKIE).map(|c| c.value().to_owned()) {
        store.run(move |db| accounts::sign_out(db, &token)).await?;
    }
    cookies.remove(Cookie::build(COOKIE).path("/"));
    Ok(Status::NoContent)
}
