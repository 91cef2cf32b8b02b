//! The interface as a person uses it, in a headless browser.

mod faults;
mod field;
mod jobs;
mod planning;
mod roof;
mod runs;
mod sheets;
mod shell;
mod stages;
mod trunks;
mod ways;
