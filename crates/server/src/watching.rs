//! What a newer data sheet does to the jobs that hold an older one is looked at in the background:
//! a batch of jobs after the other, as long as somebody waits for it.

use std::collections::HashMap;
use std::sync::mpsc::{self, RecvTimeoutError};
use std::sync::{Arc, Mutex};
use std::thread::{self, JoinHandle};
use std::time::{Duration, Instant};

use diesel::Connection;
use heliant_core::library::{DataSheet, SheetKind};
use heliant_core::watch::effect;
use uuid::Uuid;

use crate::problem::ApiError;
use crate::store::consequences::{self, Looked, Now, Seen};
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
/// How long to wait where another server looks at the same sheet.
const ELSEWHERE: Duration = Duration::from_millis(100);
/// Jobs that are fetched at once.
const BATCH: usize = 200;
/// Threads that look at a batch.
const THREADS: usize = 2;

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

/// The jobs of a sheet that are still to be looked at.
type Due = HashMap<(SheetKind, String), (i32, Vec<Uuid>)>;

impl Watcher {
    fn run(self) {
        let mut all = Due::new();
        while self.nudged.recv().is_ok() {
            // Sheets take turns, a batch each.
            let mut turn = 0;
            while let Some((kind, sheet)) = self.next(turn) {
                turn += 1;
                let mut pause = Duration::ZERO;
                match self.batch(&mut all, kind, &sheet) {
                    Ok(Batch::Looked) => {}
                    Ok(Batch::Elsewhere) => pause = ELSEWHERE,
                    Ok(Batch::NoneLeft) => self.finished(kind, &sheet),
                    Err(error) => {
                        tracing::warn!(?error, sheet, "what a data sheet does cannot be looked at");
                        self.finished(kind, &sheet);
                    }
                }
                if matches!(self.nudged.recv_timeout(pause), Err(RecvTimeoutError::Disconnected)) {
                    return;
                }
            }
        }
    }

    /// The sheet whose turn it is; those nobody waits for are dropped.
    fn next(&self, turn: usize) -> Option<(SheetKind, String)> {
        let mut waiting = self.waiting.lock().ok()?;
        waiting.retain(|_, asked| asked.elapsed() < PATIENCE);
        let mut all: Vec<_> = waiting.keys().collect();
        all.sort_unstable();
        all.get(turn % all.len().max(1)).map(|key| (*key).clone())
    }

    fn finished(&self, kind: SheetKind, sheet: &str) {
        if let Ok(mut waiting) = self.waiting.lock() {
            waiting.remove(&(kind, sheet.to_owned()));
        }
    }

    /// Looks at some jobs.
    fn batch(&self, all: &mut Due, kind: SheetKind, sheet: &str) -> Result<Batch, ApiError> {
        let key = (kind, sheet.to_owned());
        let revisions = self.store.here(|db| library::revisions(db, kind, sheet))?;
        let Some(newest) = revisions.last() else { return Ok(Batch::NoneLeft) };
        let of = looked(newest, &self.edition);
        // Taken anew when it is through, or a newer revision has come.
        let mut due = match all.remove(&key) {
            Some((revision, due)) if revision == of.revision => due,
            _ => self.store.here(|db| consequences::due(db, &of))?,
        };
        if due.is_empty() {
            self.store.here(|db| consequences::forget_older(db, &of))?;
            return Ok(Batch::NoneLeft);
        }
        let ids = due.split_off(due.len().saturating_sub(BATCH));
        let batch = self.store.here(|db| {
            db.transaction(|db| {
                if !consequences::looking(db, &of)? {
                    return Ok::<_, ApiError>(Batch::Elsewhere);
                }
                // Another server may have come this far meanwhile.
                let still = consequences::still_due(db, &of, &ids)?;
                let jobs = consequences::now(db, &still)?;
                consequences::keep(db, &of, &seen(jobs, newest)?)?;
                Ok(Batch::Looked)
            })
        })?;
        if batch == Batch::Elsewhere {
            due.extend(ids);
        }
        if !due.is_empty() {
            all.insert(key, (of.revision, due));
        }
        Ok(batch)
    }
}

/// What became of a batch.
#[derive(Clone, Copy, PartialEq, Eq)]
enum Batch {
    /// It was looked at.
    Looked,
    /// Another server looks at this sheet.
    Elsewhere,
    /// There was none.
    NoneLeft,
}

/// What a sheet does to some jobs.
///
/// # Errors
/// Where looking panicked: a fault of ours.
fn seen(mut jobs: Vec<Now>, newest: &DataSheet) -> Result<Vec<Seen>, ApiError> {
    let look = |jobs: Vec<Now>| -> Vec<Seen> {
        let one = |now: Now| {
            let (job, revision) = (now.job, now.revision);
            let effect = now.document().and_then(|d| effect(&d.job, &d.library, newest));
            Seen { job, revision, effect }
        };
        jobs.into_iter().map(one).collect()
    };
    let each = jobs.len().div_ceil(THREADS).max(1);
    thread::scope(|scope| {
        let mut threads = Vec::new();
        while !jobs.is_empty() {
            let part = jobs.split_off(jobs.len().saturating_sub(each));
            threads.push(scope.spawn(|| look(part)));
        }
        let mut all = Vec::new();
        for thread in threads {
            let fault = |_| ApiError::Internal("looking at a job panicked".to_owned());
            all.extend(thread.join().map_err(fault)?);
        }
        Ok(all)
    })
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
