//! Ways to wire a job: the modules of each face over the inputs of its inverters, ranked, with the
//! parts of the score and the checks that do not hold; what fails and by how much; and what would
//! make it fit.
//!
//! Ways that differ only by swapping like inputs, of one inverter or of like inverters, are one.

use serde::{Deserialize, Serialize};
use serde_json::json;
use utoipa::ToSchema;

use super::deal::{
    Budget, Counted, Deal, Group, Pick, Shares, Wanted, counted, most_placed, ranked,
    ways as count_ways,
};
use super::layout::{Choice, Examined, Note, examine};
use super::{MpptString, SiteTemps, Sources, inverter_totals};
use crate::figure::{Edit, Sheet, Subject, SubjectKind, Verdict, said};
use crate::job::{CircuitKind, Job, JobString, Problem};
use crate::library::{InverterSheet, Library, Mppt, SheetRef};
use crate::quantity::{Unit, above, floor};

/// Ways listed where the question says nothing else.
const KEEP: usize = 24;
/// Failing ways listed.
const KEEP_FAILING: usize = 12;
/// Ways kept while an inverter's watts in all may still strike some out.
const KEEP_WIDE: usize = 60;
/// Failing choices are looked at up to this far beyond a limit, %.
const MISS_MAX_PCT: f64 = 30.0;
/// Entries the ranking looks at before it says that it searched a part; about a second.
const BUDGET: u64 = 2_000_000;
/// Sums of modules to which faces that share inputs are searched together.
const MIXED_SUMS: usize = 40_000;
/// Cells of the counting tables times picks; about a second and 60 MB.
const MOST_WORK: usize = 120_000_000;
/// Cells of one counting table; 16 bytes each.
const MOST_CELLS: usize = 4_000_000;
/// Ways to leave modules off that are ranked.
const PLACEMENTS: usize = 20;
/// Steps of the search that deals inputs out over inverters with a limit of their own.
const ASSIGN_STEPS: u32 = 4000;

/// Modules of a face to be wired.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct WayFace {
    /// The face.
    pub face: String,
    /// Its modules.
    #[schema(minimum = 0, maximum = 5000)]
    pub modules_n: u32,
}

/// What is asked.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct WaysAsk {
    /// The module's data sheet.
    pub module: SheetRef,
    /// Modules of each face.
    pub faces: Vec<WayFace>,
    /// All strings the same length.
    #[serde(default)]
    pub equal_strings: bool,
    /// Strings of different faces may share an input.
    #[serde(default)]
    pub faces_may_mix: bool,
    /// Strings in all at most.
    #[serde(default)]
    #[schema(minimum = 1, maximum = 500)]
    pub home_runs_max: Option<u32>,
    /// Only ways that use every module.
    #[serde(default)]
    pub use_all: bool,
    /// Strings on one input at most; its connectors where absent. More need a combiner.
    #[serde(default)]
    #[schema(minimum = 1, maximum = 20)]
    pub strings_per_input: Option<u32>,
}

/// What a job has now, as a question; none where no module is known.
pub fn ask_of(job: &Job, library: &Library) -> Option<WaysAsk> {
    let module = job.strings.first().map(|s| s.module.clone()).or_else(|| {
        let first = library.modules.first()?;
        Some(SheetRef { sheet: first.sheet.clone(), revision: first.revision })
    })?;
    let on = |face: &str| job.strings.iter().filter(|s| s.face == face).map(|s| s.n).sum();
    let faces = job
        .site
        .faces
        .iter()
        .map(|f| WayFace { face: f.id.clone(), modules_n: on(&f.id) })
        .collect();
    Some(WaysAsk {
        module,
        faces,
        equal_strings: false,
        faces_may_mix: false,
        home_runs_max: None,
        use_all: false,
        strings_per_input: None,
    })
}

/// What an input takes in a way.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct WayUse {
    /// The inverter.
    pub inverter: String,
    /// The input, from 1.
    pub mppt: u32,
    /// The face.
    pub face: String,
    /// Modules in series.
    pub n: u32,
    /// Strings in parallel.
    pub p: u32,
}

/// A way, with the parts of its score in the order they count.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct Way {
    /// What the inputs take, in their order.
    pub uses: Vec<WayUse>,
    /// Checks that fail.
    pub fails_n: u32,
    /// Watts of the fullest less those of the emptiest input in use.
    pub unbalance_w: f64,
    /// Strings: home runs, isolators, surge devices.
    pub strings_n: u32,
    /// Smallest margin to either end of the window, %.
    pub margin_pct: Option<f64>,
    /// Modules left off.
    pub unused_n: u32,
    /// Checks that come to a caution.
    pub warns_n: u32,
    /// Module watts in all.
    pub power_w: f64,
    /// Every check that does not hold, the worst first.
    pub notes: Vec<Note>,
    /// The edits that put it into the job.
    pub edits: Vec<Edit>,
    /// The job is wired so now.
    pub current: bool,
}

