//! Whether a module's data sheet agrees with itself, and what is unusual about it.

use crate::figure::{Bound, Def, Sheet, Verdict, said};
use crate::figures;
use crate::library::{About, DataSheet, ModuleRatings};
use crate::quantity::{Amps, Percent, PercentPerKelvin, Ratio, Unit, Volts, Watts, below};
use crate::stages::strings::voc_cold_of_one;
use crate::traced::{exact, given};

figures! { Equipment;
    /// Pmax against Vmp x Imp.
    PMAX_OFF: Percent = "module.pmax_off_pct", "Rated power against Vmp × Imp", "data sheet";
    /// Series fuse rating against Isc.
    FUSE: Amps = "module.series_fuse_a", "Series fuse rating against Isc", "data sheet";
    /// Coefficient of Voc against what modules have.
    B_VOC: PercentPerKelvin = "module.b_voc_pct_c", "Coefficient of Voc", "data sheet";
    /// Coefficient of Pmax against what modules have.
    G_PMAX: PercentPerKelvin = "module.g_pmax_pct_c", "Coefficient of Pmax", "data sheet";
    /// Cold volts of one module.
    VOC_COLD: Volts = "module.voc_cold_v",
        "Open-circuit volts of one module, coldest morning", "data sheet";
}

/// Farthest Pmax may be off Vmp x Imp, %.
const PMAX_OFF_PCT: f64 = 3.0;

/// `module.pmax_off_pct`, held against 3 %.
pub(super) fn pmax_off(sheet: &mut Sheet, r: &ModuleRatings) {
    let of_sheet = "module data sheet";
    let off = sheet.figure(&PMAX_OFF, |w| {
        let p = w.need::<Watts>("Pmax", r.pmax_w, "module.pmax_w", of_sheet);
        let v = w.need::<Volts>("Vmp", r.vmp_v, "module.vmp_v", of_sheet);
        let i = w.need::<Amps>("Imp", r.imp_a, "module.imp_a", of_sheet);
        let product = w.step("Vmp × Imp", v? * i?);
        let off = w.step("off", (p? / product - exact::<Ratio>(1.0)).percent());
        Some(given::<Percent>("off", Percent(off.value.0.abs())))
    });
    sheet
        .hold(&off, Bound::at_most(PMAX_OFF_PCT, "allowed"), Verdict::Warn)
        .reason(format_args!(
            "The three do not fit together within {}.",
            said(PMAX_OFF_PCT, Unit::Percent)
        ))
        .cure("Check the three against the maker's data sheet.", Vec::new());
}

/// A coefficient against what modules have as a rule.
fn usual(
    sheet: &mut Sheet,
    def: &'static Def<PercentPerKelvin>,
    value: Option<f64>,
    (low, high): (f64, f64),
) {
    let Some(value) = value else { return };
    let entered = PercentPerKelvin(value);
    let found = sheet.figure(def, |w| Some(w.given("as entered", entered, "data sheet")));
    let bound = if below(value, low) {
        Bound::at_least(low, "usual from")
    } else {
        Bound::at_most(high, "usual up to")
    };
    sheet
        .hold(&found, bound, Verdict::Warn)
        .reason(format_args!(
            "Modules have {low} to {high} %/°C as a rule. Is it entered per kelvin in percent?"
        ))
        .cure(
            "Look at the unit in the maker's data sheet: mV/°C and %/°C are easily taken for one \
             another.",
            Vec::new(),
        );
}

pub(super) fn meaning(sheet: &mut Sheet, read: &DataSheet, about: &About) {
    let DataSheet::Module(m) = read else { return };
    let r = &m.ratings;
    pmax_off(sheet, r);
    usual(sheet, &B_VOC, r.b_voc_pct_c, (-0.40, -0.20));
    usual(sheet, &G_PMAX, r.g_pmax_pct_c, (-0.55, -0.20));
    if r.series_fuse_a.is_some() {
        let fuse = sheet.figure(&FUSE, |w| {
            w.need("series fuse", r.series_fuse_a, "module.series_fuse_a", "data sheet")
        });
        let isc = (r.isc_a, "module.isc_a");
        sheet
            .hold(&fuse, Bound::at_least(isc, "Isc of the module"), Verdict::Warn)
            .reason("A series fuse rating below Isc would blow in the sun.")
            .cure("Check both against the maker's data sheet.", Vec::new());
    }
    sheet.figure(&VOC_COLD, |w| voc_cold_of_one(w, r, about.t_min_c));
}
