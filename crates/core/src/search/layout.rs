//! Layout search over one inverter: every way to deal the modules of each face out over the inputs,
//! the best of them, and how many there are.
//!
//! An input takes nothing, or `p` strings of `n` modules of one face. All modules are of one kind,
//! so the watts of an input go with its count `m = n x p`, and the watts in all go with the modules
//! used.
//!
//! How it is searched stands in [`super::deal`].

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::deal::{
    Budget, Counted, Deal, Group, Pick, Shares, Wanted, counted, most_placed, ranked, ways,
};
use crate::figure::{Check, Def, Field, Recording, Sheet, Subject, Verdict};
use crate::figures;
use crate::job::ColdMethod;
use crate::library::{InverterRatings, ModuleRatings};
use crate::quantity::{Percent, Ratio, Unit, Watts, floor};
use crate::school::School;
use crate::stages::strings::{
    MpptInputs, MpptString, POWER_DC, SiteTemps, Sources, WindowInputs, mppt, window,
};
use crate::work::Work;

figures! { Strings;
    /// Whether any layout is free of failures.
    LAYOUT: Rule = "layout", "Layout that fits", "layout search";
    /// How many there are with the fewest modules left off.
    FEASIBLE: Count = "layout.feasible_n", "Layouts that fit", "layout search";
    /// Failures of the best.
    FAILS: Count = "layout.fails_n", "Failures of the best layout", "layout search";
    /// Largest less smallest watts of the inputs in use.
    UNBALANCE: Watts = "layout.unbalance_w", "Difference of the inputs in use", "layout search";
    /// Strings in all.
    STRINGS: Count = "layout.strings_n", "Strings of the best layout", "layout search";
    /// Smallest margin to either end of the window.
    MARGIN: Percent = "layout.margin_pct", "Smallest margin of the best layout", "layout search";
    /// Modules left off.
    UNUSED: Count = "layout.unused_n", "Modules left off", "layout search";
}

/// What one input may take, and the limits of its own where they differ from the inverter's.
#[derive(Clone, Debug, Default, PartialEq, Deserialize)]
#[serde(deny_unknown_fields, default)]
pub struct LayoutMppt {
    /// Most strings in parallel.
    pub strings_max_n: u32,
    /// Start voltage, V.
    pub start_v: Option<f64>,
    /// Lower end of the tracking window, V.
    pub mppt_min_v: Option<f64>,
    /// Upper end of the tracking window, V.
    pub mppt_max_v: Option<f64>,
    /// Lower end of the full-power window, V.
    pub full_power_min_v: Option<f64>,
    /// Largest short-circuit current, A.
    pub mppt_isc_max_a: Option<f64>,
    /// Largest working current, A.
    pub mppt_imp_max_a: Option<f64>,
    /// Largest module watts, W.
    pub mppt_w_max_w: Option<f64>,
}

impl LayoutMppt {
    fn ratings(&self, inverter: &InverterRatings) -> InverterRatings {
        InverterRatings {
            vdc_max_v: inverter.vdc_max_v,
            start_v: self.start_v.or(inverter.start_v),
            mppt_min_v: self.mppt_min_v.or(inverter.mppt_min_v),
            mppt_max_v: self.mppt_max_v.or(inverter.mppt_max_v),
            full_power_min_v: self.full_power_min_v.or(inverter.full_power_min_v),
            mppt_isc_max_a: self.mppt_isc_max_a.or(inverter.mppt_isc_max_a),
            mppt_imp_max_a: self.mppt_imp_max_a.or(inverter.mppt_imp_max_a),
            mppt_w_max_w: self.mppt_w_max_w.or(inverter.mppt_w_max_w),
            dc_w_max_w: inverter.dc_w_max_w,
        }
    }
}