/// What would make it fit.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct Remedy {
    /// One sentence.
    pub text: String,
    /// The data sheet the inverters would have.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub inverter: Option<SheetRef>,
    /// The best way it gives.
    pub way: Way,
}

/// The answer.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct Ways {
    /// The question, with what it left open filled in.
    pub ask: WaysAsk,
    /// The best ways without a failure, in order.
    pub ways: Vec<Way>,
    /// How many there are with the fewest modules left off; absent where strings are limited and
    /// they are not counted.
    pub feasible_n: Option<f64>,
    /// That number is exact; else some of them overload an inverter in all.
    pub feasible_exact: bool,
    /// Why the first goes before the second.
    pub why: Option<String>,
    /// Ways that fail, with what and by how much.
    pub failing: Vec<Way>,
    /// The way with all modules that misses by least, where none fits.
    pub nearest: Option<Way>,
    /// What would make it fit, where not every module finds a place.
    pub remedies: Vec<Remedy>,
    /// Where only a part was searched: what that part is.
    pub searched_part: Option<String>,
}

struct Class<'a> {
    sheet: &'a InverterSheet,
    mppt: &'a Mppt,
    /// Inverter by index, input from 1.
    inputs: Vec<(usize, u32)>,
    choices: Vec<Choice>,
}

struct Setup<'a> {
    job: &'a Job,
    ask: &'a WaysAsk,
    pmax_w: f64,
    module: &'a crate::library::ModuleSheet,
    inverters: Vec<(&'a str, &'a InverterSheet)>,
    classes: Vec<Class<'a>>,
    shares: Shares,
    groups: Vec<Group>,
    /// Faces would be mixed if there were not so many ways to.
    mixed_out: bool,
}

/// Every way to wire the modules of the question, ranked. `others` are inverters that might make it
/// fit.
///
/// # Errors
/// What the question lacks, with its place.
pub fn ways(
    job: &Job,
    library: &Library,
    ask: &WaysAsk,
    others: &[InverterSheet],
) -> Result<Ways, Vec<Problem>> {
    let setup = Setup::new(job, library, ask, None)?;
    let total = setup.total();
    let (mut budget, keep) = (Budget(BUDGET), KEEP);
    let mut found = setup.feasible(keep, &mut budget);
    let all_placed = found.unused_n == 0 && !found.ways.is_empty();
    if ask.use_all && !all_placed {
        found.ways.clear();
        found.feasible_n = Some(0.0);
    }
    let searched_part = found.part.or_else(|| {
        setup.mixed_out.then(|| {
            "There are too many ways to mix the faces: each input takes one face here.".to_owned()
        })
    });
    // What fails is looked at with less effort: it explains, it is not chosen.
    let failing = setup.failing(&mut Budget(BUDGET / 6));
    let (nearest, remedies) = if all_placed || total == 0 {
        (None, Vec::new())
    } else {
        (
            setup.nearest(&mut Budget(BUDGET / 6)),
            remedies(job, library, ask, others, &setup, &found.ways),
        )
    };
    Ok(Ways {
        ask: ask.clone(),
        why: why(&found.ways),
        ways: found.ways,
        feasible_n: found.feasible_n,
        feasible_exact: found.exact,
        failing,
        nearest,
        remedies,
        searched_part,
    })
}

/// What would make every module fit: faces that share inputs, another inverter, or fewer modules.
fn remedies(
    job: &Job,
    library: &Library,
    ask: &WaysAsk,
    others: &[InverterSheet],
    setup: &Setup,
    fewer: &[Way],
) -> Vec<Remedy> {
    let mut found: Vec<Remedy> = Vec::new();
    let mut budget = Budget(BUDGET / 2);
    let mut fits = |ask: &WaysAsk, other: Option<&InverterSheet>| -> Option<Way> {
        let setup = Setup::new(job, library, ask, other).ok()?;
        let best = setup.feasible(1, &mut budget);
        (best.unused_n == 0).then(|| best.ways.into_iter().next()).flatten()
    };
    if !ask.faces_may_mix && ask.faces.iter().filter(|f| f.modules_n > 0).count() > 1 {
        let mixed = WaysAsk { faces_may_mix: true, ..ask.clone() };
        if let Some(way) = fits(&mixed, None) {
            found.push(Remedy {
                text: "Let strings of different faces share an input; some yield is lost."
                    .to_owned(),
                inverter: None,
                way,
            });
        }
    }
    if let Some(most) =
        setup.classes.iter().map(|c| setup.strings_max(c.mppt)).max().filter(|m| *m < 20)
    {
        let more = WaysAsk { strings_per_input: Some(most + 1), ..ask.clone() };
        if let Some(way) = fits(&more, None) {
            let text =
                format!("{} strings on an input by way of a combiner or a Y-pair.", most + 1);
            found.push(Remedy { text, inverter: None, way });
        }
    }
    let mut sheets: Vec<&InverterSheet> = others
        .iter()
        .filter(|o| {
            setup.inverters.iter().any(|(_, s)| s.sheet != o.sheet || s.revision != o.revision)
        })
        .collect();
    let output = setup.inverters.first().and_then(|(_, s)| s.ac_w).unwrap_or(0.0);
    let off = |s: &InverterSheet| (s.ac_w.unwrap_or(0.0) - output).abs();
    sheets.sort_by(|a, b| off(a).total_cmp(&off(b)));
    for other in sheets.into_iter().take(8) {
        if let Some(way) = fits(ask, Some(other)) {
            let count = setup.inverters.len();
            let text = format!(
                "{} {} rev {} in place of what is planned.",
                count, other.model, other.revision
            );
            found.push(Remedy { text, inverter: Some(other.reference()), way });
        }
        if found.iter().filter(|r| r.inverter.is_some()).count() == 3 {
            break;
        }
    }
    if !ask.use_all
        && let Some(way) = fewer.first()
    {
        let text = format!(
            "{} {} fewer.",
            way.unused_n,
            if way.unused_n == 1 { "module" } else { "modules" }
        );
        found.push(Remedy { text, inverter: None, way: way.clone() });
    }
    found
}

