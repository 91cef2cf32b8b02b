//! Optimizers: one module against one device, and the string they make. The inverter holds the
//! string at fixed volts, so strings in parallel may differ in length.

use serde::Deserialize;

use super::{SiteTemps, voc_cold_of_one};
use crate::figure::{Bound, Def, Sheet, Stage, Verdict, said};
use crate::library::{ModuleRatings, OptimizerRatings};
use crate::quantity::{Amps, Ratio, Unit, Volts, Watts, below, floor};

macro_rules! defs {
    ($($(#[$doc:meta])* $name:ident $id:literal $title:literal $source:literal;)*) => {$(
        $(#[$doc])*
        pub static $name: Def = Def { id: $id, title: $title, stage: Stage::Strings, na: $source, iec: $source };
    )*};
}

defs! {
    /// Voc x k_cold of one module.
    VOC_COLD "optimizer.voc_cold_v" "Open-circuit volts of one module, coldest \
        morning" "optimizer data sheet";
    /// Isc of one module.
    ISC "optimizer.isc_a" "Short-circuit current of one module" "optimizer data sheet";
    /// Pmax of one module.
    POWER "optimizer.power_w" "Watts of one module" "optimizer data sheet";
    /// Optimizers in the string.
    COUNT "string.opt_n" "Optimizers in the string" "optimizer data sheet";
    /// n x Pmax.
    STRING_POWER "string.opt_power_w" "Module watts of the string" "optimizer data sheet";
    /// Watts by the string's fixed volts.
    STRING_CURRENT "string.opt_current_a" "Current of the string" "optimizer data sheet";
    /// n x safety volts.
    SAFETY "string.safety_v" "Volts of the string when safe" "optimizer data sheet";
}

/// A string of `n` modules with one optimizer each.
#[derive(Clone, Debug, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct OptimizerInputs {
    /// The module; reads Voc, Isc, Pmax and the coefficient of Voc. No bifacial gain here.
    pub module: ModuleRatings,
    /// The optimizer.
    pub optimizer: OptimizerRatings,
    /// The site; reads the lowest ambient.
    pub site: SiteTemps,
    /// Modules, so optimizers, in the string.
    pub n: u32,
}

/// Figures and checks of one string of optimizers.
pub fn optimizer(sheet: &mut Sheet, x: &OptimizerInputs) {
    one_module(sheet, x);
    count(sheet, x);
    let o = &x.optimizer;
    let power = sheet.figure(&STRING_POWER, |w| {
        let n = w.given("n", Ratio(f64::from(x.n)), "modules in the string");
        Some(n * w.need::<Watts>("Pmax", x.module.pmax_w, "module.pmax_w", "module data sheet")?)
    });
    let check = sheet.hold(
        &STRING_POWER,
        Bound::at_most(o.string_w_max_w, "most watts of a string", "optimizer.string_w_max_w"),
        Verdict::Fail,
    );
    if let Some(margin) = check.margin {
        check.reason(format!("{} above what a string may have.", said(-margin, Unit::W)));
    }
    if let (Some(most), Some(one)) = (o.string_w_max_w, x.module.pmax_w) {
        check.cure(
            format!("{} in the string stay inside {}.", floor(most / one), said(most, Unit::W)),
            Vec::new(),
        );
    }
    sheet.figure(&STRING_CURRENT, |w| {
        let power = w.need::<Watts>("watts", power, "module.pmax_w", "string.opt_power_w");
        let volts = w.need::<Volts>(
            "string volts",
            o.string_v,
            "optimizer.string_v",
            "inverter data sheet",
        );
        Some(power? / volts?)
    });
    let check = sheet.hold(
        &STRING_CURRENT,
        Bound::at_most(o.out_a_max_a, "largest output current", "optimizer.out_a_max_a"),
        Verdict::Fail,
    );
    if let Some(margin) = check.margin {
        check.reason(format!("{} above what the devices put out.", said(-margin, Unit::A)));
    }
    check.cure("Fewer modules in this string: the others take them.", Vec::new());
    sheet.figure(&SAFETY, |w| {
        let n = w.given("n", Ratio(f64::from(x.n)), "optimizers");
        Some(
            n * w.need::<Volts>(
                "safe",
                o.safety_v,
                "optimizer.safety_v",
                "optimizer data sheet",
            )?,
        )
    });
}

/// One module against the input of one device.
fn one_module(sheet: &mut Sheet, x: &OptimizerInputs) {
    let (m, o) = (&x.module, &x.optimizer);
    sheet.figure(&VOC_COLD, |w| voc_cold_of_one(w, m, x.site.t_min_c));
    sheet
        .hold(
            &VOC_COLD,
            Bound::at_most(o.in_v_max_v, "largest input volts", "optimizer.in_v_max_v"),
            Verdict::Fail,
        )
        .reason("The module's cold volts damage the device.")
        .cure("A device for higher input volts.", Vec::new());
    sheet.figure(&ISC, |w| w.need::<Amps>("Isc", m.isc_a, "module.isc_a", "module data sheet"));
    sheet
        .hold(
            &ISC,
            Bound::at_most(o.in_isc_max_a, "largest input current", "optimizer.in_isc_max_a"),
            Verdict::Fail,
        )
        .reason("The module's current is more than the device bears.")
        .cure("A device for more current.", Vec::new());
    sheet.figure(&POWER, |w| {
        w.need::<Watts>("Pmax", m.pmax_w, "module.pmax_w", "module data sheet")
    });
    sheet
        .hold(
            &POWER,
            Bound::at_most(o.in_w_max_w, "largest input watts", "optimizer.in_w_max_w"),
            Verdict::Fail,
        )
        .reason("The module is larger than the device allows.")
        .cure("A device for more watts.", Vec::new());
}

/// The count against both ends; the end that is nearer is the one that is named.
fn count(sheet: &mut Sheet, x: &OptimizerInputs) {
    let o = &x.optimizer;
    let n = f64::from(x.n);
    sheet.count(&COUNT, |w| Some(w.given("n", Ratio(n), "optimizers")));
    let least = Bound::at_least(o.n_min, "fewest in a string", "optimizer.n_min");
    let most = Bound::at_most(o.n_max, "most in a string", "optimizer.n_max");
    let too_few = o.n_min.is_none_or(|least| below(n, least));
    let check = sheet.hold(&COUNT, if too_few { least } else { most }, Verdict::Fail);
    if let (Some(least), Some(most)) = (o.n_min, o.n_max) {
        check
            .reason(format!("A string has {least} to {most} optimizers."))
            .cure(format!("{} in the string.", if too_few { least } else { most }), Vec::new());
    }
}
