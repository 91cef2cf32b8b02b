//! Branches of microinverters of a job: each against its breaker and its units, all together, and
//! the volts along each.

use serde::Serialize;
use utoipa::ToSchema;

use crate::branches::{
    BranchInputs, BranchRun, MatchInputs, along, branch, branches_together, dc_match,
};
use crate::figure::{Sheet, Subject, SubjectKind, Value};
use crate::job::{Job, JobBranch};
use crate::library::Library;
use crate::school::School;
use crate::site;

/// The volts along a branch.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct BranchDrawing {
    /// Its letter.
    pub letter: String,
    /// The face's name.
    pub face: String,
    /// Volts above the panel at each unit, arm by arm, from the feed on.
    pub arms_v: Vec<Vec<f64>>,
    /// Volts above the panel at the feed: the rise of the home run.
    pub feed_v: f64,
    /// The limit in volts above the panel.
    pub limit_v: Option<f64>,
    /// Rise of the whole at the farthest unit, %.
    pub rise_pct: Option<f64>,
    /// The same, were the trunk fed from its end, %.
    pub end_fed_pct: Option<f64>,
    /// The same, were it fed in its middle, %.
    pub centre_fed_pct: Option<f64>,
}

fn inputs(job: &Job, library: &Library, b: &JobBranch) -> BranchInputs {
    let micro = library.micro(&b.micro);
    let run = b.home_run_m.map(|m| BranchRun {
        awg: b.wire.awg.clone().filter(|_| job.school == School::Na),
        mm2: b.wire.mm2.filter(|_| job.school == School::Iec),
        cable: (job.school == School::Iec).then_some(b.wire.cable),
        length_ft: None,
        length_m: Some(m),
        amps_a: None,
    });
    BranchInputs {
        unit_a: micro.and_then(|m| m.ac_a),
        volts_v: micro.and_then(|m| m.ac_v),
        breaker_a: b.breaker_a,
        share: None,
        maker_max_n: micro.and_then(|m| m.branch_max_n).map(|n| n as u32),
        arms_n: b.arms_n.clone(),
        section_ohm: micro.and_then(|m| m.trunk.section_ohm),
        runs: run.into_iter().collect(),
        limit_pct: job.settings.vdrop_ac_pct,
        branches_n: None,
        module: library.module(&b.module).map(|m| m.ratings.clone()),
        t_min_c: job.site.t_min_c,
        unit_v_max_v: micro.and_then(|m| m.in_v_max_v),
    }
}

/// A figure of the sheet's subject.
fn number(sheet: &Sheet, id: &str) -> Option<f64> {
    sheet
        .figures
        .iter()
        .find(|f| f.id == id && f.subject == sheet.subject)?
        .value
        .as_ref()
        .and_then(Value::number)
}

/// Rise of the whole, or of the trunk where there is no home run.
fn rise(sheet: &Sheet, x: &BranchInputs) -> Option<f64> {
    number(sheet, if x.runs.is_empty() { "branch.rise_trunk_pct" } else { "branch.rise_total_pct" })
}

pub(super) fn branches(sheet: &mut Sheet, job: &Job, library: &Library) -> Vec<BranchDrawing> {
    let mut drawings = Vec::new();
    let mut amps = Vec::new();
    for b in &job.branches {
        let x = inputs(job, library, b);
        let micro = library.micro(&b.micro);
        sheet.subject = Subject::new(SubjectKind::Branch, &b.letter);
        branch(sheet, &x);
        amps.push((number(sheet, "branch.i_a"), b.phase));
        let t_cell_hot_c =
            site::cell_hot(sheet, job.site.t_max_c, job.site.mounting, job.site.cell_rise_hot_c);
        dc_match(
            sheet,
            &MatchInputs {
                module: x.module.as_ref(),
                micro,
                t_min_c: job.site.t_min_c,
                t_cell_hot_c,
            },
        );
        drawings.push(drawing(sheet, job, b, &x));
    }
    if !job.branches.is_empty() {
        sheet.subject = Subject::new(SubjectKind::Site, "site");
        let three_phase = job.branches.iter().any(|b| b.phase.is_some());
        branches_together(sheet, &amps, three_phase, job.settings.network_a);
    }
    drawings
}

/// The drawing of the branch whose figures the sheet holds.
fn drawing(sheet: &Sheet, job: &Job, b: &JobBranch, x: &BranchInputs) -> BranchDrawing {
    let units = b.units();
    let whole = rise(sheet, x);
    let trunk_only = number(sheet, "branch.rise_trunk_pct");
    let volts = x.volts_v.unwrap_or(0.0);
    let feed_v = whole.zip(trunk_only).map_or(0.0, |(w, t)| (w - t) / 100.0 * volts);
    let arm = |n: &u32| -> Vec<f64> {
        match (x.unit_a, x.section_ohm) {
            (Some(i), Some(r)) => along(i, r, *n).into_iter().map(|v| v + feed_v).collect(),
            _ => Vec::new(),
        }
    };
    let fed = |arms_n: Vec<u32>| {
        let mut other = Sheet::new(job.school, Subject::new(SubjectKind::Branch, ""));
        branch(&mut other, &BranchInputs { arms_n, ..x.clone() });
        rise(&other, x)
    };
    BranchDrawing {
        letter: b.letter.clone(),
        face: job.face(&b.face).map(|f| f.name.clone()).unwrap_or_default(),
        arms_v: b.arms_n.iter().map(arm).collect(),
        feed_v,
        limit_v: x.volts_v.map(|v| v * x.limit_pct.unwrap_or(crate::branches::RISE_PCT) / 100.0),
        rise_pct: whole,
        end_fed_pct: fed(vec![units]),
        centre_fed_pct: fed(vec![units.div_ceil(2), units / 2]),
    }
}