/// Why the first of a list goes before the second, by the first part of the score in which they
/// differ.
fn why(ways: &[Way]) -> Option<String> {
    let (first, second) = (ways.first()?, ways.get(1));
    let Some(second) = second else {
        return Some("It is the only way without a failure.".to_owned());
    };
    let watts = |w: f64| said(w, Unit::W);
    let pct = |m: Option<f64>| m.map_or_else(|| "none".to_owned(), |m| said(m, Unit::Percent));
    Some(if first.unbalance_w != second.unbalance_w {
        format!(
            "The first is more even than the second: its fullest and emptiest inputs differ by \
                {}, not {}.",
            watts(first.unbalance_w),
            watts(second.unbalance_w)
        )
    } else if first.strings_n != second.strings_n {
        format!(
            "As even as the second, the first has {} strings to wire, not {}.",
            first.strings_n, second.strings_n
        )
    } else if first.margin_pct != second.margin_pct {
        format!(
            "As even as the second and with as many strings, the first keeps {} to the nearest \
                limit, not {}.",
            pct(first.margin_pct),
            pct(second.margin_pct)
        )
    } else {
        "The first and the second score alike in every part: take the one that is easier to wire."
            .to_owned()
    })
}

struct Feasible {
    ways: Vec<Way>,
    unused_n: u32,
    feasible_n: Option<f64>,
    exact: bool,
    part: Option<String>,
}

impl<'a> Setup<'a> {
    fn new(
        job: &'a Job,
        library: &'a Library,
        ask: &'a WaysAsk,
        other: Option<&'a InverterSheet>,
    ) -> Result<Self, Vec<Problem>> {
        let wrong = |path: &str, message: &str, hint: &str| vec![Problem::new(path, message, hint)];
        let module = library.module(&ask.module).ok_or_else(|| {
            wrong(
                "/ask/module",
                "no such data sheet is in the job's library",
                "a module of the library",
            )
        })?;
        let pmax_w = module.ratings.pmax_w.ok_or_else(|| {
            wrong("/ask/module", "module.pmax_w is missing", "enter the rated power")
        })?;
        let inverters: Vec<(&str, &InverterSheet)> = job
            .inverters
            .iter()
            .filter_map(|i| Some((i.id.as_str(), other.or_else(|| library.inverter(&i.sheet))?)))
            .collect();
        if inverters.is_empty() {
            return Err(wrong(
                "/job/inverters",
                "there is no inverter to wire to",
                "choose one first",
            ));
        }
        if job.strings.iter().any(|s| s.optimizer.is_some()) {
            let hint = "their count and watts are held against the optimizer, string by string";
            return Err(wrong(
                "/job/strings",
                "strings with optimizers are not dealt out by their volts",
                hint,
            ));
        }
        for (i, face) in ask.faces.iter().enumerate() {
            if job.face(&face.face).is_none() {
                return Err(wrong(
                    &format!("/ask/faces/{i}/face"),
                    "the job has no such face",
                    "a face of the site",
                ));
            }
        }
        let total: u32 = ask.faces.iter().map(|f| f.modules_n).sum();
        if total > 5000 {
            return Err(wrong("/ask/faces", "more than 5000 modules", "at most 5000 at a time"));
        }
        let site = SiteTemps::of(job);
        let needs_b = job.site.cold_method == crate::job::ColdMethod::Coefficient
            && module.ratings.b_voc_pct_c.is_none();
        let needs_t =
            job.site.cold_method != crate::job::ColdMethod::Factor && site.t_min_c.is_none();
        let mut missing: Vec<Problem> = Vec::new();
        for (lacks, path, field) in [
            (module.ratings.voc_v.is_none(), "/ask/module", "module.voc_v"),
            (needs_b, "/ask/module", "module.b_voc_pct_c"),
            (needs_t, "/job/site/t_min_c", "site.t_min_c"),
        ] {
            if lacks {
                missing.push(Problem::new(
                    path,
                    format!("{field} is missing: cold volts cannot be had"),
                    "enter it first",
                ));
            }
        }
        if !missing.is_empty() {
            return Err(missing);
        }
        let mut classes: Vec<Class> = Vec::new();
        let largest = if ask.faces_may_mix {
            total
        } else {
            ask.faces.iter().map(|f| f.modules_n).max().unwrap_or(0)
        };
        for (i, (_, sheet)) in inverters.iter().enumerate() {
            for (k, mppt) in sheet.mppts.iter().enumerate() {
                let input = (i, k as u32 + 1);
                match classes.iter_mut().find(|c| {
                    c.sheet.sheet == sheet.sheet
                        && c.sheet.revision == sheet.revision
                        && c.mppt == mppt
                }) {
                    Some(class) => class.inputs.push(input),
                    None => classes.push(Class {
                        sheet,
                        mppt,
                        inputs: vec![input],
                        choices: Vec::new(),
                    }),
                }
            }
        }
        let mut setup = Setup {
            job,
            ask,
            pmax_w,
            module,
            inverters,
            classes,
            shares: Shares { most: Vec::new() },
            groups: Vec::new(),
            mixed_out: false,
        };
        for c in 0..setup.classes.len() {
            let class = &setup.classes[c];
            let ratings = class.sheet.ratings_at(class.inputs[0].1).unwrap_or_default();
            let examined = Examined {
                module: &module.ratings,
                ratings: &ratings,
                site: &site,
                method: job.site.cold_method,
                strings_max_n: setup.strings_max(class.mppt),
                most: largest,
                miss_max_pct: MISS_MAX_PCT,
            };
            setup.classes[c].choices = examine(&examined, job.school);
        }
        setup.shares = Shares { most: setup.classes.iter().map(|c| c.inputs.len()).collect() };
        setup.group(ask.faces_may_mix);
        if setup.too_large() && ask.faces_may_mix {
            setup.group(false);
            setup.mixed_out = true;
        }
        if setup.too_large() {
            let message = format!(
                "{} kinds of inputs with {} modules are too many to search at once",
                setup.classes.len(),
                total
            );
            return Err(wrong(
                "/ask/faces",
                &message,
                "ask for one inverter, or for some of the faces, at a time",
            ));
        }
        Ok(setup)
    }

