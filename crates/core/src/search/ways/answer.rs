//! What the search answers.

use serde::Serialize;
use utoipa::ToSchema;

use super::WaysAsk;
use crate::job::{Edit, FaceKey, InverterKey};
use crate::library::SheetRef;
use crate::search::layout::Note;

/// What an input takes in a way.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct WayUse {
    /// The inverter.
    pub inverter: InverterKey,
    /// The input, from 1.
    pub mppt: u32,
    /// The face.
    pub face: FaceKey,
    /// Modules in series.
    pub n: u32,
    /// Strings in parallel.
    pub p: u32,
}

/// A way, with the parts of its score in the order they count.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct Way {
    /// What the inputs take, in their order.
    pub uses: Vec<WayUse>,
    /// Checks that fail.
    pub fails_n: u32,
    /// Watts of the fullest less those of the emptiest input in use.
    pub unbalance_w: f64,
    /// Strings: home runs, isolators, surge devices.
    pub strings_n: u32,
    /// Smallest margin to either end of the window, %.
    pub margin_pct: Option<f64>,
    /// Modules left off.
    pub unused_n: u32,
    /// Checks that come to a caution.
    pub warns_n: u32,
    /// Module watts in all.
    pub power_w: f64,
    /// Every check that does not hold, the worst first.
    pub notes: Vec<Note>,
    /// The edits that put it into the job.
    pub edits: Vec<Edit>,
    /// The job is wired so now.
    pub current: bool,
}

/// What would make it fit.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct Remedy {
    /// One sentence.
    pub text: String,
    /// The data sheet the inverters would have.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub inverter: Option<SheetRef>,
    /// The best way it gives.
    pub way: Way,
}

/// The answer.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct Ways {
    /// The question, with what it left open filled in.
    pub ask: WaysAsk,
    /// The best ways without a failure, in order.
    pub ways: Vec<Way>,
    /// How many there are with the fewest modules left off; absent where strings are limited and
    /// they are not counted.
    pub feasible_n: Option<f64>,
    /// That number is exact; else some of them overload an inverter in all.
    pub feasible_exact: bool,
    /// Why the first goes before the second.
    pub why: Option<String>,
    /// Ways that fail, with what and by how much.
    pub failing: Vec<Way>,
    /// The way with all modules that misses by least, where none fits.
    pub nearest: Option<Way>,
    /// What would make it fit, where not every module finds a place.
    pub remedies: Vec<Remedy>,
    /// Where only a part was searched: what that part is.
    pub searched_part: Option<String>,
}
