//! The core of Heliant: what an electrician needs computed, with its working. No file, clock,
//! network, randomness, database or interface.
//!
//! From below to above; nothing knows what stands above it:
//! - [`school`], [`quantity`], [`traced`], [`tables`]: the schools of practice, values with their
//!   kind, arithmetic that remembers itself, the rule tables.
//! - [`library`] and [`job`]: what a person enters. [`job::read`] opens a job file.
//! - [`plan`]: the plan as a graph, indexed.
//! - [`figure`]: the vocabulary. A figure is declared, computed on a sheet, held against limits.
//! - [`registry`]: what a stage brings with it: passes, calculations, quick sums.
//! - [`stages`]: the rules, a folder per stage in the order of the job.
//! - [`search`]: ways to wire a job, faces filled, strings routed. They ask the rules and edit
//!   nothing.
//! - [`rules`] holds what all of them registered. [`evaluate()`] makes the [`Report`] of a job;
//!   [`cases`] and [`sums`] run single calculations.
//! - [`watch`]: what a newer data sheet does to a job, and how it is mended.
//! - [`compare`]: two states of a job side by side.
//! - [`cures`]: what a check says would mend it, tried before it is offered.
//! - [`one_line`], [`labels`], [`faults`]: the diagram, the labels and what follows from a fault,
//!   out of the plan and its report.
//! - [`wires`]: the smallest wire of every leg that all its checks hold with.
//!
//! ```
//! use heliant_core::{evaluate, job};
//!
//! let text = include_str!("../../../data/demo/kestrel-lane.json");
//! let file = job::read(text).expect("a job file").file;
//! let report = evaluate(&file.job, &file.library, &file.readings);
//! // 12 x 39.4 V x 1.1274 on the coldest morning.
//! let cold = report.figure("string.voc_cold_v", "A").and_then(|f| f.value.as_ref()?.number());
//! assert!((cold.expect("volts") - 12.0 * 39.4 * 1.1274).abs() < 1e-6);
//! ```

pub mod cases;
pub mod catalogue;
pub mod compare;
pub mod cures;
pub mod editions;
pub mod evaluate;
pub mod faults;
pub mod figure;
pub mod job;
pub mod labels;
pub mod laid_in;
pub mod library;
mod limits;
pub mod one_line;
mod outside;
pub mod plan;
pub mod problem;
pub mod quantity;
pub mod registry;
pub mod reuse;
pub mod routes;
pub mod rules;
pub mod schema;
pub mod school;
pub mod search;
pub mod sheets;
pub mod stages;
pub mod sums;
pub mod tables;
pub mod traced;
pub mod watch;
pub mod wires;
pub mod work;

pub use evaluate::{Report, evaluate, evaluate_with, workings};

/// The example for contributors compiles and holds.
#[cfg(doctest)]
#[doc = include_str!("../../../CONTRIBUTING.md")]
struct Contributing;
