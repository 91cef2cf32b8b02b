//! A residual-current device of 30 mA timed, and the bonding path measured.

use serde::Deserialize;

use crate::figure::{Bound, Sheet, Verdict};
use crate::figures;
use crate::quantity::{Ohms, above};

figures! { Test;
    /// Trip times of a residual-current device.
    RCD: Rule = "test.rcd", "Trip times of the residual-current device", "IEC 60364-6";
    /// Resistance of the bonding path.
    CONTINUITY: Ohms = "test.continuity_ohm", "Resistance of the bonding path", "IEC 62446-1";
}

/// Longest time to trip at the rated residual current, ms.
const AT_ONCE_MS: f64 = 300.0;
/// At five times that current, ms.
const AT_FIVE_MS: f64 = 40.0;
/// Highest resistance from a bonded part to the earth bar, Ω.
const BOND_OHM: f64 = 0.5;

/// What was read.
#[derive(Clone, Copy, Debug, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct RcdInputs {
    /// Time to trip at its rated residual current, ms.
    pub ms_at_1x: f64,
    /// At five times that, ms; absent where it was not tested.
    #[serde(default)]
    pub ms_at_5x: Option<f64>,
    /// Resistance of the bonding path, Ω.
    pub bond_ohm: f64,
}

/// Judges both times and the resistance.
pub fn rcd(sheet: &mut Sheet, x: &RcdInputs) {
    let tried =
        [("its own current", Some(x.ms_at_1x), AT_ONCE_MS), ("five times", x.ms_at_5x, AT_FIVE_MS)];
    let slow = tried.iter().find(|(_, ms, most)| ms.is_some_and(|ms| above(ms, *most)));
    let verdict = if slow.is_some() { Verdict::Fail } else { Verdict::Pass };
    let check = sheet.judge(&RCD, verdict);
    if let Some((at, Some(ms), most)) = slow {
        check
            .reason(format_args!("{ms} ms at {at}, {most} ms at most."))
            .cure("Another residual-current device; until then the circuit stays off.", Vec::new());
    }
    let bond = sheet.figure(&CONTINUITY, |w| {
        Some(w.given("from the part to the bar", Ohms(x.bond_ohm), "meter"))
    });
    sheet
        .hold(&bond, Bound::at_most(BOND_OHM, "bonding path"), Verdict::Fail)
        .cure("Clean and tighten the joints along the path, then measure again.", Vec::new());
}
