//! What a figure or a check is about.

use std::fmt;

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::job::{InverterKey, Letter, ReadingKey, RunKey};

/// What a figure is about. On the wire its kind stands beside the keys that make it up; written out
/// it is the short name by which a person would say it.
#[derive(Clone, Debug, PartialEq, Eq, Hash, Serialize, Deserialize, ToSchema)]
#[serde(tag = "kind", rename_all = "snake_case")]
pub enum Subject {
    /// The site as a whole.
    Site,
    /// A data sheet's module.
    Module {
        /// Its model.
        model: String,
        /// Revision of the sheet.
        revision: u32,
    },
    /// An inverter of the job.
    Inverter {
        /// Its key.
        inverter: InverterKey,
    },
    /// One MPPT input.
    Mppt {
        /// The inverter's key.
        inverter: InverterKey,
        /// The input, from 1.
        input: u32,
    },
    /// A string.
    String {
        /// Its letter.
        string: Letter,
    },
    /// A branch of microinverters.
    Branch {
        /// Its letter.
        branch: Letter,
    },
    /// A place for the inverter.
    Place {
        /// Its name.
        place: String,
    },
    /// A circuit.
    Circuit {
        /// The run it lies in.
        run: RunKey,
        /// The string, where each string of the run has its own.
        #[serde(skip_serializing_if = "Option::is_none")]
        string: Option<Letter>,
    },
    /// A raceway.
    Raceway {
        /// The run.
        run: RunKey,
        /// The segment, from 1.
        segment: usize,
    },
    /// The main panel.
    Panel,
    /// A reading.
    Reading {
        /// Its key.
        reading: ReadingKey,
    },
    /// A calculation that stands alone.
    Sum,
}

impl Subject {
    /// A string by its letter.
    pub fn string(letter: &Letter) -> Self {
        Subject::String { string: letter.clone() }
    }

    /// An MPPT input of an inverter, from 1.
    pub fn mppt(inverter: &InverterKey, input: u32) -> Self {
        Subject::Mppt { inverter: inverter.clone(), input }
    }

    /// An inverter by its key.
    pub fn inverter(inverter: &InverterKey) -> Self {
        Subject::Inverter { inverter: inverter.clone() }
    }

    /// All circuits of a run together.
    pub fn run(run: &RunKey) -> Self {
        Subject::Circuit { run: run.clone(), string: None }
    }
}

impl fmt::Display for Subject {
    fn fmt(&self, f: &mut fmt::Formatter) -> fmt::Result {
        match self {
            Subject::Site => f.write_str("site"),
            Subject::Module { model, revision } => write!(f, "{model} rev {revision}"),
            Subject::Inverter { inverter } => write!(f, "{inverter}"),
            Subject::Mppt { inverter, input } => write!(f, "{inverter}/{input}"),
            Subject::String { string: letter } | Subject::Branch { branch: letter } => {
                write!(f, "{letter}")
            }
            Subject::Place { place } => f.write_str(place),
            Subject::Circuit { run, string: None } => write!(f, "{run}"),
            Subject::Circuit { run, string: Some(letter) } => write!(f, "{run} {letter}"),
            Subject::Raceway { run, segment } => write!(f, "{run}/{segment}"),
            Subject::Panel => f.write_str("panel"),
            Subject::Reading { reading } => write!(f, "{reading}"),
            Subject::Sum => f.write_str("sum"),
        }
    }
}