/// What the search reads.
#[derive(Clone, Debug, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct LayoutInputs {
    /// Modules on each face.
    pub faces_modules_n: Vec<u32>,
    /// The module.
    pub module: ModuleRatings,
    /// The inverter.
    pub inverter: InverterRatings,
    /// The site.
    pub site: SiteTemps,
    /// The inputs.
    pub mppts: Vec<LayoutMppt>,
}

/// What an input takes in a layout.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize)]
pub struct MpptUse {
    /// The face, counted from 0.
    pub face: usize,
    /// Modules in series.
    pub n: u32,
    /// Strings in parallel.
    pub p: u32,
}

/// A layout: one entry per input, none for one left empty.
pub type Layout = Vec<Option<MpptUse>>;

/// What the search found.
#[derive(Clone, Debug, Default)]
pub struct Found {
    /// Layouts without failures, with the fewest modules left off.
    pub feasible_n: u128,
    /// The best of them.
    pub best: Option<Layout>,
    /// Its smallest margin to either end of the window, %.
    pub margin_pct: Option<f64>,
    /// Modules left off.
    pub unused_n: u32,
}

/// A check of a choice that did not hold.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct Note {
    /// The check.
    pub id: &'static str,
    /// Its title.
    pub title: &'static str,
    /// What it is about: an input as `inverter/number`, or an inverter.
    pub subject: String,
    /// What it came to.
    pub verdict: Verdict,
    /// How far it is beyond its limit, in `unit`; absent where there is no one number.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub over: Option<f64>,
    /// The limit, in `unit`.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub limit: Option<f64>,
    /// What sets the limit.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub limit_title: Option<String>,
    /// Unit of both.
    pub unit: Unit,
    /// Inputs that are missing, by field.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    #[schema(value_type = Vec<String>)]
    pub missing: Vec<Field>,
}

impl Note {
    /// A note of a check that has no limit.
    pub(super) fn plain<K>(check: &'static Def<K>, subject: String, verdict: Verdict) -> Note {
        Note {
            id: check.id,
            title: check.title,
            subject,
            verdict,
            over: None,
            limit: None,
            limit_title: None,
            unit: Unit::None,
            missing: Vec::new(),
        }
    }

    /// The note of a check, none where it holds.
    pub(super) fn of(check: &Check, subject: &str) -> Option<Note> {
        (check.verdict != Verdict::Pass).then(|| Note {
            id: check.id,
            title: check.title,
            subject: subject.to_owned(),
            verdict: check.verdict,
            over: check.margin.map(|m| -m),
            limit: check.limit.as_ref().map(|l| l.value),
            limit_title: check.limit.as_ref().map(|l| l.title.to_string()),
            unit: check.unit,
            missing: check.missing.clone(),
        })
    }
}

/// Strings on an input: `p` strings of `n`.
#[derive(Clone, Debug, PartialEq)]
pub struct Choice {
    /// Modules in series.
    pub n: u32,
    /// Strings in parallel.
    pub p: u32,
    /// Smallest margin to either end of the window, %.
    pub margin_pct: f64,
    /// How far the worst failing check is beyond its limit, %; 0 where none fails.
    pub miss_pct: f64,
    /// The checks that do not hold.
    pub notes: Vec<Note>,
}

impl Choice {
    /// Checks that are a caution.
    pub fn warns_n(&self) -> u32 {
        self.notes.iter().filter(|n| n.verdict == Verdict::Warn).count() as u32
    }
}

/// What an input is examined for.
pub(super) struct Examined<'a> {
    pub module: &'a ModuleRatings,
    pub ratings: &'a InverterRatings,
    pub site: &'a SiteTemps,
    pub method: ColdMethod,
    pub strings_max_n: u32,
    /// Most modules there are for it.
    pub most: u32,
    /// Failing choices are taken up to this far beyond a limit, %.
    pub miss_max_pct: f64,
}

