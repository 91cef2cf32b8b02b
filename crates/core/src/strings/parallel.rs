//! Parallel strings: what a fault can draw from the others, whether a string needs a fuse, and
//! which.

use serde::Deserialize;

use super::Sources;
use crate::figure::{Def, Sheet, Stage, Value, Verdict, said};
use crate::library::ModuleRatings;
use crate::quantity::{Amps, Ratio, Unit, above, below};
use crate::runs::I_MAX;
use crate::school::School;
use crate::tables::next_rating;
use crate::traced::exact;

/// Current the other strings and the inverter can drive into a fault.
pub static FUSE_FAULT: Def = Def {
    id: "string.fuse_fault_a",
    title: "Fault current from the other strings",
    stage: Stage::Strings,
    na: "690.9(A)",
    iec: "IEC 62548",
};
/// Whether each string needs a fuse.
pub static FUSE_NEEDED: Def = Def {
    id: "string.fuse_needed",
    title: "String fuse needed",
    stage: Stage::Strings,
    na: "690.9(A)",
    iec: "IEC 62548",
};
/// The fuse, where one is needed.
pub static FUSE: Def = Def {
    id: "string.fuse_a",
    title: "String fuse",
    stage: Stage::Strings,
    na: "690.9(B)",
    iec: "IEC 62548",
};
/// Inputs of the combiner.
pub static COMBINER: Def = Def {
    id: "combiner.inputs",
    title: "Inputs of the combiner",
    stage: Stage::Strings,
    na: "setting",
    iec: "setting",
};

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
}

/// Figures and checks of parallel strings.
pub fn parallel(sheet: &mut Sheet, x: &ParallelInputs, sources: &Sources) {
    let school = sheet.school;
    let isc = x.module.isc_a.map(|i| i * (1.0 + x.module.gain()));
    let rating = x.module.series_fuse_a;
    let fault = sheet.figure(&FUSE_FAULT, |w| {
        let p = w.given("p", Ratio(f64::from(x.p)), "strings in parallel");
        let isc = w.need::<Amps>(
            "Isc",
            isc,
            "module.isc_a",
            format!("{}, bifacial gain in", sources.module),
        )?;
        let others = match school {
            School::Na => (p - exact(1.0)) * exact::<Ratio>(school.fault_factor()) * isc,
            School::Iec => (p - exact(1.0)) * isc,
        };
        Some(match x.backfeed_a {
            Some(b) => others + w.given("fed back", Amps(b), sources.inverter.as_str()),
            None => others,
        })
    });
    let needed = fault.map(|f| {
        rating.map(|r| above(f, r)) == Some(true) || x.wire_ampacity_a.is_some_and(|a| above(f, a))
    });
    // Without the series rating a fault that the wire bears may still be too much for the module.
    let needed = if rating.is_none() && needed == Some(false) { None } else { needed };
    sheet.text(&FUSE_NEEDED, |w| {
        w.need::<Amps>("fault current", fault, "module.isc_a", "string.fuse_fault_a");
        w.need::<Amps>(
            "series fuse rating",
            rating,
            "module.series_fuse_a",
            sources.module.as_str(),
        );
        if let Some(a) = x.wire_ampacity_a {
            w.given("ampacity of the string wire", Amps(a), "circuit.ampacity_a");
        }
        needed.map(Value::Flag)
    });
    if needed.is_none() {
        let check = sheet.judge(&FUSE_NEEDED, Verdict::Unknown);
        check.missing = if isc.is_none() {
            vec!["module.isc_a".to_owned()]
        } else {
            vec!["module.series_fuse_a".to_owned()]
        };
    }
    fuse(sheet, isc, rating, needed == Some(true), sources);
    sheet.figure(&I_MAX, |w| {
        let p = w.given("p", Ratio(f64::from(x.p)), "strings in parallel");
        let isc = w.need::<Amps>(
            "Isc",
            isc,
            "module.isc_a",
            format!("{}, bifacial gain in", sources.module),
        )?;
        Some(exact::<Ratio>(1.25) * p * isc)
    });
    if let Some(inputs) = x.combiner_inputs_n {
        let wanted = x.p + x.spare_n.unwrap_or(1);
        let verdict = if inputs >= wanted { Verdict::Pass } else { Verdict::Fail };
        sheet
            .judge(&COMBINER, verdict)
            .reason(format!(
                "{inputs} inputs for {} strings and {} spare.",
                x.p,
                x.spare_n.unwrap_or(1)
            ))
            .cure(format!("A combiner with {wanted} inputs or more."), Vec::new());
    }
}

fn fuse(sheet: &mut Sheet, isc: Option<f64>, rating: Option<f64>, needed: bool, sources: &Sources) {
    let school = sheet.school;
    let factor = match school {
        School::Na => 1.25 * 1.25,
        School::Iec => 1.5,
    };
    let mut window = (0.0, 0.0);
    sheet.figure(&FUSE, |w| {
        if !needed {
            w.note("No string fuse is needed, so there is no size.");
            return None;
        }
        let isc = w.need::<Amps>("Isc", isc, "module.isc_a", sources.module.as_str());
        let rating = w.need::<Amps>(
            "series fuse rating",
            rating,
            "module.series_fuse_a",
            sources.module.as_str(),
        );
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
        let size = sheet.figures.last().and_then(|f| f.value.as_ref()).and_then(Value::number);
        let verdict = if size.is_some() { Verdict::Pass } else { Verdict::Fail };
        sheet
            .judge(&FUSE, verdict)
            .reason(format!(
                "{} at least, {} at most: no standard fuse \
                fits.",
                said(window.0, Unit::A),
                said(window.1, Unit::A)
            ))
            .cure(
                format!(
                    "Fewer strings in parallel, or a module whose series fuse rating reaches {} \
                        ({factor} × Isc).",
                    said(window.0, Unit::A)
                ),
                Vec::new(),
            );
        debug_assert!(size.is_none_or(|s| !below(s, window.0)));
    }
}
