//! Parallel strings: what a fault can draw from the others, whether a string needs a fuse, and
//! which.

use serde::Deserialize;

use super::Sources;
use crate::figure::{Sheet, Value, Verdict, said};
use crate::figures;
use crate::library::ModuleRatings;
use crate::quantity::{Amps, Ratio, Unit, above};
use crate::school::School;
use crate::stages::runs::I_MAX;
use crate::tables::next_rating;
use crate::traced::exact;

figures! { Strings;
    /// Current the other strings and the inverter can drive into a fault.
    FUSE_FAULT: Amps = "string.fuse_fault_a",
        "Fault current from the other strings", na "690.9(A)", iec "IEC 62548";
    /// Whether each string needs a fuse.
    FUSE_NEEDED: Word = "string.fuse_needed",
        "String fuse needed", na "690.9(A)", iec "IEC 62548";
    /// The fuse, where one is needed.
    FUSE: Amps = "string.fuse_a", "String fuse", na "690.9(B)", iec "IEC 62548";
}

pub use combiner::COMBINER;

/// Judged where the combiner stands, with its bus and its disconnect.
pub mod combiner {
    crate::figures! { Protection;
        /// Inputs of the combiner.
        COMBINER: Rule = "combiner.inputs", "Inputs of the combiner", "setting";
    }
}

/// `p` equal strings in parallel.
#[derive(Clone, Debug, Default, Deserialize)]
#[serde(deny_unknown_fields, default)]
pub struct ParallelInputs {
    /// The module; reads Isc, series fuse rating, bifacial gain.
    pub module: ModuleRatings,
    /// Strings in parallel.
    pub p: u32,
    /// Ampacity of the string wire, A.
    pub wire_ampacity_a: Option<f64>,
    /// What the inverter can feed back, A.
    pub backfeed_a: Option<f64>,
    /// Inputs of the combiner.
    pub combiner_inputs_n: Option<u32>,
    /// Spare inputs wanted; 1 where absent.
    pub spare_n: Option<u32>,
    /// The string wire is not known yet, and a fault could be more than it bears.
    #[serde(skip)]
    pub wire_open: bool,
}

/// Figures and checks of parallel strings.
pub fn parallel(sheet: &mut Sheet, x: &ParallelInputs, sources: &Sources) {
    let school = sheet.school;
    let isc = x.module.isc_gained_a();
    let gain_in = format_args!("{}, bifacial gain in", sources.module);
    let rating = x.module.series_fuse_a;
    let fault = sheet.figure(&FUSE_FAULT, |w| {
        let p = w.given("p", Ratio(f64::from(x.p)), "strings in parallel");
        let isc = w.need::<Amps>("Isc", isc, "module.isc_a", gain_in)?;
        let others = match school {
            School::Na => (p - exact(1.0)) * exact::<Ratio>(school.fault_factor()) * isc,
            School::Iec => (p - exact(1.0)) * isc,
        };
        Some(match x.backfeed_a {
            Some(b) => others + w.given("fed back", Amps(b), &sources.inverter),
            None => others,
        })
    });
    let needed = fault.value().map(|f| {
        rating.is_some_and(|r| above(f, r)) || x.wire_ampacity_a.is_some_and(|a| above(f, a))
    });
    // Without the series rating a fault that the wire bears may still be too much for the module.
    let open = rating.is_none() || x.wire_open;
    let needed = if open && needed == Some(false) { None } else { needed };
    let needed = sheet.word(&FUSE_NEEDED, |w| {
        w.take("fault current", &fault);
        w.need::<Amps>("series fuse rating", rating, "module.series_fuse_a", &sources.module);
        if let Some(a) = x.wire_ampacity_a {
            w.given("ampacity of the string wire", Amps(a), "circuit.ampacity_a");
        } else if x.wire_open {
            w.lack("circuit.legs");
        }
        needed.map(Value::Flag)
    });
    if needed.flag().is_none() {
        let missing = needed.missing().to_vec();
        sheet.judge(&FUSE_NEEDED, Verdict::Unknown).misses(missing);
    }
    fuse(sheet, isc, rating, needed.flag() == Some(true), sources);
    sheet.figure(&I_MAX, |w| {
        let p = w.given("p", Ratio(f64::from(x.p)), "strings in parallel");
        let isc = w.need::<Amps>("Isc", isc, "module.isc_a", gain_in)?;
        Some(exact::<Ratio>(1.25) * p * isc)
    });
    if let Some(inputs) = x.combiner_inputs_n {
        let spare = x.spare_n.unwrap_or(1);
        let wanted = x.p + spare;
        let verdict = if inputs >= wanted { Verdict::Pass } else { Verdict::Fail };
        sheet
            .judge(&COMBINER, verdict)
            .reason(format_args!("{inputs} inputs for {} strings and {spare} spare.", x.p))
            .cure(format_args!("A combiner with {wanted} inputs or more."), Vec::new());
    }
}

fn fuse(sheet: &mut Sheet, isc: Option<f64>, rating: Option<f64>, needed: bool, sources: &Sources) {
    let school = sheet.school;
    let factor = match school {
        School::Na => 1.25 * 1.25,
        School::Iec => 1.5,
    };
    let mut window = (0.0, 0.0);
    let size = sheet.figure(&FUSE, |w| {
        if !needed {
            w.note("No string fuse is needed, so there is no size.");
            return None;
        }
        let of_sheet = &sources.module;
        let isc = w.need::<Amps>("Isc", isc, "module.isc_a", of_sheet);
        let rating = w.need::<Amps>("series fuse rating", rating, "module.series_fuse_a", of_sheet);
        let (isc, rating) = (isc?, rating?);
        let least = match school {
            School::Na => exact::<Ratio>(1.25) * exact::<Ratio>(1.25) * isc.clone(),
            School::Iec => exact::<Ratio>(1.5) * isc.clone(),
        };
        let least = w.step("least", least);
        let mut most = rating.value.0;
        if school == School::Iec {
            most = most.min(w.step("most", exact::<Ratio>(2.4) * isc).value.0);
        }
        window = (least.value.0, most);
        let size = next_rating(school.fuses(), least.value.0).filter(|f| !above(*f, most));
        if size.is_none() {
            w.note("No standard fuse lies between the least and the most.");
        }
        size.map(|f| w.given("next standard fuse", Amps(f), "gPV ratings"))
    });
    if needed {
        let verdict = if size.value().is_some() { Verdict::Pass } else { Verdict::Fail };
        let (least, most) = (said(window.0, Unit::A), said(window.1, Unit::A));
        sheet
            .judge(&FUSE, verdict)
            .reason(format_args!("{least} at least, {most} at most: no standard fuse fits."))
            .cure(
                format_args!(
                    "Fewer strings in parallel, or a module whose series fuse rating reaches \
                     {least} ({factor} × Isc)."
                ),
                Vec::new(),
            );
    }
}
