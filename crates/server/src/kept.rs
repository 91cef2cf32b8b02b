//! Answers about a job that were computed once: kept by revision, number of readings and question,
//! so that whoever looks at the same again costs nothing. What a revision came to never changes, so
//! nothing here is ever out of date; what has not been asked for longest makes room.

use std::convert::Infallible;
use std::io::Cursor;
use std::sync::Arc;

use heliant_core::work::Work;
use moka::sync::Cache;
use rocket::http::ContentType;
use rocket::request::{FromRequest, Outcome};
use rocket::response::{self, Responder};
use rocket::{Request, Response};
use serde::Serialize;
use uuid::Uuid;

use crate::attachment::file_name;
use crate::compute::{Asker, Cost};
use crate::guard::{Seated, Sees};
use crate::problem::ApiError;
use crate::records::Stored;
use crate::store::{Store, jobs as store_jobs};

/// Bytes that are kept in all: some thirty of the largest answers.
const MOST_BYTES: u64 = 64 * 1024 * 1024;
/// Beside its bytes an answer takes its key and its place in the lists.
const ENTRY_BYTES: usize = 256;

/// What an answer is of.
#[derive(Clone, Debug, PartialEq, Eq, Hash)]
struct Key {
    job: Uuid,
    revision: i32,
    readings_n: i32,
    /// Who is from outside is told less.
    outside: bool,
    /// The question.
    what: String,
}

/// The answers of this server.
pub struct Kept(Cache<Key, Bytes>);

impl Default for Kept {
    fn default() -> Self {
        let bytes = |key: &Key, bytes: &Bytes| {
            u32::try_from(bytes.0.len() + key.what.len() + ENTRY_BYTES).unwrap_or(u32::MAX)
        };
        Kept(Cache::builder().weigher(bytes).max_capacity(MOST_BYTES).build())
    }
}

/// The body of an answer, shared between those who asked.
#[derive(Clone, Debug)]
pub struct Bytes(Arc<[u8]>);

impl AsRef<[u8]> for Bytes {
    fn as_ref(&self) -> &[u8] {
        &self.0
    }
}

impl From<String> for Bytes {
    fn from(text: String) -> Self {
        Bytes(text.into_bytes().into())
    }
}

impl From<Vec<u8>> for Bytes {
    fn from(bytes: Vec<u8>) -> Self {
        Bytes(bytes.into())
    }
}

impl Bytes {
    /// An answer as JSON.
    ///
    /// # Errors
    /// Where it is none: a fault of ours.
    pub(crate) fn json(answer: &impl Serialize) -> Result<Bytes, ApiError> {
        let bytes = serde_json::to_vec(answer).map_err(|e| ApiError::Internal(e.to_string()))?;
        Ok(bytes.into())
    }
}

impl<'r> Responder<'r, 'static> for Bytes {
    fn respond_to(self, _: &'r Request<'_>) -> response::Result<'static> {
        Response::build().sized_body(self.0.len(), Cursor::new(self)).ok()
    }
}

/// A kept answer that is JSON.
pub type KeptJson = (ContentType, Bytes);

/// The job a question is about, as it stood at a revision, now where none is named; and what who
/// asks sees of it.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Asked {
    pub(crate) job: Uuid,
    pub(crate) revision: Option<i32>,
    pub(crate) sees: Sees,
}

impl Seated {
    /// A job as it stands.
    pub(crate) fn now(&self, job: Uuid) -> Asked {
        Asked { job, revision: None, sees: self.sees }
    }

    /// A job as it stood.
    pub(crate) fn at(&self, job: Uuid, revision: i32) -> Asked {
        Asked { job, revision: Some(revision), sees: self.sees }
    }
}

/// What a question about a job is asked with: who asks, the places, the store and what is kept.
pub struct Question {
    asker: Asker,
    store: Store,
    kept: Cache<Key, Bytes>,
}

#[rocket::async_trait]
impl<'r> FromRequest<'r> for Question {
    type Error = Infallible;

