//! The roof map of a job indexed: where each module lies, and what its leads are.

use std::collections::HashMap;

use super::drawing::RoofFace;
use super::leads::{Exits, Leads, Pose, laid_mm, path_m};
use super::{SLACK_M, STOCK_M};
use crate::figure::Field;
use crate::job::{Circuit, FaceKey, Job, Letter, ModuleKey, NodeKey, NodeKind, Placed};
use crate::library::{Library, ModuleSheet, OptimizerSheet, SheetRef};
use crate::plan::PlanFound;

/// The faces as they are drawn.
#[derive(Debug, Default)]
pub struct RoofFound {
    /// One per face that has a map.
    pub faces: Vec<RoofFace>,
}

/// The width is the short side, whichever way a sheet has the two.
fn short_first(a: f64, b: f64) -> [f64; 2] {
    [a.min(b), a.max(b)]
}

/// A module's leads by its data sheet.
///
/// # Errors
/// The fields its sheet does not say.
pub fn leads_of(sheet: &ModuleSheet) -> Result<Leads, Vec<Field>> {
    let e = sheet.exits;
    let fields = [
        (sheet.width_mm, "module.width_mm"),
        (sheet.length_mm, "module.length_mm"),
        (sheet.lead_m, "module.lead_m"),
        (e.plus_u_mm, "module.exits.plus_u_mm"),
        (e.plus_v_mm, "module.exits.plus_v_mm"),
        (e.minus_u_mm, "module.exits.minus_u_mm"),
        (e.minus_v_mm, "module.exits.minus_v_mm"),
    ];
    let [Some(width_mm), Some(length_mm), Some(lead), Some(pu), Some(pv), Some(mu), Some(mv)] =
        fields.map(|f| f.0)
    else {
        return Err(fields.iter().filter(|f| f.0.is_none()).map(|f| f.1).collect());
    };
    let [width_mm, length_mm] = short_first(width_mm, length_mm);
    Ok(Leads {
        width_mm,
        length_mm,
        exit_plus_mm: [pu, pv],
        exit_minus_mm: [mu, mv],
        lead_plus_m: lead,
        lead_minus_m: sheet.lead_minus_m.unwrap_or(lead),
    })
}

/// The leads of a string of optimizers: those of their outputs, which leave each in the middle of
/// its module.
fn outputs_of(
    sheet: &ModuleSheet,
    optimizer: Option<&OptimizerSheet>,
) -> Result<Leads, Vec<Field>> {
    let fields = [
        (sheet.width_mm, "module.width_mm"),
        (sheet.length_mm, "module.length_mm"),
        (optimizer.and_then(|o| o.lead_m), "optimizer.lead_m"),
    ];
    let [Some(w), Some(l), Some(lead)] = fields.map(|f| f.0) else {
        return Err(fields.iter().filter(|f| f.0.is_none()).map(|f| f.1).collect());
    };
    let [width_mm, length_mm] = short_first(w, l);
    let middle = [width_mm / 2.0, length_mm / 2.0];
    Ok(Leads {
        width_mm,
        length_mm,
        exit_plus_mm: middle,
        exit_minus_mm: middle,
        lead_plus_m: lead,
        lead_minus_m: lead,
    })
}

/// A module on the map.
#[derive(Clone, Copy, Debug)]
pub struct Lying<'a> {
    /// The face it lies on.
    pub face: &'a FaceKey,
    /// How it lies.
    pub placed: &'a Placed,
}

