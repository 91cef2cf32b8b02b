//! Everything the API can refuse, declared once: status, code and text. Sent as RFC 9457 problems.

use heliant_core::job::{Problem, Unreadable};
use heliant_core::problem::Problems;
use rocket::http::{ContentType, Header, Status};
use rocket::request::Request;
use rocket::response::{self, Responder, Response};
use serde::Serialize;
use utoipa::ToSchema;

use crate::records::JobView;

/// What went wrong with a request.
#[derive(Debug)]
pub enum ApiError {
    /// Nobody is signed in.
    SignedOut,
    /// Name or password is wrong.
    WrongPassword,
    /// Too many wrong passwords.
    TooManyAttempts {
        /// Seconds until the next try.
        wait_s: u64,
    },
    /// The role does not allow it.
    Forbidden {
        /// What the role lacks.
        needs: &'static str,
    },
    /// The request comes from another site.
    WrongOrigin,
    /// There is no such thing.
    NotFound(&'static str),
    /// The body is not right; every problem with its place.
    Invalid(Vec<Problem>),
    /// Somebody saved in between; both versions are offered.
    Conflict(Box<JobView>),
    /// The body is too large.
    TooLarge {
        /// Largest body, in bytes.
        limit: usize,
    },
    /// A newer version of the program wrote what is asked for.
    WrittenByNewer,
    /// Others were faster each time it was tried.
    Busy,
    /// Too many wait for something to be computed.
    NoPlace {
        /// Seconds until the next try.
        wait_s: u64,
    },
    /// What was asked takes longer to compute than anything may.
    TooMuchWork,
    /// The body is a form.
    Form,
    /// The body takes too long to come in.
    TooSlow,
    /// The pack is not set yet.
    NotSetYet,
    /// Somebody has too many packs waiting.
    TooManyWaiting {
        /// How many may.
        most: i64,
    },
    /// The database does not answer.
    DatabaseAway,
    /// A fault of ours.
    Internal(String),
}

/// An RFC 9457 problem.
#[derive(Debug, Serialize, ToSchema)]
pub struct ProblemBody {
    /// Code of the problem, as a relative reference.
    #[serde(rename = "type")]
    pub kind: String,
    /// What is wrong, in short.
    pub title: String,
    /// HTTP status.
    pub status: u16,
    /// What is wrong and what would be right.
    pub detail: String,
    /// Problems by place in the body.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub errors: Vec<Problem>,
    /// The version in the database, where a save came too late.
    #[serde(skip_serializing_if = "Option::is_none")]
    #[schema(value_type = Option<JobView>)]
    pub current: Option<Box<JobView>>,
}

impl ApiError {
    /// One problem of the body, with its place and what would be right.
    pub fn invalid(path: &str, message: impl Into<String>, hint: impl Into<String>) -> Self {
        ApiError::Invalid(vec![Problem::new(path, message, hint)])
    }

