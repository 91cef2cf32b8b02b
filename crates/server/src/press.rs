//! The press of this server: one pack after the other is set by `heliant-press`, a child process
//! with limits of its own, so that neither its time nor its memory is the server's.

use std::io::{BufRead, BufReader, BufWriter, Read, Write};
use std::os::unix::process::ExitStatusExt;
use std::path::{Path, PathBuf};
use std::process::{Child, Command, ExitStatus, Stdio};
use std::sync::Mutex;
use std::sync::mpsc::{self, RecvTimeoutError};
use std::thread::{self, JoinHandle};
use std::time::{Duration, Instant};

use heliant_core::cures::leave_what_holds;
use heliant_core::figure::Recording;
use heliant_core::job::Document;
use heliant_documents::{Order, Pack};
use serde::Serialize;
use utoipa::ToSchema;

use crate::edition::edition;
use crate::problem::ApiError;
use crate::store::packs::{self, Claim};
use crate::store::{Store, jobs, library};

/// How the press is set up.
#[derive(Clone, Debug)]
pub struct PressSettings {
    /// The program.
    pub program: PathBuf,
    /// The file that says how far the program is while it is being built: `done of`, or `failed`.
    pub building: Option<PathBuf>,
    /// Memory a pack may take, MB.
    pub memory_mb: u64,
    /// Time a document may take.
    pub time: Duration,
    /// Checks and figures that one document holds: some sixty pages of workings, and a third of the
    /// memory.
    pub most_lines: usize,
}

impl PressSettings {
    /// The press beside the program that asks, with the usual limits.
    pub fn new(program: PathBuf, building: Option<PathBuf>) -> Self {
        PressSettings {
            program,
            building,
            memory_mb: 1500,
            time: Duration::from_secs(300),
            most_lines: 1500,
        }
    }

    /// Tells packs of this press and these rules from others.
    pub(crate) fn edition(&self) -> String {
        edition(&[&self.program])
    }

    /// Whether it can set something.
    pub fn readiness(&self) -> Readiness {
        let said = self.building.as_deref().and_then(|f| std::fs::read_to_string(f).ok());
        let Some(said) = said else {
            return if self.program.is_file() { Readiness::Ready } else { Readiness::Missing };
        };
        let mut numbers = said.split_whitespace().map(str::parse);
        match (numbers.next(), numbers.next()) {
            (Some(Ok(done_n)), Some(Ok(of_n))) => Readiness::Building { done_n, of_n },
            _ => Readiness::Missing,
        }
    }
}

/// Whether the press can set something.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, ToSchema)]
#[serde(rename_all = "snake_case", tag = "state")]
pub enum Readiness {
    /// It can.
    Ready,
    /// It is being built: so many of its packages are done.
    Building {
        /// Done.
        done_n: u32,
        /// Of so many.
        of_n: u32,
    },
    /// It is not there.
    Missing,
}

/// A thread that sets what is asked for. Dropping it ends what is being set and the thread.
pub struct Press {
    settings: PressSettings,
    nudge: Option<mpsc::Sender<()>>,
    thread: Option<JoinHandle<()>>,
}

/// How often it is looked for what another server was asked for.
const POLL: Duration = Duration::from_secs(5);
/// How often a child process is looked at.
const LOOK: Duration = Duration::from_millis(100);
/// How often it is said how far a pack is.
const SAY: Duration = Duration::from_secs(1);
/// Cures that are tried for a pack, and how long it is gone on with; more are not printed.
const CURES: usize = 40;
const TRYING: Duration = Duration::from_secs(4);
/// Largest pack that is kept, bytes.
const MOST_PDF: u64 = 64 * 1024 * 1024;

impl Press {
    /// Starts it.
    pub fn start(store: Store, settings: PressSettings) -> Press {
        let (nudge, nudged) = mpsc::channel();
        let worker = Worker { store, settings: settings.clone(), nudged };
        let thread = Some(thread::spawn(move || worker.run()));
        Press { settings, nudge: Some(nudge), thread }
    }

    /// How it is set up.
    pub fn settings(&self) -> &PressSettings {
        &self.settings
    }

    /// Says that something was asked for.
    pub fn nudge(&self) {
        if let Some(nudge) = &self.nudge {
            let _ = nudge.send(());
        }
    }
}

impl Drop for Press {
    fn drop(&mut self) {
        drop(self.nudge.take());
        if let Some(thread) = self.thread.take() {
            let _ = thread.join();
        }
    }
}

struct Worker {
    store: Store,
    settings: PressSettings,
    nudged: mpsc::Receiver<()>,
}

/// Why a pack was not set.
enum Unset {
    /// Nobody wants it any more, or the server ends.
    Unwanted,
    /// What is said of it.
    Because(String),
}

