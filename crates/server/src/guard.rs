//! Who is asking, and whether they may.

use rocket::State;
use rocket::http::{Method, Status};
use rocket::outcome::Outcome;
use rocket::request::{self, FromRequest, Request};

use crate::Settings;
use crate::problem::ApiError;
use crate::store::Store;
use crate::store::accounts::{Account, Role};
use crate::store::{guests, sessions};

/// Name of the session cookie.
pub const COOKIE: &str = "heliant_session";

/// Name of the cookie by which a device is known that was signed in on.
pub const DEVICE: &str = "heliant_device";

/// Somebody who is signed in.
#[derive(Clone, Debug)]
pub struct Signed(pub Account);

impl Signed {
    /// Refuses where the role is less than `least`.
    pub(crate) fn at_least(&self, least: Role) -> Result<&Account, ApiError> {
        if self.0.role >= least {
            return Ok(&self.0);
        }
        Err(ApiError::Forbidden {
            needs: match least {
                Role::Owner => "the role owner",
                Role::Designer => "the role designer or owner",
                Role::Field => "the role field, designer or owner",
                Role::Viewer | Role::Inspector => "a role within the company",
            },
        })
    }
}

/// The outcome of looking: an account, or the error the handler passes on.
pub type Guarded = Result<Signed, ApiError>;

/// Anybody who is signed in, from the company or not: for what is one's own.
#[derive(Clone, Debug)]
pub struct Anybody(pub Account);

/// Somebody who may look at the job of the path: of the company, or with a seat at it.
#[derive(Clone, Debug)]
pub struct Seated {
    /// Who.
    pub account: Account,
    /// What they see of it.
    pub sees: Sees,
}

/// What somebody sees of a job.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Sees {
    /// Every revision with everything in it: they are of the company.
    All,
    /// The revision given, or the present one; without prices and notes of the company.
    Outside(Option<i32>),
}

impl Sees {
    /// The revision that is shown where one is asked for, or none; `newest` is the job's.
    ///
    /// # Errors
    /// Where it is not one they see: there is no telling it from one that is not.
    pub(crate) fn revision(self, asked: Option<i32>, newest: i32) -> Result<i32, ApiError> {
        let shown = match self {
            Sees::All => return Ok(asked.unwrap_or(newest)),
            Sees::Outside(given) => given.unwrap_or(newest),
        };
        if asked.is_none_or(|asked| asked == shown) {
            return Ok(shown);
        }
        Err(ApiError::NotFound("revision"))
    }
}

#[rocket::async_trait]
impl<'r> FromRequest<'r> for Signed {
    type Error = ApiError;

    async fn from_request(request: &'r Request<'_>) -> request::Outcome<Self, ApiError> {
        let account = signed(request).await.map(Signed);
        outcome(account.and_then(|s| s.at_least(Role::Viewer).cloned().map(Signed)))
    }
}

fn outcome<T>(found: Result<T, ApiError>) -> request::Outcome<T, ApiError> {
    match found {
        Ok(found) => Outcome::Success(found),
        Err(error) => Outcome::Error((error.status(), error)),
    }
}

#[rocket::async_trait]
impl<'r> FromRequest<'r> for Anybody {
    type Error = ApiError;

    async fn from_request(request: &'r Request<'_>) -> request::Outcome<Self, ApiError> {
        outcome(signed(request).await.map(Anybody))
    }
}

#[rocket::async_trait]
impl<'r> FromRequest<'r> for Seated {
    type Error = ApiError;

    async fn from_request(request: &'r Request<'_>) -> request::Outcome<Self, ApiError> {
        outcome(seated(request).await)
    }
}

async fn seated(request: &Request<'_>) -> Result<Seated, ApiError> {
    let account = signed(request).await?;
    if account.role > Role::Inspector {
        return Ok(Seated { account, sees: Sees::All });
    }
    // `/api/jobs/<id>/…`: where there is no id there is no seat.
    let job = request.uri().path().segments().get(2).and_then(|id| id.parse().ok());
    let (job, id) = (job.ok_or(ApiError::NotFound("job"))?, account.id);
    let found = store(request).await?.run(move |db| guests::seat_at(db, id, job)).await?;
    // Whoever has no seat does not learn whether there is such a job.
    let given = found.ok_or(ApiError::NotFound("job"))?;
    Ok(Seated { account, sees: Sees::Outside(given) })
}

async fn store<'r>(request: &'r Request<'_>) -> Result<&'r Store, ApiError> {
    let found = request.guard::<&State<Store>>().await.succeeded();
    found.map(|s| s.inner()).ok_or_else(|| ApiError::Internal("no store".to_owned()))
}

async fn signed(request: &Request<'_>) -> Result<Account, ApiError> {
    same_origin(request)?;
    let token =
        request.cookies().get(COOKIE).map(|c| c.value().to_owned()).ok_or(ApiError::SignedOut)?;
    let account = store(request).await?.run(move |db| sessions::account(db, &token)).await?;
    let account = account.ok_or(ApiError::SignedOut)?;
    request.local_cache(|| Asking(Some(account.sign_in.clone())));
    Ok(account)
}

/// Who asks, for the log.
#[derive(Debug, Default)]
pub(crate) struct Asking(pub(crate) Option<String>);

/// A request that changes something has to come from our own pages: the browser says where from, by
/// `Origin`, or by `Sec-Fetch-Site` where it says no origin. A program that says neither has no
/// cookies of anybody else.
pub(crate) fn same_origin(request: &Request<'_>) -> Result<(), ApiError> {
    if request.method() == Method::Get {
        return Ok(());
    }
    let headers = request.headers();
    if matches!(headers.get_one("Sec-Fetch-Site"), Some("cross-site" | "same-site")) {
        return Err(ApiError::WrongOrigin);
    }
    let Some(origin) = headers.get_one("Origin") else { return Ok(()) };
    let host = headers.get_one("Host").unwrap_or_default();
    let secure = request.rocket().state::<Settings>().is_some_and(|s| s.secure_cookies);
    let scheme = if secure { "https" } else { "http" };
    let ours = origin.split_once("://").is_some_and(|(s, rest)| s == scheme && rest == host);
    if ours { Ok(()) } else { Err(ApiError::WrongOrigin) }
}

/// The request's own address and origin check, for signing in.
pub struct Caller(pub String);

#[rocket::async_trait]
impl<'r> FromRequest<'r> for Caller {
    type Error = ApiError;

    async fn from_request(request: &'r Request<'_>) -> request::Outcome<Self, ApiError> {
        match same_origin(request) {
            Ok(()) => Outcome::Success(Caller(
                request.client_ip().map_or_else(|| "unknown".to_owned(), |ip| ip.to_string()),
            )),
            Err(error) => Outcome::Error((Status::Forbidden, error)),
        }
    }
}