    fn parts(&self) -> (Status, &'static str, &'static str, String) {
        use ApiError as E;
        match self {
            E::SignedOut => (
                Status::Unauthorized,
                "signed-out",
                "Nobody is signed in",
                "Sign in and do it again; nothing is lost.".to_owned(),
            ),
            E::WrongPassword => (
                Status::Unauthorized,
                "wrong-password",
                "Name or password is wrong",
                "Check both and try again.".to_owned(),
            ),
            E::TooManyAttempts { wait_s } => (
                Status::TooManyRequests,
                "too-many-attempts",
                "Too many wrong passwords",
                match wait_s {
                    0..=90 => format!("Try again in {wait_s} seconds."),
                    _ => format!("Try again in {} minutes.", wait_s.div_ceil(60)),
                },
            ),
            E::Forbidden { needs } => (
                Status::Forbidden,
                "forbidden",
                "Your role does not allow this",
                format!("It needs {needs}."),
            ),
            E::WrongOrigin => (
                Status::Forbidden,
                "wrong-origin",
                "The request comes from another site",
                "Use the application's own address.".to_owned(),
            ),
            E::NotFound(what) => {
                (Status::NotFound, "not-found", "Not found", format!("There is no such {what}."))
            }
            E::Invalid(problems) => {
                let first = problems.first().map_or_else(String::new, |p| {
                    let hint =
                        if p.hint.is_empty() { String::new() } else { format!(" ({})", p.hint) };
                    format!(
                        "{}: {}{hint}",
                        if p.path.is_empty() { "body" } else { &p.path },
                        p.message
                    )
                });
                let n: usize = problems.iter().map(Problem::counts).sum();
                let more = if n > 1 { format!(" And {} more.", n - 1) } else { String::new() };
                (
                    Status::UnprocessableEntity,
                    "invalid",
                    "Something entered is not right",
                    format!("{first}{more}"),
                )
            }
            E::Conflict(current) => (
                Status::Conflict,
                "conflict",
                "Somebody saved in between",
                format!(
                    "Revision {} was saved by {}. Both versions are kept: choose which one stays.",
                    current.revision, current.saved_by
                ),
            ),
            E::TooLarge { limit } => (
                Status::PayloadTooLarge,
                "too-large",
                "Too large",
                format!("At most {} KB are read.", limit / 1024),
            ),
            E::WrittenByNewer => (
                Status::Conflict,
                "written-by-newer",
                "A newer version of the program wrote this",
                "Nothing is lost: bring this server up to the version that wrote it.".to_owned(),
            ),
            E::Busy => (
                Status::ServiceUnavailable,
                "busy",
                "Too many at once",
                "Nothing was written: try it again in a moment.".to_owned(),
            ),
            E::NoPlace { wait_s } => (
                Status::ServiceUnavailable,
                "no-place",
                "Too much is being computed",
                format!("Nothing was written: try it again in {wait_s} s."),
            ),
            E::TooMuchWork => (
                Status::ServiceUnavailable,
                "too-much-work",
                "This takes too long to compute",
                "Nothing was written: ask for less at once, or a smaller part of it.".to_owned(),
            ),
            E::Form => (
                Status::UnsupportedMediaType,
                "form",
                "Forms are not read here",
                "Send JSON, as /api/openapi.json says.".to_owned(),
            ),
            E::TooSlow => (
                Status::RequestTimeout,
                "too-slow",
                "The request takes too long",
                "Nothing was written: send it again on a better line.".to_owned(),
            ),
            E::NotSetYet => (
                Status::Conflict,
                "not-set-yet",
                "The pack is not set yet",
                "Ask for it first; it is ready a little later.".to_owned(),
            ),
            E::TooManyWaiting { most } => (
                Status::TooManyRequests,
                "too-many-waiting",
                "Too many packs wait",
                format!("{most} of yours may wait at once: ask again when one is ready."),
            ),
            E::DatabaseAway => (
                Status::ServiceUnavailable,
                "database-away",
                "The database does not answer",
                "Nothing is lost: it is tried again.".to_owned(),
            ),
            E::Internal(_) => (
                Status::InternalServerError,
                "internal",
                "A fault of ours",
                "It is in the server's log.".to_owned(),
            ),
        }
    }

    /// The status it is sent with.
    pub fn status(&self) -> Status {
        self.parts().0
    }

    /// The body it is sent with.
    pub(crate) fn body(self) -> ProblemBody {
        let (status, kind, title, detail) = self.parts();
        let (errors, current) = match self {
            ApiError::Invalid(errors) => (Problems::from(errors).told(), None),
            ApiError::Conflict(current) => (Vec::new(), Some(current)),
            _ => (Vec::new(), None),
        };
        ProblemBody {
            kind: format!("/problems/{kind}"),
            title: title.to_owned(),
            status: status.code,
            detail,
            errors,
            current,
        }
    }
}

impl<'r> Responder<'r, 'static> for ApiError {
    fn respond_to(self, _: &'r Request<'_>) -> response::Result<'static> {
        if let ApiError::Internal(message) = &self {
            tracing::error!(message, "fault");
        }
        let retry = match &self {
            ApiError::TooManyAttempts { wait_s } | ApiError::NoPlace { wait_s } => Some(*wait_s),
            _ => None,
        };
        let status = self.status();
        let text = serde_json::to_string(&self.body()).map_err(|_| Status::InternalServerError)?;
        let mut response = Response::build();
        response
            .status(status)
            .header(ContentType::new("application", "problem+json"))
            .sized_body(text.len(), std::io::Cursor::new(text));
        if let Some(seconds) = retry {
            response.header(Header::new("Retry-After", seconds.to_string()));
        }
        response.ok()
    }
}

