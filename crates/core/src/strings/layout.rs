//! Layout search over one inverter: every way to deal the modules of each face out over the inputs, the
//! best of them, and how many there are.
//!
//! An input takes nothing, or `p` strings of `n` modules of one face. All modules are of one kind, so the
//! watts of an input go with its count `m = n x p`, and the watts in all go with the modules used.
//!
//! Faces are independent but for the inputs they share. Inputs of a class are alike, so a layout is, for each
//! face and class, a bag of options. With `k` the number of inputs of each class a face takes:
//! - count: bags of `k` options that sum to the face's modules, multiplied over faces, summed over every way
//!   to share the inputs out;
//! - best: the smallest difference between the largest and the smallest `m` that can be had at all; inside that
//!   difference the fewest strings, then the largest margin. Strings add up and margins take the smaller one,
//!   so the best of a part stays the best in the whole, and a table by `k` and modules finds it.
//!
//! Memory: `(modules of a face + 1) x product of (inputs of a class + 1)` entries.

use serde::{Deserialize, Serialize};

use super::{MpptInputs, MpptString, SiteTemps, Sources, WindowInputs, mppt, window};
use crate::figure::{Def, Sheet, Stage, Subject, SubjectKind, Value, Verdict};
use crate::job::ColdMethod;
use crate::library::{InverterRatings, ModuleRatings};
use crate::quantity::{Percent, Ratio, Watts, above};
use crate::school::School;

