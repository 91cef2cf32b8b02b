//! What is unusual about an inverter's data sheet, and what its inputs take of a module.

use crate::figure::{Bound, Sheet, Subject, Verdict};
use crate::figures;
use crate::job::{ColdMethod, InverterKey};
use crate::library::{About, DataSheet, InverterSheet, Mppt};
use crate::quantity::{Amps, Volts, Watts};
use crate::stages::strings::{SiteTemps, Sources, WindowInputs, count_limits};

figures! { Equipment;
    /// Full-power range inside the tracking range.
    FULL_POWER: Volts = "inverter.full_power_min_v",
        "Full power inside the tracking range", "data sheet";
    /// Working current against the short-circuit current an input bears.
    IMP_MAX: Amps = "inverter.mppt_imp_max_a",
        "Working current below the short-circuit current", "data sheet";
    /// Watts of the inputs against those in all.
    W_MAX: Watts = "inverter.mppts_w", "Watts of the inputs together", "data sheet";
}

pub(super) fn meaning(sheet: &mut Sheet, read: &DataSheet, about: &About) {
    let DataSheet::Inverter(i) = read else { return };
    let of_sheet = InverterKey::from("sheet");
    for (k, m) in i.mppts.iter().enumerate() {
        let input = k as u32 + 1;
        sheet.subject = Subject::mppt(&of_sheet, input);
        one_input(sheet, m);
        counts(sheet, i, input, about);
    }
    sheet.subject = Subject::inverter(&of_sheet);
    let watts: Option<f64> = i.mppts.iter().map(|m| m.mppt_w_max_w).sum();
    if let (Some(watts), Some(all)) = (watts, i.dc_w_max_w) {
        let together =
            sheet.figure(&W_MAX, |w| Some(w.given("inputs together", Watts(watts), "data sheet")));
        sheet
            .hold(&together, Bound::at_least(all, "module watts in all"), Verdict::Warn)
            .reason("The inputs together take fewer watts than the inverter in all.")
            .cure("Check both against the maker's data sheet.", Vec::new());
    }
}

fn one_input(sheet: &mut Sheet, m: &Mppt) {
    if let (Some(full), Some(from)) = (m.full_power_min_v, m.mppt_min_v) {
        let full = sheet
            .figure(&FULL_POWER, |w| Some(w.given("full power from", Volts(full), "data sheet")));
        sheet
            .hold(&full, Bound::at_least(from, "tracking from"), Verdict::Warn)
            .reason("The full-power range begins below the tracking range.")
            .cure("Check both against the maker's data sheet.", Vec::new());
    }
    if let (Some(imp), Some(isc)) = (m.mppt_imp_max_a, m.mppt_isc_max_a) {
        let imp =
            sheet.figure(&IMP_MAX, |w| Some(w.given("working current", Amps(imp), "data sheet")));
        sheet
            .hold(&imp, Bound::at_most(isc, "largest short-circuit current"), Verdict::Warn)
            .reason("An input bears more short-circuit current than it works with.")
            .cure("Are the two swapped?", Vec::new());
    }
}

/// How many of the module go in series on an input.
fn counts(sheet: &mut Sheet, i: &InverterSheet, input: u32, about: &About) {
    let (Some(module), Some(ratings)) = (&about.module, i.ratings_at(input)) else { return };
    let site = SiteTemps {
        t_min_c: about.t_min_c,
        t_max_c: about.t_max_c,
        mounting: None,
        cell_rise_hot_c: about.cell_rise_hot_c,
        dc_ceiling_v: about.dc_ceiling_v,
    };
    let x = WindowInputs {
        module,
        inverter: &ratings,
        site: &site,
        n: 1,
        method: ColdMethod::Coefficient,
        sources: &Sources::default(),
        n_pointer: None,
    };
    count_limits(sheet, &x);
}
