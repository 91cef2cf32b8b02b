//! Signing in and out, and passwords.

use heliant_core::job::Problem;
use rocket::State;
use rocket::data::Data;
use rocket::delete;
use rocket::get;
use rocket::http::{Cookie, CookieJar, SameSite, Status};
use rocket::post;
use rocket::put;
use rocket::serde::json::Json;
use rocket::time::Duration;
use serde::Deserialize;
use utoipa::ToSchema;

use super::body_json;
use crate::Settings;
use crate::guard::{Anybody, COOKIE, Caller, DEVICE};
use crate::hashing::Hasher;
use crate::problem::{ApiError, ProblemBody};
use crate::store::Store;
use crate::store::accounts::{self, Account, MIN_PASSWORD, MOST_NAME, MOST_PASSWORD};
use crate::store::attempts::{self, Attempt};
use crate::store::sessions::{self, DEVICE_DAYS, SESSION_DAYS};

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

/// Signs in: sets the session cookie, and one by which the device is known.
#[utoipa::path(
    context_path = "/api",
    tag = "session",
    request_body = SignIn,
    responses(
        (status = 200, body = Account),
        (status = 401, body = ProblemBody),
        (status = 422, body = ProblemBody),
        (status = 429, body = ProblemBody),
        (status = 503, body = ProblemBody),
    ),
)]
#[post("/session", data = "<data>")]
pub async fn sign_in(
    caller: Result<Caller, ApiError>,
    data: Data<'_>,
    cookies: &CookieJar<'_>,
    store: &State<Store>,
    hasher: &State<Hasher>,
    settings: &State<Settings>,
) -> Result<Json<Account>, ApiError> {
    let caller = caller?;
    let body: SignIn = body_json(data).await?;
    let name = body.sign_in.trim().to_lowercase();
    let [session, device] = [COOKIE, DEVICE].map(|c| value(cookies, c));
    if name.chars().count() > MOST_NAME || body.password.len() > MOST_PASSWORD {
        return Err(ApiError::WrongPassword);
    }
    let account =
        checked(store, hasher, name, caller.0, session, device.clone(), body.password).await?;
    let account = account.ok_or(ApiError::WrongPassword)?;
    let id = account.id;
    let (token, device) = store
        .run(move |db| Ok((sessions::open(db, id)?, sessions::know(db, id, device.as_deref())?)))
        .await?;
    cookies.add(session_cookie(token, SESSION_DAYS, settings));
    // Only signing in asks for the device.
    cookies.add(cookie(DEVICE, device, DEVICE_DAYS, "/api/session", settings.secure_cookies));
    Ok(Json(account))
}

fn value(cookies: &CookieJar<'_>, name: &str) -> Option<String> {
    cookies.get(name).map(|c| c.value().to_owned())
}

/// The cookie of a session.
pub(super) fn session_cookie(token: String, days: i64, settings: &Settings) -> Cookie<'static> {
    cookie(COOKIE, token, days, "/", settings.secure_cookies)
}

fn cookie(
    name: &'static str,
    value: String,
    days: i64,
    path: &'static str,
    secure: bool,
) -> Cookie<'static> {
    Cookie::build((name, value))
        .http_only(true)
        .same_site(SameSite::Strict)
        .secure(secure)
        .path(path)
        .max_age(Duration::days(days))
        .build()
}

