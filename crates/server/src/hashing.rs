//! Passwords are hashed on two threads of their own: never more at once, whatever comes in, so that
//! a flood of sign-ins takes neither the memory nor the connections of everybody else.

use std::sync::mpsc::{self, Receiver, SyncSender};
use std::sync::{Arc, LazyLock, Mutex};
use std::thread::JoinHandle;

use argon2::Argon2;
use argon2::password_hash::rand_core::OsRng;
use argon2::password_hash::{PasswordHash, PasswordHasher, PasswordVerifier, SaltString};
use rocket::tokio::sync::oneshot;

use crate::problem::ApiError;

/// Hashes at once. One takes 19 MB and a fifteenth of a second.
const THREADS: usize = 2;
/// Hashes that may wait, two seconds' worth; more are sent away.
const WAITING: usize = 32;

type Work = Box<dyn FnOnce() + Send>;

/// The threads that hash.
pub struct Hasher {
    work: Option<SyncSender<Work>>,
    threads: Vec<JoinHandle<()>>,
}

impl Hasher {
    /// Starts them.
    pub fn start() -> Hasher {
        let (work, works) = mpsc::sync_channel(WAITING);
        let works = Arc::new(Mutex::new(works));
        let thread = |_| {
            let works = Arc::clone(&works);
            std::thread::spawn(move || {
                while let Some(work) = next(&works) {
                    work();
                }
            })
        };
        Hasher { work: Some(work), threads: (0..THREADS).map(thread).collect() }
    }

    /// Hashes a password to be kept.
    ///
    /// # Errors
    /// Where too many wait.
    pub async fn hash(&self, password: String) -> Result<String, ApiError> {
        self.done(move || hash(&password)).await?
    }

    /// Whether a password is the kept one. None kept takes the same time and is never right.
    ///
    /// # Errors
    /// Where too many wait.
    pub async fn matches(&self, password: String, kept: Option<String>) -> Result<bool, ApiError> {
        self.done(move || {
            let there = kept.is_some();
            let kept = kept.as_deref().unwrap_or(NOBODY.as_str());
            let kept = PasswordHash::new(kept).map_err(|e| ApiError::Internal(e.to_string()))?;
            let right = Argon2::default().verify_password(password.as_bytes(), &kept).is_ok();
            Ok(right && there)
        })
        .await?
    }

    async fn done<T: Send + 'static>(
        &self,
        work: impl FnOnce() -> T + Send + 'static,
    ) -> Result<T, ApiError> {
        let (to, from) = oneshot::channel();
        let work: Work = Box::new(move || {
            let _ = to.send(work());
        });
        let queue = self.work.as_ref().ok_or(ApiError::Busy)?;
        queue.try_send(work).map_err(|_| ApiError::Busy)?;
        from.await.map_err(|e| ApiError::Internal(e.to_string()))
    }
}

impl Drop for Hasher {
    fn drop(&mut self) {
        drop(self.work.take());
        for thread in self.threads.drain(..) {
            let _ = thread.join();
        }
    }
}

fn next(works: &Mutex<Receiver<Work>>) -> Option<Work> {
    works.lock().ok()?.recv().ok()
}

/// What a name that is not there is held against.
static NOBODY: LazyLock<String> = LazyLock::new(|| hash("nobody").unwrap_or_default());

/// Hashes a password on this thread, with argon2id.
///
/// # Errors
/// Where the system has no randomness.
pub fn hash(password: &str) -> Result<String, ApiError> {
    let salt = SaltString::generate(&mut OsRng);
    let hash = Argon2::default()
        .hash_password(password.as_bytes(), &salt)
        .map_err(|e| ApiError::Internal(e.to_string()))?;
    Ok(hash.to_string())
}
