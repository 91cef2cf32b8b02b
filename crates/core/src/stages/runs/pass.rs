//! The runs of a job: each with its device, its conductors, its voltage drop, its raceways.

use super::{AcInputs, RacewayCut, Vdrop, ac, iec, na, raceway, vdrop};
use crate::figure::{Sheet, Subject, Verdict};
use crate::figures;
use crate::job::{CircuitKind, Edit, InverterKey, Job, JobString, Run};
use crate::library::{InverterSheet, Library, ModuleSheet};
use crate::registry::Bench;
use crate::school::School;
use crate::tables;

figures! { Runs;
    /// Whether there is anything to judge.
    PLANNED: Rule = "runs.planned", "Circuits planned", "job";
    /// Whether the main panel is known.
    PANEL_KNOWN: Rule = "panel.bus_a", "Main panel known", na "705.12(B)";
}

/// What the runs of a job come to, for what rests on them.
#[derive(Debug, Default)]
pub struct RunsFound {
    /// The cut through each raceway.
    pub cuts: Vec<RacewayCut>,
    /// The device of each AC run; absent where it cannot be had.
    pub devices: Vec<Option<f64>>,
}

/// What a run carries, looked up once.
pub(super) struct Carried<'a> {
    pub job: &'a Job,
    pub library: &'a Library,
    pub run: &'a Run,
    pub index: usize,
    pub strings: Vec<(&'a JobString, &'a ModuleSheet)>,
    pub inverter: Option<&'a InverterSheet>,
}

impl<'a> Carried<'a> {
    fn of(bench: &Bench<'a>, index: usize, run: &'a Run) -> Self {
        let (job, library) = (bench.job, bench.library);
        let named = run.strings.iter().filter_map(|l| job.strings.iter().find(|s| s.letter == *l));
        let strings = named.filter_map(|s| Some((s, library.module(&s.module)?))).collect();
        let by_key = |key: &InverterKey| job.inverters.iter().find(|i| i.id == *key);
        let inverter = run.inverter.as_ref().and_then(by_key);
        let inverter = inverter.and_then(|i| library.inverter(&i.sheet));
        Carried { job, library, run, index, strings, inverter }
    }

    /// Circuits that lie side by side: one pair per string, or one.
    pub fn circuits(&self) -> u32 {
        if self.run.kind == CircuitKind::PvString { self.strings.len().max(1) as u32 } else { 1 }
    }

    /// Strings in parallel on one pair.
    pub fn parallel(&self) -> u32 {
        if self.run.kind == CircuitKind::PvOutput { self.strings.len().max(1) as u32 } else { 1 }
    }

    /// The module with the largest Isc: every pair of the run is sized for it.
    pub fn strongest(&self) -> Option<&ModuleSheet> {
        let isc = |m: &ModuleSheet| m.ratings.isc_a.unwrap_or(0.0);
        self.strings.iter().map(|(_, m)| *m).max_by(|a, b| isc(a).total_cmp(&isc(b)))
    }

    pub fn three_phase(&self) -> bool {
        self.inverter.is_some_and(|i| i.three_phase)
    }

    /// Length of all segments; none where one is not known.
    fn length_m(&self) -> Option<f64> {
        if self.run.segments.is_empty() {
            None
        } else {
            self.run.segments.iter().map(|s| s.length_m).sum()
        }
    }

    pub fn edit(&self, rest: &str, value: impl Into<serde_json::Value>) -> Vec<Edit> {
        vec![Edit::new(format!("/runs/{}/{rest}", self.index), value)]
    }
}

/// Sizes a run's conductors come to.
pub(super) struct Sizes {
    /// The conductor, as planned.
    pub wire: Option<String>,
    /// The earth wire.
    pub earth: Option<String>,
}

pub(super) fn runs_of_job(bench: &Bench, sheet: &mut Sheet) -> RunsFound {
    let job = bench.job;
    let mut found = RunsFound::default();
    if job.runs.is_empty() && job.branches.iter().all(|b| b.home_run_m.is_none()) {
        sheet.subject = Subject::Site;
        sheet.known(&PLANNED, ["runs"]);
    }
    for (index, run) in job.runs.iter().enumerate() {
        let device = one_run(sheet, &Carried::of(bench, index, run), &mut found.cuts);
        if !run.kind.is_dc() {
            found.devices.push(device);
        }
    }
    found
}

