//! What a newer data sheet does to the jobs that hold an older one is looked at in the background:
//! one job after the other in one thread, as long as somebody waits for it.

use std::collections::HashMap;
use std::sync::mpsc::{self, RecvTimeoutError};
use std::sync::{Arc, Mutex};
use std::thread::{self, JoinHandle};
use std::time::{Duration, Instant};

use heliant_core::library::{DataSheet, SheetKind};
use heliant_core::watch::effect;

use crate::problem::ApiError;
use crate::store::consequences::{self, Looked, Seen};
use crate::store::{Store, library};

/// A sheet somebody waits for, and when they last asked.
type Waiting = HashMap<(SheetKind, String), Instant>;

/// The thread that looks. Dropping it ends it.
pub struct Watching {
    edition: String,
    waiting: Arc<Mutex<Waiting>>,
    nudge: Option<mpsc::Sender<()>>,
    thread: Option<JoinHandle<()>>,
}

/// Who has not asked for this long does not wait any more.
const PATIENCE: Duration = Duration::from_secs(15);
/// Jobs that are fetched at once.
const BATCH: i64 = 200;

impl Watching {
    /// Starts it.
    pub fn start(store: Store) -> Watching {
        let waiting = Arc::new(Mutex::new(Waiting::new()));
        let edition = crate::edition::edition(&[]);
        let (nudge, nudged) = mpsc::channel();
        let watcher =
            Watcher { store, edition: edition.clone(), waiting: Arc::clone(&waiting), nudged };
        let thread = Some(thread::spawn(move || watcher.run()));
        Watching { edition, waiting, nudge: Some(nudge), thread }
    }

    /// The programs that look: this one.
    pub fn edition(&self) -> &str {
        &self.edition
    }

    /// Says that somebody waits for a sheet.
    pub fn ask(&self, kind: SheetKind, sheet: &str) {
        if let Ok(mut waiting) = self.waiting.lock() {
            waiting.insert((kind, sheet.to_owned()), Instant::now());
        }
        if let Some(nudge) = &self.nudge {
            let _ = nudge.send(());
        }
    }
}

impl Drop for Watching {
    fn drop(&mut self) {
        drop(self.nudge.take());
        if let Some(thread) = self.thread.take() {
            let _ = thread.join();
        }
    }
}

struct Watcher {
    store: Store,
    edition: String,
    waiting: Arc<Mutex<Waiting>>,
    nudged: mpsc::Receiver<()>,
}

impl Watcher {
    fn run(self) {
        while self.nudged.recv().is_ok() {
            // Sheets take turns, a batch each.
            while let Some((kind, sheet)) = self.next() {
                match self.batch(kind, &sheet) {
                    Ok(true) => {}
                    Ok(false) => self.finished(kind, &sheet),
                    Err(error) => {
                        tracing::warn!(?error, sheet, "what a data sheet does cannot be looked at");
                        self.finished(kind, &sheet);
                    }
                }
                if matches!(
                    self.nudged.recv_timeout(Duration::ZERO),
                    Err(RecvTimeoutError::Disconnected)
                ) {
                    return;
                }
            }
        }
    }

    /// The sheet whose turn it is; those nobody waits for are dropped.
    fn next(&self) -> Option<(SheetKind, String)> {
        let mut waiting = self.waiting.lock().ok()?;
        waiting.retain(|_, asked| asked.elapsed() < PATIENCE);
        waiting.keys().next().cloned()
    }

    fn finished(&self, kind: SheetKind, sheet: &str) {
        if let Ok(mut waiting) = self.waiting.lock() {
            waiting.remove(&(kind, sheet.to_owned()));
        }
    }

    /// Looks at some jobs; false where none was left.
    fn batch(&self, kind: SheetKind, sheet: &str) -> Result<bool, ApiError> {
        let revisions = self.store.here(|db| library::revisions(db, kind, sheet))?;
        let Some(newest) = revisions.last() else { return Ok(false) };
        let of = looked(newest, &self.edition);
        let due = self.store.here(|db| consequences::due(db, &of, BATCH))?;
        if due.is_empty() {
            self.store.here(|db| consequences::forget_older(db, &of))?;
            return Ok(false);
        }
        let seen: Vec<Seen> = due
            .into_iter()
            .map(|d| {
                let document = d.document.as_ref();
                let effect = document.and_then(|d| effect(&d.job, &d.library, newest));
                Seen { job: d.job, revision: d.revision, effect }
            })
            .collect();
        self.store.here(|db| consequences::keep(db, &of, &seen))?;
        Ok(true)
    }
}

/// The newest revision of a sheet, as it is looked at.
pub(crate) fn looked(newest: &DataSheet, edition: &str) -> Looked {
    let own = newest.reference();
    Looked {
        kind: newest.kind(),
        sheet: own.sheet,
        revision: i32::try_from(own.revision).unwrap_or(i32::MAX),
        edition: edition.to_owned(),
    }
}
