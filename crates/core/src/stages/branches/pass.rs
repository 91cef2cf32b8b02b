//! The branches of a job, and the volts along each.

use serde::Serialize;
use utoipa::ToSchema;

use super::{
    Branch, BranchInputs, BranchRun, MatchInputs, OnPhase, RISE_PCT, along, branch,
    branches_together, dc_match,
};
use crate::figure::{Handle, Recording, Sheet, Subject};
use crate::job::{Circuit, Job, JobBranch, Letter};
use crate::plan::PlanFound;
use crate::quantity::Amps;
use crate::registry::Bench;
use crate::school::School;
use crate::stages::roof::{Map, spread};
use crate::stages::runs::RunsFound;
use crate::stages::site::cell_hot;

/// The volts along a branch.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct BranchDrawing {
    /// Its letter.
    pub letter: Letter,
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

/// The branches of a job.
#[derive(Debug, Default)]
pub struct BranchesFound {
    /// Each as it is drawn.
    pub drawings: Vec<BranchDrawing>,
    /// Breaker of all of them together.
    pub device: Option<Handle<Amps>>,
}

/// The legs from a branch's trunk to the grid: its home run with its own amps, then every feeder on
/// with what it carries. What is not planned yet is a run of which nothing is known.
fn to_the_grid(job: &Job, plan: &PlanFound, runs: &RunsFound, b: &JobBranch) -> Vec<BranchRun> {
    let own = |c: &Circuit| c.from.branch.as_ref() == Some(&b.letter);
    let Some(home) = (0..plan.circuits.len()).find(|at| own(plan.circuit(*at))) else {
        return vec![BranchRun::default()];
    };
    let mut all = Vec::new();
    for at in plan.to_the_grid(home) {
        let amps_a = runs.output_of(&plan.circuits[at].key).filter(|_| at != home);
        let legs = &plan.circuit(at).legs;
        if legs.is_empty() || (at != home && amps_a.is_none()) {
            all.push(BranchRun::default());
            continue;
        }
        all.extend(legs.iter().map(|leg| BranchRun {
            awg: leg.wire.awg.clone().filter(|_| job.school == School::Na),
            mm2: leg.wire.mm2.filter(|_| job.school == School::Iec),
            cable: (job.school == School::Iec).then_some(leg.wire.cable),
            length_ft: None,
            length_m: plan.length_m(leg),
            amps_a,
            material: leg.wire.material,
        }));
    }
    all
}

fn inputs(bench: &Bench, map: Option<&Map>, b: &JobBranch) -> BranchInputs {
    let (job, library) = (bench.job, bench.library);
    let micro = library.micro(&b.micro);
    let (plan, runs) = (bench.found.get::<PlanFound>(), bench.found.get::<RunsFound>());
    let runs = to_the_grid(job, plan, runs, b);
    BranchInputs {
        unit_a: micro.and_then(|m| m.ac_a),
        volts_v: micro.and_then(|m| m.ac_v),
        breaker_a: b.breaker_a,
        share: None,
        maker_max_n: micro.and_then(|m| m.branch_max_n).map(|n| n as u32),
        arms_n: b.arms_n.clone(),
        section_ohm: micro.and_then(|m| m.trunk.section_ohm),
        runs,
        limit_pct: job.settings.vdrop_ac_pct,
        branches_n: None,
        module: library.module(&b.module).map(|m| m.ratings.clone()),
        t_min_c: job.site.t_min_c,
        unit_v_max_v: micro.and_then(|m| m.in_v_max_v),
        spread: map.and_then(|map| spread(map, library, b)),
    }
}

pub(super) fn branches_of_job(bench: &Bench, sheet: &mut Sheet) -> BranchesFound {
    let (job, library) = (bench.job, bench.library);
    let mut found = BranchesFound::default();
    let mut on_phases = Vec::new();
    let laid = job.branches.iter().any(|b| !b.modules.is_empty());
    let map = laid.then(|| Map::of(job, library));
    for b in &job.branches {
        let x = inputs(bench, map.as_ref(), b);
        sheet.subject = Subject::Branch { branch: b.letter.clone() };
        let own = branch(sheet, &x);
        let site = &job.site;
        let t_cell = cell_hot(sheet, site.t_max_c, site.mounting, site.cell_rise_hot_c);
        let matched = MatchInputs {
            module: x.module.as_ref(),
            micro: library.micro(&b.micro),
            t_min_c: site.t_min_c,
            t_cell_hot_c: t_cell.value(),
        };
        dc_match(sheet, &matched);
        found.drawings.push(drawing(job, b, &x, &own));
        on_phases.push(OnPhase { amps: own.amps, phase: b.phase });
    }
    if !job.branches.is_empty() {
        sheet.subject = Subject::Site;
        let three_phase = job.branches.iter().any(|b| b.phase.is_some());
        let limit_a = job.settings.network_a;
        found.device = Some(branches_together(sheet, &on_phases, three_phase, limit_a));
    }
    found
}

fn drawing(job: &Job, b: &JobBranch, x: &BranchInputs, own: &Branch) -> BranchDrawing {
    let units = b.units();
    let whole = own.rise_pct();
    let volts = x.volts_v.unwrap_or(0.0);
    let home_run = whole.zip(own.rise_trunk.value()).map(|(whole, trunk)| whole - trunk);
    let feed_v = home_run.map_or(0.0, |pct| pct / 100.0 * volts);
    let arm = |at: usize| -> Vec<f64> {
        along(x, at).into_iter().flatten().map(|v| v + feed_v).collect()
    };
    let fed = |arms_n: Vec<u32>| {
        let mut trial = Sheet::with(job.school, Subject::Sum, Recording::Nothing);
        branch(&mut trial, &BranchInputs { arms_n, ..x.clone() }).rise_pct()
    };
    BranchDrawing {
        letter: b.letter.clone(),
        face: job.face(&b.face).map(|f| f.name.clone()).unwrap_or_default(),
        arms_v: (0..b.arms_n.len()).map(arm).collect(),
        feed_v,
        limit_v: x.volts_v.map(|v| v * x.limit_pct.unwrap_or(RISE_PCT) / 100.0),
        rise_pct: whole,
        end_fed_pct: fed(vec![units]),
        centre_fed_pct: fed(vec![units.div_ceil(2), units / 2]),
    }
}
