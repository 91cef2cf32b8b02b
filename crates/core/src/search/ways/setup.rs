//! The question made ready for the search: inputs that are alike in classes, what each may take,
//! the faces in groups.

use super::WaysAsk;
use crate::figure::field_title;
use crate::job::{ColdMethod, InverterKey, Job};
use crate::library::{InverterSheet, Library, ModuleSheet, Mppt};
use crate::problem::Problem;
use crate::quantity::{above, floor};
use crate::search::deal::{Group, Pick, Shares};
use crate::search::layout::{Choice, Examined, examine};
use crate::stages::strings::SiteTemps;

/// Failing choices are looked at up to this far beyond a limit, %.
const MISS_MAX_PCT: f64 = 30.0;

/// Sums of modules to which faces that share inputs are searched together.
const MIXED_SUMS: usize = 40_000;

/// Cells of the counting tables times picks; about a second and 60 MB.
const MOST_WORK: usize = 120_000_000;

/// Cells of one counting table; 16 bytes each.
const MOST_CELLS: usize = 4_000_000;

pub(super) struct Class<'a> {
    pub sheet: &'a InverterSheet,
    pub mppt: &'a Mppt,
    /// Inverter by index, input from 1.
    pub inputs: Vec<(usize, u32)>,
    pub choices: Vec<Choice>,
}

pub(super) struct Setup<'a> {
    pub job: &'a Job,
    pub ask: &'a WaysAsk,
    pub pmax_w: f64,
    pub module: &'a ModuleSheet,
    pub inverters: Vec<(&'a InverterKey, &'a InverterSheet)>,
    pub classes: Vec<Class<'a>>,
    pub shares: Shares,
    pub groups: Vec<Group>,
    /// Faces would be mixed if there were not so many ways to.
    pub mixed_out: bool,
}

impl<'a> Setup<'a> {
    pub(super) fn new(
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
            wrong(
                "/ask/module",
                &format!("{} is missing", field_title("module.pmax_w")),
                "enter the rated power",
            )
        })?;
        let inverters: Vec<(&InverterKey, &InverterSheet)> = job
            .inverters
            .iter()
            .filter_map(|i| Some((&i.id, other.or_else(|| library.inverter(&i.sheet))?)))
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
        let needs_b =
            job.site.cold_method == ColdMethod::Coefficient && module.ratings.b_voc_pct_c.is_none();
        let needs_t = job.site.cold_method != ColdMethod::Factor && site.t_min_c.is_none();
        let mut missing: Vec<Problem> = Vec::new();
        for (lacks, path, field) in [
            (module.ratings.voc_v.is_none(), "/ask/module", "module.voc_v"),
            (needs_b, "/ask/module", "module.b_voc_pct_c"),
            (needs_t, "/job/site/t_min_c", "site.t_min_c"),
        ] {
            if lacks {
                missing.push(Problem::new(
                    path,
                    format!("{} is missing: cold volts cannot be had", field_title(field)),
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

    pub(super) fn total(&self) -> u32 {
        self.ask.faces.iter().map(|f| f.modules_n).sum()
    }

    pub(super) fn strings_max(&self, mppt: &Mppt) -> u32 {
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
                                warns_n: c.warns_n(),
                            });
                        }
                    }
                }
                Group { modules: faces.iter().map(|f| modules[*f]).collect(), faces, picks }
            })
            .collect();
    }

    /// Most modules by the inverters' watts in all.
    pub(super) fn cap(&self) -> u32 {
        let most = |s: &InverterSheet| {
            s.dc_w_max_w.map_or(f64::from(self.total()), |w| floor(w / self.pmax_w))
        };
        self.inverters.iter().map(|(_, s)| most(s)).sum::<f64>().clamp(0.0, f64::from(self.total()))
            as u32
    }

    /// Whether full inputs could overload an inverter in all.
    pub(super) fn cap_may_bind(&self) -> bool {
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

    pub(super) fn lengths(&self) -> Vec<Option<u32>> {
        if !self.ask.equal_strings {
            return vec![None];
        }
        let mut lengths: Vec<u32> =
            self.classes.iter().flat_map(|c| c.choices.iter().map(|o| o.n)).collect();
        lengths.sort_unstable();
        lengths.dedup();
        lengths.into_iter().map(Some).collect()
    }
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

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn strings_are_dealt_over_faces_in_every_way() {
        assert_eq!(compositions(2, 2), [[0, 2], [1, 1], [2, 0]]);
        // 2 strings on 3 faces: (2 + 3 - 1)! / (2! 2!) = 6 ways.
        assert_eq!(compositions(2, 3).len(), 6);
    }
}
