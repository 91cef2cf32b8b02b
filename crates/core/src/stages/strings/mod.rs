//! Strings against the inverter: the voltage window, currents and watts of an MPPT, parallel
//! strings and their fuses, optimizers. Module values are those at standard test conditions.

mod cold_by;
mod drawing;
mod fuses;
mod mppt;
mod optimizer;
mod parallel;
mod pass;
mod sums;
mod tapes;
mod window;

pub use cold_by::{ColdBy, cold_by_each};
pub use drawing::{StringWindow, StringWindows, WindowRow};
pub use mppt::{
    MpptInputs, MpptString, POWER_DC, SAME_PLANE, Shared, connectors, inverter_totals, mppt,
    mppt_power, sharing,
};
pub use optimizer::{OptimizedString, OptimizerInputs, fixed_volts, input_current, optimizer};
pub use parallel::{COMBINER, FUSE_FAULT, FUSE_NEEDED, ParallelInputs, parallel};
pub use pass::{FoundString, FoundStrings};
pub use tapes::{Tape, Tapes};
pub use window::{Cold, SiteTemps, Window, WindowInputs, count_limits, window};
pub(crate) use window::{at_temperature, isc_with_gain, voc_cold_of_one};

use serde::Deserialize;

use crate::figure::Sheet;
use crate::job::ColdMethod;
use crate::library::{About, DataSheet, InverterRatings, ModuleRatings, SheetKind};
use crate::plan::PlanFound;
use crate::registry::{Registry, need};
use crate::stages::runs::RunsFound;

/// What the stage brings with it.
pub fn define(r: &mut Registry) {
    for cards in [
        window::CARDS,
        mppt::CARDS,
        optimizer::CARDS,
        parallel::CARDS,
        parallel::combiner::CARDS,
        pass::CARDS,
        fuses::CARDS,
    ] {
        r.figures(cards);
    }
    r.pass("strings", &[need::<PlanFound>()], pass::strings_of_job);
    r.pass("fuses", &[need::<RunsFound>()], fuses::fuses_of_job);
    r.pass("tapes", &[], tapes::tapes);
    r.pass("string windows", &[need::<FoundStrings>()], drawing::string_windows);
    r.calculation::<StringCase>("string", |sheet, x| {
        let sources = Sources::default();
        window(
            sheet,
            &WindowInputs {
                module: &x.module,
                inverter: &x.inverter,
                site: &x.site,
                n: x.n,
                method: x.method.unwrap_or_default(),
                sources: &sources,
                n_pointer: None,
            },
        );
        let strings = [MpptString { module: &x.module, n: x.n, p: x.p.unwrap_or(1) }];
        mppt(sheet, &MpptInputs { strings: &strings, inverter: &x.inverter, sources: &sources });
    });
    r.calculation("parallel", |sheet, x| parallel(sheet, x, &Sources::default()));
    r.calculation::<OptimizerInputs>("optimizer", |sheet, x| {
        optimizer(sheet, x);
    });
    r.sums(sums::SUMS);
    r.meaning(SheetKind::Optimizer, shortest);
}

/// The shortest string of an optimizer.
fn shortest(sheet: &mut Sheet, read: &DataSheet, about: &About) {
    let (DataSheet::Optimizer(o), Some(module)) = (read, &about.module) else { return };
    let site = SiteTemps { t_min_c: about.t_min_c, ..SiteTemps::default() };
    let n = o.ratings.n_min.unwrap_or(1.0) as u32;
    let (module, ratings) = (module.clone(), o.ratings.clone());
    optimizer(sheet, &OptimizerInputs { module, optimizer: ratings, site, n, gain: 0.0 });
}

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

/// A string that stands alone: one MPPT with p equal strings.
#[derive(Debug, Deserialize)]
#[serde(deny_unknown_fields)]
struct StringCase {
    module: ModuleRatings,
    inverter: InverterRatings,
    site: SiteTemps,
    n: u32,
    p: Option<u32>,
    method: Option<ColdMethod>,
}