    /// Whether the counting tables would take too long or too much memory.
    fn too_large(&self) -> bool {
        let shares = self.shares.most.iter().fold(1_usize, |all, k| all.saturating_mul(k + 1));
        self.groups.iter().any(|g| {
            let sums = g.modules.iter().fold(1_usize, |all, m| all.saturating_mul(*m as usize + 1));
            let cells = shares.saturating_mul(sums);
            cells > MOST_CELLS || cells.saturating_mul(g.picks.len()) > MOST_WORK
        })
    }

    fn total(&self) -> u32 {
        self.ask.faces.iter().map(|f| f.modules_n).sum()
    }

    fn strings_max(&self, mppt: &Mppt) -> u32 {
        self.ask
            .strings_per_input
            .unwrap_or_else(|| mppt.connectors_n.unwrap_or(1.0).max(1.0) as u32)
    }

    /// Each face a group of its own; all of them one where they may share inputs and the sums are
    /// not too many.
    fn group(&mut self, may_mix: bool) {
        let modules: Vec<u32> = self.ask.faces.iter().map(|f| f.modules_n).collect();
        let sums: usize = modules.iter().fold(1, |all, m| all.saturating_mul(*m as usize + 1));
        let mix = may_mix && modules.iter().filter(|m| **m > 0).count() > 1;
        self.mixed_out = mix && sums > MIXED_SUMS;
        let together: Vec<Vec<usize>> = if mix && !self.mixed_out {
            vec![(0..modules.len()).collect()]
        } else {
            (0..modules.len()).map(|f| vec![f]).collect()
        };
        self.groups = together
            .into_iter()
            .map(|faces| {
                let mut picks = Vec::new();
                for (class, own) in self.classes.iter().enumerate() {
                    for (choice, c) in own.choices.iter().enumerate() {
                        for strings_n in compositions(c.p, faces.len()) {
                            picks.push(Pick {
                                class,
                                choice,
                                n: c.n,
                                strings_n,
                                margin_pct: c.margin_pct,
                                miss_pct: c.miss_pct,
                            });
                        }
                    }
                }
                Group { modules: faces.iter().map(|f| modules[*f]).collect(), faces, picks }
            })
            .collect();
    }

    /// Most modules by the inverters' watts in all.
    fn cap(&self) -> u32 {
        let most = |s: &InverterSheet| {
            s.dc_w_max_w.map_or(f64::from(self.total()), |w| floor(w / self.pmax_w))
        };
        self.inverters.iter().map(|(_, s)| most(s)).sum::<f64>().clamp(0.0, f64::from(self.total()))
            as u32
    }

