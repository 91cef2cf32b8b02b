//! What if it fails: a fault is put into the plan, and the plan's own devices say what clears it,
//! at what amps and how fast, what stays live, or why nothing clears it.

use serde::Serialize;
use utoipa::ToSchema;

use crate::evaluate::{Lookup, Report};
use crate::figure::{Subject, Verdict, said};
use crate::job::{DeviceKind, Job, NodeKey, NodeKind};
use crate::library::Library;
use crate::plan::PlanFound;
use crate::quantity::{Unit, above, below};
use crate::school::School;
use crate::stages::protection::{AT_ONCE_S, RESIDUAL_S, residual};

/// A fault.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum FaultKind {
    /// A frame touches a pole of a string.
    FrameToPole,
    /// A string is shorted, and others feed it.
    StringShort,
    /// A line touches a case on the AC side.
    LineToCase,
    /// The neutral is lost while the backup runs.
    LostNeutral,
    /// A surge on the DC cable.
    Surge,
    /// A switch is opened under load.
    OpenedUnderLoad,
}

/// A fault with what follows from it.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct Fault {
    /// What it is.
    pub kind: FaultKind,
    /// Where.
    pub at: Subject,
    /// Whether something clears it: pass, fail, or open.
    pub verdict: Verdict,
    /// What clears it.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub clears: Option<Subject>,
    /// Current that flows, A.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub amps_a: Option<f64>,
    /// How fast it clears, s.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub seconds_s: Option<f64>,
    /// What stays live.
    pub live: Vec<Subject>,
    /// How it goes, line by line.
    pub lines: Vec<String>,
}

/// A gPV fuse opens from so many times its rating (IEC 60269-6).
const FUSE_OPENS: f64 = 1.45;
/// Within an hour, s.
const HOUR_S: f64 = 3600.0;

/// From so many times its rating a breaker opens by its heat within minutes (UL 489: 200 %).
const HEATS_TIMES: f64 = 2.0;

/// Every fault a plan can be asked.
pub fn faults(job: &Job, library: &Library, report: &Report) -> Vec<Fault> {
    let plan = PlanFound::of(job, library);
    let mut of_strings = vec![Vec::new(); job.strings.len()];
    for (at, own) in plan.circuits.iter().enumerate() {
        if plan.circuit(at).kind.is_dc() {
            own.strings.iter().for_each(|i| of_strings[*i].push(at));
        }
    }
    let looked = Lookup::of(report);
    let f = Finder { job, library, report, looked, plan: &plan, of_strings };
    let mut all = Vec::new();
    for i in 0..job.strings.len() {
        all.push(f.frame_to_pole(i));
        all.extend(f.string_short(i));
    }
    for inverter in &job.inverters {
        all.extend(f.surge(&inverter.id));
    }
    for at in 0..plan.circuits.len() {
        if plan.circuit(at).kind.is_ac() {
            all.push(f.line_to_case(at));
        }
    }
    all.extend(f.lost_neutral());
    all.extend(f.opened_under_load());
    all
}

struct Finder<'a> {
    job: &'a Job,
    library: &'a Library,
    report: &'a Report,
    looked: Lookup<'a>,
    plan: &'a PlanFound,
    /// The DC circuits of each string, its own first.
    of_strings: Vec<Vec<usize>>,
}

fn fault(kind: FaultKind, at: Subject, verdict: Verdict, lines: Vec<String>) -> Fault {
    Fault { kind, at, verdict, clears: None, amps_a: None, seconds_s: None, live: vec![], lines }
}

