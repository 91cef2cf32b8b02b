//! The core of Heliant: what an electrician needs computed, with its working. No file, clock, network,
//! database or interface.
//!
//! The stages, in the order of the job:
//! - [`site`]: design temperatures and the DC ceiling of the building.
//! - [`library`]: the data sheets a job pins.
//! - [`strings`]: modules in series and parallel against the inverter's window.
//! - [`runs`]: conductors, raceways, the panel they end in.
//! - [`test`]: what a string should read now, whether it does, and if not why.
//!
//! [`job`] is what a person enters, [`evaluate()`] makes the [`Report`] of it, and [`figure`] holds the
//! vocabulary all of them share. [`cases`] runs worked examples through the same calculations.

pub mod cases;
pub mod evaluate;
pub mod figure;
pub mod job;
pub mod library;
pub mod quantity;
pub mod runs;
pub mod school;
pub mod site;
pub mod strings;
pub mod tables;
pub mod test;
pub mod traced;

pub use evaluate::{Report, evaluate};
