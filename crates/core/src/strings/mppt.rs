//! Currents and watts of one MPPT, what strings that share it must have in common, and the
//! inverter's totals.

use super::Sources;
use crate::figure::{Bound, Def, Sheet, Stage, Verdict, Working, said};
use crate::job::Face;
use crate::library::{InverterRatings, InverterSheet, ModuleRatings, Mppt, SheetRef};
use crate::quantity::{Amps, Quantity, Ratio, Unit, Watts, above, below, floor};
use crate::traced::{Traced, exact};

macro_rules! defs {
    ($($(#[$doc:meta])* $name:ident $id:literal $title:literal $na:literal;)*) => {$(
        $(#[$doc])*
        pub static $name: Def = Def { id: $id, title: $title, stage: Stage::Strings, na: $na, iec: $na };
    )*};
}

defs! {
    /// p x Isc x (1 + bifacial gain).
    ISC "mppt.isc_a" "Short-circuit current of the input" "inverter data sheet";
    /// 1.25 x that.
    ISC_MAX "mppt.isc_max_a" "Short-circuit current in the strongest light" "inverter data sheet";
    /// p x Imp x (1 + bifacial gain).
    IMP "mppt.imp_a" "Working current of the input" "inverter data sheet";
    /// Share of the working current the input cannot take.
    LOST "mppt.lost_pct" "Current lost to the input's limit" "inverter data sheet";
    /// n x p x Pmax.
    POWER "mppt.power_w" "Module watts on the input" "inverter data sheet";
    /// Strings of one MPPT have the same number of modules.
    SAME_N "mppt.same_n" "Like strings on one input" "inverter data sheet";
    /// Strings of one MPPT have the same module.
    SAME_MODULE "mppt.same_module" "Like modules on one input" "inverter data sheet";
    /// Strings of one MPPT lie in the same plane.
    SAME_PLANE "mppt.same_plane" "One plane on one input" "inverter data sheet";
    /// Strings of one MPPT and the connectors it has.
    CONNECTORS "mppt.connectors_n" "Connectors of the input" "inverter data sheet";
    /// Module watts on the inverter.
    POWER_DC "inverter.power_dc_w" "Module watts on the inverter" "inverter data sheet";
    /// Module watts by rated AC output.
    AC_RATIO "inverter.dc_ac_ratio" "Module watts to AC output" "inverter data sheet";
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
    /// Sum over the groups of like strings.
    fn sum<Q>(
        &self,
        w: &mut Working,
        term: impl Fn(&mut Working, &MpptString) -> Option<Traced<Q>>,
    ) -> Option<Traced<Q>>
    where
        Q: Quantity + std::ops::Add<Output = Q>,
    {
        let mut total: Option<Traced<Q>> = None;
        for s in self.strings {
            let t = term(w, s)?;
            total = Some(match total {
                Some(sum) => sum + t,
                None => t,
            });
        }
        total
    }

    fn amps(
        &self,
        w: &mut Working,
        symbol: &str,
        field: &str,
        of: impl Fn(&ModuleRatings) -> Option<f64>,
    ) -> Option<Traced<Amps>> {
        self.sum(w, |w, s| {
            let p = w.given("p", Ratio(f64::from(s.p)), "strings in parallel");
            let i = w.need::<Amps>(symbol, of(s.module), field, self.sources.module.as_str())?;
            let gain = w.given("gain", Ratio(s.module.gain()), "bifacial gain");
            Some(p * i * (exact::<Ratio>(1.0) + gain))
        })
    }
}

/// Currents and watts of one MPPT against its limits.
pub fn mppt(sheet: &mut Sheet, x: &MpptInputs) {
    let limit = x.inverter;
    let isc = sheet.figure(&ISC, |w| x.amps(w, "Isc", "module.isc_a", |m| m.isc_a));
    let p: u32 = x.strings.iter().map(|s| s.p).sum();
    let check = sheet.hold(
        &ISC,
        Bound::at_most(
            limit.mppt_isc_max_a,
            "largest short-circuit current",
            "inverter.mppt_isc_max_a",
        ),
        Verdict::Fail,
    );
    if let Some(margin) = check.margin {
        check.reason(format!(
            "{} above what the input bears: it can be damaged.",
            said(-margin, Unit::A)
        ));
        if p > 1 {
            check.cure(
                format!("{} strings on this input, or another input for one of them.", p - 1),
                Vec::new(),
            );
        }
    }
    sheet.figure(&ISC_MAX, |w| {
        let isc = w.need::<Amps>("Isc of the input", isc, "module.isc_a", "mppt.isc_a")?;
        Some(exact::<Ratio>(1.25) * isc)
    });
    let check = sheet.hold(
        &ISC_MAX,
        Bound::at_most(
            limit.mppt_isc_max_a,
            "largest short-circuit current",
            "inverter.mppt_isc_max_a",
        ),
        Verdict::Warn,
    );
    if let Some(margin) = check.margin {
        check.reason(format!(
            "In light above 1000 W/m² the current can pass the limit by {}.",
            said(-margin, Unit::A)
        ));
        check.cure(
            "Ask the maker whether the limit already holds 1.25 × Isc, or use an input \
            with more room.",
            Vec::new(),
        );
    }
    let imp = sheet.figure(&IMP, |w| x.amps(w, "Imp", "module.imp_a", |m| m.imp_a));
    let lost = sheet.figure(&LOST, |w| {
        let (Some(imp), Some(max)) = (imp, limit.mppt_imp_max_a) else {
            return Some(exact::<crate::quantity::Percent>(0.0));
        };
        if above(imp, max) {
            let max = w.given("largest working current", Amps(max), x.sources.inverter.as_str());
            let imp = w.given("Imp of the input", Amps(imp), "mppt.imp_a");
            Some((exact::<Ratio>(1.0) - max / imp).percent())
        } else {
            Some(exact(0.0))
        }
    });
    let check = sheet.hold(
        &IMP,
        Bound::at_most(limit.mppt_imp_max_a, "largest working current", "inverter.mppt_imp_max_a"),
        Verdict::Warn,
    );
    check.reason(format!(
        "The inverter limits: {} of the current is lost in full light, nothing is damaged.",
        said(lost.unwrap_or(0.0), Unit::Percent)
    ));
    check.cure("One string fewer on this input, or an input for more current.", Vec::new());
    mppt_power(sheet, x);
}

/// Module watts of one MPPT against its limit.
pub fn mppt_power(sheet: &mut Sheet, x: &MpptInputs) {
    sheet.figure(&POWER, |w| {
        x.sum(w, |w, s| {
            let n = w.given("n", Ratio(f64::from(s.n)), "modules in series");
            let p = w.given("p", Ratio(f64::from(s.p)), "strings in parallel");
            let pmax = w.need::<Watts>(
                "Pmax",
                s.module.pmax_w,
                "module.pmax_w",
                x.sources.module.as_str(),
            )?;
            Some(n * p * pmax)
        })
    });
    let limit = x.inverter.mppt_w_max_w;
    let check = sheet.hold(
        &POWER,
        Bound::at_most(limit, "largest watts per input", "inverter.mppt_w_max_w"),
        Verdict::Fail,
    );
    if let (Some(margin), Some(limit), [first, ..]) = (check.margin, limit, x.strings) {
        check
            .reason(format!("{} more than the maker allows on one input.", said(-margin, Unit::W)));
        let most = floor(limit / first.module.pmax_w.unwrap_or(f64::INFINITY));
        check.cure(
            format!(
                "At most {most} of these modules on one input: spread them over more inputs, \
                or use an input for more watts."
            ),
            Vec::new(),
        );
    }
}

/// A string as it shares an MPPT.
#[derive(Debug)]
pub struct Shared<'a> {
    /// Its letter.
    pub letter: &'a str,
    /// Modules in series.
    pub n: u32,
    /// Its module's data sheet.
    pub module: &'a SheetRef,
    /// The face it lies on.
    pub face: Option<&'a Face>,
}

/// What strings on one MPPT must have in common, and whether the input has a connector for each.
pub fn sharing(sheet: &mut Sheet, strings: &[Shared], input: &Mppt) {
    let names = |of: &dyn Fn(&Shared) -> String| {
        strings.iter().map(|s| format!("{} {}", s.letter, of(s))).collect::<Vec<_>>().join(", ")
    };
    let alike = |same: bool, worse: Verdict| if same { Verdict::Pass } else { worse };
    let Some(first) = strings.first() else { return };
    if strings.len() > 1 {
        let same = strings.iter().all(|s| s.n == first.n);
        sheet
            .judge(&SAME_N, alike(same, Verdict::Fail))
            .reason(format!(
                "In series: {}. The longer string pushes current back through the shorter one.",
                names(&|s| s.n.to_string())
            ))
            .cure("Give them the same number of modules, or an input each.", Vec::new());
        let same = strings.iter().all(|s| s.module == first.module);
        sheet
            .judge(&SAME_MODULE, alike(same, Verdict::Fail))
            .reason(format!("Modules: {}.", names(&|s| s.module.sheet.clone())))
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
            .reason(format!(
                "Planes: {}. The input finds one working point for both; some of the \
                yield is lost.",
                names(&face)
            ))
            .cure("Keep the strings of one face together on an input.", Vec::new());
    }
    sheet.count(&CONNECTORS, |w| {
        Some(w.given("strings on the input", Ratio(strings.len() as f64), "job"))
    });
    sheet
        .hold(
            &CONNECTORS,
            Bound::at_most(
                input.connectors_n,
                "pairs of connectors",
                "inverter.mppts.connectors_n",
            ),
            Verdict::Warn,
        )
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
    let ratings = InverterRatings::default();
    let x = MpptInputs { strings, inverter: &ratings, sources };
    let total = sheet.figure(&POWER_DC, |w| {
        x.sum(w, |w, s| {
            let modules = w.given("modules", Ratio(f64::from(s.n * s.p)), "job");
            let pmax =
                w.need::<Watts>("Pmax", s.module.pmax_w, "module.pmax_w", sources.module.as_str())?;
            Some(modules * pmax)
        })
    });
    if inverter.dc_w_max_w.is_some() {
        let check = sheet.hold(
            &POWER_DC,
            Bound::at_most(
                inverter.dc_w_max_w,
                "largest module watts in all",
                "inverter.dc_w_max_w",
            ),
            Verdict::Fail,
        );
        if let Some(margin) = check.margin {
            check.reason(format!("{} more than the maker allows.", said(-margin, Unit::W)));
            check.cure("Fewer modules, or a larger inverter.", Vec::new());
        }
    }
    let ratio = sheet.figure(&AC_RATIO, |w| {
        let dc = w.need::<Watts>("module watts", total, "module.pmax_w", "inverter.power_dc_w");
        let ac = w.need::<Watts>(
            "rated AC output",
            inverter.ac_w,
            "inverter.ac_w",
            sources.inverter.as_str(),
        );
        Some(dc? / ac?)
    });
    let low = ratio.is_some_and(|r| below(r, 0.8));
    let bound = if low {
        Bound::at_least(Some(0.8), "usual range from", "")
    } else {
        Bound::at_most(Some(1.5), "usual range up to", "")
    };
    sheet
        .hold(&AC_RATIO, bound, Verdict::Warn)
        .reason(if low {
            "The inverter is large for these modules."
        } else {
            "The inverter clips often: many watts for its output."
        })
        .cure("Check the sizes; a maker's own range goes before this one.", Vec::new());
}