    /// Whether full inputs could overload an inverter in all.
    fn cap_may_bind(&self) -> bool {
        self.inverters.len() > 1
            && self.inverters.iter().enumerate().any(|(i, (_, sheet))| {
                let fullest = |c: &Class| {
                    c.choices
                        .iter()
                        .filter(|o| o.miss_pct == 0.0)
                        .map(|o| o.n * o.p)
                        .max()
                        .unwrap_or(0)
                };
                let here: u32 = self
                    .classes
                    .iter()
                    .map(|c| {
                        c.inputs.iter().filter(|(own, _)| *own == i).count() as u32 * fullest(c)
                    })
                    .sum();
                sheet
                    .dc_w_max_w
                    .is_some_and(|w| above(f64::from(here.min(self.total())) * self.pmax_w, w))
            })
    }

    fn lengths(&self) -> Vec<Option<u32>> {
        if !self.ask.equal_strings {
            return vec![None];
        }
        let mut lengths: Vec<u32> =
            self.classes.iter().flat_map(|c| c.choices.iter().map(|o| o.n)).collect();
        lengths.sort_unstable();
        lengths.dedup();
        lengths.into_iter().map(Some).collect()
    }

    /// The best ways with the fewest modules left off.
    fn feasible(&self, keep: usize, budget: &mut Budget) -> Feasible {
        let total = self.total();
        let none = Feasible {
            ways: Vec::new(),
            unused_n: total,
            feasible_n: Some(0.0),
            exact: true,
            part: None,
        };
        let binds = self.cap_may_bind();
        let mut cap = self.cap();
        loop {
            let mut best: Vec<Deal> = Vec::new();
            let (mut placed_n, mut count, mut part): (u32, u128, Option<u32>) = (0, 0, None);
            let mut searched_all = true;
            for n in self.lengths() {
                let allowed = |p: &Pick| p.miss_pct == 0.0 && n.is_none_or(|n| p.n == n);
                let counts: Vec<Counted> =
                    self.groups.iter().map(|g| counted(&self.shares, g, allowed)).collect();
                let (here, placements) =
                    most_placed(&self.shares, &self.groups, &counts, cap, PLACEMENTS + 1);
                if here == 0 || here < placed_n {
                    continue;
                }
                if here > placed_n {
                    (placed_n, count, part) = (here, 0, None);
                    best.clear();
                }
                searched_all &= placements.len() <= PLACEMENTS;
                for placed in placements.iter().take(PLACEMENTS) {
                    count = count.saturating_add(count_ways(
                        &self.shares,
                        &self.groups,
                        &counts,
                        placed,
                    ));
                    let keep = if binds { KEEP_WIDE } else { keep };
                    let wanted = Wanted {
                        keep,
                        strings_max: self.ask.home_runs_max,
                        n,
                        failing: false,
                        placed,
                    };
                    let (deals, cut) = ranked(&self.shares, &self.groups, &wanted, budget);
                    part = cut.into_iter().chain(part).min();
                    best.extend(deals);
                }
            }
            if placed_n == 0 {
                return none;
            }
            best.sort_by(Deal::order);
            let unused_n = total - placed_n;
            let mut kept: Vec<Way> = Vec::new();
            let mut dropped = false;
            for deal in &best {
                match self.assigned(deal, true) {
                    Some(uses) => kept.push(self.way(deal, uses, unused_n)),
                    None => dropped = true,
                }
                if kept.len() == keep {
                    break;
                }
            }
            if kept.is_empty()
                && placed_n > 1
                && (binds || self.ask.home_runs_max.is_some())
                && !budget.spent()
            {
                // Every way with this many overloads an inverter, or has too many strings: with
                // fewer modules.
                cap = placed_n - 1;
                continue;
            }
            let exact = !binds && searched_all;
            let words = |cut: u32| {
                format!(
                    "Too many ways to look at all: those whose inputs differ by up to {} were all \
                        looked at; a better one differs by more.",
                    said(f64::from(cut) * self.pmax_w, Unit::W)
                )
            };
            let part = part.map(words).or_else(|| {
                (!searched_all).then(|| {
                    format!(
                        "There are more than {PLACEMENTS} ways to choose the modules \
                        left off: these are of the first."
                    )
                })
            });
            return Feasible {
                ways: kept,
                unused_n,
                feasible_n: self.ask.home_runs_max.is_none().then_some(count as f64),
                exact: exact && !dropped,
                part,
            };
        }
    }

    /// The most even ways that fail, with every module placed.
    fn failing(&self, budget: &mut Budget) -> Vec<Way> {
        let placed: Vec<Vec<u32>> = self.groups.iter().map(|g| g.modules.clone()).collect();
        let mut deals: Vec<Deal> = Vec::new();
        for n in self.lengths() {
            let wanted = Wanted {
                keep: KEEP_FAILING,
                strings_max: self.ask.home_runs_max,
                n,
                failing: true,
                placed: &placed,
            };
            deals.extend(ranked(&self.shares, &self.groups, &wanted, budget).0);
        }
        let mut failing: Vec<Way> = deals
            .iter()
            .filter_map(|d| self.assigned(d, false).map(|uses| self.way(d, uses, 0)))
            .collect();
        failing.sort_by_key(|w| w.fails_n);
        failing.truncate(KEEP_FAILING);
        failing
    }