impl Finder<'_> {
    /// The DC circuits of a string, its own first.
    fn circuits_of(&self, i: usize) -> &[usize] {
        &self.of_strings[i]
    }

    /// One pole on a frame: the array floats, so nothing flows and nothing opens.
    fn frame_to_pole(&self, i: usize) -> Fault {
        let s = &self.job.strings[i];
        let volts = self.looked.number("string.voc_cold_v", s.letter.as_str());
        let bonded = self
            .report
            .bonding
            .parts
            .iter()
            .find(|p| matches!(&p.subject, Subject::Face { face } if *face == s.face));
        let bonded = bonded.map_or(Verdict::Unknown, |p| p.verdict);
        let mut lines = vec![
            "The strings float: a first fault to earth drives no current, and no fuse or breaker \
             opens."
                .to_owned(),
            match bonded {
                Verdict::Pass => {
                    "The frames are bonded: they stay at earth, and nobody gets a shock from them."
                        .to_owned()
                }
                Verdict::Fail => {
                    "The frames are not bonded: they take the volts of the pole.".to_owned()
                }
                _ => "Whether the frames come to earth is open.".to_owned(),
            },
            "The inverter measures the insulation before it starts and stays off; a second fault \
             would be a short circuit through the frames."
                .to_owned(),
        ];
        if let Some(v) = volts {
            lines.push(format!(
                "Until the fault is found the string stays live: up to {} on the coldest morning.",
                said(v, Unit::V)
            ));
        }
        let verdict = match bonded {
            Verdict::Pass => Verdict::Warn,
            other => other,
        };
        let at = Subject::string(&s.letter);
        Fault {
            live: vec![at.clone()],
            amps_a: Some(0.0),
            ..fault(FaultKind::FrameToPole, at, verdict, lines)
        }
    }

    /// The others of its input feed a shorted string.
    fn string_short(&self, i: usize) -> Option<Fault> {
        let s = &self.job.strings[i];
        if s.optimizer.is_some() {
            return None;
        }
        let input = Subject::mppt(&s.inverter, s.mppt);
        let fed = self.looked.number("string.fuse_fault_a", &input.to_string());
        let others = self
            .job
            .strings
            .iter()
            .filter(|o| o.inverter == s.inverter && o.mppt == s.mppt && o.letter != s.letter);
        let others: Vec<Subject> = others.map(|o| Subject::string(&o.letter)).collect();
        let at = Subject::string(&s.letter);
        if others.is_empty() {
            let line = "It is alone on its input: a short drives its own short-circuit current, \
                        which its wire bears for good."
                .to_owned();
            let isc = self.circuits_of(i).first().and_then(|at| {
                self.looked.number("circuit.i_max_a", self.plan.circuits[*at].key.as_str())
            });
            let own = fault(FaultKind::StringShort, at.clone(), Verdict::Pass, vec![line]);
            return Some(Fault { amps_a: isc, live: vec![at], ..own });
        }
        let fuse = self.fuse_of(i);
        let rating = self.library.module(&s.module).and_then(|m| m.ratings.series_fuse_a);
        let mut lines = Vec::new();
        if let Some(fed) = fed {
            lines.push(format!(
                "{} other strings of the input drive {} into it.",
                others.len(),
                said(fed, Unit::A)
            ));
        }
        let (verdict, clears) = match (fed, fuse, rating) {
            (None, ..) => (Verdict::Unknown, None),
            (Some(fed), Some((subject, amps)), _) if !below(fed, FUSE_OPENS * amps) => {
                lines.push(format!(
                    "Its fuse of {} opens: {} is 1.45 times its rating or more, within an hour.",
                    said(amps, Unit::A),
                    said(fed, Unit::A)
                ));
                (Verdict::Pass, Some(subject))
            }
            (Some(fed), fuse, Some(rating)) if !above(fed, rating) => {
                lines.push(format!(
                    "Nothing opens, and nothing has to: the modules bear {}.",
                    said(rating, Unit::A)
                ));
                if fuse.is_some() {
                    lines.push("Its fuse stays whole at that current.".to_owned());
                }
                (Verdict::Pass, None)
            }
            (Some(_), Some((_, amps)), Some(rating)) => {
                lines.push(format!(
                    "Its fuse of {} opens from {} on; between that and the {} of the module it \
                     may take long.",
                    said(amps, Unit::A),
                    said(FUSE_OPENS * amps, Unit::A),
                    said(rating, Unit::A)
                ));
                (Verdict::Warn, None)
            }
            (Some(_), None, Some(rating)) => {
                lines.push(format!(
                    "Nothing opens it: that is more than the {} the modules bear.",
                    said(rating, Unit::A)
                ));
                (Verdict::Fail, None)
            }
            (Some(_), _, None) => (Verdict::Unknown, None),
        };
        let seconds_s = clears.is_some().then_some(HOUR_S);
        lines.push("The modules of the string stay live as long as there is light.".to_owned());
        let own = fault(FaultKind::StringShort, at.clone(), verdict, lines);
        Some(Fault { clears, seconds_s, amps_a: fed, live: vec![at], ..own })
    }

    /// The fuse a string's circuit ends at.
    fn fuse_of(&self, i: usize) -> Option<(Subject, f64)> {
        let own = self.circuits_of(i).iter().find_map(|at| {
            let end = self.plan.circuit(*at).to.as_ref()?;
            let (node, device) = (end.node.as_ref()?, end.device.as_ref()?);
            let own = self.plan.plan.nodes.get(node)?.devices.get(device)?;
            let subject = Subject::Device { node: node.clone(), device: device.clone() };
            (own.what == DeviceKind::Fuse).then_some((subject, own.amps_a?))
        });
        own.or_else(|| {
            let at = *self.circuits_of(i).first()?;
            let amps = self.plan.plan.protected_a(self.plan.circuit(at))?;
            Some((Subject::circuit(&self.plan.circuits[at].key), amps))
        })
    }

    /// A line on a case: the loop drives a current that trips the breaker, or a residual device.
    fn line_to_case(&self, at: usize) -> Fault {
        let own = &self.plan.circuits[at];
        let subject = Subject::circuit(&own.key);
        let residual = residual(self.plan, at);
        // What is not fitted opens nothing.
        let device = self.plan.guard_of(at).device();
        let rated = device.and_then(|d| d.amps_a);
        // Where a length or a size is open, only the most that can flow is known (na).
        let loop_a = self.looked.number("circuit.earth_fault_a", own.key.as_str());
        let na = self.job.school == School::Na;
        let most_a = self.looked.number("service.fault_a", "site").filter(|_| na);
        let amps = loop_a.or(most_a);
        let times = device.and_then(|d| d.trip_times).or(self.job.school.trip_times());
        let mut lines = Vec::new();
        match (loop_a, most_a) {
            (Some(a), _) => lines.push(format!("The loop drives {}.", said(a, Unit::A))),
            (None, Some(a)) => lines.push(format!(
                "The earth wire is the way back: at most {} flow, less by the wire between.",
                said(a, Unit::A)
            )),
            (None, None) => {}
        }
        let trips = amps.zip(rated).zip(times).map(|((a, rated), k)| !below(a, k * rated));
        let (verdict, seconds_s) = if !residual.clearing.is_empty() {
            lines.push(
                "The residual-current device on its way to the grid opens within 300 ms."
                    .to_owned(),
            );
            (Verdict::Pass, Some(RESIDUAL_S))
        } else {
            match (trips, rated.zip(times)) {
                (Some(true), Some((rated, times))) => {
                    lines.push(format!(
                        "That is {times} times the {} of the breaker or more: it trips at once.",
                        said(rated, Unit::A)
                    ));
                    if loop_a.is_none() {
                        lines.push(
                            "What the wire takes off that is open: a length or a size is missing."
                                .to_owned(),
                        );
                    }
                    let sure = if loop_a.is_some() { Verdict::Pass } else { Verdict::Warn };
                    (sure, Some(AT_ONCE_S))
                }
                (Some(false), Some((rated, times))) => {
                    lines.push(format!(
                        "The breaker of {} trips at once only from {} on: it waits for its heat.",
                        said(rated, Unit::A),
                        said(times * rated, Unit::A)
                    ));
                    if residual.doubt {
                        lines.push(
                            "Whether it comes through a residual-current device there is not said."
                                .to_owned(),
                        );
                    }
                    // By its heat it opens all the same, where the loop drives well above it; the
                    // other school sets the time.
                    let heats = na && loop_a.is_some_and(|a| !below(a, HEATS_TIMES * rated));
                    let verdict = match (heats, residual.doubt) {
                        (true, _) => Verdict::Warn,
                        (false, true) => Verdict::Unknown,
                        (false, false) => Verdict::Fail,
                    };
                    (verdict, None)
                }
                _ => {
                    lines.push("What trips it is open: see what is missing there.".to_owned());
                    (Verdict::Unknown, None)
                }
            }
        };
        if !own.inverters.is_empty() {
            lines.push("The inverter sees the grid gone and stops; its DC side stays live.".into());
        }
        if !own.branches.is_empty() {
            lines.push("The units see the grid gone and stop; their modules stay live.".into());
        }
        let live = own.inverters.iter().map(|i| Subject::inverter(&self.job.inverters[*i].id));
        let branch = |i: &usize| {
            let branch = self.job.branches[*i].letter.clone();
            Subject::Branch { branch }
        };
        let live = live.chain(own.branches.iter().map(branch));
        let clears = (verdict <= Verdict::Warn).then(|| subject.clone());
        let live = live.collect();
        let made = fault(FaultKind::LineToCase, subject, verdict, lines);
        Fault { clears, amps_a: amps, seconds_s, live, ..made }
    }

    /// The backup runs and its neutral is gone: the checks of the backup say it.
    fn lost_neutral(&self) -> Option<Fault> {
        let backup = self.job.protection.backup.as_ref()?;
        let at = match &backup.board {
            Some(board) => Subject::Node { node: board.clone() },
            None => Subject::Site,
        };
        let of = |id: &str| {
            self.report.checks.iter().find(|c| c.id == id).map_or(Verdict::Unknown, |c| c.verdict)
        };
        let [electrode, neutral, clears] =
            ["backup.electrode", "backup.neutral", "backup.clears"].map(of);
        let word = |v: Verdict, yes: &str, no: &str| match v {
            Verdict::Pass => yes.to_owned(),
            Verdict::Fail => no.to_owned(),
            _ => "Open: it is not said.".to_owned(),
        };
        let lines = vec![
            word(
                electrode,
                "Its own electrode holds the earth of the house.",
                "No electrode holds the earth once the network's is gone.",
            ),
            word(
                neutral,
                "The relay connects neutral and earth: a fault has a way back.",
                "Nothing connects neutral and earth: a fault has no way back, and cases float.",
            ),
            word(
                clears,
                "What the inverter drives is enough to open a device of the backup board.",
                "The inverter drives too little to trip a breaker; there is no residual device.",
            ),
        ];
        let verdict = electrode.max(neutral).max(clears);
        let made = fault(FaultKind::LostNeutral, at.clone(), verdict, lines);
        Some(Fault {
            clears: (verdict == Verdict::Pass).then(|| at.clone()),
            amps_a: backup.fault_a,
            live: vec![at],
            ..made
        })
    }

    /// A surge on the cable of an inverter's strings.
    fn surge(&self, inverter: &crate::job::InverterKey) -> Option<Fault> {
        let strings: Vec<usize> = (0..self.job.strings.len())
            .filter(|i| self.job.strings[*i].inverter == *inverter)
            .collect();
        if strings.is_empty() {
            return None;
        }
        let at = Subject::inverter(inverter);
        let check = self.looked.check("spd.fitted", inverter.as_str());
        let verdict = check.map_or(Verdict::Pass, |c| c.verdict);
        let mut nodes: Vec<&NodeKey> = strings
            .iter()
            .flat_map(|i| self.circuits_of(*i))
            .flat_map(|at| self.plan.ways(self.plan.circuit(*at)))
            .flat_map(|w| [&w.from, &w.to])
            .filter(|n| {
                let node = self.plan.plan.nodes.get(*n);
                node.is_some_and(|n| n.devices.values().any(|d| d.what == DeviceKind::SurgeDevice))
            })
            .collect();
        nodes.sort();
        nodes.dedup();
        let mut lines = vec![match (verdict, nodes.is_empty()) {
            (Verdict::Pass, false) => format!(
                "The surge devices in {} conduct it to earth in microseconds.",
                nodes.iter().map(|n| n.as_str()).collect::<Vec<_>>().join(", ")
            ),
            (Verdict::Pass, true) if check.is_some() => {
                "The devices in the inverter conduct it to earth.".to_owned()
            }
            (Verdict::Pass, true) => "No surge device is asked for here.".to_owned(),
            (Verdict::Unknown, _) => "Whether anything conducts it to earth is open.".to_owned(),
            _ => "Nothing conducts it to earth: the inverter's input takes it.".to_owned(),
        }];
        lines.push("A fuse or breaker does not see it: it is over before they move.".to_owned());
        let clears = (verdict == Verdict::Pass)
            .then(|| nodes.first().map(|n| Subject::Node { node: (*n).clone() }))
            .flatten();
        Some(Fault {
            clears,
            live: vec![at.clone()],
            ..fault(FaultKind::Surge, at, verdict, lines)
        })
    }

    /// Every DC switch opened under load, and what has none.
    fn opened_under_load(&self) -> Vec<Fault> {
        let mut all = Vec::new();
        for (key, node) in &self.plan.plan.nodes {
            if !self.plan.dc_comes_to(key) || node.kind == NodeKind::Inverter {
                continue;
            }
            for (device, own) in &node.devices {
                let subject = Subject::Device { node: key.clone(), device: device.clone() };
                let of = |id: &str| self.looked.check(id, &subject.to_string()).map(|c| c.verdict);
                match own.what {
                    DeviceKind::Isolator => {
                        let [volts, amps] = ["isolator.volts_v", "isolator.amps_a"].map(of);
                        let verdict =
                            volts.into_iter().chain(amps).max().unwrap_or(Verdict::Unknown);
                        let line = match verdict {
                            Verdict::Pass => {
                                "It breaks the arc: volts and amps are inside its \
                                              rating."
                            }
                            Verdict::Fail => "Beyond its rating the arc may stand: it burns.",
                            _ => "Its rating is not said: it may not break the arc.",
                        };
                        let lines = vec![line.to_owned()];
                        let made =
                            fault(FaultKind::OpenedUnderLoad, subject.clone(), verdict, lines);
                        let clears = (verdict == Verdict::Pass).then(|| subject.clone());
                        all.push(Fault { clears, amps_a: own.amps_a, ..made });
                    }
                    DeviceKind::Fuse => {
                        let line = "A fuse holder is no switch: pulled under load the arc stands. \
                                    Open the isolator first.";
                        let lines = vec![line.to_owned()];
                        all.push(fault(FaultKind::OpenedUnderLoad, subject, Verdict::Warn, lines));
                    }
                    _ => {}
                }
            }
        }
        all
    }
}