/// The account of a name that may sign in, where the password is right. Counted before the password
/// is looked at; no connection is held while it is.
async fn checked(
    store: &Store,
    hasher: &Hasher,
    name: String,
    address: String,
    session: Option<String>,
    device: Option<String>,
    password: String,
) -> Result<Option<Account>, ApiError> {
    let (attempt, id, found) = store
        .run(move |db| {
            let device = sessions::known(db, &name, session.as_deref(), device.as_deref())?;
            let attempt = Attempt { name, address, device };
            let id = attempts::begin(db, &attempt)?;
            let found = accounts::by_name(db, &attempt.name)?;
            Ok((attempt, id, found))
        })
        .await?;
    let (account, kept) = found.unzip();
    let account = account.filter(|a| !a.disabled);
    match hasher.matches(password, kept).await {
        Ok(true) if account.is_some() => {
            store.run(move |db| attempts::right(db, &attempt, id)).await?;
            Ok(account)
        }
        Ok(_) => Ok(None),
        Err(error) => {
            store.run(move |db| attempts::withdraw(db, id)).await?;
            Err(error)
        }
    }
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
pub async fn who(anybody: Result<Anybody, ApiError>) -> Result<Json<Account>, ApiError> {
    Ok(Json(anybody?.0))
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
    if let Some(token) = value(cookies, COOKIE) {
        store.run(move |db| sessions::close(db, &token)).await?;
    }
    cookies.remove(Cookie::build(COOKIE).path("/"));
    Ok(Status::NoContent)
}

/// One's own password, changed.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct ChangePassword {
    /// The one so far.
    #[schema(max_length = 1000)]
    pub old: String,
    /// The new one, ten characters or more.
    #[schema(min_length = 10, max_length = 1000)]
    pub new: String,
}

/// Refuses a password that is too short or too long.
pub(super) fn acceptable(path: &str, password: &str) -> Result<(), Problem> {
    if password.chars().count() >= MIN_PASSWORD && password.len() <= MOST_PASSWORD {
        return Ok(());
    }
    let hint = format!("{MIN_PASSWORD} to {MOST_PASSWORD} characters");
    Err(Problem::new(path, "is too short or too long", hint))
}

/// Changes one's own password. All other sessions of the account end.
#[utoipa::path(
    context_path = "/api",
    tag = "session",
    request_body = ChangePassword,
    responses(
        (status = 204),
        (status = 401, body = ProblemBody),
        (status = 422, body = ProblemBody),
        (status = 429, body = ProblemBody),
    ),
)]
#[put("/session/password", data = "<data>")]
pub async fn change_password(
    anybody: Result<Anybody, ApiError>,
    caller: Result<Caller, ApiError>,
    data: Data<'_>,
    cookies: &CookieJar<'_>,
    store: &State<Store>,
    hasher: &State<Hasher>,
) -> Result<Status, ApiError> {
    let account = anybody?.0;
    let caller = caller?;
    let body: ChangePassword = body_json(data).await?;
    acceptable("/new", &body.new).map_err(|p| ApiError::Invalid(vec![p]))?;
    let session = value(cookies, COOKIE).ok_or(ApiError::SignedOut)?;
    let (name, own) = (account.sign_in.clone(), Some(session.clone()));
    let device = value(cookies, DEVICE);
    if checked(store, hasher, name, caller.0, own, device, body.old).await?.is_none() {
        return Err(ApiError::invalid("/old", "is not the password so far", "the one so far"));
    }
    let hash = hasher.hash(body.new).await?;
    store.run(move |db| sessions::change_password(db, account.id, &hash, &session)).await?;
    Ok(Status::NoContent)
}

/// A password set through a link.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct SetPassword {
    /// The link's token.
    #[schema(max_length = 100)]
    pub token: String,
    /// The new password, ten characters or more.
    #[schema(min_length = 10, max_length = 1000)]
    pub password: String,
}

/// Sets a password through the link an owner made, which serves once. All sessions of the account
/// end.
#[utoipa::path(
    context_path = "/api",
    tag = "session",
    request_body = SetPassword,
    responses(
        (status = 204),
        (status = 404, body = ProblemBody),
        (status = 422, body = ProblemBody),
    ),
)]
#[post("/session/reset", data = "<data>")]
pub async fn reset_password(
    caller: Result<Caller, ApiError>,
    data: Data<'_>,
    store: &State<Store>,
    hasher: &State<Hasher>,
) -> Result<Status, ApiError> {
    caller?;
    let SetPassword { token, password } = body_json(data).await?;
    acceptable("/password", &password).map_err(|p| ApiError::Invalid(vec![p]))?;
    let gone = || ApiError::NotFound("link: it was used or is older than a day");
    // A made-up token costs no hash.
    let asked = token.clone();
    if !store.run(move |db| sessions::link_holds(db, &asked)).await? {
        return Err(gone());
    }
    let hash = hasher.hash(password).await?;
    match store.run(move |db| sessions::use_link(db, &token, &hash)).await? {
        true => Ok(Status::NoContent),
        false => Err(gone()),
    }
}