    /// The way with all modules whose worst check misses by least.
    fn nearest(&self, budget: &mut Budget) -> Option<Way> {
        let placed: Vec<Vec<u32>> = self.groups.iter().map(|g| g.modules.clone()).collect();
        let mut steps: Vec<f64> =
            self.classes.iter().flat_map(|c| c.choices.iter().map(|o| o.miss_pct)).collect();
        steps.sort_by(f64::total_cmp);
        steps.dedup();
        let fits = |most: f64| {
            let counts: Vec<Counted> = self
                .groups
                .iter()
                .map(|g| counted(&self.shares, g, |p| p.miss_pct <= most))
                .collect();
            count_ways(&self.shares, &self.groups, &counts, &placed) > 0
        };
        let from = steps.partition_point(|step| !fits(*step));
        // With fewer strings than the counts reckon with, the first step that fits may be a later
        // one.
        steps[from..].iter().find_map(|most| {
            let near: Vec<Group> = self
                .groups
                .iter()
                .map(|g| {
                    let picks = g
                        .picks
                        .iter()
                        .filter(|p| p.miss_pct <= *most)
                        .map(|p| Pick { miss_pct: 0.0, ..p.clone() });
                    Group { picks: picks.collect(), ..g.clone() }
                })
                .collect();
            let wanted = Wanted {
                keep: 1,
                strings_max: self.ask.home_runs_max,
                n: None,
                failing: false,
                placed: &placed,
            };
            let deal = ranked(&self.shares, &near, &wanted, budget).0.into_iter().next()?;
            let uses = self.assigned_of(&near, &deal, false)?;
            Some(self.way(&deal, uses, 0))
        })
    }

    fn assigned(&self, deal: &Deal, keep_caps: bool) -> Option<Vec<Assigned<'_>>> {
        self.assigned_of(&self.groups, deal, keep_caps)
    }

    /// Deals the picks out over the inverters, evenly: inverter, input, choice, strings by face.
    /// None where an inverter would be overloaded however it is done (or no way was found in the
    /// steps there are).
    fn assigned_of(
        &self,
        groups: &[Group],
        deal: &Deal,
        keep_caps: bool,
    ) -> Option<Vec<Assigned<'_>>> {
        let mut loads: Vec<Load> = Vec::new();
        for (group, picks) in groups.iter().zip(&deal.picks) {
            for pick in picks.iter().map(|p| &group.picks[*p]) {
                let strings = group
                    .faces
                    .iter()
                    .copied()
                    .zip(pick.strings_n.iter().copied())
                    .filter(|(_, n)| *n > 0)
                    .collect();
                loads.push(Load {
                    class: pick.class,
                    choice: &self.classes[pick.class].choices[pick.choice],
                    modules: pick.modules(),
                    strings,
                });
            }
        }
        loads.sort_by_key(|l| std::cmp::Reverse(l.modules));
        let free: Vec<Vec<usize>> = self
            .classes
            .iter()
            .map(|c| {
                (0..self.inverters.len())
                    .map(|i| c.inputs.iter().filter(|(own, _)| *own == i).count())
                    .collect()
            })
            .collect();
        let caps: Vec<f64> = self
            .inverters
            .iter()
            .map(|(_, s)| {
                s.dc_w_max_w.filter(|_| keep_caps).map_or(f64::INFINITY, |w| floor(w / self.pmax_w))
            })
            .collect();
        let mut steps = ASSIGN_STEPS;
        let mut at = Vec::new();
        let mut state = Assign { free, placed: vec![0; self.inverters.len()] };
        if !place(&loads, &caps, &mut state, &mut at, &mut steps) {
            return None;
        }
        let mut by_inverter: Vec<(usize, Load)> = at.into_iter().zip(loads).collect();
        by_inverter.sort_by(|(a, x), (b, y)| {
            (a, x.class, &x.strings, std::cmp::Reverse(x.choice.n)).cmp(&(
                b,
                y.class,
                &y.strings,
                std::cmp::Reverse(y.choice.n),
            ))
        });
        let mut taken: Vec<Vec<usize>> = vec![vec![0; self.inverters.len()]; self.classes.len()];
        let mut uses = Vec::new();
        for (inverter, load) in by_inverter {
            let own: Vec<u32> = self.classes[load.class]
                .inputs
                .iter()
                .filter(|(i, _)| *i == inverter)
                .map(|(_, m)| *m)
                .collect();
            let number = own[taken[load.class][inverter]];
            taken[load.class][inverter] += 1;
            uses.push(Assigned {
                inverter,
                mppt: number,
                choice: load.choice,
                strings: load.strings,
            });
        }
        uses.sort_by_key(|u| (u.inverter, u.mppt));
        Some(uses)
    }

    fn way(&self, deal: &Deal, assigned: Vec<Assigned>, unused_n: u32) -> Way {
        let (mut uses, mut notes): (Vec<WayUse>, Vec<Note>) = (Vec::new(), Vec::new());
        for Assigned { inverter, mppt, choice, strings } in &assigned {
            let id = self.inverters[*inverter].0;
            let subject = format!("{id}/{mppt}");
            notes.extend(
                choice.notes.iter().map(|n| Note { subject: subject.clone(), ..n.clone() }),
            );
            let faces: Vec<&str> =
                strings.iter().map(|(f, _)| self.ask.faces[*f].face.as_str()).collect();
            let plane = |f: &str| self.job.face(f).map(|f| (f.tilt_deg, f.azimuth_deg));
            if faces.iter().any(|f| plane(f) != plane(faces[0])) {
                notes.push(Note {
                    id: "mppt.same_plane",
                    title: "One plane on one input",
                    subject: subject.clone(),
                    verdict: Verdict::Warn,
                    over: None,
                    limit: None,
                    limit_title: None,
                    unit: Unit::None,
                    missing: Vec::new(),
                });
            }
            for (face, p) in strings {
                uses.push(WayUse {
                    inverter: id.to_owned(),
                    mppt: *mppt,
                    face: self.ask.faces[*face].face.clone(),
                    n: choice.n,
                    p: *p,
                });
            }
        }
        for (i, (id, sheet)) in self.inverters.iter().enumerate() {
            let loads: Vec<MpptString> = assigned
                .iter()
                .filter(|a| a.inverter == i)
                .map(|a| MpptString { module: &self.module.ratings, n: a.choice.n, p: a.choice.p })
                .collect();
            if loads.is_empty() {
                continue;
            }
            let mut totals = Sheet::new(self.job.school, Subject::new(SubjectKind::Inverter, *id));
            inverter_totals(&mut totals, &loads, sheet, &Sources::default());
            notes.extend(totals.checks.iter().filter_map(|c| Note::of(c, id)));
        }
        notes.sort_by_key(|n| std::cmp::Reverse(n.verdict));
        let count = |v: Verdict| notes.iter().filter(|n| n.verdict == v).count() as u32;
        let modules: u32 = uses.iter().map(|u| u.n * u.p).sum();
        let (strings, edits) = into_job(self.job, self.ask, &uses, self.inverters[0].1);
        Way {
            fails_n: count(Verdict::Fail),
            unbalance_w: f64::from(deal.unbalance_n) * self.pmax_w,
            strings_n: deal.strings_n,
            margin_pct: deal.margin_pct.is_finite().then_some(deal.margin_pct),
            unused_n,
            warns_n: count(Verdict::Warn),
            power_w: f64::from(modules) * self.pmax_w,
            notes,
            current: same_wiring(&self.job.strings, &strings),
            edits,
            uses,
        }
    }
}

