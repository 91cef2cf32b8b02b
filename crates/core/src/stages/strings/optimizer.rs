//! Optimizers: one module against one device, and the string they make. The inverter holds the
//! string at fixed volts, so strings in parallel may differ in length.

use serde::Deserialize;

use super::{SiteTemps, voc_cold_of_one};
use crate::figure::{Bound, Handle, Sheet, Verdict, said};
use crate::figures;
use crate::library::{ModuleRatings, OptimizerRatings};
use crate::quantity::{Ratio, Unit, Volts, Watts, below, floor};

figures! { Strings;
    /// Voc x k_cold of one module.
    VOC_COLD: Volts = "optimizer.voc_cold_v",
        "Open-circuit volts of one module, coldest morning", "optimizer data sheet";
    /// Isc of one module.
    ISC: Amps = "optimizer.isc_a", "Short-circuit current of one module", "optimizer data sheet";
    /// Pmax of one module.
    POWER: Watts = "optimizer.power_w", "Watts of one module", "optimizer data sheet";
    /// Optimizers in the string.
    COUNT: Count = "string.opt_n", "Optimizers in the string", "optimizer data sheet";
    /// n x Pmax.
    STRING_POWER: Watts = "string.opt_power_w",
        "Module watts of the string", "optimizer data sheet";
    /// Watts by the string's fixed volts.
    STRING_CURRENT: Amps = "string.opt_current_a",
        "Current of the string", "optimizer data sheet";
    /// n x safety volts.
    SAFETY: Volts = "string.safety_v", "Volts of the string when safe", "optimizer data sheet";
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

/// Figures and checks of one string of optimizers; gives its volts when safe.
pub fn optimizer(sheet: &mut Sheet, x: &OptimizerInputs) -> Handle<Volts> {
    one_module(sheet, x);
    count(sheet, x);
    let o = &x.optimizer;
    let power = sheet.figure(&STRING_POWER, |w| {
        let n = w.given("n", Ratio(f64::from(x.n)), "modules in the string");
        let pmax =
            w.need::<Watts>("Pmax", x.module.pmax_w, "module.pmax_w", "module data sheet")?;
        Some(n * pmax)
    });
    let most = (o.string_w_max_w, "optimizer.string_w_max_w");
    let check = sheet.hold(&power, Bound::at_most(most, "most watts of a string"), Verdict::Fail);
    check.beyond(|over| format!("{over} above what a string may have."));
    if let (Some(most), Some(one)) = (o.string_w_max_w, x.module.pmax_w) {
        let (n, most) = (floor(most / one), said(most, Unit::W));
        check.cure(format_args!("{n} in the string stay inside {most}."), Vec::new());
    }
    let current = sheet.figure(&STRING_CURRENT, |w| {
        let power = w.take("watts", &power);
        let volts = w.need::<Volts>(
            "string volts",
            o.string_v,
            "optimizer.string_v",
            "inverter data sheet",
        );
        Some(power? / volts?)
    });
    let most = (o.out_a_max_a, "optimizer.out_a_max_a");
    sheet
        .hold(&current, Bound::at_most(most, "largest output current"), Verdict::Fail)
        .beyond(|over| format!("{over} above what the devices put out."))
        .cure("Fewer modules in this string: the others take them.", Vec::new());
    sheet.figure(&SAFETY, |w| {
        let n = w.given("n", Ratio(f64::from(x.n)), "optimizers");
        let safe =
            w.need::<Volts>("safe", o.safety_v, "optimizer.safety_v", "optimizer data sheet")?;
        Some(n * safe)
    })
}

/// One module against the input of one device.
fn one_module(sheet: &mut Sheet, x: &OptimizerInputs) {
    let (m, o) = (&x.module, &x.optimizer);
    let of_sheet = "module data sheet";
    let cold = sheet.figure(&VOC_COLD, |w| voc_cold_of_one(w, m, x.site.t_min_c));
    let most = Bound::at_most((o.in_v_max_v, "optimizer.in_v_max_v"), "largest input volts");
    sheet
        .hold(&cold, most, Verdict::Fail)
        .reason("The module's cold volts damage the device.")
        .cure("A device for higher input volts.", Vec::new());
    let isc = sheet.figure(&ISC, |w| w.need("Isc", m.isc_a, "module.isc_a", of_sheet));
    let most = Bound::at_most((o.in_isc_max_a, "optimizer.in_isc_max_a"), "largest input current");
    sheet
        .hold(&isc, most, Verdict::Fail)
        .reason("The module's current is more than the device bears.")
        .cure("A device for more current.", Vec::new());
    let power = sheet.figure(&POWER, |w| w.need("Pmax", m.pmax_w, "module.pmax_w", of_sheet));
    let most = Bound::at_most((o.in_w_max_w, "optimizer.in_w_max_w"), "largest input watts");
    sheet
        .hold(&power, most, Verdict::Fail)
        .reason("The module is larger than the device allows.")
        .cure("A device for more watts.", Vec::new());
}

/// The count against both ends; the end that is nearer is the one that is named.
fn count(sheet: &mut Sheet, x: &OptimizerInputs) {
    let o = &x.optimizer;
    let n = f64::from(x.n);
    let count = sheet.count(&COUNT, |w| Some(w.given("n", Ratio(n), "optimizers")));
    let too_few = o.n_min.is_none_or(|least| below(n, least));
    let bound = if too_few {
        Bound::at_least((o.n_min, "optimizer.n_min"), "fewest in a string")
    } else {
        Bound::at_most((o.n_max, "optimizer.n_max"), "most in a string")
    };
    let check = sheet.hold(&count, bound, Verdict::Fail);
    if let (Some(least), Some(most)) = (o.n_min, o.n_max) {
        let nearer = if too_few { least } else { most };
        check
            .reason(format_args!("A string has {least} to {most} optimizers."))
            .cure(format_args!("{nearer} in the string."), Vec::new());
    }
}