/// What is wrong with where a module of a string or branch lies.
pub(super) enum Misplaced<'m, 'a> {
    /// It is not on the map.
    Gone(&'m ModuleKey),
    /// Another string or branch has it too.
    Shared(&'m ModuleKey, &'a Letter),
    /// It stands twice in its own.
    Twice(&'m ModuleKey),
}

/// The roof map of a job.
pub struct Map<'a> {
    /// The job.
    pub job: &'a Job,
    /// Slack kept at each join and tail, m.
    pub slack_m: f64,
    /// Jumpers in stock, ascending, m.
    pub stock_m: Vec<f64>,
    modules: HashMap<&'a ModuleKey, Lying<'a>>,
    leads: HashMap<&'a FaceKey, Result<Leads, Vec<Field>>>,
    /// Width and length of the modules of a face, mm.
    sizes: HashMap<&'a FaceKey, [f64; 2]>,
    /// Modules by serial number.
    serials: HashMap<&'a str, Vec<&'a ModuleKey>>,
    /// Strings and branches each module is in, as often as it stands there.
    in_strings: HashMap<&'a ModuleKey, Vec<&'a Letter>>,
}

impl<'a> Map<'a> {
    /// The map of a job.
    pub fn of(job: &'a Job, library: &Library) -> Self {
        let mut modules = HashMap::new();
        let mut leads = HashMap::new();
        let mut sizes = HashMap::new();
        let mut serials: HashMap<&str, Vec<&ModuleKey>> = HashMap::new();
        for (face, map) in &job.roof {
            for (key, placed) in &map.modules {
                if let Some(serial) = &placed.serial {
                    serials.entry(serial).or_default().push(key);
                }
            }
            modules.extend(map.modules.iter().map(|(k, placed)| (k, Lying { face, placed })));
            let sheet = module_of(job, face).and_then(|s| library.module(s));
            if let Some((width, length)) = sheet.and_then(|s| s.width_mm.zip(s.length_mm)) {
                sizes.insert(face, short_first(width, length));
            }
            let own = sheet.map_or(Err(vec!["face.module"]), leads_of);
            let optimizer = job.strings.iter().find(|s| s.face == *face && s.optimizer.is_some());
            let on_each = optimizer.and_then(|s| s.optimizer.as_ref());
            leads.insert(
                face,
                match (sheet, on_each) {
                    (Some(sheet), Some(each)) => outputs_of(sheet, library.optimizer(each)),
                    _ => own,
                },
            );
        }
        let mut in_strings: HashMap<&ModuleKey, Vec<&Letter>> = HashMap::new();
        for string in &job.strings {
            for module in &string.modules {
                in_strings.entry(module).or_default().push(&string.letter);
            }
        }
        for branch in &job.branches {
            for module in &branch.modules {
                in_strings.entry(module).or_default().push(&branch.letter);
            }
        }
        let mut stock_m = job.settings.jumpers_m.clone();
        if stock_m.is_empty() {
            stock_m = STOCK_M.to_vec();
        }
        stock_m.sort_by(f64::total_cmp);
        let slack_m = job.settings.lead_slack_m.unwrap_or(SLACK_M);
        Map { job, slack_m, stock_m, modules, leads, sizes, serials, in_strings }
    }

    /// Where a module lies; none where it is not on the map.
    pub fn lying(&self, module: &ModuleKey) -> Option<Lying<'a>> {
        self.modules.get(module).copied()
    }

    /// The leads of the modules of a face, or what is not known of them.
    pub fn leads(&self, face: &FaceKey) -> Result<Leads, Vec<Field>> {
        self.leads.get(face).cloned().unwrap_or_else(|| Err(vec!["face.module"]))
    }

    /// Where a module's leads leave it.
    pub fn exits(&self, lying: Lying) -> Option<Exits> {
        let leads = self.leads.get(lying.face)?.as_ref().ok()?;
        Some(leads.exits(pose(lying.placed)))
    }

    /// Width and length of the modules of a face, mm.
    pub fn size(&self, face: &FaceKey) -> Option<[f64; 2]> {
        self.sizes.get(face).copied()
    }

    /// The middle of a module, mm.
    pub fn middle(&self, lying: Lying) -> Option<[f64; 2]> {
        let [across, up] = laid_mm(self.size(lying.face)?, lying.placed.landscape);
        Some([lying.placed.x_mm + across / 2.0, lying.placed.y_mm + up / 2.0])
    }