/// An input with what it takes.
struct Assigned<'a> {
    /// Inverter by index.
    inverter: usize,
    /// The input, from 1.
    mppt: u32,
    choice: &'a Choice,
    /// Strings by face.
    strings: Vec<(usize, u32)>,
}

struct Load<'a> {
    class: usize,
    choice: &'a Choice,
    modules: u32,
    strings: Vec<(usize, u32)>,
}

struct Assign {
    /// Free inputs by class and inverter.
    free: Vec<Vec<usize>>,
    /// Modules on each inverter.
    placed: Vec<u32>,
}

/// Places the loads from the `at.len()`-th on, the emptiest inverter first.
fn place(
    loads: &[Load],
    caps: &[f64],
    state: &mut Assign,
    at: &mut Vec<usize>,
    steps: &mut u32,
) -> bool {
    let Some(load) = loads.get(at.len()) else { return true };
    let mut order: Vec<usize> =
        (0..caps.len()).filter(|i| state.free[load.class][*i] > 0).collect();
    order.sort_by_key(|i| (state.placed[*i], *i));
    let mut tried: Vec<(u32, f64, Vec<usize>)> = Vec::new();
    for i in order {
        if *steps == 0 {
            return false;
        }
        // Inverters that stand alike so far are tried once.
        let like = (state.placed[i], caps[i], state.free.iter().map(|f| f[i]).collect::<Vec<_>>());
        if above(f64::from(state.placed[i] + load.modules), caps[i]) || tried.contains(&like) {
            continue;
        }
        tried.push(like);
        *steps -= 1;
        state.free[load.class][i] -= 1;
        state.placed[i] += load.modules;
        at.push(i);
        if place(loads, caps, state, at, steps) {
            return true;
        }
        at.pop();
        state.free[load.class][i] += 1;
        state.placed[i] -= load.modules;
    }
    false
}

/// `p` strings over `faces` faces, in every way.
fn compositions(p: u32, faces: usize) -> Vec<Vec<u32>> {
    if faces == 1 {
        return vec![vec![p]];
    }
    (0..=p)
        .flat_map(|first| {
            compositions(p - first, faces - 1).into_iter().map(move |mut rest| {
                rest.insert(0, first);
                rest
            })
        })
        .collect()
}

fn same_wiring(a: &[JobString], b: &[JobString]) -> bool {
    let keys = |strings: &[JobString]| {
        let mut keys: Vec<_> = strings
            .iter()
            .map(|s| {
                (
                    s.inverter.clone(),
                    s.mppt,
                    s.face.clone(),
                    s.n,
                    s.module.sheet.clone(),
                    s.module.revision,
                )
            })
            .collect();
        keys.sort();
        keys
    };
    keys(a) == keys(b)
}