impl From<Unreadable> for ApiError {
    fn from(why: Unreadable) -> Self {
        match why {
            Unreadable::Newer { .. } => {
                tracing::error!(%why, "written by a newer version");
                ApiError::WrittenByNewer
            }
            Unreadable::Broken(_) => ApiError::Internal(why.to_string()),
        }
    }
}

impl From<diesel::result::Error> for ApiError {
    fn from(error: diesel::result::Error) -> Self {
        use diesel::result::{DatabaseErrorKind, Error};
        match error {
            Error::DatabaseError(DatabaseErrorKind::ClosedConnection, _)
            | Error::BrokenTransactionManager => ApiError::DatabaseAway,
            // Shutting down, starting up, out of connections: SQLSTATE is not told apart by Diesel,
            // its text is.
            Error::DatabaseError(_, info)
                if info.message().contains("terminating connection")
                    || info.message().contains("starting up") =>
            {
                ApiError::DatabaseAway
            }
            Error::DatabaseError(
                DatabaseErrorKind::Unknown | DatabaseErrorKind::UnableToSendCommand,
                info,
            ) if info.message().contains("connection")
                || info.message().contains("server closed") =>
            {
                ApiError::DatabaseAway
            }
            // A text holds every character but one.
            Error::DatabaseError(_, info)
                if info.message().contains("\\u0000")
                    || info.message().contains("0x00")
                    || info.message().contains("escape sequence") =>
            {
                ApiError::invalid("", "holds a NUL character", "take it out")
            }
            // Diesel does not send a text with a NUL to begin with.
            Error::InvalidCString(_) => {
                ApiError::invalid("", "holds a NUL character", "take it out")
            }
            other => ApiError::Internal(other.to_string()),
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn every_problem_has_a_code_of_its_own_and_says_what_would_be_right() {
        let all = [
            ApiError::SignedOut,
            ApiError::WrongPassword,
            ApiError::TooManyAttempts { wait_s: 61 },
            ApiError::Forbidden { needs: "the role owner" },
            ApiError::WrongOrigin,
            ApiError::NotFound("job"),
            ApiError::Invalid(Vec::new()),
            ApiError::TooLarge { limit: 4096 },
            ApiError::WrittenByNewer,
            ApiError::Busy,
            ApiError::NoPlace { wait_s: 2 },
            ApiError::TooMuchWork,
            ApiError::Form,
            ApiError::TooSlow,
            ApiError::NotSetYet,
            ApiError::TooManyWaiting { most: 20 },
            ApiError::DatabaseAway,
            ApiError::Internal("secret".to_owned()),
        ];
        let mut codes: Vec<&str> = all.iter().map(|e| e.parts().1).collect();
        codes.sort_unstable();
        codes.dedup();
        assert_eq!(codes.len(), all.len());
        for error in &all {
            let (status, _, title, detail) = error.parts();
            assert!(
                status.code >= 400 && !title.is_empty() && !detail.contains("secret"),
                "{detail}"
            );
        }
        assert!(ApiError::TooManyAttempts { wait_s: 91 }.parts().3.contains("2 minutes"));
    }

    #[test]
    fn the_first_problem_is_said_and_the_others_counted() {
        let problem = |path: &str| Problem::new(path, "is wrong", "make it right");
        let (.., one) = ApiError::Invalid(vec![problem("/n")]).parts();
        assert_eq!(one, "/n: is wrong (make it right)");
        let (.., three) =
            ApiError::Invalid(vec![problem(""), problem("/a"), problem("/b")]).parts();
        assert_eq!(three, "body: is wrong (make it right) And 2 more.");
    }
}
