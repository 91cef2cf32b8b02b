//! Protection and earth of whole jobs: a fault is put into a demo job, and the check that is meant
//! to find it does, and no other verdict of its kind moves.

mod ac;
mod boards;
mod dc;
mod diagram;
mod earth;
mod enclosures;
mod failing;
mod laws;
mod parties;
mod through;

use heliant_core::figure::{Check, Verdict};
use heliant_core::job::{self, Device, Job, JobFile, Node};
use heliant_core::{Report, evaluate};

fn demo(text: &str) -> JobFile {
    job::read(text).unwrap_or_else(|p| panic!("{p:?}")).file
}

/// A dwelling with three strings on two inputs.
pub fn kestrel() -> JobFile {
    demo(include_str!("../../../../data/demo/kestrel-lane.json"))
}

/// Three branches of microinverters.
pub fn pinyon() -> JobFile {
    demo(include_str!("../../../../data/demo/pinyon-street.json"))
}

/// A ground mount with two combiners.
pub fn saltmarsh() -> JobFile {
    demo(include_str!("../../../../data/demo/saltmarsh-nursery.json"))
}

/// A hybrid with backup.
pub fn quarry() -> JobFile {
    demo(include_str!("../../../../data/demo/quarry-cottage.json"))
}

/// Three strings of optimizers on a hall.
pub fn tern() -> JobFile {
    demo(include_str!("../../../../data/demo/tern-bay.json"))
}

/// All demo jobs by name.
pub fn all() -> [(&'static str, JobFile); 5] {
    [
        ("kestrel", kestrel()),
        ("pinyon", pinyon()),
        ("saltmarsh", saltmarsh()),
        ("quarry", quarry()),
        ("tern", tern()),
    ]
}

/// What is judged of a job.
pub fn report(file: &JobFile) -> Report {
    evaluate(&file.job, &file.library, &file.readings)
}

/// The report of a job with something changed in it.
pub fn changed(mut file: JobFile, change: impl FnOnce(&mut Job)) -> Report {
    change(&mut file.job);
    report(&file)
}

/// The report of a job in which a device has another rating; its data sheet says none.
pub fn rated(mut file: JobFile, at: &str, key: &str, amps_a: f64) -> Report {
    let own = device(&mut file.job, at, key);
    own.amps_a = Some(amps_a);
    let sheet = own.sheet.as_ref().map(|s| s.sheet.clone()).unwrap_or_default();
    let library = &mut file.library;
    library.breakers.iter_mut().filter(|s| s.sheet == sheet).for_each(|s| s.amps_a = None);
    library.fuses.iter_mut().filter(|s| s.sheet == sheet).for_each(|s| s.amps_a = None);
    library.isolators.iter_mut().filter(|s| s.sheet == sheet).for_each(|s| s.amps_a = None);
    report(&file)
}

/// A figure's number.
#[track_caller]
pub fn number(r: &Report, id: &str, subject: &str) -> f64 {
    let figure = r.figure(id, subject).unwrap_or_else(|| panic!("no {id} of {subject}"));
    figure.value.as_ref().and_then(|v| v.number()).unwrap_or_else(|| panic!("{figure:?}"))
}

/// A check, which is there.
#[track_caller]
pub fn check<'r>(r: &'r Report, id: &str, subject: &str) -> &'r Check {
    r.check(id, subject).unwrap_or_else(|| {
        let all: Vec<String> = r.checks.iter().map(|c| format!("{} {}", c.id, c.subject)).collect();
        panic!("no {id} of {subject} among {all:?}")
    })
}

/// What a check says.
#[track_caller]
pub fn verdict(r: &Report, id: &str, subject: &str) -> Verdict {
    check(r, id, subject).verdict
}

/// Equal but for rounding.
#[track_caller]
pub fn near(got: f64, wanted: f64) {
    assert!((got - wanted).abs() <= 1e-6 * wanted.abs().max(1.0), "{got}, wanted {wanted}");
}

/// A node of the plan, to change.
#[track_caller]
pub fn node<'j>(job: &'j mut Job, key: &str) -> &'j mut Node {
    job.plan.nodes.get_mut(key).unwrap_or_else(|| panic!("no node {key}"))
}

/// A device of a node, to change.
#[track_caller]
pub fn device<'j>(job: &'j mut Job, at: &str, key: &str) -> &'j mut Device {
    node(job, at).devices.get_mut(key).unwrap_or_else(|| panic!("no device {key} in {at}"))
}

/// The job with the edits of a check's first cure.
#[track_caller]
pub fn cured(file: &JobFile, check: &Check) -> JobFile {
    let cure = check.cures.iter().find(|c| !c.edits.is_empty() || c.command.is_some());
    let cure = cure.unwrap_or_else(|| panic!("no cure of {}: {:?}", check.id, check.cures));
    let job = match &cure.command {
        Some(command) => job::commanded(&file.job, command).expect("it can be done").0,
        None => job::applied(&file.job, &cure.edits).expect("still a job"),
    };
    JobFile { job, ..file.clone() }
}