/// One run; gives its overcurrent device, where there is one.
fn one_run(sheet: &mut Sheet, c: &Carried, cuts: &mut Vec<RacewayCut>) -> Option<f64> {
    sheet.subject = Subject::run(&c.run.id);
    let mut device = c.run.ocpd_a;
    if !c.run.kind.is_dc() {
        let inputs = AcInputs {
            rated_a: c.inverter.and_then(|i| i.ac_a),
            watts_w: c.inverter.and_then(|i| i.ac_w),
            volts_v: c.inverter.and_then(|i| i.ac_v),
            three_phase: c.three_phase(),
            maker_max_ocpd_a: c.inverter.and_then(|i| i.max_ocpd_a),
            network_a: c.job.settings.network_a,
            ..AcInputs::default()
        };
        device = device.or(ac(sheet, &inputs).value());
    }
    let sizes = match c.job.school {
        School::Na => na::conductors(sheet, c, device),
        School::Iec => iec::conductors(sheet, c, device),
    };
    drop(c, sheet);
    for (k, segment) in c.run.segments.iter().enumerate() {
        if let Some(choice) = &segment.raceway {
            sheet.subject = Subject::Raceway { run: c.run.id.clone(), segment: k + 1 };
            cuts.extend(raceway::one(sheet, c, k, choice, &sizes));
        }
    }
    device
}

/// Voltage drop of each circuit of the run, with the size that would hold it.
fn drop(c: &Carried, sheet: &mut Sheet) {
    let run = c.run;
    let (dc, ac) = c.job.school.vdrop_limits_pct();
    let base = |amps_a: Option<f64>, volts_v: Option<f64>, limit_pct: f64| Vdrop {
        awg: if c.job.school == School::Na { run.wire.awg.clone() } else { None },
        material: run.wire.material,
        mm2: if c.job.school == School::Iec { run.wire.mm2 } else { None },
        cable: Some(run.wire.cable),
        length_ft: None,
        length_m: c.length_m(),
        amps_a,
        volts_v,
        three_phase: !run.kind.is_dc() && c.three_phase(),
        limit_pct: Some(limit_pct),
    };
    if !run.kind.is_dc() {
        let limit = c.job.settings.vdrop_ac_pct.unwrap_or(ac);
        let (amps, volts) = (c.inverter.and_then(|i| i.ac_a), c.inverter.and_then(|i| i.ac_v));
        hold_drop(sheet, c, &base(amps, volts, limit));
        return;
    }
    let limit = c.job.settings.vdrop_dc_pct.unwrap_or(dc);
    for (s, m) in &c.strings {
        sheet.subject = Subject::Circuit { run: run.id.clone(), string: Some(s.letter.clone()) };
        let (amps, volts) = flows(c, s, m);
        hold_drop(sheet, c, &base(amps, volts, limit));
        if run.kind == CircuitKind::PvOutput {
            break;
        }
    }
}

/// Working amps and volts of a string, or of all that share its pair.
fn flows(c: &Carried, s: &JobString, m: &ModuleSheet) -> (Option<f64>, Option<f64>) {
    let n = f64::from(s.n);
    let Some(optimizer) = &s.optimizer else {
        let p = f64::from(c.parallel());
        return (m.ratings.imp_a.map(|i| i * p), m.ratings.vmp_v.map(|v| v * n));
    };
    // The devices hold the string at fixed volts: its watts at these are the amps.
    let volts = c.library.optimizer(optimizer).and_then(|o| o.ratings.string_v);
    (m.ratings.pmax_w.zip(volts).map(|(w, v)| w * n / v), volts)
}

fn hold_drop(sheet: &mut Sheet, c: &Carried, x: &Vdrop) {
    let mut trial = sheet.trial();
    let check = vdrop(sheet, x);
    if check.verdict != Verdict::Warn {
        return;
    }
    check.beyond(|over| format!("{over} over the limit: the loss is paid every sunny hour."));
    let mut passes = |y: Vdrop| vdrop(&mut trial, &y).verdict == Verdict::Pass;
    match c.job.school {
        School::Na => {
            let usable = |s: &&String| tables::ampacity(s, x.material.key(), false).is_some();
            let mut sizes = tables::WIRES.iter().map(|w| &w.size).filter(usable);
            let holds = sizes.find(|s| passes(Vdrop { awg: Some((*s).clone()), ..x.clone() }));
            if let Some(size) = holds {
                let edits = c.edit("wire/awg", size.as_str());
                check.cure(format_args!("{size} AWG holds it."), edits);
            }
        }
        School::Iec => {
            let holds = iec::sections().find(|s| passes(Vdrop { mm2: Some(*s), ..x.clone() }));
            if let Some(mm2) = holds {
                check.cure(format_args!("{mm2} mm² holds it."), c.edit("wire/mm2", mm2));
            }
        }
    }
}
