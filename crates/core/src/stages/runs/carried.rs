//! A circuit with the equipment it carries looked up.

use std::collections::BTreeMap;

use super::lines::{Sources, is_208y};
use super::{Circuit, SharedCircuit};
use crate::figure::Subject;
use crate::job::{self, CircuitKind, Edit, Job, JobBranch, JobString, WayKey};
use crate::library::{InverterSheet, Library, MicroSheet, ModuleSheet};
use crate::plan::{Indexed, PlanFound};
use crate::registry::Bench;

/// What lies in a way, counted.
#[derive(Clone, Copy, Debug, Default)]
pub(super) struct Load {
    /// Current-carrying conductors of every circuit in it (na).
    pub ccc_n: u32,
    /// Circuits with power in it.
    pub circuits_n: u32,
}

/// What every way of the plan holds.
pub(super) type Loads = BTreeMap<WayKey, Load>;

/// Counts what lies in every way.
pub(super) fn loads(bench: &Bench, plan: &PlanFound) -> Loads {
    let none = Loads::new();
    let each = (0..plan.circuits.len()).map(|at| {
        let c = Carried::of(bench, plan, &none, at);
        let shared = Circuit {
            kind: c.shared(),
            neutral: c.circuit.neutral,
            neutral_sense_only: false,
            neutral_nonlinear: false,
        };
        if c.circuit.kind.is_power() { shared.current_carrying() } else { 0 }
    });
    let each: Vec<u32> = each.collect();
    let mut loads = Loads::new();
    for way in plan.plan.ways.keys() {
        let load = loads.entry(way.clone()).or_default();
        for laid in plan.lying_in(way) {
            load.ccc_n += each[laid.circuit];
            load.circuits_n += u32::from(each[laid.circuit] > 0);
        }
    }
    loads
}

/// A circuit, and what hangs on it.
pub(super) struct Carried<'a> {
    /// The job.
    pub(super) job: &'a Job,
    /// Its data sheets.
    pub(super) library: &'a Library,
    /// The plan it is of.
    pub(super) plan: &'a PlanFound,
    /// Its place in the plan's list.
    pub(super) at: usize,
    /// The circuit.
    pub(super) circuit: &'a job::Circuit,
    /// Its strings with their modules.
    pub(super) strings: Vec<(&'a JobString, &'a ModuleSheet)>,
    /// Inverters that feed it; absent where a data sheet is not there.
    pub(super) inverters: Vec<Option<&'a InverterSheet>>,
    /// What every way of the plan holds.
    pub(super) loads: &'a Loads,
    /// What feeds it on the AC side.
    pub(super) sources: Sources<'a>,
    /// Branches that feed it, with their units.
    pub(super) branches: Vec<(&'a JobBranch, Option<&'a MicroSheet>)>,
}

impl<'a> Carried<'a> {
    /// The circuit of this place in the plan's list.
    pub(super) fn of(bench: &Bench<'a>, plan: &'a PlanFound, loads: &'a Loads, at: usize) -> Self {
        let (job, library) = (bench.job, bench.library);
        let Indexed { strings, inverters, branches, .. } = &plan.circuits[at];
        let sources = Sources::of(job, library, inverters, branches);
        let strings = strings.iter().filter_map(|i| {
            let s = &job.strings[*i];
            Some((s, library.module(&s.module)?))
        });
        let branches = branches.iter().map(|i| {
            let b = &job.branches[*i];
            (b, library.micro(&b.micro))
        });
        Carried {
            job,
            library,
            plan,
            loads,
            at,
            circuit: plan.circuit(at),
            strings: strings.collect(),
            inverters: inverters
                .iter()
                .map(|i| library.inverter(&job.inverters[*i].sheet))
                .collect(),
            branches: branches.collect(),
            sources,
        }
    }

    /// Whether it carries DC.
    pub(super) fn is_dc(&self) -> bool {
        self.circuit.kind.is_dc()
    }

    /// Strings in parallel: on a combined circuit those it carries, on a string's own those that
    /// share its input, which would feed a fault in it.
    pub(super) fn parallel(&self) -> u32 {
        let n = match (self.circuit.kind, self.strings.first()) {
            (CircuitKind::PvString, Some((own, _))) => {
                let shares = |s: &&JobString| s.inverter == own.inverter && s.mppt == own.mppt;
                self.job.strings.iter().filter(shares).count()
            }
            _ => self.strings.len(),
        };
        n.max(1) as u32
    }

