//! What verdicts and what is judged are called on paper.

use heliant_core::figure::{Subject, Verdict};

use crate::Pack;
use crate::found::Found;

/// The word of a verdict on paper.
pub(crate) fn word(verdict: Verdict) -> &'static str {
    match verdict {
        Verdict::Pass => "Holds",
        Verdict::Warn => "Caution",
        Verdict::Fail => "Stop",
        Verdict::Unknown => "Open",
    }
}

/// What is judged.
pub(crate) fn subject(subject: &Subject, pack: &Pack, found: &Found) -> String {
    match subject {
        Subject::Site => "Site".to_owned(),
        Subject::Module { .. } | Subject::Node { .. } | Subject::Sum => subject.to_string(),
        Subject::Device { node, device } => format!("{device} in {node}"),
        Subject::Demand { .. } => format!("Demand {subject}"),
        Subject::Inverter { .. } => format!("Inverter {subject}"),
        Subject::Mppt { .. } => format!("Input {subject}"),
        Subject::String { .. } => format!("String {subject}"),
        Subject::Place { .. } => format!("Inverter at {subject}"),
        Subject::Face { face } => {
            let found = pack.report.roof.iter().find(|f| f.face == *face);
            format!("Face {}", found.map_or(face.as_str(), |f| &f.name))
        }
        Subject::Join { .. } => format!("Join {subject}"),
        Subject::Branch { .. } => format!("Branch {subject}"),
        Subject::Circuit { .. } => format!("Circuit {subject}"),
        Subject::Way { .. } => format!("Way {subject}"),
        Subject::Panel { .. } => format!("Panel {subject}"),
        Subject::Reading { reading } => found
            .reading(reading)
            .map_or_else(|| "Reading".to_owned(), |(i, of)| format!("Reading {} on {of}", i + 1)),
    }
}
