//! The interface as a person uses it, in a headless browser.

mod access;
mod counted;
mod drop;
mod faults;
mod field;
mod guests;
mod jobs;
mod laying;
mod planning;
mod protecting;
mod revisions;
mod roof;
mod runs;
mod sheets;
mod shell;
mod stages;
mod trunks;
mod typing;
mod ways;