/// The letter at a place: A to Z, then AA and on.
fn letter_at(i: usize) -> String {
    let at = |k: usize| char::from(b'A' + (k % 26) as u8);
    if i < 26 { at(i).to_string() } else { format!("{}{}", letter_at(i / 26 - 1), at(i)) }
}

/// The strings of a way, and the edits that put them into the job. A string keeps its letter where
/// one like it stays; runs that carried every string carry every new one, and no run names a letter
/// that is gone.
fn into_job(
    job: &Job,
    ask: &WaysAsk,
    uses: &[WayUse],
    sheet: &InverterSheet,
) -> (Vec<JobString>, Vec<Edit>) {
    let mut strings: Vec<JobString> = Vec::new();
    for u in uses {
        for _ in 0..u.p {
            strings.push(JobString {
                letter: String::new(),
                face: u.face.clone(),
                module: ask.module.clone(),
                n: u.n,
                inverter: u.inverter.clone(),
                mppt: u.mppt,
                optimizer: None,
            });
        }
    }
    // The same string, then one of the same face, keeps its letter.
    let mut left: Vec<&JobString> = job.strings.iter().collect();
    type Like = fn(&JobString, &JobString) -> bool;
    let likes: [Like; 3] = [
        |a, b| a.face == b.face && a.inverter == b.inverter && a.mppt == b.mppt && a.n == b.n,
        |a, b| a.face == b.face && a.inverter == b.inverter && a.mppt == b.mppt,
        |a, b| a.face == b.face,
    ];
    for like in likes {
        for string in strings.iter_mut().filter(|s| s.letter.is_empty()) {
            if let Some(at) = left.iter().position(|old| like(old, string)) {
                string.letter = left.remove(at).letter.clone();
            }
        }
    }
    let mut next = 0;
    for i in 0..strings.len() {
        while strings[i].letter.is_empty() {
            let letter = letter_at(next);
            if strings.iter().any(|s| s.letter == letter)
                || job.branches.iter().any(|b| b.letter == letter)
            {
                next += 1;
            } else {
                strings[i].letter = letter;
            }
        }
    }
    strings.sort_by(|a, b| (a.letter.len(), &a.letter).cmp(&(b.letter.len(), &b.letter)));
    let mut edits = vec![Edit { pointer: "/strings".to_owned(), value: json!(strings) }];
    for (i, inverter) in job.inverters.iter().enumerate() {
        if inverter.sheet != sheet.reference()
            && job.inverters.iter().all(|j| j.sheet != sheet.reference())
        {
            edits.push(Edit {
                pointer: format!("/inverters/{i}/sheet"),
                value: json!(sheet.reference()),
            });
        }
    }
    let all: Vec<&String> = strings.iter().map(|s| &s.letter).collect();
    let carries =
        |run: &crate::job::Run| matches!(run.kind, CircuitKind::PvString | CircuitKind::PvOutput);
    let carried_before = |letter: &String| job.runs.iter().any(|r| r.strings.contains(letter));
    let main = job.runs.iter().position(carries);
    for (i, run) in job.runs.iter().enumerate().filter(|(_, r)| carries(r)) {
        let every =
            !job.strings.is_empty() && job.strings.iter().all(|s| run.strings.contains(&s.letter));
        let kept: Vec<&String> = if every {
            all.clone()
        } else {
            let new = |l: &&String| {
                Some(i) == main
                    && !carried_before(l)
                    && !job.strings.iter().any(|s| s.letter == **l)
            };
            all.iter().copied().filter(|l| run.strings.contains(l) || new(l)).collect()
        };
        if kept.iter().copied().ne(run.strings.iter()) {
            edits.push(Edit { pointer: format!("/runs/{i}/strings"), value: json!(kept) });
        }
    }
    (strings, edits)
}

impl SiteTemps {
    /// The temperatures of a job's site.
    pub fn of(job: &Job) -> SiteTemps {
        SiteTemps {
            t_min_c: job.site.t_min_c,
            t_max_c: job.site.t_max_c,
            mounting: job.site.mounting,
            cell_rise_hot_c: job.site.cell_rise_hot_c,
            dc_ceiling_v: job.site.building.and_then(|b| job.school.dc_ceiling_v(b)),
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn letters_go_on_after_z() {
        assert_eq!(
            [0, 25, 26, 51, 52, 701, 702].map(letter_at),
            ["A", "Z", "AA", "AZ", "BA", "ZZ", "AAA"]
        );
    }

    #[test]
    fn strings_are_dealt_over_faces_in_every_way() {
        assert_eq!(compositions(2, 2), [[0, 2], [1, 1], [2, 0]]);
        // 2 strings on 3 faces: (2 + 3 - 1)! / (2! 2!) = 6 ways.
        assert_eq!(compositions(2, 3).len(), 6);
    }
}