impl Worker {
    fn run(self) {
        loop {
            match self.nudged.recv_timeout(POLL) {
                Err(RecvTimeoutError::Disconnected) => return,
                Ok(()) | Err(RecvTimeoutError::Timeout) => {}
            }
            while self.settings.readiness() == Readiness::Ready {
                match self.store.here(|db| packs::claim(db, &self.settings.edition())) {
                    Ok(Some(claim)) => self.work(&claim),
                    Ok(None) => break,
                    Err(error) => {
                        tracing::warn!(?error, "the press cannot ask for work");
                        break;
                    }
                }
                if self.over() {
                    return;
                }
            }
        }
    }

    /// Whether the server ends.
    fn over(&self) -> bool {
        self.nudged.try_recv() == Err(mpsc::TryRecvError::Disconnected)
    }

    fn work(&self, claim: &Claim) {
        let began = Instant::now();
        let set = self.set(claim);
        let took_ms = i32::try_from(began.elapsed().as_millis()).unwrap_or(i32::MAX);
        let outcome = match &set {
            Ok(pdfs) => Ok(pdfs.as_slice()),
            Err(Unset::Unwanted) => return,
            Err(Unset::Because(why)) => Err(why.as_str()),
        };
        tracing::info!(job = %claim.job_id, took_ms, failed = outcome.err(), "pack");
        if let Err(error) = self.store.here(|db| packs::done(db, claim, outcome, took_ms)) {
            tracing::error!(?error, "the pack could not be kept");
        }
    }

    /// Sets every document of a pack, one after the other, each with the press's whole limits.
    fn set(&self, claim: &Claim) -> Result<Vec<Vec<u8>>, Unset> {
        let orders = self.orders(claim)?;
        let n = orders.len();
        let mut pdfs = Vec::new();
        for (i, order) in orders.into_iter().enumerate() {
            let of = if n > 1 { format!(" {} {n}", i + 1) } else { String::new() };
            let ends = Instant::now() + self.settings.time;
            pdfs.push(self.document(claim, order, &of, ends)?);
        }
        Ok(pdfs)
    }

    /// Sets one document; `of` says which of several.
    fn document(
        &self,
        claim: &Claim,
        order: Order,
        of: &str,
        ends: Instant,
    ) -> Result<Vec<u8>, Unset> {
        let mut child = self.child().map_err(|e| Unset::Because(format!("no press: {e}")))?;
        let (phase, error) = (Mutex::new(String::from("setting")), Mutex::new(String::new()));
        let (stdin, stdout, stderr) =
            (child.stdin.take(), child.stdout.take(), child.stderr.take());
        let set = thread::scope(|scope| {
            if let Some(stdin) = stdin {
                scope.spawn(move || {
                    let mut to = BufWriter::new(stdin);
                    // A press that ended does not read on: it says why.
                    let _ = serde_json::to_writer(&mut to, &order);
                    let _ = to.flush();
                });
            }
            if let Some(stderr) = stderr {
                scope.spawn(|| heard(BufReader::new(stderr), &phase, &error));
            }
            let pdf = scope.spawn(move || {
                let mut pdf = Vec::new();
                let read = stdout.map(|s| s.take(MOST_PDF + 1).read_to_end(&mut pdf));
                read.is_some_and(|r| r.is_ok()).then_some(pdf)
            });
            let ended = self.wait(&mut child, claim, ends, || {
                let phase = phase.lock().map_or_else(|_| String::new(), |p| p.clone());
                format!("{phase}{of}")
            });
            // Ended or not, it is over here: pipes close and the threads come back.
            let _ = child.kill();
            let _ = child.wait();
            let pdf = pdf.join().ok().flatten();
            ended.map(|status| (status, pdf))
        });
        let (status, pdf) = set?;
        let error = error.into_inner().unwrap_or_default();
        match pdf {
            Some(pdf) if status.success() && pdf.len() as u64 <= MOST_PDF => Ok(pdf),
            Some(_) if status.success() => Err(Unset::Because(format!(
                "It is larger than {} MB. Print the stages of interest instead.",
                MOST_PDF / (1024 * 1024)
            ))),
            _ => Err(Unset::Because(self.reason(status, &error))),
        }
    }

