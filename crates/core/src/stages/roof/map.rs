//! The roof map of a job indexed: where each module lies, and what its leads are.

use std::collections::HashMap;

use super::drawing::RoofFace;
use super::leads::{Exits, Leads, Pose};
use super::{SLACK_M, STOCK_M};
use crate::figure::Field;
use crate::job::{FaceKey, Job, Letter, ModuleKey, NodeKey, NodeKind, Placed};
use crate::library::{Library, ModuleSheet, SheetRef};
use crate::plan::PlanFound;

/// The faces as they are drawn.
#[derive(Debug, Default)]
pub struct RoofFound {
    /// One per face that has a map.
    pub faces: Vec<RoofFace>,
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
    // The width is the short side, whichever way a sheet has the two.
    let (width_mm, length_mm) = (width_mm.min(length_mm), width_mm.max(length_mm));
    Ok(Leads {
        width_mm,
        length_mm,
        exit_plus_mm: [pu, pv],
        exit_minus_mm: [mu, mv],
        lead_plus_m: lead,
        lead_minus_m: sheet.lead_minus_m.unwrap_or(lead),
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
    /// Modules by serial number.
    serials: HashMap<&'a str, Vec<&'a ModuleKey>>,
    /// Strings each module is in, as often as it stands there.
    in_strings: HashMap<&'a ModuleKey, Vec<&'a Letter>>,
}

impl<'a> Map<'a> {
    /// The map of a job.
    pub fn of(job: &'a Job, library: &Library) -> Self {
        let mut modules = HashMap::new();
        let mut leads = HashMap::new();
        let mut serials: HashMap<&str, Vec<&ModuleKey>> = HashMap::new();
        for (face, map) in &job.roof {
            for (key, placed) in &map.modules {
                if let Some(serial) = &placed.serial {
                    serials.entry(serial).or_default().push(key);
                }
            }
            modules.extend(map.modules.iter().map(|(k, placed)| (k, Lying { face, placed })));
            let sheet = module_of(job, face).and_then(|s| library.module(s));
            leads.insert(face, sheet.map_or(Err(vec!["face.module"]), leads_of));
        }
        let mut in_strings: HashMap<&ModuleKey, Vec<&Letter>> = HashMap::new();
        for string in &job.strings {
            for module in &string.modules {
                in_strings.entry(module).or_default().push(&string.letter);
            }
        }
        let mut stock_m = job.settings.jumpers_m.clone();
        if stock_m.is_empty() {
            stock_m = STOCK_M.to_vec();
        }
        stock_m.sort_by(f64::total_cmp);
        let slack_m = job.settings.lead_slack_m.unwrap_or(SLACK_M);
        Map { job, slack_m, stock_m, modules, leads, serials, in_strings }
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

    /// The modules that bear a serial number.
    pub fn bearing(&self, serial: &str) -> &[&'a ModuleKey] {
        self.serials.get(serial).map_or(&[], Vec::as_slice)
    }

    /// What a module is called: its string and place, or its key where it is in none.
    pub fn name(&self, module: &ModuleKey) -> String {
        let string = self.strings_of(module).first();
        let own = string.and_then(|l| self.job.strings.iter().find(|s| s.letter == **l));
        let place = own.and_then(|s| s.modules.iter().position(|m| m == module));
        match own.zip(place) {
            Some((s, place)) => format!("{}{}", s.letter, place + 1),
            None => module.to_string(),
        }
    }

    /// The strings a module is in.
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
pub fn box_of<'p>(plan: &'p PlanFound, strings: &[&Letter]) -> Option<&'p NodeKey> {
    let own = |l: &Letter| strings.contains(&l);
    let mut circuits = plan.plan.circuits.values();
    let circuit = circuits.find(|c| c.from.string.as_ref().is_some_and(own))?;
    let way = plan.ways(circuit).next()?;
    let array = plan.plan.nodes.get(&way.from).is_some_and(|n| n.kind == NodeKind::Array);
    Some(if array { &way.to } else { &way.from })
}
