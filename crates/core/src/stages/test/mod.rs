//! Commissioning: what a string should read in today's light and warmth, whether it does, and if
//! not why.

mod diagnosis;
mod expected;
mod pass;
mod rcd;
mod reading;
mod running;
mod strip;
mod sums;

pub use diagnosis::Cause;
pub use expected::TestInputs;
pub use pass::{JudgedReading, Preview, ReadingsFound, preview};
pub use rcd::{RcdInputs, rcd};
pub use running::{Running, RunningAsk, RunningInputs, plugging_in, running};
pub use strip::{MeterStrip, StripMark};

use crate::figure::Sheet;
use crate::registry::Registry;

/// What the stage brings with it.
pub fn define(r: &mut Registry) {
    for cards in [expected::CARDS, reading::CARDS, pass::CARDS, running::CARDS, rcd::CARDS] {
        r.figures(cards);
    }
    r.pass("readings", &[], pass::readings_of_job);
    r.calculation::<TestInputs>("test", |sheet, x| {
        test(sheet, x);
    });
    r.calculation::<RunningInputs>("cumulative", running);
    r.calculation::<RcdInputs>("rcd", rcd);
    r.sums(sums::SUMS);
}

/// Inside this the reading holds, %.
pub const PASS_PCT: f64 = 5.0;

/// Inside this it is a caution, %.
pub const WARN_PCT: f64 = 10.0;

/// Least light in which a short-circuit current says anything, W/m².
pub const LEAST_LIGHT_W_M2: f64 = 400.0;

/// What readings come to.
#[derive(Clone, Debug)]
pub struct Tested {
    /// Expected open-circuit volts of the string, V.
    pub expected_v: Option<f64>,
    /// Causes of the volts read, the likeliest first.
    pub causes: Vec<Cause>,
}

/// Expected values, verdicts and first-ranked causes.
pub fn test(sheet: &mut Sheet, x: &TestInputs) -> Tested {
    let t_cell = expected::t_cell(sheet, x);
    let voc = expected::voc_expected(sheet, x, &t_cell);
    let isc = expected::isc_expected(sheet, x, &t_cell);
    let causes = match x.measured_voc_v {
        Some(read) => reading::judge_voc(sheet, x, &voc, read),
        None => Vec::new(),
    };
    if let Some(read) = x.measured_isc_a {
        reading::judge_isc(sheet, x, &isc, read);
    }
    Tested { expected_v: voc.volts.value(), causes }
}