    /// What the press is told: report and records as they are printed.
    fn orders(&self, claim: &Claim) -> Result<Vec<Order>, Unset> {
        let because = |error: ApiError| {
            tracing::error!(?error, "what is printed cannot be read");
            Unset::Because("The job could not be read.".to_owned())
        };
        let (id, revision) = (claim.job_id, claim.revision);
        let (stored, origins) = self
            .store
            .here(|db| {
                let stored = jobs::get_as_of(db, id, revision, claim.readings_n)?;
                let origins = library::origins(db, &stored.document.library)?;
                Ok((stored, origins))
            })
            .map_err(because)?;
        // It goes out of the house: without the company's prices.
        let mut report = stored.report_with(Recording::Everything).without_prices();
        let Document { job, library } = &stored.document;
        // So far it took as long as the job is large: another press need not take it up.
        let _ = self.store.here(|db| packs::alive(db, claim, "computing"));
        let (began, mut tried_n) = (Instant::now(), 0);
        leave_what_holds(&mut report, job, library, || {
            tried_n += 1;
            tried_n <= CURES && began.elapsed() < TRYING
        });
        Ok(Order::to_pack(
            &Pack {
                job: &stored.document.job,
                library: &stored.document.library,
                report: &report,
                origins: &origins,
                revision: stored.revision,
                saved_at: stored.saved_at,
                saved_by: &stored.saved_by,
                printed_at: claim.asked_at,
                printed_by: &claim.asked_by,
            },
            self.settings.most_lines,
        ))
    }

    /// The program, behind everything else that wants the processor.
    fn child(&self) -> std::io::Result<Child> {
        let seconds = self.settings.time.as_secs().max(1);
        Command::new("nice")
            .args(["-n", "15"])
            .arg(&self.settings.program)
            .args(["--memory-mb", &self.settings.memory_mb.to_string()])
            // On two processors a second of time is up to two of theirs.
            .args(["--cpu-s", &(2 * seconds).to_string()])
            .env_clear()
            .env("PATH", "/usr/bin:/bin")
            .stdin(Stdio::piped())
            .stdout(Stdio::piped())
            .stderr(Stdio::piped())
            .spawn()
    }

    /// Waits for the end of the child, and says how far it is.
    fn wait(
        &self,
        child: &mut Child,
        claim: &Claim,
        ends: Instant,
        phase: impl Fn() -> String,
    ) -> Result<ExitStatus, Unset> {
        let mut said: Option<Instant> = None;
        loop {
            if let Ok(Some(status)) = child.try_wait() {
                return Ok(status);
            }
            if Instant::now() > ends {
                return Err(Unset::Because(format!(
                    "It takes more than {} minutes to set. Print the stages of interest instead.",
                    self.settings.time.as_secs().div_ceil(60)
                )));
            }
            if said.is_none_or(|s| s.elapsed() >= SAY) {
                let now = phase();
                // A database that is away for a while is no reason to stop.
                if let Ok(false) = self.store.here(|db| packs::alive(db, claim, &now)) {
                    return Err(Unset::Unwanted);
                }
                said = Some(Instant::now());
            }
            if self.over() {
                return Err(Unset::Unwanted);
            }
            thread::sleep(LOOK);
        }
    }

    /// Why the child ended without a pack.
    fn reason(&self, status: ExitStatus, error: &str) -> String {
        if !error.is_empty() {
            tracing::error!(error, "the press could not set a pack");
            return format!("The press could not set it: {error}");
        }
        let most = self.settings.memory_mb;
        match status.signal() {
            // An allocation that its own limit refuses aborts it.
            Some(SIGABRT) => format!(
                "It needs more than the {most} MB the press may take. Print the stages of \
                 interest instead."
            ),
            Some(SIGXCPU) => "It takes longer to set than the press may compute. Print the stages \
                              of interest instead."
                .to_owned(),
            Some(signal) => format!(
                "The press was ended from outside (signal {signal}) while it set it: ask for the \
                 pack again."
            ),
            None => format!("The press ended without a word ({status}): ask for the pack again."),
        }
    }
}

/// Signals by their numbers (POSIX; those of Linux).
const SIGABRT: i32 = 6;
const SIGXCPU: i32 = 24;

/// Follows what the press says: its phase, or what went wrong.
fn heard(from: impl BufRead, phase: &Mutex<String>, error: &Mutex<String>) {
    for line in from.lines().map_while(Result::ok) {
        let (to, text) = match (line.as_str(), line.strip_prefix("error: ")) {
            ("setting" | "writing", _) => (phase, line),
            (_, Some(said)) => (error, said.chars().take(300).collect()),
            // What the system says as it ends it: out of memory, mostly.
            _ => {
                tracing::warn!(line, "press");
                continue;
            }
        };
        if let Ok(mut to) = to.lock() {
            *to = text;
        }
    }
}

/// The press beside a program, as Cargo and the launcher put it: in its folder, or for tests in the
/// one above.
pub fn beside(program: &Path) -> PathBuf {
    let folder = program.parent().unwrap_or(Path::new("."));
    let own = folder.join("heliant-press");
    if own.is_file() || !folder.ends_with("deps") {
        return own;
    }
    folder.with_file_name("heliant-press")
}
