//! The voltage window of one string: coldest morning and hottest day against the inverter's limits.

use serde::{Deserialize, Serialize};
use serde_json::json;
use utoipa::ToSchema;

use super::Sources;
use crate::figure::{Bound, Def, Edit, Sheet, Stage, Subject, Value, Verdict, Working, said};
use crate::job::{ColdMethod, Mounting};
use crate::library::{InverterRatings, ModuleRatings};
use crate::quantity::{Celsius, PercentPerKelvin, Ratio, Unit, Volts, above, ceil};
use crate::school::School;
use crate::site;
use crate::tables;
use crate::traced::{Traced, exact};

macro_rules! defs {
    ($($(#[$doc:meta])* $name:ident $id:literal $title:literal $na:literal $iec:literal;)*) => {$(
        $(#[$doc])*
        pub static $name: Def = Def { id: $id, title: $title, stage: Stage::Strings, na: $na, iec: $iec };
    )*};
}

defs! {
    /// Which limit binds in the cold.
    BINDING "string.binding" "Limit that binds in the cold" "690.7" "IEC 62548";
    /// That limit.
    LIMIT "string.limit_v" "Highest DC volts allowed" "690.7" "IEC 62548";
    /// Cold factor on Voc.
    K_COLD "string.k_cold" "Cold factor on open-circuit volts" "690.7(A)" "IEC 62548";
    /// Open-circuit volts on the coldest morning: n x Voc x k_cold.
    VOC_COLD "string.voc_cold_v" "Open-circuit volts, coldest morning" "690.7(A)" "IEC 62548";
    /// Room to the limit.
    MARGIN "string.voc_cold_margin_v" "Room to the highest DC volts" "690.7" "IEC 62548";
    /// floor(limit / (Voc x k_cold)).
    N_MAX "string.n_max" "Most modules in series" "690.7" "IEC 62548";
    /// Working volts on the hottest day.
    VMP_HOT "string.vmp_hot_v" "Working volts, hottest day" "inverter data sheet" "inverter data sheet";
    /// Working volts on the coldest morning.
    VMP_COLD "string.vmp_cold_v" "Working volts, coldest \
        morning" "inverter data sheet" "inverter data sheet";
    /// Open-circuit volts on the hottest day.
    VOC_HOT "string.voc_hot_v" "Open-circuit volts, hottest \
        day" "inverter data sheet" "inverter data sheet";
    /// ceil(tracking start / Vmp hot of one), also by the start volts.
    N_MIN "string.n_min" "Fewest modules in series" "inverter data sheet" "inverter data sheet";
}

/// What the window reads of the site.
#[derive(Clone, Debug, Default, Deserialize)]
#[serde(deny_unknown_fields, default)]
pub struct SiteTemps {
    /// Lowest expected ambient, °C.
    pub t_min_c: Option<f64>,
    /// 2 % high ambient, °C.
    pub t_max_c: Option<f64>,
    /// Mounting of the array.
    pub mounting: Option<Mounting>,
    /// Cell rise as entered, K; wins over the mounting.
    pub cell_rise_hot_c: Option<f64>,
    /// DC ceiling of the building, V.
    pub dc_ceiling_v: Option<f64>,
}

/// One string of `n` modules on one MPPT.
#[derive(Debug)]
pub struct WindowInputs<'a> {
    /// The module.
    pub module: &'a ModuleRatings,
    /// The inverter with the MPPT's limits.
    pub inverter: &'a InverterRatings,
    /// The site.
    pub site: &'a SiteTemps,
    /// Modules in series.
    pub n: u32,
    /// How cold volts are had.
    pub method: ColdMethod,
    /// Where the values come from.
    pub sources: &'a Sources,
    /// JSON pointer of `n` in the job, for cures that change it.
    pub n_pointer: Option<String>,
}

/// Figures and checks of one string's voltage window.
pub fn window(sheet: &mut Sheet, x: &WindowInputs) {
    let t_cell = site::cell_hot(sheet, x.site.t_max_c, x.site.mounting, x.site.cell_rise_hot_c);
    let limit = cold_limit(sheet, x);
    let k_cold = k_cold(sheet, x);
    let cold = voc_cold(sheet, x, k_cold, limit);
    let hot = hot(sheet, x, t_cell);
    voc_cold_check(sheet, x, cold.n_max);
    vmp_hot_check(sheet, x, cold.n_max, hot.vmp_one);
    vmp_cold(sheet, x);
    voc_hot_check(sheet, x, hot.voc_one);
}

impl WindowInputs<'_> {
    fn n(&self, w: &mut Working) -> Traced<Ratio> {
        w.given("n", Ratio(f64::from(self.n)), "modules in series")
    }

    fn voc(&self, w: &mut Working) -> Option<Traced<Volts>> {
        w.need("Voc", self.module.voc_v, "module.voc_v", self.sources.module.as_str())
    }

    fn vmp(&self, w: &mut Working) -> Option<Traced<Volts>> {
        w.need("Vmp", self.module.vmp_v, "module.vmp_v", self.sources.module.as_str())
    }

    fn b_voc(&self, w: &mut Working) -> Option<Traced<PercentPerKelvin>> {
        w.need("bVoc", self.module.b_voc_pct_c, "module.b_voc_pct_c", self.sources.module.as_str())
    }

    /// The coefficient of Vmp; that of Pmax where the sheet gives none.
    fn c_vmp(&self, w: &mut Working) -> Option<Traced<PercentPerKelvin>> {
        let (value, source) = match self.module.c_vmp_pct_c {
            Some(c) => (Some(c), self.sources.module.clone()),
            None => (
                self.module.g_pmax_pct_c,
                format!("{}, Pmax coefficient stands in", self.sources.module),
            ),
        };
        w.need("c", value, "module.g_pmax_pct_c", source)
    }

    /// The cure that changes the count of this string, as an edit.
    fn count_edit(&self, n: f64) -> Vec<Edit> {
        self.n_pointer.iter().map(|p| Edit { pointer: p.clone(), value: json!(n as u64) }).collect()
    }
}