/// Percent a failing check is beyond its limit; 100 where there is no one number.
fn miss_of(sheet: &Sheet) -> f64 {
    let failing = sheet.checks.iter().filter(|c| c.verdict == Verdict::Fail);
    failing.map(|c| c.margin_pct.map_or(100.0, |m| -m)).fold(0.0, f64::max)
}

/// Everything an input may take, by the checks of the strings.
pub(super) fn examine(x: &Examined, school: School) -> Vec<Choice> {
    let sources = Sources::default();
    let trial = || Sheet::with(school, Subject::Sum, Recording::Nothing);
    let mut found = Vec::new();
    for n in 1..=x.most {
        let mut sheet = trial();
        let own = window(
            &mut sheet,
            &WindowInputs {
                module: x.module,
                inverter: x.ratings,
                site: x.site,
                n,
                method: x.method,
                sources: &sources,
                n_pointer: None,
            },
        );
        let cold = own.cold_margin_pct();
        if own.cold_verdict == Verdict::Fail && cold.is_some_and(|m| -m > x.miss_max_pct) {
            // Longer strings only have more volts.
            break;
        }
        let window_miss = miss_of(&sheet);
        if window_miss > x.miss_max_pct {
            continue;
        }
        let hot = own.hot_margin_pct(x.ratings);
        let margin_pct = cold.into_iter().chain(hot).fold(f64::INFINITY, f64::min);
        for p in 1..=x.strings_max_n.min(x.most / n) {
            let mut load = trial();
            let strings = [MpptString { module: x.module, n, p }];
            mppt(
                &mut load,
                &MpptInputs { strings: &strings, inverter: x.ratings, sources: &sources },
            );
            let load_miss = miss_of(&load);
            if load_miss > x.miss_max_pct {
                // More strings only have more amps and watts.
                break;
            }
            let checks = sheet.checks.iter().chain(&load.checks);
            let notes = checks.filter_map(|c| Note::of(c, "")).collect();
            found.push(Choice { n, p, margin_pct, miss_pct: window_miss.max(load_miss), notes });
        }
    }
    found
}

/// Everything up to `most` modules that an input may take without a failure.
pub fn choices(x: &LayoutInputs, input: &LayoutMppt, most: u32, school: School) -> Vec<Choice> {
    let ratings = input.ratings(&x.inverter);
    examine(
        &Examined {
            module: &x.module,
            ratings: &ratings,
            site: &x.site,
            method: ColdMethod::Coefficient,
            strings_max_n: input.strings_max_n,
            most,
            miss_max_pct: 0.0,
        },
        school,
    )
}

