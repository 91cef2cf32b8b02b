//! Live updates: what one browser saves, the others hear of, through the database and not this
//! process.

use std::sync::mpsc;
use std::thread::JoinHandle;
use std::time::Duration;

use chrono::Utc;
use diesel::{Connection, PgConnection, RunQueryDsl};
use rocket::State;
use rocket::http::CookieJar;
use rocket::response::stream::{Event, EventStream};
use rocket::tokio::select;
use rocket::tokio::sync::broadcast::{Sender, channel, error::RecvError};
use rocket::tokio::time::{Instant, sleep_until};
use rocket::{Shutdown, get};
use serde::Deserialize;
use uuid::Uuid;

use crate::guard::{Anybody, COOKIE};
use crate::problem::ApiError;
use crate::store::accounts::Role;
use crate::store::{Store, guests, sessions};

/// Hands what the database notifies to the browsers of this process. Dropping it ends the thread
/// that listens and waits for it: no connection is in use while the process ends.
pub struct Events {
    sender: Sender<String>,
    // Hung up to end the thread.
    end: Option<mpsc::Sender<()>>,
    thread: Option<JoinHandle<()>>,
}

/// How often the connection is looked at. It costs no query.
const POLL: Duration = Duration::from_millis(100);

/// How long after a lost connection the next one is tried.
const AGAIN: Duration = Duration::from_secs(1);

impl Events {
    /// Listens on a connection of its own, in a thread of its own; a lost connection is taken up
    /// again.
    pub fn listen(url: String) -> Events {
        let (sender, _) = channel(256);
        let (end, ended) = mpsc::channel();
        let to_browsers = sender.clone();
        let thread = std::thread::spawn(move || {
            while let Err(message) = pump(&url, &to_browsers, &ended) {
                tracing::warn!(message, "live updates are away");
                if over(&ended, AGAIN) {
                    break;
                }
            }
        });
        Events { sender, end: Some(end), thread: Some(thread) }
    }
}

impl Drop for Events {
    fn drop(&mut self) {
        drop(self.end.take());
        if let Some(thread) = self.thread.take() {
            let _ = thread.join();
        }
    }
}

/// Waits; true as soon as the listening is to end.
fn over(ended: &mpsc::Receiver<()>, wait: Duration) -> bool {
    ended.recv_timeout(wait) == Err(mpsc::RecvTimeoutError::Disconnected)
}

/// Hands on what one connection hears, until the listening is to end; an error where the
/// connection is lost.
fn pump(url: &str, sender: &Sender<String>, ended: &mpsc::Receiver<()>) -> Result<(), String> {
    let mut connection = PgConnection::establish(url).map_err(|e| e.to_string())?;
    diesel::sql_query("LISTEN heliant").execute(&mut connection).map_err(|e| e.to_string())?;
    // Whoever missed something while the connection was away looks again.
    let _ = sender.send("{}".to_owned());
    let mut quiet = Duration::ZERO;
    while !over(ended, POLL) {
        let mut heard = false;
        for notification in connection.notifications_iter() {
            heard = true;
            let _ = sender.send(notification.map_err(|e| e.to_string())?.payload);
        }
        quiet = if heard { Duration::ZERO } else { quiet + POLL };
        if quiet >= Duration::from_secs(2) {
            diesel::sql_query("SELECT 1").execute(&mut connection).map_err(|e| e.to_string())?;
            quiet = Duration::ZERO;
        }
    }
    Ok(())
}

/// What is said where sessions have ended: not handed on, each stream looks at its own.
const ENDED: &str = r#"{"what":"ended"}"#;

/// How often a stream looks whether its session still holds.
const LOOK: Duration = Duration::from_secs(60);

/// Until when a session holds; none where it does no more. A database that is away is no reason to
/// end: it is looked again soon.
async fn holds(store: &Store, token: &str) -> Option<Instant> {
    let token = token.to_owned();
    let found = store.run(move |db| sessions::until(db, &token)).await;
    let left = match found {
        Ok(until) => (until? - Utc::now()).to_std().ok()?,
        Err(_) => LOOK,
    };
    Some(Instant::now() + left.min(LOOK))
}

/// Whether news are of a job that an inspector has a seat at, or of none.
async fn concerns(store: &Store, guest: Uuid, payload: &str) -> bool {
    #[derive(Deserialize)]
    struct News {
        job: Option<Uuid>,
    }
    let Ok(news) = serde_json::from_str::<News>(payload) else { return false };
    let Some(job) = news.job else { return true };
    store.run(move |db| guests::has_seat(db, guest, job)).await.unwrap_or(false)
}

/// Says `{"job": id, "revision": n, "what": "saved", "read" or "pack"}` whenever a job was saved or
/// read or its pack is further on; `{}` where something may have been missed. Ends with the
/// session.
#[utoipa::path(
    context_path = "/api",
    tag = "events",
    responses(
        (status = 200, content_type = "text/event-stream", body = String),
    ),
)]
#[get("/events")]
pub async fn events(
    anybody: Result<Anybody, ApiError>,
    cookies: &CookieJar<'_>,
    events: &State<Events>,
    store: &State<Store>,
    mut end: Shutdown,
) -> Result<EventStream![], ApiError> {
    let account = anybody?.0;
    let guest = (account.role == Role::Inspector).then_some(account.id);
    let token = cookies.get(COOKIE).map(|c| c.value().to_owned()).ok_or(ApiError::SignedOut)?;
    let store = Store::clone(store);
    let mut receiver = events.sender.subscribe();
    let Some(mut until) = holds(&store, &token).await else { return Err(ApiError::SignedOut) };
    Ok(EventStream! {
        loop {
            let payload = select! {
                heard = receiver.recv() => match heard {
                    Ok(payload) => payload,
                    Err(RecvError::Lagged(_)) => "{}".to_owned(),
                    Err(RecvError::Closed) => break,
                },
                // A stream in which much is said looks as often as a quiet one.
                () = sleep_until(until) => ENDED.to_owned(),
                () = &mut end => break,
            };
            if payload == ENDED {
                let Some(later) = holds(&store, &token).await else { break };
                until = later;
                continue;
            }
            if let Some(guest) = guest
                && !concerns(&store, guest, &payload).await
            {
                continue;
            }
            yield Event::data(payload);
        }
    })
}