/// `1 + coefficient x (t - 25) / 100`.
pub(crate) fn at_temperature(
    coefficient: Traced<PercentPerKelvin>,
    t: Traced<Celsius>,
) -> Traced<Ratio> {
    exact::<Ratio>(1.0) + (coefficient * (t - exact(25.0))).fraction()
}

/// Cold open-circuit volts of one module by its coefficient, for a device that takes one module.
pub(crate) fn voc_cold_of_one(
    w: &mut Working,
    module: &ModuleRatings,
    t_min_c: Option<f64>,
) -> Option<Traced<Volts>> {
    let voc = w.need::<Volts>("Voc", module.voc_v, "module.voc_v", "module data sheet");
    let b = w.need::<PercentPerKelvin>(
        "bVoc",
        module.b_voc_pct_c,
        "module.b_voc_pct_c",
        "module data sheet",
    );
    let t = w.need::<Celsius>("t_min", t_min_c, "site.t_min_c", "site");
    let k = w.step("k_cold", at_temperature(b?, t?));
    Some(voc? * k)
}

const LIMITS: [(&str, &str); 3] = [
    ("inverter.vdc_max_v", "largest DC volts of the inverter"),
    ("module.max_system_v", "system volts of the module"),
    ("site.dc_ceiling_v", "DC ceiling of the building"),
];

fn limits(x: &WindowInputs) -> [Option<f64>; 3] {
    [x.inverter.vdc_max_v, x.module.max_system_v, x.site.dc_ceiling_v]
}

/// The lowest limit known; on a tie the first.
fn binding(x: &WindowInputs) -> Option<(usize, f64)> {
    let known = limits(x).into_iter().enumerate().filter_map(|(i, l)| l.map(|l| (i, l)));
    known.reduce(|best, next| if next.1 < best.1 { next } else { best })
}