macro_rules! defs {
    ($($(#[$doc:meta])* $name:ident $id:literal $title:literal;)*) => {$(
        $(#[$doc])*
        pub static $name: Def = Def { id: $id, title: $title, stage: Stage::Strings, na: "layout search", iec: "layout search" };
    )*};
}

defs! {
    /// Whether any layout is free of failures.
    LAYOUT "layout" "Layout that fits";
    /// How many there are with the fewest modules left off.
    FEASIBLE "layout.feasible_n" "Layouts that fit";
    /// Failures of the best.
    FAILS "layout.fails_n" "Failures of the best layout";
    /// Largest less smallest watts of the inputs in use.
    UNBALANCE "layout.unbalance_w" "Difference of the inputs in use";
    /// Strings in all.
    STRINGS "layout.strings_n" "Strings of the best layout";
    /// Smallest margin to either end of the window.
    MARGIN "layout.margin_pct" "Smallest margin of the best layout";
    /// Modules left off.
    UNUSED "layout.unused_n" "Modules left off";
    /// Module watts in all.
    POWER "inverter.power_dc_w" "Module watts on the inverter";
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

/// Strings on an input that pass every check: `p` strings of `n`.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Choice {
    /// Modules in series.
    pub n: u32,
    /// Strings in parallel.
    pub p: u32,
    /// Smallest margin to either end of the window, %.
    pub margin_pct: f64,
}

impl Choice {
    fn modules(&self) -> u32 {
        self.n * self.p
    }
}

/// Everything up to `most` modules that an input may take without a failure, by the checks of the strings.
pub fn choices(x: &LayoutInputs, input: &LayoutMppt, most: u32, school: School) -> Vec<Choice> {
    let ratings = input.ratings(&x.inverter);
    let sources = Sources::default();
    let mut found = Vec::new();
    for n in 1..=most {
        let mut sheet = Sheet::new(school, Subject::new(SubjectKind::String, ""));
        window(
            &mut sheet,
            &WindowInputs {
                module: &x.module,
                inverter: &ratings,
                site: &x.site,
                n,
                method: ColdMethod::Coefficient,
                sources: &sources,
                n_pointer: None,
            },
        );
        let fails = |sheet: &Sheet| sheet.checks.iter().any(|c| c.verdict == Verdict::Fail);
        if sheet.checks.iter().any(|c| c.id == "string.voc_cold_v" && c.verdict == Verdict::Fail) {
            // Longer strings only have more volts.
            break;
        }
        if fails(&sheet) {
            continue;
        }
        let margin_of = |id: &str, limit: Option<f64>, at_most: bool| {
            let value = sheet.figures.iter().find(|f| f.id == id)?.value.as_ref()?.number()?;
            let limit = limit?;
            Some((if at_most { limit - value } else { value - limit }) / limit * 100.0)
        };
        let cold_limit = sheet.figures.iter().find(|f| f.id == "string.limit_v").and_then(|f| f.value.as_ref()).and_then(Value::number);
        let cold = margin_of("string.voc_cold_v", cold_limit, true);
        let hot = margin_of("string.vmp_hot_v", ratings.mppt_min_v, false);
        let margin_pct = cold.into_iter().chain(hot).fold(f64::INFINITY, f64::min);
        for p in 1..=input.strings_max_n.min(most / n) {
            let mut sheet = Sheet::new(school, Subject::new(SubjectKind::Mppt, ""));
            let strings = [MpptString { module: &x.module, n, p }];
            mppt(&mut sheet, &MpptInputs { strings: &strings, inverter: &ratings, sources: &sources });
            if fails(&sheet) {
                // More strings only have more amps and watts.
                break;
            }
            found.push(Choice { n, p, margin_pct });
        }
    }
    found
}

/// Inputs that are alike, and what each of them may take.
struct Class {
    inputs: Vec<usize>,
    choices: Vec<Choice>,
}

/// A number of inputs of each class, as one index.
struct Shares {
    /// Inputs of each class.
    most: Vec<usize>,
}

impl Shares {
    fn count(&self) -> usize {
        self.most.iter().map(|k| k + 1).product()
    }

    /// Step of the index for one more input of a class.
    fn step(&self, class: usize) -> usize {
        self.most[..class].iter().map(|k| k + 1).product()
    }

    /// Inputs of a class in an index.
    fn of(&self, index: usize, class: usize) -> usize {
        index / self.step(class) % (self.most[class] + 1)
    }

    /// The index of both together; none where a class has not that many inputs.
    fn sum(&self, a: usize, b: usize) -> Option<usize> {
        (0..self.most.len()).all(|c| self.of(a, c) + self.of(b, c) <= self.most[c]).then_some(a + b)
    }
}

/// Finds the best layout and counts all of them.
pub fn search(x: &LayoutInputs, school: School) -> Found {
    let total: u32 = x.faces_modules_n.iter().sum();
    let largest = x.faces_modules_n.iter().copied().max().unwrap_or(0);
    let mut classes: Vec<(&LayoutMppt, Class)> = Vec::new();
    for (i, input) in x.mppts.iter().enumerate() {
        match classes.iter_mut().find(|(like, _)| *like == input) {
            Some((_, class)) => class.inputs.push(i),
            None => classes.push((input, Class { inputs: vec![i], choices: choices(x, input, largest, school) })),
        }
    }
    let classes: Vec<Class> = classes.into_iter().map(|(_, class)| class).collect();
    let shares = Shares { most: classes.iter().map(|c| c.inputs.len()).collect() };
    for unused_n in 0..total {
        let watts = f64::from(total - unused_n) * x.module.pmax_w.unwrap_or(0.0);
        if x.inverter.dc_w_max_w.is_some_and(|most| above(watts, most)) {
            continue;
        }
        let mut found = Found { unused_n, ..Found::default() };
        let mut best: Option<(Score, Layout)> = None;
        for faces in leaving_off(&x.faces_modules_n, unused_n) {
            let ways = count(&classes, &shares, &faces);
            if ways == 0 {
                continue;
            }
            found.feasible_n = found.feasible_n.saturating_add(ways);
            if let Some(candidate) = best_of(x, &classes, &shares, &faces)
                && best.as_ref().is_none_or(|(score, _)| candidate.0.better_than(score))
            {
                best = Some(candidate);
            }
        }
        if found.feasible_n > 0 {
            (found.margin_pct, found.best) = best.map(|(score, layout)| (score.margin_pct, layout)).unzip();
            return found;
        }
    }
    Found { unused_n: total, ..Found::default() }
}

/// Every way to leave `unused` modules off, as the modules that stay on each face.
fn leaving_off(faces: &[u32], unused: u32) -> Vec<Vec<u32>> {
    let Some((first, rest)) = faces.split_first() else { return if unused == 0 { vec![Vec::new()] } else { Vec::new() } };
    (0..=unused.min(*first))
        .flat_map(|off| {
            leaving_off(rest, unused - off).into_iter().map(move |mut tail| {
                tail.insert(0, first - off);
                tail
            })
        })
        .collect()
}

/// How many layouts use exactly these modules.
fn count(classes: &[Class], shares: &Shares, faces: &[u32]) -> u128 {
    let mut all = vec![0_u128; shares.count()];
    all[0] = 1;
    for &modules in faces {
        let bags = bags(classes, shares, modules as usize);
        let mut next = vec![0_u128; shares.count()];
        for (a, ways) in all.iter().enumerate().filter(|(_, w)| **w > 0) {
            for (b, more) in bags.iter().enumerate().filter(|(_, w)| **w > 0) {
                if let Some(sum) = shares.sum(a, b) {
                    next[sum] = next[sum].saturating_add(ways.saturating_mul(*more));
                }
            }
        }
        all = next;
    }
    all.into_iter().fold(0, u128::saturating_add)
}

/// Bags of choices that use exactly `modules`, by the inputs they take of each class.
fn bags(classes: &[Class], shares: &Shares, modules: usize) -> Vec<u128> {
    // table[share][sum]; a choice may be taken any number of times, so sums grow upward within it.
    let mut table = vec![vec![0_u128; modules + 1]; shares.count()];
    table[0][0] = 1;
    for (c, class) in classes.iter().enumerate() {
        let step = shares.step(c);
        for m in class.choices.iter().map(|o| o.modules() as usize).filter(|m| *m <= modules) {
            for share in 0..table.len() {
                if shares.of(share, c) == 0 {
                    continue;
                }
                for sum in m..=modules {
                    let ways = table[share - step][sum - m];
                    table[share][sum] = table[share][sum].saturating_add(ways);
                }
            }
        }
    }
    table.into_iter().map(|sums| sums[modules]).collect()
}

/// What layouts are ranked by.
#[derive(Clone, Copy, Debug, PartialEq)]
struct Score {
    /// Largest less smallest modules of the inputs in use.
    unbalance_n: u32,
    strings_n: u32,
    margin_pct: f64,
}

impl Score {
    fn better_than(&self, other: &Score) -> bool {
        (self.unbalance_n, self.strings_n)
            .cmp(&(other.unbalance_n, other.strings_n))
            .then(other.margin_pct.total_cmp(&self.margin_pct))
            .is_lt()
    }
}

/// The best way to a sum of modules: strings, margin, and the last input taken.
#[derive(Clone, Copy)]
struct Step {
    strings_n: u32,
    margin_pct: f64,
    class: usize,
    choice: usize,
}

impl Step {
    fn better_than(&self, other: &Step) -> bool {
        self.strings_n.cmp(&other.strings_n).then(other.margin_pct.total_cmp(&self.margin_pct)).is_lt()
    }
}

type Table = Vec<Vec<Option<Step>>>;

/// The best layout of exactly these modules, if there is one.
fn best_of(x: &LayoutInputs, classes: &[Class], shares: &Shares, faces: &[u32]) -> Option<(Score, Layout)> {
    let mut sizes: Vec<u32> = classes.iter().flat_map(|c| c.choices.iter().map(Choice::modules)).collect();
    sizes.sort_unstable();
    sizes.dedup();
    let mut differences: Vec<u32> = sizes.iter().flat_map(|a| sizes.iter().filter(move |b| *b >= a).map(move |b| b - a)).collect();
    differences.sort_unstable();
    differences.dedup();
    for unbalance_n in differences {
        let mut best: Option<(Score, Layout)> = None;
        for &low in &sizes {
            let Some((step, layout)) = best_between(x, classes, shares, faces, low, low + unbalance_n) else { continue };
            let score = Score { unbalance_n, strings_n: step.0, margin_pct: step.1 };
            if best.as_ref().is_none_or(|(b, _)| score.better_than(b)) {
                best = Some((score, layout));
            }
        }
        if best.is_some() {
            return best;
        }
    }
    None
}

/// The best layout whose inputs in use hold between `low` and `high` modules each: strings, margin, layout.
fn best_between(x: &LayoutInputs, classes: &[Class], shares: &Shares, faces: &[u32], low: u32, high: u32) -> Option<((u32, f64), Layout)> {
    let tables: Vec<Table> = faces.iter().map(|&m| table(classes, shares, m as usize, low, high)).collect();
    // all[share]: strings, margin and the share of each face so far.
    let mut all: Vec<Option<(u32, f64, Vec<usize>)>> = vec![None; shares.count()];
    all[0] = Some((0, f64::INFINITY, Vec::new()));
    for (face, &modules) in faces.iter().enumerate() {
        let mut next: Vec<Option<(u32, f64, Vec<usize>)>> = vec![None; shares.count()];
        for (a, so_far) in all.iter().enumerate().filter_map(|(a, s)| s.as_ref().map(|s| (a, s))) {
            for (b, sums) in tables[face].iter().enumerate() {
                let Some(sum) = shares.sum(a, b) else { continue };
                let (strings, margin) = match (&sums[modules as usize], b, modules) {
                    (Some(step), ..) => (step.strings_n, step.margin_pct),
                    (None, 0, 0) => (0, f64::INFINITY),
                    _ => continue,
                };
                let candidate = (so_far.0 + strings, so_far.1.min(margin));
                let better = next[sum].as_ref().is_none_or(|old| candidate.0 < old.0 || (candidate.0 == old.0 && candidate.1 > old.1));
                if better {
                    let mut taken = so_far.2.clone();
                    taken.push(b);
                    next[sum] = Some((candidate.0, candidate.1, taken));
                }
            }
        }
        all = next;
    }
    let best = all.into_iter().flatten().filter(|s| s.0 > 0).reduce(|a, b| if (b.0, -b.1) < (a.0, -a.1) { b } else { a })?;
    let layout = laid_out(x, classes, shares, faces, &tables, &best.2);
    Some(((best.0, best.1), layout))
}

/// For each share of the inputs and each sum of modules the best way to it.
fn table(classes: &[Class], shares: &Shares, modules: usize, low: u32, high: u32) -> Table {
    let mut table: Table = vec![vec![None; modules + 1]; shares.count()];
    for share in 0..shares.count() {
        for (c, class) in classes.iter().enumerate() {
            if shares.of(share, c) == 0 {
                continue;
            }
            let before = share - shares.step(c);
            for (o, choice) in class.choices.iter().enumerate() {
                let m = choice.modules();
                if m < low || m > high || m as usize > modules {
                    continue;
                }
                for sum in m as usize..=modules {
                    let rest = sum - m as usize;
                    let (strings, margin) = match table[before][rest] {
                        Some(step) => (step.strings_n, step.margin_pct),
                        None if before == 0 && rest == 0 => (0, f64::INFINITY),
                        None => continue,
                    };
                    let step = Step { strings_n: strings + choice.p, margin_pct: margin.min(choice.margin_pct), class: c, choice: o };
                    if table[share][sum].as_ref().is_none_or(|old| step.better_than(old)) {
                        table[share][sum] = Some(step);
                    }
                }
            }
        }
    }
    table
}

/// Walks the tables back to the inputs.
fn laid_out(x: &LayoutInputs, classes: &[Class], shares: &Shares, faces: &[u32], tables: &[Table], taken: &[usize]) -> Layout {
    let mut layout: Layout = vec![None; x.mppts.len()];
    let mut free: Vec<usize> = vec![0; classes.len()];
    for (face, (&modules, &share)) in faces.iter().zip(taken).enumerate() {
        let (mut share, mut sum) = (share, modules as usize);
        while let Some(step) = tables[face][share][sum] {
            let choice = classes[step.class].choices[step.choice];
            layout[classes[step.class].inputs[free[step.class]]] = Some(MpptUse { face, n: choice.n, p: choice.p });
            free[step.class] += 1;
            share -= shares.step(step.class);
            sum -= choice.modules() as usize;
        }
    }
    layout
}

/// The search as figures: the best layout's score by its parts. Gives the layout.
pub fn layout(sheet: &mut Sheet, x: &LayoutInputs) -> Option<Layout> {
    let found = search(x, sheet.school);
    sheet.count(&FEASIBLE, |w| Some(w.given("layouts that fit", Ratio(found.feasible_n as f64), "every way to deal the modules out")));
    let verdict = if found.best.is_some() { Verdict::Pass } else { Verdict::Fail };
    sheet
        .judge(&LAYOUT, verdict)
        .reason("No way to deal the modules out is free of failures, not even with modules left off.")
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
        Some((most - w.given("fewest on an input in use", Ratio(f64::from(least)), "modules")) * pmax)
    });
    sheet.count(&STRINGS, |w| Some(w.given("strings", Ratio(used.iter().map(|u| f64::from(u.p)).sum()), "layout")));
    sheet.figure(&MARGIN, |w| Some(w.given("smallest of all strings", Percent(found.margin_pct?), "string.voc_cold_v, string.vmp_hot_v")));
    sheet.count(&UNUSED, |w| Some(w.given("left off", Ratio(f64::from(found.unused_n)), "layout")));
    sheet.figure(&POWER, |w| {
        let n = w.given("modules", Ratio(used.iter().map(|u| f64::from(u.n * u.p)).sum()), "layout");
        Some(n * w.given("Pmax", Watts(one), "module data sheet"))
    });
    Some(best)
}
