//! Currents and watts of one MPPT, what strings that share it must have in common, and the
//! inverter's totals.

use super::Sources;
use crate::figure::{Bound, Field, Handle, Sheet, Verdict, Working, said};
use crate::figures;
use crate::job::{Face, Letter};
use crate::library::{InverterRatings, InverterSheet, ModuleRatings, Mppt, SheetRef};
use crate::quantity::{Amps, Percent, Ratio, Unit, Watts, above, below, floor};
use crate::traced::{Traced, exact, sum};

figures! { Strings;
    /// p x Isc x (1 + bifacial gain).
    ISC: Amps = "mppt.isc_a", "Short-circuit current of the input", "inverter data sheet";
    /// 1.25 x that.
    ISC_MAX: Amps = "mppt.isc_max_a",
        "Short-circuit current in the strongest light", "inverter data sheet";
    /// p x Imp x (1 + bifacial gain).
    IMP: Amps = "mppt.imp_a", "Working current of the input", "inverter data sheet";
    /// Share of the working current the input cannot take.
    LOST: Percent = "mppt.lost_pct", "Current lost to the input's limit", "inverter data sheet";
    /// n x p x Pmax.
    POWER: Watts = "mppt.power_w", "Module watts on the input", "inverter data sheet";
    /// Strings of one MPPT have the same number of modules.
    SAME_N: Rule = "mppt.same_n", "Like strings on one input", "inverter data sheet";
    /// Strings of one MPPT have the same module.
    SAME_MODULE: Rule = "mppt.same_module", "Like modules on one input", "inverter data sheet";
    /// Strings of one MPPT lie in the same plane.
    SAME_PLANE: Rule = "mppt.same_plane", "One plane on one input", "inverter data sheet";
    /// Strings of one MPPT and the connectors it has.
    CONNECTORS: Count = "mppt.connectors_n", "Connectors of the input", "inverter data sheet";
    /// Module watts on the inverter.
    POWER_DC: Watts = "inverter.power_dc_w", "Module watts on the inverter", "inverter data sheet";
    /// Module watts by rated AC output.
    AC_RATIO: Ratio = "inverter.dc_ac_ratio", "Module watts to AC output", "inverter data sheet";
}

/// Equal strings on an MPPT: `p` strings of `n` modules.
#[derive(Clone, Debug)]
pub struct MpptString<'a> {
    /// The module.
    pub module: &'a ModuleRatings,
    /// Modules in series.
    pub n: u32,
    /// How many such strings.
    pub p: u32,
}

/// What is on one MPPT.
#[derive(Debug)]
pub struct MpptInputs<'a> {
    /// Strings, alike ones together.
    pub strings: &'a [MpptString<'a>],
    /// The MPPT's limits.
    pub inverter: &'a InverterRatings,
    /// Where the values come from.
    pub sources: &'a Sources,
}

impl MpptInputs<'_> {
    fn amps(
        &self,
        w: &mut Working,
        symbol: &str,
        field: Field,
        of: impl Fn(&ModuleRatings) -> Option<f64>,
    ) -> Option<Traced<Amps>> {
        sum(self.strings.iter().map(|s| {
            let p = w.given("p", Ratio(f64::from(s.p)), "strings in parallel");
            let i = w.need::<Amps>(symbol, of(s.module), field, &self.sources.module)?;
            let gain = w.given("gain", Ratio(s.module.gain()), "bifacial gain");
            Some(p * i * (exact::<Ratio>(1.0) + gain))
        }))
    }

    /// What cures too much current: as many strings as the input bears, by the strongest of them.
    fn fewer(&self, limit: Option<f64>, amps: fn(&ModuleRatings) -> Option<f64>) -> String {
        let each =
            self.strings.iter().filter_map(|s| Some(amps(s.module)? * (1.0 + s.module.gain())));
        let most = limit.zip(each.reduce(f64::max)).map(|(limit, one)| floor(limit / one));
        match most {
            Some(most) if most >= 1.0 => {
                let strings = if most < 1.5 { "string" } else { "strings" };
                format!("{most:.0} {strings} on this input at most; the others on other inputs.")
            }
            _ => "An input for more current.".to_owned(),
        }
    }
}

/// Currents and watts of one MPPT against its limits; gives its watts.
pub fn mppt(sheet: &mut Sheet, x: &MpptInputs) -> Handle<Watts> {
    short_circuit(sheet, x);
    working(sheet, x);
    mppt_power(sheet, x)
}

