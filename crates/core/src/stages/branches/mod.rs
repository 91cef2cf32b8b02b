//! Branches of microinverters: each against its breaker and its units, all together, and the volts
//! along each.

mod branch;
mod pass;
mod sums;

pub use branch::{
    Branch, BranchInputs, BranchRun, MatchInputs, OnPhase, RISE_PCT, VOC_COLD, along, branch,
    branches_together, dc_match,
};
pub use pass::{BranchDrawing, BranchesFound};

use crate::figure::Sheet;
use crate::library::{About, DataSheet, SheetKind};
use crate::plan::PlanFound;
use crate::registry::{Registry, need};
use crate::stages::runs::RunsFound;

/// What the stage brings with it.
pub fn define(r: &mut Registry) {
    r.figures(branch::CARDS);
    r.pass("branches", &[need::<PlanFound>(), need::<RunsFound>()], pass::branches_of_job);
    r.calculation::<BranchInputs>("micro", |sheet, x| {
        branch(sheet, x);
    });
    r.sums(sums::SUMS);
    r.meaning(SheetKind::Micro, meaning);
}

/// Breaker a unit's data sheet is looked at with, A.
const USUAL_BREAKER_A: f64 = 20.0;

/// A full branch of the unit on a usual breaker.
fn meaning(sheet: &mut Sheet, read: &DataSheet, about: &About) {
    let DataSheet::Micro(m) = read else { return };
    let x = BranchInputs {
        unit_a: m.ac_a,
        volts_v: m.ac_v,
        breaker_a: Some(USUAL_BREAKER_A),
        maker_max_n: m.branch_max_n.map(|n| n as u32),
        arms_n: vec![m.branch_max_n.unwrap_or(1.0) as u32],
        section_ohm: m.trunk.section_ohm,
        module: about.module.clone(),
        t_min_c: about.t_min_c,
        unit_v_max_v: m.in_v_max_v,
        ..BranchInputs::default()
    };
    branch(sheet, &x);
}
