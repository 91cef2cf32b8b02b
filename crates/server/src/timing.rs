//! How long the parts of an answer took, as the header `Server-Timing` (W3C) tells it.

use std::convert::Infallible;
use std::fmt::Write as _;
use std::time::Instant;

use rocket::Request;
use rocket::http::Header;
use rocket::request::{FromRequest, Outcome};
use rocket::response::Responder;

/// Laps of one request.
#[derive(Debug)]
pub struct Laps {
    last: Instant,
    said: String,
}

/// The watch runs since the request came in; the first lap is the guards before this one.
#[rocket::async_trait]
impl<'r> FromRequest<'r> for Laps {
    type Error = Infallible;

    async fn from_request(request: &'r Request<'_>) -> Outcome<Self, Infallible> {
        let mut laps = Laps { last: *request.local_cache(Instant::now), said: String::new() };
        laps.lap("guards");
        Outcome::Success(laps)
    }
}

impl Laps {
    /// Ends a lap.
    pub(crate) fn lap(&mut self, name: &str) {
        let now = Instant::now();
        let ms = (now - self.last).as_secs_f64() * 1000.0;
        let comma = if self.said.is_empty() { "" } else { ", " };
        // Writing to a string does not fail.
        let _ = write!(self.said, "{comma}{name};dur={ms:.3}");
        self.last = now;
    }
}

/// An answer with its laps.
#[derive(Debug, Responder)]
pub struct Timed<T> {
    inner: T,
    header: Header<'static>,
}

impl<T> Timed<T> {
    /// Puts the laps on an answer.
    pub(crate) fn new(inner: T, laps: Laps) -> Self {
        Timed { inner, header: Header::new("Server-Timing", laps.said) }
    }
}