fn short_circuit(sheet: &mut Sheet, x: &MpptInputs) {
    let most = || {
        let limit = (x.inverter.mppt_isc_max_a, "inverter.mppt_isc_max_a");
        Bound::at_most(limit, "largest short-circuit current")
    };
    let isc = sheet.figure(&ISC, |w| x.amps(w, "Isc", "module.isc_a", |m| m.isc_a));
    let p: u32 = x.strings.iter().map(|s| s.p).sum();
    let check = sheet.hold(&isc, most(), Verdict::Fail);
    check.beyond(|over| format!("{over} above what the input bears: it can be damaged."));
    if check.margin.is_some() && p > 1 {
        check.cure(x.fewer(x.inverter.mppt_isc_max_a, |m| m.isc_a), Vec::new());
    }
    let strongest = sheet.figure(&ISC_MAX, |w| {
        let isc = w.take("Isc of the input", &isc)?;
        Some(exact::<Ratio>(1.25) * isc)
    });
    sheet
        .hold(&strongest, most(), Verdict::Warn)
        .beyond(|over| {
            format!("In light above 1000 W/m² the current can pass the limit by {over}.")
        })
        .cure(
            "Ask the maker whether the limit already holds 1.25 × Isc, or use an input with more \
             room.",
            Vec::new(),
        );
}

fn working(sheet: &mut Sheet, x: &MpptInputs) {
    let limit = x.inverter.mppt_imp_max_a;
    let imp = sheet.figure(&IMP, |w| x.amps(w, "Imp", "module.imp_a", |m| m.imp_a));
    let lost = sheet.figure(&LOST, |w| {
        let (Some(of_input), Some(max)) = (imp.value(), limit) else {
            return Some(exact::<Percent>(0.0));
        };
        if above(of_input, max) {
            let max = w.given("largest working current", Amps(max), &x.sources.inverter);
            let imp = w.take("Imp of the input", &imp)?;
            Some((exact::<Ratio>(1.0) - max / imp).percent())
        } else {
            Some(exact(0.0))
        }
    });
    let most = Bound::at_most((limit, "inverter.mppt_imp_max_a"), "largest working current");
    sheet
        .hold(&imp, most, Verdict::Warn)
        .reason(format_args!(
            "The inverter limits: {} of the current is lost in full light, nothing is damaged.",
            said(lost.value().unwrap_or(0.0), Unit::Percent)
        ))
        .cure(x.fewer(limit, |m| m.imp_a), Vec::new());
}

/// Module watts of one MPPT against its limit.
pub fn mppt_power(sheet: &mut Sheet, x: &MpptInputs) -> Handle<Watts> {
    let power = sheet.figure(&POWER, |w| {
        sum(x.strings.iter().map(|s| {
            let n = w.given("n", Ratio(f64::from(s.n)), "modules in series");
            let p = w.given("p", Ratio(f64::from(s.p)), "strings in parallel");
            let pmax =
                w.need::<Watts>("Pmax", s.module.pmax_w, "module.pmax_w", &x.sources.module)?;
            Some(n * p * pmax)
        }))
    });
    let limit = x.inverter.mppt_w_max_w;
    let most = Bound::at_most((limit, "inverter.mppt_w_max_w"), "largest watts per input");
    let check = sheet.hold(&power, most, Verdict::Fail);
    if let (Some(_), Some(limit), [first, ..]) = (check.margin, limit, x.strings) {
        check.beyond(|over| format!("{over} more than the maker allows on one input."));
        let most = floor(limit / first.module.pmax_w.unwrap_or(f64::INFINITY));
        check.cure(
            format_args!(
                "At most {most} of these modules on one input: spread them over more inputs, or \
                 use an input for more watts."
            ),
            Vec::new(),
        );
    }
    power
}

/// A string as it shares an MPPT.
#[derive(Debug)]
pub struct Shared<'a> {
    /// Its letter.
    pub letter: &'a Letter,
    /// Modules in series.
    pub n: u32,
    /// Its module's data sheet.
    pub module: &'a SheetRef,
    /// The face it lies on.
    pub face: Option<&'a Face>,
}