fn cold_limit(sheet: &mut Sheet, x: &WindowInputs) -> Option<f64> {
    let bind = binding(x);
    let lines = |w: &mut Working| {
        for ((field, title), value) in LIMITS.iter().zip(limits(x)) {
            w.need::<Volts>(title, value, field, *field);
        }
    };
    sheet.text(&BINDING, |w| {
        lines(w);
        bind.map(|(i, _)| Value::Text(LIMITS[i].0.to_owned()))
    });
    sheet.figure(&LIMIT, |w| {
        lines(w);
        bind.map(|(i, l)| w.step(LIMITS[i].1, exact::<Volts>(l)))
    })
}

fn k_cold(sheet: &mut Sheet, x: &WindowInputs) -> Option<f64> {
    sheet.figure(&K_COLD, |w| match x.method {
        ColdMethod::Coefficient => {
            let b = x.b_voc(w);
            let t = w.need::<Celsius>("t_min", x.site.t_min_c, "site.t_min_c", "site");
            Some(at_temperature(b?, t?))
        }
        ColdMethod::Table => {
            let t = w.need::<Celsius>("t_min", x.site.t_min_c, "site.t_min_c", "site")?;
            let factor = tables::voc_correction(t.value.0);
            if factor.is_none() {
                w.note("Below −40 °C the table gives no factor: use the module's coefficient.");
            }
            factor.map(|f| w.given("k_cold", Ratio(f), "Table 690.7(A)"))
        }
        ColdMethod::Factor => Some(w.given("k_cold", Ratio(1.15), "fixed factor")),
    })
}

/// Cold volts of a string by one method.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct ColdBy {
    /// The method.
    pub method: ColdMethod,
    /// The factor; absent where it cannot be had.
    pub k_cold: Option<f64>,
    /// Open-circuit volts on the coldest morning, V.
    pub voc_cold_v: Option<f64>,
    /// Room to the highest DC volts, V.
    pub margin_v: Option<f64>,
    /// What it comes to.
    pub verdict: Verdict,
    /// Most modules in series by it.
    pub n_max: Option<f64>,
}

/// The methods of the school side by side. `sheet` holds the window of the string by its own
/// method; the others are computed by the same checks.
pub fn cold_by_each(sheet: &Sheet, subject: &Subject, x: &WindowInputs) -> Vec<ColdBy> {
    let methods: &[ColdMethod] = match sheet.school {
        School::Na => &[ColdMethod::Coefficient, ColdMethod::Table],
        School::Iec => &[ColdMethod::Coefficient, ColdMethod::Table, ColdMethod::Factor],
    };
    let read = |from: &Sheet, method: ColdMethod, subject: &Subject| {
        let own = |id: &str| from.figures.iter().find(|f| f.id == id && f.subject == *subject);
        let of = |id: &str| own(id).and_then(|f| f.value.as_ref()).and_then(Value::number);
        let check = from.checks.iter().find(|c| c.id == VOC_COLD.id && c.subject == *subject);
        ColdBy {
            method,
            k_cold: of(K_COLD.id),
            voc_cold_v: of(VOC_COLD.id),
            margin_v: of(MARGIN.id),
            verdict: check.map_or(Verdict::Unknown, |c| c.verdict),
            n_max: of(N_MAX.id),
        }
    };
    let by = |method: &ColdMethod| {
        if *method == x.method {
            return read(sheet, *method, subject);
        }
        let x = WindowInputs { method: *method, n_pointer: None, ..*x };
        let mut other = Sheet::new(sheet.school, subject.clone());
        let k = k_cold(&mut other, &x);
        let n_max = voc_cold(&mut other, &x, k, binding(&x).map(|b| b.1)).n_max;
        voc_cold_check(&mut other, &x, n_max);
        read(&other, *method, subject)
    };
    methods.iter().map(by).collect()
}

struct Cold {
    n_max: Option<f64>,
}

