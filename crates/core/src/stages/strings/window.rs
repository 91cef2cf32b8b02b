//! The voltage window of one string: coldest morning and hottest day against the inverter's limits.

use serde::Deserialize;
use serde_json::json;

use super::Sources;
use crate::figure::{
    Bound, Check, Field, Handle, Limit, Sheet, Value, Verdict, Wording, Working, said,
};
use crate::figures;
use crate::job::{ColdMethod, Edit, Job, Mounting};
use crate::library::{InverterRatings, ModuleRatings};
use crate::quantity::{Amps, Celsius, PercentPerKelvin, Ratio, Unit, Volts, above, below, ceil};
use crate::stages::site::{ceiling_v, cell_hot};
use crate::tables;
use crate::traced::{Traced, exact};

figures! { Strings;
    /// Which limit binds in the cold.
    BINDING: Word = "string.binding", "Limit that binds in the cold", na "690.7", iec "IEC 62548";
    /// That limit.
    LIMIT: Volts = "string.limit_v", "Highest DC volts allowed", na "690.7", iec "IEC 62548";
    /// Cold factor on Voc.
    K_COLD: Ratio = "string.k_cold",
        "Cold factor on open-circuit volts", na "690.7(A)", iec "IEC 62548";
    /// Open-circuit volts on the coldest morning: n x Voc x k_cold.
    VOC_COLD: Volts = "string.voc_cold_v",
        "Open-circuit volts, coldest morning", na "690.7(A)", iec "IEC 62548";
    /// Room to the limit.
    MARGIN: Volts = "string.voc_cold_margin_v",
        "Room to the highest DC volts", na "690.7", iec "IEC 62548";
    /// floor(limit / (Voc x k_cold)).
    N_MAX: Count = "string.n_max", "Most modules in series", na "690.7", iec "IEC 62548";
    /// Working volts on the hottest day.
    VMP_HOT: Volts = "string.vmp_hot_v", "Working volts, hottest day", "inverter data sheet";
    /// Working volts on the coldest morning.
    VMP_COLD: Volts = "string.vmp_cold_v",
        "Working volts, coldest morning", "inverter data sheet";
    /// Open-circuit volts on the hottest day.
    VOC_HOT: Volts = "string.voc_hot_v", "Open-circuit volts, hottest day", "inverter data sheet";
    /// ceil(tracking start / Vmp hot of one), also by the start volts.
    N_MIN: Count = "string.n_min", "Fewest modules in series", "inverter data sheet";
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

impl SiteTemps {
    /// What the strings of a job read of its site.
    pub fn of(job: &Job) -> Self {
        SiteTemps {
            t_min_c: job.site.t_min_c,
            t_max_c: job.site.t_max_c,
            mounting: job.site.mounting,
            cell_rise_hot_c: job.site.cell_rise_hot_c,
            dc_ceiling_v: job.site.building.and_then(|b| ceiling_v(job.school, b)),
        }
    }
}

/// One string of `n` modules on one MPPT.
#[derive(Clone, Debug)]
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
    pub n_pointer: Option<&'a str>,
}

/// A string in its window.
#[derive(Clone, Debug)]
pub struct Window {
    /// Which limit binds in the cold.
    pub binding: Wording,
    /// The string in the cold.
    pub cold: Cold,
    /// What its cold volts come to.
    pub cold_verdict: Verdict,
    /// Working volts on the hottest day.
    pub vmp_hot: Handle<Volts>,
    /// Open-circuit volts on the hottest day.
    pub voc_hot: Handle<Volts>,
    /// Working volts on the coldest morning.
    pub vmp_cold: Handle<Volts>,
}

impl Window {
    /// Room to the limit that binds in the cold, % of it.
    pub fn cold_margin_pct(&self) -> Option<f64> {
        let (volts, limit) = (self.cold.voc.value()?, self.cold.limit.value()?);
        Some((limit - volts) / limit * 100.0)
    }

    /// Room of the hot working volts above where tracking begins, % of that.
    pub fn hot_margin_pct(&self, inverter: &InverterRatings) -> Option<f64> {
        let (volts, least) = (self.vmp_hot.value()?, inverter.mppt_min_v?);
        Some((volts - least) / least * 100.0)
    }
}

/// A string on the coldest morning.
#[derive(Clone, Debug)]
pub struct Cold {
    /// Highest DC volts allowed.
    pub limit: Handle<Volts>,
    /// Cold factor.
    pub k_cold: Handle<Ratio>,
    /// Open-circuit volts.
    pub voc: Handle<Volts>,
    /// Room to the limit.
    pub margin: Handle<Volts>,
    /// Most modules in series.
    pub n_max: Handle<Ratio>,
}