/// Finds the best layout and counts all of them.
pub fn search(x: &LayoutInputs, school: School) -> Found {
    let total: u32 = x.faces_modules_n.iter().sum();
    let largest = x.faces_modules_n.iter().copied().max().unwrap_or(0);
    let mut classes: Vec<(&LayoutMppt, Vec<usize>, Vec<Choice>)> = Vec::new();
    for (i, input) in x.mppts.iter().enumerate() {
        match classes.iter_mut().find(|(like, ..)| *like == input) {
            Some((_, inputs, _)) => inputs.push(i),
            None => classes.push((input, vec![i], choices(x, input, largest, school))),
        }
    }
    let picks = classes.iter().enumerate().flat_map(|(class, (.., choices))| {
        choices.iter().enumerate().map(move |(choice, c)| Pick {
            class,
            choice,
            n: c.n,
            strings_n: vec![c.p],
            margin_pct: c.margin_pct,
            miss_pct: 0.0,
            warns_n: c.warns_n(),
        })
    });
    let picks: Vec<Pick> = picks.collect();
    let shares = Shares { most: classes.iter().map(|(_, inputs, _)| inputs.len()).collect() };
    let groups: Vec<Group> = x
        .faces_modules_n
        .iter()
        .enumerate()
        .map(|(face, modules)| Group {
            faces: vec![face],
            modules: vec![*modules],
            picks: picks.clone(),
        })
        .collect();
    let counts: Vec<Counted> = groups.iter().map(|g| counted(&shares, g, |_| true)).collect();
    let cap = match (x.inverter.dc_w_max_w, x.module.pmax_w) {
        (Some(most), Some(one)) => floor(most / one).clamp(0.0, f64::from(total)) as u32,
        _ => total,
    };
    let (placed_n, placements) = most_placed(&shares, &groups, &counts, cap, usize::MAX);
    let mut found = Found { unused_n: total - placed_n, ..Found::default() };
    let mut best: Option<Deal> = None;
    for placed in &placements {
        found.feasible_n = found.feasible_n.saturating_add(ways(&shares, &groups, &counts, placed));
        let wanted = Wanted { keep: 1, strings_max: None, n: None, failing: false, placed };
        let (deals, _) = ranked(&shares, &groups, &wanted, &mut Budget(u64::MAX, Work::default()));
        best = deals.into_iter().chain(best).min_by(Deal::order);
    }
    if let Some(deal) = best {
        found.margin_pct = Some(deal.margin_pct);
        let mut layout: Layout = vec![None; x.mppts.len()];
        let mut free: Vec<usize> = vec![0; classes.len()];
        for (face, (group, picks)) in groups.iter().zip(&deal.picks).enumerate() {
            for pick in picks.iter().map(|p| &group.picks[*p]) {
                layout[classes[pick.class].1[free[pick.class]]] =
                    Some(MpptUse { face, n: pick.n, p: pick.strings_n[0] });
                free[pick.class] += 1;
            }
        }
        found.best = Some(layout);
    }
    found
}

/// The search as figures: the best layout's score by its parts. Gives the layout.
pub fn layout(sheet: &mut Sheet, x: &LayoutInputs) -> Option<Layout> {
    let found = search(x, sheet.school);
    sheet.count(&FEASIBLE, |w| {
        Some(w.given(
            "layouts that fit",
            Ratio(found.feasible_n as f64),
            "every way to deal the modules out",
        ))
    });
    let verdict = if found.best.is_some() { Verdict::Pass } else { Verdict::Fail };
    sheet
        .judge(&LAYOUT, verdict)
        .reason(
            "No way to deal the modules out is free of failures, not even with modules left off.",
        )
        .cure("Another inverter, or another module.", Vec::new());
    let best = found.best?;
    let used: Vec<MpptUse> = best.iter().copied().flatten().collect();
    let one = x.module.pmax_w.unwrap_or(0.0);
    let most = used.iter().map(|u| u.n * u.p).max().unwrap_or(0);
    let least = used.iter().map(|u| u.n * u.p).min().unwrap_or(0);
    sheet.count(&FAILS, |w| Some(w.given("failures", Ratio(0.0), "every check of the strings")));
    sheet.figure(&UNBALANCE, |w| {
        let pmax = w.given("Pmax", Watts(one), "module data sheet");
        let most = w.given("most on an input", Ratio(f64::from(most)), "modules");
        Some(
            (most - w.given("fewest on an input in use", Ratio(f64::from(least)), "modules"))
                * pmax,
        )
    });
    sheet.count(&STRINGS, |w| {
        Some(w.given("strings", Ratio(used.iter().map(|u| f64::from(u.p)).sum()), "layout"))
    });
    sheet.figure(&MARGIN, |w| {
        Some(w.given(
            "smallest of all strings",
            Percent(found.margin_pct?),
            "string.voc_cold_v, string.vmp_hot_v",
        ))
    });
    sheet.count(&UNUSED, |w| Some(w.given("left off", Ratio(f64::from(found.unused_n)), "layout")));
    sheet.figure(&POWER_DC, |w| {
        let n =
            w.given("modules", Ratio(used.iter().map(|u| f64::from(u.n * u.p)).sum()), "layout");
        Some(n * w.given("Pmax", Watts(one), "module data sheet"))
    });
    Some(best)
}