fn voc_cold(sheet: &mut Sheet, x: &WindowInputs, k_cold: Option<f64>, limit: Option<f64>) -> Cold {
    // Where the factor is missing its own figure says why; here it is passed on by field.
    let k_field = if x.method == ColdMethod::Coefficient && x.module.b_voc_pct_c.is_none() {
        "module.b_voc_pct_c"
    } else {
        "site.t_min_c"
    };
    let voc = sheet.figure(&VOC_COLD, |w| {
        let n = x.n(w);
        let voc = x.voc(w);
        let k = w.need::<Ratio>("k_cold", k_cold, k_field, "string.k_cold");
        Some(n * voc? * k?)
    });
    sheet.figure(&MARGIN, |w| {
        let limit = w.need::<Volts>("limit", limit, "inverter.vdc_max_v", "string.limit_v");
        let voc = w.need::<Volts>("Voc cold", voc, k_field, "string.voc_cold_v");
        Some(limit? - voc?)
    });
    let n_max = sheet.count(&N_MAX, |w| {
        let limit = w.need::<Volts>("limit", limit, "inverter.vdc_max_v", "string.limit_v");
        let voc = x.voc(w);
        let k = w.need::<Ratio>("k_cold", k_cold, k_field, "string.k_cold");
        Some((limit? / (voc? * k?)).floor())
    });
    Cold { n_max }
}

fn voc_cold_check(sheet: &mut Sheet, x: &WindowInputs, n_max: Option<f64>) {
    let bind = binding(x);
    let title = bind.map_or("highest DC volts", |(i, _)| LIMITS[i].1);
    let absent: Vec<String> = LIMITS
        .iter()
        .zip(limits(x))
        .filter(|(_, l)| l.is_none())
        .map(|((f, _), _)| (*f).to_owned())
        .collect();
    let check = sheet.hold(
        &VOC_COLD,
        Bound::at_most(bind.map(|b| b.1), title, "inverter.vdc_max_v"),
        Verdict::Fail,
    );
    if check.verdict == Verdict::Pass && !absent.is_empty() {
        check.verdict = Verdict::Unknown;
        check.missing = absent;
        check
            .reason("One of the three limits is not known: it could be lower than those that are.");
    }
    if let (Some(margin), Some((_, limit))) = (check.margin, bind) {
        check.reason(format!(
            "{} above {title}, {}: the inverter is damaged and the warranty gone.",
            said(-margin, Unit::V),
            said(limit, Unit::V)
        ));
        if let Some(n) = n_max.filter(|n| *n >= 1.0) {
            check.cure(
                format!("{n} in the string stay inside {}.", said(limit, Unit::V)),
                x.count_edit(n),
            );
        }
    }
}

struct Hot {
    vmp_one: Option<f64>,
    voc_one: Option<f64>,
}

fn hot(sheet: &mut Sheet, x: &WindowInputs, t_cell: Option<f64>) -> Hot {
    let cell = |w: &mut Working| {
        let field = if x.site.t_max_c.is_none() { "site.t_max_c" } else { "site.mounting" };
        w.need::<Celsius>("t_cell", t_cell, field, "site.t_cell_hot_c")
    };
    let mut vmp_one = None;
    sheet.figure(&VMP_HOT, |w| {
        let (vmp, c, t) = (x.vmp(w), x.c_vmp(w), cell(w));
        let k = w.step("k_hot", at_temperature(c?, t?));
        let one = w.step("one module, hot", vmp? * k);
        vmp_one = Some(one.value.0);
        Some(x.n(w) * one)
    });
    let mut voc_one = None;
    sheet.figure(&VOC_HOT, |w| {
        let (voc, b, t) = (x.voc(w), x.b_voc(w), cell(w));
        let k = w.step("k_hot", at_temperature(b?, t?));
        let one = w.step("one module, hot", voc? * k);
        voc_one = Some(one.value.0);
        Some(x.n(w) * one)
    });
    sheet.count(&N_MIN, |w| {
        let mut least: Option<Traced<Ratio>> = None;
        let starts = [
            ("tracking from", x.inverter.mppt_min_v, vmp_one, "Vmp hot of one"),
            ("start volts", x.inverter.start_v, voc_one, "Voc hot of one"),
        ];
        for (title, limit, one, symbol) in starts {
            if let (Some(limit), Some(one)) = (limit, one) {
                let limit = w.given(title, Volts(limit), x.sources.inverter.as_str());
                let part = (limit / w.given(symbol, Volts(one), "above")).ceil();
                least = Some(match least {
                    Some(l) => l.max(part),
                    None => part,
                });
            }
        }
        if least.is_none() {
            w.need::<Volts>("tracking from", None, "inverter.mppt_min_v", "");
        }
        least
    });
    Hot { vmp_one, voc_one }
}

