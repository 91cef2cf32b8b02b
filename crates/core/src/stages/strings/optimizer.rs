//! Optimizers: one module against one device, and the string they make. The inverter holds the
//! string at fixed volts, so strings in parallel may differ in length.

use serde::Deserialize;

use super::window::LIMITS;
use super::{SiteTemps, isc_with_gain, voc_cold_of_one};
use crate::figure::{Bound, Handle, Sheet, Verdict, said};
use crate::figures;
use crate::library::{ModuleRatings, OptimizerRatings};
use crate::quantity::{Ratio, Unit, Volts, Watts, below, floor};
use crate::traced::sum;

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
    /// Volts the inverter holds the string at, against everything that bears them.
    FIXED: Volts = "string.fixed_v", "Volts of the string", na "690.7", iec "IEC 62548";
    /// Currents of all strings of an input.
    INPUT_CURRENT: Amps = "mppt.opt_a", "Working current of the input", "inverter data sheet";
    /// n x safety volts.
    SAFETY: Volts = "string.safety_v", "Volts of the string when safe", "optimizer data sheet";
}

/// A string of `n` modules with one optimizer each.
#[derive(Clone, Debug, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct OptimizerInputs {
    /// The module; reads Voc, Isc, Pmax and the coefficient of Voc.
    pub module: ModuleRatings,
    /// The optimizer.
    pub optimizer: OptimizerRatings,
    /// The site; reads the lowest ambient.
    pub site: SiteTemps,
    /// Modules, so optimizers, in the string.
    pub n: u32,
    /// Bifacial gain that Isc is taken with; a case file knows none here.
    #[serde(skip)]
    pub gain: f64,
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

/// The string's fixed volts against what bears them: inverter, module, building.
pub fn fixed_volts(sheet: &mut Sheet, string_v: Option<f64>, limits: [Option<f64>; 3]) {
    let limits = || LIMITS.iter().zip(limits);
    let fixed = sheet.figure(&FIXED, |w| {
        w.need("string volts", string_v, "optimizer.string_v", "optimizer data sheet")
    });
    let known = limits().filter_map(|((_, title), limit)| Some((*title, limit?)));
    let lowest = known.reduce(|a, b| if b.1 < a.1 { b } else { a });
    let (title, limit) = lowest.unzip();
    let title = title.unwrap_or("highest DC volts");
    let most = Bound::at_most((limit, LIMITS[0].0), title);
    let check = sheet.hold(&fixed, most, Verdict::Fail);
    let mut open = limits().filter(|(_, l)| l.is_none()).map(|((f, _), _)| *f).peekable();
    if check.verdict == Verdict::Pass && open.peek().is_some() {
        check.verdict = Verdict::Unknown;
        check.misses(open);
    }
    check
        .beyond(|over| format!("{over} above the {title}, whatever the count."))
        .cure("Devices and an inverter for lower string volts.", Vec::new());
}

/// A string with optimizers as its input sees it.
#[derive(Clone, Copy, Debug)]
pub struct OptimizedString {
    /// Modules in the string.
    pub n: u32,
    /// Watts of one module.
    pub pmax_w: Option<f64>,
    /// Volts the string is held at.
    pub string_v: Option<f64>,
}

/// The currents of all strings of an input against its working current.
pub fn input_current(sheet: &mut Sheet, strings: &[OptimizedString], most_a: Option<f64>) {
    let amps = sheet.figure(&INPUT_CURRENT, |w| {
        sum(strings.iter().map(|s| {
            let n = w.given("n", Ratio(f64::from(s.n)), "modules in the string");
            let pmax = w.need::<Watts>("Pmax", s.pmax_w, "module.pmax_w", "module data sheet");
            let of_device = "optimizer data sheet";
            let volts = w.need::<Volts>("volts", s.string_v, "optimizer.string_v", of_device);
            Some(n * pmax? / volts?)
        }))
    });
    let most = Bound::at_most((most_a, "inverter.mppt_imp_max_a"), "largest working current");
    sheet
        .hold(&amps, most, Verdict::Warn)
        .beyond(|over| format!("{over} more than the input takes: that much is lost."))
        .cure("Strings on another input, or fewer modules in them.", Vec::new());
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
    let isc = sheet.figure(&ISC, |w| isc_with_gain(w, m, x.gain));
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