/// Figures and checks of one string's voltage window.
pub fn window(sheet: &mut Sheet, x: &WindowInputs) -> Window {
    let site = x.site;
    let t_cell = cell_hot(sheet, site.t_max_c, site.mounting, site.cell_rise_hot_c);
    let binding = binding(sheet, x);
    let cold = cold(sheet, x);
    let hot = hot(sheet, x, &t_cell);
    let cold_verdict = voc_cold_check(sheet, x, &cold).verdict;
    vmp_hot_check(sheet, x, &cold.n_max, &hot);
    let vmp_cold = vmp_cold(sheet, x);
    voc_hot_check(sheet, x, &hot);
    Window { binding, cold, cold_verdict, vmp_hot: hot.vmp, voc_hot: hot.voc, vmp_cold }
}

/// The fewest and the most modules in series; nothing else of the window.
pub fn count_limits(sheet: &mut Sheet, x: &WindowInputs) {
    let mut aside = sheet.aside();
    window(&mut aside, x);
    let limits = [N_MIN.id, N_MAX.id];
    sheet.figures.extend(aside.figures.into_iter().filter(|f| limits.contains(&f.id)));
}

impl WindowInputs<'_> {
    fn n(&self, w: &mut Working) -> Traced<Ratio> {
        w.given("n", Ratio(f64::from(self.n)), "modules in series")
    }

    fn voc(&self, w: &mut Working) -> Option<Traced<Volts>> {
        w.need("Voc", self.module.voc_v, "module.voc_v", &self.sources.module)
    }

    fn vmp(&self, w: &mut Working) -> Option<Traced<Volts>> {
        w.need("Vmp", self.module.vmp_v, "module.vmp_v", &self.sources.module)
    }

    fn b_voc(&self, w: &mut Working) -> Option<Traced<PercentPerKelvin>> {
        w.need("bVoc", self.module.b_voc_pct_c, "module.b_voc_pct_c", &self.sources.module)
    }

    /// The coefficient of Vmp; that of Pmax where the sheet gives none.
    fn c_vmp(&self, w: &mut Working) -> Option<Traced<PercentPerKelvin>> {
        let stands_in =
            if self.module.c_vmp_pct_c.is_some() { "" } else { ", Pmax coefficient stands in" };
        let value = self.module.c_vmp_pct_c.or(self.module.g_pmax_pct_c);
        let source = format_args!("{}{stands_in}", self.sources.module);
        w.need("c", value, "module.g_pmax_pct_c", source)
    }

    /// The cure that changes the count of this string, as an edit.
    fn count_edit(&self, n: f64) -> Vec<Edit> {
        self.n_pointer.iter().map(|p| Edit::new(*p, json!(n as u64))).collect()
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
    let sheet = "module data sheet";
    let voc = w.need::<Volts>("Voc", module.voc_v, "module.voc_v", sheet);
    let b = w.need::<PercentPerKelvin>("bVoc", module.b_voc_pct_c, "module.b_voc_pct_c", sheet);
    let t = w.need::<Celsius>("t_min", t_min_c, "site.t_min_c", "site");
    let k = w.step("k_cold", at_temperature(b?, t?));
    Some(voc? * k)
}

/// Isc of one module with its bifacial gain, for a device that takes one module.
pub(crate) fn isc_with_gain(
    w: &mut Working,
    module: &ModuleRatings,
    gain: f64,
) -> Option<Traced<Amps>> {
    let isc = w.need::<Amps>("Isc", module.isc_a, "module.isc_a", "module data sheet")?;
    if gain == 0.0 {
        return Some(isc);
    }
    let gain = w.given("gain", Ratio(gain), "bifacial gain");
    Some(isc * (exact::<Ratio>(1.0) + gain))
}

/// What limits the DC volts of a string: field and title.
pub(super) const LIMITS: [(Field, &str); 3] = [
    ("inverter.vdc_max_v", "largest DC volts of the inverter"),
    ("module.max_system_v", "system volts of the module"),
    ("site.dc_ceiling_v", "DC ceiling of the building"),
];

fn limits(x: &WindowInputs) -> [Option<f64>; 3] {
    [x.inverter.vdc_max_v, x.module.max_system_v, x.site.dc_ceiling_v]
}

