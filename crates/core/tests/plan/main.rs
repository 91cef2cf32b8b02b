//! The plan graph: older files, commands that keep references whole, what is refused, and the
//! systems it must be able to say.

mod commands;
mod laying;
mod older;
mod reach;
mod refused;
mod routes;
mod systems;

use heliant_core::job::{self, JobFile};
use heliant_core::{Report, evaluate};

/// A job file of this folder.
pub fn system(name: &str) -> JobFile {
    let folder = concat!(env!("CARGO_MANIFEST_DIR"), "/tests/plan/systems/");
    let text = std::fs::read_to_string(format!("{folder}{name}.json")).expect("the file is there");
    job::read(&text).unwrap_or_else(|p| panic!("{name}: {p:#?}")).file
}

/// Its report.
pub fn report(file: &JobFile) -> Report {
    evaluate(&file.job, &file.library, &file.readings)
}

/// The value of a figure.
pub fn number(r: &Report, id: &str, subject: &str) -> f64 {
    let figure = r.figure(id, subject).unwrap_or_else(|| panic!("no {id} of {subject}"));
    figure.value.as_ref().and_then(|v| v.number()).unwrap_or_else(|| panic!("{figure:?}"))
}