fn vmp_hot_check(sheet: &mut Sheet, x: &WindowInputs, n_max: Option<f64>, one: Option<f64>) {
    let tracking = Bound::at_least(x.inverter.mppt_min_v, "tracking from", "inverter.mppt_min_v");
    let full = x.inverter.full_power_min_v;
    let value = one.map(|v| v * f64::from(x.n));
    let check = sheet.hold(&VMP_HOT, tracking, Verdict::Fail);
    let (Some(value), Some(one), Some(margin)) = (value, one, check.margin) else { return };
    if check.verdict == Verdict::Fail {
        check.reason(format!(
            "{} below the tracking range: on hot days the input stops working.",
            said(-margin, Unit::V)
        ));
        reach(check, x, x.inverter.mppt_min_v.unwrap_or_default(), one, n_max, "tracking");
    } else if let Some(full) = full.filter(|f| crate::quantity::below(value, *f)) {
        check.verdict = Verdict::Warn;
        check.limit = Some(crate::figure::Limit {
            title: "full power from".to_owned(),
            value: full,
            at_most: false,
        });
        check.margin = Some(value - full);
        check.margin_pct = Some((value - full) / full * 100.0);
        check.reason(format!(
            "{} under full power: the input still tracks, and gives less on the hottest days.",
            said(full - value, Unit::V)
        ));
        reach(check, x, full, one, n_max, "full power");
    }
}

/// The cure of a string that is too short: the count that reaches `volts`, if the cold allows it.
fn reach(
    check: &mut crate::figure::Check,
    x: &WindowInputs,
    volts: f64,
    one: f64,
    n_max: Option<f64>,
    what: &str,
) {
    let n = ceil(volts / one);
    match n_max {
        Some(most) if above(n, most) => check.cure(
            format!(
                "{n} in series would reach {what}, but the cold allows {most}: \
                another input or inverter."
            ),
            Vec::new(),
        ),
        _ => check
            .cure(format!("{n} in series reach {} hot.", said(n * one, Unit::V)), x.count_edit(n)),
    };
}

fn vmp_cold(sheet: &mut Sheet, x: &WindowInputs) {
    sheet.figure(&VMP_COLD, |w| {
        let (vmp, c) = (x.vmp(w), x.c_vmp(w));
        let t = w.need::<Celsius>("t_min", x.site.t_min_c, "site.t_min_c", "site");
        let n = x.n(w);
        let k = w.step("k", at_temperature(c?, t?));
        Some(n * vmp? * k)
    });
    let check = sheet.hold(
        &VMP_COLD,
        Bound::at_most(x.inverter.mppt_max_v, "tracking up to", "inverter.mppt_max_v"),
        Verdict::Warn,
    );
    if let Some(margin) = check.margin {
        check.reason(format!(
            "{} above the tracking range: on the coldest mornings the input gives less.",
            said(-margin, Unit::V)
        ));
        check.cure("Fewer modules in series, or an inverter that tracks higher.", Vec::new());
    }
}

fn voc_hot_check(sheet: &mut Sheet, x: &WindowInputs, one: Option<f64>) {
    let check = sheet.hold(
        &VOC_HOT,
        Bound::at_least(x.inverter.start_v, "start volts", "inverter.start_v"),
        Verdict::Fail,
    );
    if let (Some(margin), Some(one), Some(start)) = (check.margin, one, x.inverter.start_v) {
        check.reason(format!(
            "{} below the start volts: a hot inverter does not start again.",
            said(-margin, Unit::V)
        ));
        let n = ceil(start / one);
        check.cure(
            format!("{n} in series start at {} hot.", said(n * one, Unit::V)),
            x.count_edit(n),
        );
    }
}
