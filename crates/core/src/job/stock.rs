//! Cable that is there already: taken out elsewhere, or left over from a drum.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::{Job, WireChoice};
use crate::problem::Problem;
use crate::school::School;
use crate::tables;

/// Most pieces of a job.
pub const MOST_PIECES: usize = 200;

/// Pieces of cable alike.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct StockPiece {
    /// The conductor; size and insulation as printed on it.
    pub wire: WireChoice,
    /// Length of one piece, m; absent: not measured.
    #[serde(default)]
    #[schema(minimum = 0, maximum = 5000)]
    pub length_m: Option<f64>,
    /// Conductors in it: 1 of a single wire, 2 and more of a cable in one sheath.
    #[serde(default = "one")]
    #[schema(minimum = 1, maximum = 7)]
    pub cores_n: u32,
    /// Pieces of this length.
    #[serde(default = "one")]
    #[schema(minimum = 1, maximum = 100)]
    pub pieces_n: u32,
    /// Where it comes from, what is printed on it.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    #[schema(max_length = 200)]
    pub marks: String,
    /// Looked over and found whole (insulation, sheath, no sharp bends); absent: not looked at.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub sound: Option<bool>,
}

fn one() -> u32 {
    1
}

/// What is wrong with cable that is there, and with legs that use it.
pub(super) fn stock_problems(job: &Job) -> Vec<Problem> {
    let mut problems = Vec::new();
    if job.stock.len() > MOST_PIECES {
        let message = format!("{} pieces are more than a job holds", job.stock.len());
        problems.push(Problem::new("/job/stock", message, format!("{MOST_PIECES} at most")));
    }
    for (key, piece) in &job.stock {
        let at = format!("/job/stock/{key}");
        if let Some((message, hint)) = super::keys::problem(key) {
            problems.push(Problem::new("/job/stock", message, hint));
        }
        let size = match job.school {
            School::Na => piece.wire.awg.as_deref().map(|s| tables::wire(s).is_some()),
            School::Iec => piece.wire.mm2.map(|s| tables::iec_cable("xlpe90", s, 2).is_some()),
        };
        if size != Some(true) {
            let message = "no size of wire that the tables hold";
            let hint = if job.school == School::Na { "an AWG or kcmil" } else { "a section, mm²" };
            problems.push(Problem::new(format!("{at}/wire"), message, hint));
        }
    }
    problems
}