    /// From a point of a face to a point of the same or another one, along frame and rail, m; none
    /// where nobody said where one crosses.
    pub fn path_m(
        &self,
        (face, from): (&FaceKey, [f64; 2]),
        (other, to): (&FaceKey, [f64; 2]),
    ) -> Option<f64> {
        if face == other {
            return Some(path_m(from, to));
        }
        let crossing = |a: &FaceKey, b: &FaceKey| self.job.roof.get(a)?.crossings.get(b);
        let (here, there, over) = match (crossing(face, other), crossing(other, face)) {
            (Some(c), _) => (c.from_mm, c.to_mm, c.over_m),
            (None, Some(c)) => (c.to_mm, c.from_mm, c.over_m),
            (None, None) => return None,
        };
        Some(path_m(from, here) + over + path_m(there, to))
    }

    /// The modules that bear a serial number.
    pub fn bearing(&self, serial: &str) -> &[&'a ModuleKey] {
        self.serials.get(serial).map_or(&[], Vec::as_slice)
    }

    /// What a module is called: its string or branch and place, or its key where it is in none.
    pub fn name(&self, module: &ModuleKey) -> String {
        let Some(letter) = self.strings_of(module).first() else { return module.to_string() };
        let string = self.job.strings.iter().find(|s| s.letter == **letter).map(|s| &s.modules);
        let branch = || self.job.branches.iter().find(|b| b.letter == **letter);
        let own = string.or_else(|| branch().map(|b| &b.modules));
        match own.and_then(|all| all.iter().position(|m| m == module)) {
            Some(place) => format!("{letter}{}", place + 1),
            None => module.to_string(),
        }
    }

    /// The first module of a string or branch that is not on the map, or not in it alone.
    pub(super) fn misplaced<'m>(
        &self,
        letter: &Letter,
        modules: &'m [ModuleKey],
    ) -> Option<Misplaced<'m, 'a>> {
        if let Some(gone) = modules.iter().find(|m| self.lying(m).is_none()) {
            return Some(Misplaced::Gone(gone));
        }
        let shared = modules.iter().find(|m| self.strings_of(m).len() > 1)?;
        let other = self.strings_of(shared).iter().find(|l| **l != letter);
        Some(other.map_or(Misplaced::Twice(shared), |l| Misplaced::Shared(shared, l)))
    }

    /// The strings and branches a module is in.
    pub fn strings_of(&self, module: &ModuleKey) -> &[&'a Letter] {
        self.in_strings.get(module).map_or(&[], Vec::as_slice)
    }
}

/// A module as it lies.
pub(super) fn pose(placed: &Placed) -> Pose {
    Pose {
        corner_mm: [placed.x_mm, placed.y_mm],
        landscape: placed.landscape,
        turned: placed.turned,
    }
}

/// The data sheet of the modules of a face: the map's own, or that of its strings and branches.
pub fn module_of<'a>(job: &'a Job, face: &FaceKey) -> Option<&'a SheetRef> {
    let own = job.roof.get(face).and_then(|m| m.module.as_ref());
    let string = || job.strings.iter().find(|s| s.face == *face).map(|s| &s.module);
    let branch = || job.branches.iter().find(|b| b.face == *face).map(|b| &b.module);
    own.or_else(string).or_else(branch)
}

/// The node the tails of a face's strings come to: where the first way of one of their circuits
/// begins, or comes to where it begins at the array.
pub fn box_of<'p>(plan: &'p PlanFound, letters: &[&Letter]) -> Option<&'p NodeKey> {
    let own = |l: &Letter| letters.contains(&l);
    let mut circuits = plan.plan.circuits.values();
    let from = |c: &Circuit| c.from.string.as_ref().or(c.from.branch.as_ref()).is_some_and(own);
    let circuit = circuits.find(|c| from(c))?;
    let way = plan.ways(circuit).next()?;
    let array = plan.plan.nodes.get(&way.from).is_some_and(|n| n.kind == NodeKind::Array);
    Some(if array { &way.to } else { &way.from })
}