    async fn from_request(request: &'r Request<'_>) -> Outcome<Self, Infallible> {
        let Outcome::Success(asker) = Asker::from_request(request).await else {
            unreachable!("it never fails")
        };
        let rocket = request.rocket();
        let store = rocket.state::<Store>().expect("a server has a store").clone();
        let kept = rocket.state::<Kept>().expect("a server keeps its answers").0.clone();
        Outcome::Success(Question { asker, store, kept })
    }
}

impl Question {
    /// An answer about a job, made where it is not kept. `what` is the question, the same for the
    /// same answer.
    ///
    /// # Errors
    /// Where there is no such job or revision, there is no place, or what `make` refuses.
    pub(crate) async fn answer(
        &self,
        of: Asked,
        what: impl Into<String>,
        cost: Cost,
        make: impl FnOnce(Stored, &Work) -> Result<Bytes, ApiError> + Send + 'static,
    ) -> Result<Bytes, ApiError> {
        let Asked { job, revision, sees } = of;
        let (newest, readings_n) = self.store.run(move |db| store_jobs::stands(db, job)).await?;
        let revision = sees.revision(revision, newest)?;
        let outside = sees != Sees::All;
        let key = Key { job, revision, readings_n, outside, what: what.into() };
        if let Some(kept) = self.kept.get(&key) {
            return Ok(kept);
        }
        let place = self.asker.place(cost).await?;
        // Somebody with the same question may have been before us.
        if let Some(kept) = self.kept.get(&key) {
            return Ok(kept);
        }
        let of = Some(key.revision);
        let stored = self.store.run(move |db| store_jobs::get(db, job, of)).await?;
        let stored = Stored { outside, ..stored };
        // A reading may have come meanwhile: the answer is of the job as it was read.
        let key = Key { readings_n: stored.readings_n(), ..key };
        let (made, whole) = place
            .run(move |work| {
                let made = make(stored, work);
                (made, !work.cut())
            })
            .await?;
        let made = made?;
        if whole {
            self.kept.insert(key, made.clone());
        }
        Ok(made)
    }

    /// An answer that is not kept: the question is another each time.
    ///
    /// # Errors
    /// As [`answer`](Self::answer).
    pub(crate) async fn asked<T: Send + 'static>(
        &self,
        of: Asked,
        make: impl FnOnce(Stored) -> Result<T, ApiError> + Send + 'static,
    ) -> Result<T, ApiError> {
        let Asked { job, revision, sees } = of;
        let (newest, _) = self.store.run(move |db| store_jobs::stands(db, job)).await?;
        let revision = sees.revision(revision, newest)?;
        let place = self.asker.place(Cost::Quick).await?;
        let stored = self.store.run(move |db| store_jobs::get(db, job, Some(revision))).await?;
        let outside = sees != Sees::All;
        place.run(move |_| make(Stored { outside, ..stored })).await?
    }

    /// A job as it stood at a revision, read in a place of its own.
    ///
    /// # Errors
    /// Where there is no such job or revision, or no place.
    pub(crate) async fn stored(&self, job: Uuid, revision: i32) -> Result<Stored, ApiError> {
        let _place = self.asker.place(Cost::Quick).await?;
        self.store.run(move |db| store_jobs::get(db, job, Some(revision))).await
    }

    /// The name of a file of a job: what of it, where it is not all, and its ending.
    ///
    /// # Errors
    /// Where there is no such job.
    pub(crate) async fn name(
        &self,
        job: Uuid,
        part: &str,
        ending: &str,
    ) -> Result<String, ApiError> {
        let name = self.store.run(move |db| store_jobs::name(db, job)).await?;
        Ok(file_name(&format!("{name} {part}"), ending))
    }

    /// The same as JSON.
    ///
    /// # Errors
    /// As [`answer`](Self::answer).
    pub(crate) async fn json<T: Serialize>(
        &self,
        of: Asked,
        what: impl Into<String>,
        cost: Cost,
        make: impl FnOnce(Stored, &Work) -> Result<T, ApiError> + Send + 'static,
    ) -> Result<KeptJson, ApiError> {
        let make = move |stored: Stored, work: &Work| Bytes::json(&make(stored, work)?);
        Ok((ContentType::JSON, self.answer(of, what, cost, make).await?))
    }
}
