//! What a figure or a check is about.

use std::fmt;

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::job::{
    CircuitKey, DemandKey, DeviceKey, FaceKey, InverterKey, Letter, NodeKey, ReadingKey, WayKey,
};

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
    /// A face of the roof map.
    Face {
        /// Its key.
        face: FaceKey,
    },
    /// A join of two modules of a string.
    Join {
        /// The string's letter.
        string: Letter,
        /// Place of the module before it, from 1.
        place: usize,
    },
    /// A place for the inverter.
    Place {
        /// Its name.
        place: String,
    },
    /// A circuit.
    Circuit {
        /// Its key.
        circuit: CircuitKey,
        /// The leg, from 1, where it has several.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        leg: Option<usize>,
    },
    /// A part of a way: its raceway or what lies there.
    Way {
        /// The way's key.
        way: WayKey,
        /// The part, from 1.
        part: usize,
    },
    /// A panel.
    Panel {
        /// The node it stands at.
        panel: NodeKey,
    },
    /// A node of the plan.
    Node {
        /// Its key.
        node: NodeKey,
    },
    /// A device in a node.
    Device {
        /// The node's key.
        node: NodeKey,
        /// The device's key.
        device: DeviceKey,
    },
    /// What a party asks for.
    Demand {
        /// Its key.
        demand: DemandKey,
    },
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

    /// A circuit as a whole.
    pub fn circuit(circuit: &CircuitKey) -> Self {
        Subject::Circuit { circuit: circuit.clone(), leg: None }
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
            Subject::Face { face } => write!(f, "{face}"),
            Subject::Join { string, place } => write!(f, "{string}{place}-{string}{}", place + 1),
            Subject::Place { place } => f.write_str(place),
            Subject::Circuit { circuit, leg: None } => write!(f, "{circuit}"),
            Subject::Circuit { circuit, leg: Some(leg) } => write!(f, "{circuit}/{leg}"),
            Subject::Way { way, part } => write!(f, "{way}/{part}"),
            Subject::Panel { panel: node } | Subject::Node { node } => write!(f, "{node}"),
            Subject::Device { node, device } => write!(f, "{node}.{device}"),
            Subject::Demand { demand } => write!(f, "{demand}"),
            Subject::Reading { reading } => write!(f, "{reading}"),
            Subject::Sum => f.write_str("sum"),
        }
    }
}