/// What strings on one MPPT must have in common, and whether the input has a connector for each.
pub fn sharing(sheet: &mut Sheet, strings: &[Shared], pairs_n: usize, input: &Mppt) {
    let names = |of: &dyn Fn(&Shared) -> String| {
        strings.iter().map(|s| format!("{} {}", s.letter, of(s))).collect::<Vec<_>>().join(", ")
    };
    let alike = |same: bool, worse: Verdict| if same { Verdict::Pass } else { worse };
    let Some(first) = strings.first() else { return };
    if strings.len() > 1 {
        let same = strings.iter().all(|s| s.n == first.n);
        sheet
            .judge(&SAME_N, alike(same, Verdict::Fail))
            .because(|| {
                format!(
                    "In series: {}. The longer string pushes current back through the shorter \
                     one.",
                    names(&|s| s.n.to_string())
                )
            })
            .cure("Give them the same number of modules, or an input each.", Vec::new());
        let same = strings.iter().all(|s| s.module == first.module);
        sheet
            .judge(&SAME_MODULE, alike(same, Verdict::Fail))
            .because(|| format!("Modules: {}.", names(&|s| s.module.sheet.clone())))
            .cure("One kind of module per input.", Vec::new());
        let plane = |s: &Shared| s.face.map(|f| (f.tilt_deg, f.azimuth_deg));
        let same = strings.iter().all(|s| plane(s) == plane(first));
        let face = |s: &Shared| {
            s.face.map_or_else(String::new, |f| {
                format!("{} ({}° at {}°)", f.name, f.tilt_deg, f.azimuth_deg)
            })
        };
        sheet
            .judge(&SAME_PLANE, alike(same, Verdict::Warn))
            .because(|| {
                format!(
                    "Planes: {}. The input finds one working point for both; some of the yield is \
                     lost.",
                    names(&face)
                )
            })
            .cure("Keep the strings of one face together on an input.", Vec::new());
    }
    connectors(sheet, pairs_n, input);
}

/// The pairs that come to an input against the connectors it has: strings, those of a combiner as
/// one.
pub fn connectors(sheet: &mut Sheet, pairs_n: usize, input: &Mppt) {
    let on_input = sheet.count(&CONNECTORS, |w| {
        Some(w.given("strings and combiners on the input", Ratio(pairs_n as f64), "job"))
    });
    let connectors = (input.connectors_n, "inverter.mppts.connectors_n");
    sheet
        .hold(&on_input, Bound::at_most(connectors, "pairs of connectors"), Verdict::Warn)
        .reason("More strings than connectors: they need a combiner or a Y-pair.")
        .cure(
            "Plan a combiner or a Y-pair of the same make as the connectors, rated for both \
            strings.",
            Vec::new(),
        );
}

/// Module watts on the whole inverter and how they stand to its output.
pub fn inverter_totals(
    sheet: &mut Sheet,
    strings: &[MpptString],
    inverter: &InverterSheet,
    sources: &Sources,
) {
    let total = sheet.figure(&POWER_DC, |w| {
        sum(strings.iter().map(|s| {
            let modules = w.given("modules", Ratio(f64::from(s.n * s.p)), "job");
            let pmax =
                w.need::<Watts>("Pmax", s.module.pmax_w, "module.pmax_w", &sources.module)?;
            Some(modules * pmax)
        }))
    });
    let most = (inverter.dc_w_max_w, "inverter.dc_w_max_w");
    sheet
        .hold(&total, Bound::at_most(most, "largest module watts in all"), Verdict::Fail)
        .beyond(|over| format!("{over} more than the maker allows."))
        .cure("Fewer modules, or a larger inverter.", Vec::new());
    let ratio = sheet.figure(&AC_RATIO, |w| {
        let dc = w.take("module watts", &total);
        let ac =
            w.need::<Watts>("rated AC output", inverter.ac_w, "inverter.ac_w", &sources.inverter);
        Some(dc? / ac?)
    });
    let low = ratio.value().is_some_and(|r| below(r, 0.8));
    let bound = if low {
        Bound::at_least(0.8, "usual range from")
    } else {
        Bound::at_most(1.5, "usual range up to")
    };
    sheet
        .hold(&ratio, bound, Verdict::Warn)
        .reason(if low {
            "The inverter is large for these modules."
        } else {
            "The inverter clips often: many watts for its output."
        })
        .cure("Check the sizes; a maker's own range goes before this one.", Vec::new());
}
