//! Strings against the inverter: the voltage window, currents and watts of an MPPT, parallel
//! strings and their fuses. Module values are those at standard test conditions.

mod deal;
mod layout;
mod mppt;
mod optimizer;
mod parallel;
mod ways;
mod window;

pub use layout::{
    Choice, Found, Layout, LayoutInputs, LayoutMppt, MpptUse, Note, choices, layout, search,
};
pub use mppt::{MpptInputs, MpptString, Shared, inverter_totals, mppt, mppt_power, sharing};
pub use optimizer::{OptimizerInputs, optimizer};
pub use parallel::{ParallelInputs, parallel};
pub use ways::{Remedy, Way, WayFace, WayUse, Ways, WaysAsk, ask_of, ways};
pub use window::{ColdBy, SiteTemps, WindowInputs, cold_by_each, window};
pub(crate) use window::{at_temperature, voc_cold_of_one};

/// Where the values of a calculation come from, for its working.
#[derive(Clone, Debug)]
pub struct Sources {
    /// The module's data sheet.
    pub module: String,
    /// The inverter's data sheet.
    pub inverter: String,
}

impl Default for Sources {
    fn default() -> Self {
        Sources {
            module: "module data sheet".to_owned(),
            inverter: "inverter data sheet".to_owned(),
        }
    }
}