/// The lowest limit known, by its place in [`LIMITS`]; on a tie the first.
fn lowest(x: &WindowInputs) -> Option<(usize, f64)> {
    let known = limits(x).into_iter().enumerate().filter_map(|(i, l)| l.map(|l| (i, l)));
    known.reduce(|best, next| if next.1 < best.1 { next } else { best })
}

/// A line for each of the three limits.
fn limit_lines(w: &mut Working, x: &WindowInputs) {
    for ((field, title), value) in LIMITS.iter().zip(limits(x)) {
        w.need::<Volts>(title, value, field, field);
    }
}

fn binding(sheet: &mut Sheet, x: &WindowInputs) -> Wording {
    sheet.word(&BINDING, |w| {
        limit_lines(w, x);
        lowest(x).map(|(i, _)| Value::Text(LIMITS[i].0.to_owned()))
    })
}

/// The string on the coldest morning, by the method of `x`; without its check.
pub(super) fn cold(sheet: &mut Sheet, x: &WindowInputs) -> Cold {
    let limit = sheet.figure(&LIMIT, |w| {
        limit_lines(w, x);
        lowest(x).map(|(i, l)| w.step(LIMITS[i].1, exact::<Volts>(l)))
    });
    let k_cold = k_cold(sheet, x);
    let voc = sheet.figure(&VOC_COLD, |w| {
        let n = x.n(w);
        let voc = x.voc(w);
        let k = w.take("k_cold", &k_cold);
        Some(n * voc? * k?)
    });
    let margin = sheet.figure(&MARGIN, |w| {
        let limit = w.take("limit", &limit);
        let voc = w.take("Voc cold", &voc);
        Some(limit? - voc?)
    });
    let n_max = sheet.count(&N_MAX, |w| {
        let limit = w.take("limit", &limit);
        let voc = x.voc(w);
        let k = w.take("k_cold", &k_cold);
        Some((limit? / (voc? * k?)).floor())
    });
    Cold { limit, k_cold, voc, margin, n_max }
}

fn k_cold(sheet: &mut Sheet, x: &WindowInputs) -> Handle<Ratio> {
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
        ColdMethod::Factor => {
            let fixed = w.given("fixed", Ratio(1.15), "fixed factor");
            // A coefficient that says more has its way.
            Some(match (x.module.b_voc_pct_c, x.site.t_min_c) {
                (Some(_), Some(t)) => {
                    let b = x.b_voc(w)?;
                    let t = w.given("t_min", Celsius(t), "site");
                    let own = w.step("by the coefficient", at_temperature(b, t));
                    fixed.max(own)
                }
                _ => fixed,
            })
        }
    })
}

/// The cold volts against the lowest of the three limits. One that is not known could be lower.
pub(super) fn voc_cold_check<'s>(
    sheet: &'s mut Sheet,
    x: &WindowInputs,
    cold: &Cold,
) -> &'s mut Check {
    let lowest = lowest(x);
    let title = lowest.map_or("highest DC volts", |(i, _)| LIMITS[i].1);
    let absent = || LIMITS.iter().zip(limits(x)).filter(|(_, l)| l.is_none()).map(|((f, _), _)| *f);
    let check = sheet.hold(&cold.voc, Bound::at_most(&cold.limit, title), Verdict::Fail);
    if check.verdict == Verdict::Pass && absent().next().is_some() {
        check.verdict = Verdict::Unknown;
        check.misses(absent());
        check
            .reason("One of the three limits is not known: it could be lower than those that are.");
    }
    if let (Some(margin), Some((_, limit))) = (check.margin, lowest) {
        let limit = said(limit, Unit::V);
        check.reason(format_args!(
            "{} above {title}, {limit}: the inverter is damaged and the warranty gone.",
            said(-margin, Unit::V),
        ));
        if let Some(n) = cold.n_max.value().filter(|n| *n >= 1.0) {
            let text = format_args!("{n} in the string stay inside {limit}.");
            check.cure(text, x.count_edit(n));
        }
    }
    check
}

/// A string on the hottest day.
struct Hot {
    vmp: Handle<Volts>,
    voc: Handle<Volts>,
    vmp_one: Option<f64>,
    voc_one: Option<f64>,
}

