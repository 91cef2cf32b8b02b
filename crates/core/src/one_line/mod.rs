//! The one-line diagram, drawn by itself from the plan.
//!
//! The method: every string or branch has a lane of its own, and every circuit runs straight along
//! a lane from where its power comes from to where it goes. What circuits come together in (a
//! combiner, an inverter, a panel) is as tall as the lanes that end there. Lanes stand in the order
//! of the inverters and, below one inverter, by where its strings end, so what flows together
//! stands together, and lines have nothing to cross.
//!
//! What is drawn stays where it is when something is added. A combiner keeps a lane for each of its
//! fuses (of its inputs, where none is planned) and an inverter one for each of its connectors,
//! four at least, so a string has its place before it comes. What comes to a panel later comes from
//! below, and the panel's power leaves where the first of it came. Columns are counted from the
//! sources on DC and from the grid on AC, with one kept between where their number is odd, so a box
//! on the roof moves no panel.

mod lanes;
mod symbols;
mod words;

use serde::Serialize;
use utoipa::ToSchema;

use crate::evaluate::Report;
use crate::figure::Subject;
use crate::job::{Job, Letter};
use crate::library::Library;
use crate::plan::PlanFound;

/// Paper it is drawn for, lying.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub enum Paper {
    /// 297 × 210 mm.
    #[default]
    A4,
    /// 11 × 8.5 in.
    Letter,
}

impl Paper {
    /// Width and height, mm.
    pub fn size_mm(self) -> [f64; 2] {
        match self {
            Paper::A4 => [297.0, 210.0],
            Paper::Letter => [279.4, 215.9],
        }
    }
}

/// What stands in the title block besides the job's own.
#[derive(Clone, Debug, Default)]
pub struct Title {
    /// Revision of the job.
    pub revision: String,
    /// When it was saved.
    pub date: String,
    /// Who saved it.
    pub by: String,
}

/// A place on the sheet, mm from the lower left corner.
pub type Point = [f64; 2];

/// Where a text is held.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Anchor {
    /// At its beginning.
    Start,
    /// In its middle.
    Middle,
}

/// A mark of the drawing.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
#[serde(tag = "kind", rename_all = "snake_case")]
pub enum Mark {
    /// A line through points.
    Line {
        /// The points, mm.
        points_mm: Vec<[f64; 2]>,
        /// Its end meets its beginning.
        closed: bool,
    },
    /// A circle.
    Circle {
        /// Its middle, mm.
        at_mm: [f64; 2],
        /// Its radius, mm.
        r_mm: f64,
    },
    /// Words.
    Text {
        /// Where its foot stands, mm.
        at_mm: [f64; 2],
        /// Height of its letters, mm.
        size_mm: f64,
        /// Where it is held.
        anchor: Anchor,
        /// The words.
        text: String,
    },
}

/// What a mark belongs to.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Layer {
    /// Lines of circuits.
    Circuits,
    /// Symbols.
    Symbols,
    /// Cases, drawn dashed.
    Cases,
    /// Words.
    Words,
    /// Frame and title block.
    Frame,
}

impl Layer {
    /// Its name in a drawing file.
    pub fn word(self) -> &'static str {
        match self {
            Layer::Circuits => "circuits",
            Layer::Symbols => "symbols",
            Layer::Cases => "cases",
            Layer::Words => "words",
            Layer::Frame => "frame",
        }
    }
}

/// A mark with what it is about.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct Drawn {
    /// Its layer.
    pub layer: Layer,
    /// The mark.
    pub mark: Mark,
    /// What it is about.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub subject: Option<Subject>,
    /// The string or branch whose tape it has.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub tape: Option<Letter>,
}

/// A sheet of the diagram.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct OneLineSheet {
    /// Width and height, mm.
    pub size_mm: [f64; 2],
    /// Height of the smallest letters on paper, mm.
    pub text_mm: f64,
    /// Its marks.
    pub marks: Vec<Drawn>,
}

/// The one-line diagram.
#[derive(Clone, Debug, Default, PartialEq, Serialize, ToSchema)]
pub struct OneLine {
    /// Its sheets; none where nothing is planned yet.
    pub sheets: Vec<OneLineSheet>,
}

/// Lanes a sheet has room for, so that letters stay readable.
const LANES: usize = 12;

/// Draws a job.
pub fn one_line(
    job: &Job,
    library: &Library,
    report: &Report,
    title: &Title,
    paper: Paper,
) -> OneLine {
    let plan = PlanFound::of(job, library);
    if plan.circuits.is_empty() {
        return OneLine::default();
    }
    let groups = lanes::grouped(job, &plan, library, LANES);
    let pages = lanes::pages(groups, LANES);
    let n = pages.len();
    let sheets = pages.into_iter().enumerate().map(|(k, page)| {
        let laid = lanes::lay(&plan, page, paper);
        let words = words::Words::of(job, library, &plan, report);
        let mut sheet = symbols::draw(&laid, &words, paper);
        symbols::frame(&mut sheet, job, title, paper, (k + 1, n));
        sheet
    });
    OneLine { sheets: sheets.collect() }
}
