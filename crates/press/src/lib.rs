//! The press: an order in, a tagged PDF out. A program of its own, so that the typesetter's time
//! and memory are its own too and end with it. It knows neither jobs nor figures: what is printed,
//! and how every number reads, is in the order.

mod desk;
mod fonts;

use std::collections::BTreeMap;

use serde::Deserialize;

/// What is to be set.
#[derive(Debug, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Order {
    /// Which template: `pack`, the papers with their appendix; `papers` or `appendix` alone.
    pub template: String,
    /// What the document is told apart by.
    pub ident: String,
    /// The files the template reads, by name: data as JSON, drawings as SVG.
    pub files: BTreeMap<String, String>,
}

const STYLE: &str = include_str!("../templates/style.typ");
const PAPERS: &str = include_str!("../templates/papers.typ");
const APPENDIX: &str = include_str!("../templates/appendix.typ");

/// How far a document is, as it is said on the way.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Phase {
    /// The order is read, its pages are being set.
    Setting,
    /// The pages are set, the file is being written.
    Writing,
}

impl Phase {
    /// The word on the line that says it.
    pub fn word(self) -> &'static str {
        match self {
            Phase::Setting => "setting",
            Phase::Writing => "writing",
        }
    }
}

/// Sets an order as a tagged PDF; says each phase as it begins.
///
/// # Errors
/// Where there is no such template, or what the typesetter says of the order's files.
pub fn set(order: Order, phase: impl Fn(Phase)) -> Result<Vec<u8>, String> {
    let template = match order.template.as_str() {
        "pack" => [STYLE, PAPERS, APPENDIX].concat(),
        "papers" => [STYLE, PAPERS].concat(),
        "appendix" => [STYLE, APPENDIX].concat(),
        other => {
            return Err(format!(
                "there is no template {other}; there are pack, papers and appendix"
            ));
        }
    };
    desk::pdf(template, order.files, &order.ident, phase)
}