fn hot(sheet: &mut Sheet, x: &WindowInputs, t_cell: &Handle<Celsius>) -> Hot {
    let mut vmp_one = None;
    let vmp = sheet.figure(&VMP_HOT, |w| {
        let (vmp, c, t) = (x.vmp(w), x.c_vmp(w), w.take("t_cell", t_cell));
        let k = w.step("k_hot", at_temperature(c?, t?));
        let one = w.step("one module, hot", vmp? * k);
        vmp_one = Some(one.value.0);
        Some(x.n(w) * one)
    });
    let mut voc_one = None;
    let voc = sheet.figure(&VOC_HOT, |w| {
        let (voc, b, t) = (x.voc(w), x.b_voc(w), w.take("t_cell", t_cell));
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
                let limit = w.given(title, Volts(limit), &x.sources.inverter);
                let part = (limit / w.given(symbol, Volts(one), "above")).ceil();
                least = Some(match least {
                    Some(l) => l.max(part),
                    None => part,
                });
            }
        }
        if least.is_none() {
            w.lack("inverter.mppt_min_v");
        }
        least
    });
    Hot { vmp, voc, vmp_one, voc_one }
}

fn vmp_hot_check(sheet: &mut Sheet, x: &WindowInputs, n_max: &Handle<Ratio>, hot: &Hot) {
    let from = x.inverter.mppt_min_v;
    let tracking = Bound::at_least((from, "inverter.mppt_min_v"), "tracking from");
    let check = sheet.hold(&hot.vmp, tracking, Verdict::Fail);
    let (Some(one), Some(value), Some(margin)) = (hot.vmp_one, hot.vmp.value(), check.margin)
    else {
        return;
    };
    if check.verdict == Verdict::Fail {
        let short = said(-margin, Unit::V);
        check.reason(format_args!(
            "{short} below the tracking range: on hot days the input stops working."
        ));
        reach(check, x, from.unwrap_or_default(), one, n_max, "tracking");
    } else if let Some(full) = x.inverter.full_power_min_v.filter(|f| below(value, *f)) {
        check.verdict = Verdict::Warn;
        check.limit = Some(Limit { title: "full power from".into(), value: full, at_most: false });
        check.margin = Some(value - full);
        check.margin_pct = Some((value - full) / full * 100.0);
        check.reason(format_args!(
            "{} under full power: the input still tracks, and gives less on the hottest days.",
            said(full - value, Unit::V)
        ));
        reach(check, x, full, one, n_max, "full power");
    }
}

/// The cure of a string that is too short: the count that reaches `volts`, if the cold allows it.
fn reach(
    check: &mut Check,
    x: &WindowInputs,
    volts: f64,
    one: f64,
    n_max: &Handle<Ratio>,
    what: &str,
) {
    let n = ceil(volts / one);
    match n_max.value() {
        Some(most) if above(n, most) => check.cure(
            format_args!(
                "{n} in series would reach {what}, but the cold allows {most}: another input or \
                 inverter."
            ),
            Vec::new(),
        ),
        _ => check.cure(
            format_args!("{n} in series reach {} hot.", said(n * one, Unit::V)),
            x.count_edit(n),
        ),
    };
}

fn vmp_cold(sheet: &mut Sheet, x: &WindowInputs) -> Handle<Volts> {
    let vmp_cold = sheet.figure(&VMP_COLD, |w| {
        let (vmp, c) = (x.vmp(w), x.c_vmp(w));
        let t = w.need::<Celsius>("t_min", x.site.t_min_c, "site.t_min_c", "site");
        let n = x.n(w);
        let k = w.step("k", at_temperature(c?, t?));
        Some(n * vmp? * k)
    });
    let up_to = (x.inverter.mppt_max_v, "inverter.mppt_max_v");
    sheet
        .hold(&vmp_cold, Bound::at_most(up_to, "tracking up to"), Verdict::Warn)
        .beyond(|over| {
            format!(
                "{over} above the tracking range: on the coldest mornings the input gives less."
            )
        })
        .cure("Fewer modules in series, or an inverter that tracks higher.", Vec::new());
    vmp_cold
}

fn voc_hot_check(sheet: &mut Sheet, x: &WindowInputs, hot: &Hot) {
    let start = x.inverter.start_v;
    let bound = Bound::at_least((start, "inverter.start_v"), "start volts");
    let check = sheet.hold(&hot.voc, bound, Verdict::Fail);
    check.beyond(|short| {
        format!("{short} below the start volts: a hot inverter does not start again.")
    });
    if let (Verdict::Fail, Some(one), Some(start)) = (check.verdict, hot.voc_one, start) {
        let n = ceil(start / one);
        let text = format_args!("{n} in series start at {} hot.", said(n * one, Unit::V));
        check.cure(text, x.count_edit(n));
    }
}