    /// Strings whose current it carries.
    pub(super) fn carried_n(&self) -> u32 {
        if self.circuit.kind == CircuitKind::PvOutput {
            self.strings.len().max(1) as u32
        } else {
            1
        }
    }

    /// The module with the largest Isc, its gain in.
    pub(super) fn strongest(&self) -> Option<&'a ModuleSheet> {
        let isc = |m: &ModuleSheet| m.ratings.isc_gained_a().unwrap_or(0.0);
        self.strings.iter().map(|(_, m)| *m).max_by(|a, b| isc(a).total_cmp(&isc(b)))
    }

    /// Rated output of the optimizers that feed it, A; none where there are none, `Some(None)`
    /// where a data sheet does not say.
    pub(super) fn optimizer_a(&self) -> Option<Option<f64>> {
        let devices: Vec<_> =
            self.strings.iter().filter_map(|(s, _)| s.optimizer.as_ref()).collect();
        if devices.is_empty() {
            return None;
        }
        let rated = |d: &&_| self.library.optimizer(d)?.ratings.out_a_max_a;
        Some(devices.iter().map(rated).sum())
    }

    /// A leg of it as a subject, from 0; the circuit itself where it has one.
    pub(super) fn leg_subject(&self, k: usize) -> Subject {
        let circuit = self.plan.circuits[self.at].key.clone();
        Subject::Circuit { circuit, leg: (self.circuit.legs.len() > 1).then_some(k + 1) }
    }

    /// Whether what feeds it has three phases.
    pub(super) fn three_phase(&self) -> bool {
        self.sources.three_phase()
    }

    /// Rated output of all that feeds it, A; of several lines that of the fullest.
    pub(super) fn rated_a(&self) -> Option<f64> {
        self.sources.fullest_a()
    }

    /// Nominal volts of its AC.
    pub(super) fn ac_v(&self) -> Option<f64> {
        self.sources.volts()
    }

    /// The largest device its makers allow, A, and where it stands; none where none has a say: an
    /// inverter's or unit's sheet need not name one, a module's has to.
    pub(super) fn maker_max(&self) -> Option<(Option<f64>, &'static str)> {
        // The least of several; open where one of them does not say.
        let least = |each: &mut dyn Iterator<Item = Option<f64>>| {
            each.reduce(|a, b| a.zip(b).map(|(a, b)| a.min(b))).flatten()
        };
        match self.circuit.kind {
            // What is said is of the output to the grid.
            CircuitKind::InverterOut if self.plan.is_backup(self.at) => None,
            CircuitKind::InverterOut => {
                let mut each = self.inverters.iter().map(|i| i.and_then(|i| i.max_ocpd_a));
                Some((least(&mut each), "inverter.max_ocpd_a"))
            }
            CircuitKind::MicroBranch => {
                let mut each = self.branches.iter().map(|(_, m)| m.and_then(|m| m.max_ocpd_a));
                Some((least(&mut each), "unit.max_ocpd_a"))
            }
            CircuitKind::PvString => {
                let each = self.strings.iter().map(|(_, m)| m.ratings.series_fuse_a);
                let least = each.reduce(|a, b| a.zip(b).map(|(a, b)| a.min(b)));
                least.map(|a| (a, "module.series_fuse_a"))
            }
            _ => None,
        }
    }

    /// Its kind as one of several circuits in a raceway (na).
    pub(super) fn shared(&self) -> SharedCircuit {
        // Two lines of 208Y/120: the neutral carries current (310.15(E)).
        let two_of_208y = self.ac_v().is_some_and(is_208y);
        match (self.is_dc(), self.three_phase()) {
            (true, _) => SharedCircuit::Dc,
            (false, true) => SharedCircuit::ThreePhase,
            (false, false) if two_of_208y => SharedCircuit::TwoOf208y,
            (false, false) => SharedCircuit::SplitPhase,
        }
    }

    /// An edit of a leg's wire.
    pub(super) fn wire_edit(
        &self,
        leg: usize,
        field: &str,
        value: impl Into<serde_json::Value>,
    ) -> Vec<Edit> {
        let key = &self.plan.circuits[self.at].key;
        vec![Edit::new(format!("/plan/circuits/{key}/legs/{leg}/wire/{field}"), value)]
    }
}
