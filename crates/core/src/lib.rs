//! The core of Heliant: what an electrician needs computed, with its working. No file, clock,
//! network, database or interface.
//!
//! The stages, in the order of the job:
//! - [`site`]: design temperatures and the DC ceiling of the building.
//! - [`weather`]: hourly files the design temperatures are taken from.
//! - [`library`]: the data sheets a job pins.
//! - [`strings`]: modules in series and parallel against the inverter's window, optimizers.
//! - [`branches`]: microinverters on a trunk.
//! - [`runs`]: conductors, raceways, the panel they end in.
//! - [`places`]: where the inverter goes.
//! - [`sun`]: where the sun stands and what a clear sky gives.
//! - [`watch`]: what a newer data sheet does to a job, and how it is mended.
//! - [`test`]: what a string should read now, whether it does, and if not why.
//!
//! [`job`] is what a person enters, [`evaluate()`] makes the [`Report`] of it, and [`figure`] holds
//! the vocabulary all of them share. [`cases`] runs worked examples through the same calculations.

pub mod branches;
pub mod cases;
pub mod evaluate;
pub mod figure;
pub mod job;
pub mod library;
pub mod places;
pub mod quantity;
pub mod runs;
pub mod schema;
pub mod school;
pub mod site;
pub mod strings;
pub mod sums;
pub mod sun;
pub mod tables;
pub mod test;
pub mod traced;
pub mod watch;
pub mod weather;

pub use evaluate::{Report, evaluate};
