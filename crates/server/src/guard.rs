//! Who is asking, and whether they may.

use rocket::State;
use rocket::http::{Method, Status};
use rocket::outcome::Outcome;
use rocket::request::{self, FromRequest, Request};

use crate::Settings;
use crate::problem::ApiError;
use crate::store::Store;
use crate::store::accounts::{Account, Role};
use crate::store::sessions;

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
                Role::Field | Role::Viewer => "the role field, designer or owner",
            },
        })
    }
}

/// The outcome of looking: an account, or the error the handler passes on.
pub type Guarded = Result<Signed, ApiError>;

#[rocket::async_trait]
impl<'r> FromRequest<'r> for Signed {
    type Error = ApiError;

    async fn from_request(request: &'r Request<'_>) -> request::Outcome<Self, ApiError> {
        match signed(request).await {
            Ok(account) => Outcome::Success(Signed(account)),
            Err(error) => Outcome::Error((error.status(), error)),
        }
    }
}

async fn signed(request: &Request<'_>) -> Result<Account, ApiError> {
    same_origin(request)?;
    let token =
        request.cookies().get(COOKIE).map(|c| c.value().to_owned()).ok_or(ApiError::SignedOut)?;
    let store = request
        .guard::<&State<Store>>()
        .await
        .succeeded()
        .ok_or_else(|| ApiError::Internal("no store".to_owned()))?;
    let account = store.run(move |db| sessions::account(db, &token)).await?;
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
