//! The smallest wire of every leg with which all checks of its circuit hold: found by trying, so
//! that heat, terminals, device, the rule for small wire and the drop all have their say.

mod budget;
mod options;

use serde::Serialize;
use utoipa::ToSchema;

use crate::evaluate::{Report, evaluate};
use crate::figure::{Check, Subject, Verdict};
use crate::job::{CircuitKey, Edit, Job, WireChoice, choices};
use crate::library::Library;
use crate::school::School;
use crate::stages::runs::is_of_the_wire;
use crate::tables;
use crate::work::Work;

pub use budget::{BudgetShare, BudgetShares, share_budget};
pub use options::{WireOption, WireOptions, wire_options};

/// A check that the next smaller wire does not hold.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, ToSchema)]
pub struct Binding {
    /// Stable id of the check.
    pub id: &'static str,
    /// Its title.
    pub title: &'static str,
}

/// The wire of a leg.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct SizedWire {
    /// The circuit.
    pub circuit: CircuitKey,
    /// The leg, from 1.
    pub leg: usize,
    /// AWG or kcmil (na), mm² (iec); none where no size holds all checks.
    pub size: Option<String>,
    /// What the next smaller size does not hold; where there is no size, what none holds.
    pub because: Vec<Binding>,
    /// Fields that are missing for it.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub missing: Vec<&'static str>,
}

/// The smallest wires of a plan.
#[derive(Clone, Debug, Default, PartialEq, Serialize, ToSchema)]
pub struct Wires {
    /// Each leg that was asked for.
    pub wires: Vec<SizedWire>,
    /// The edits that take them.
    pub edits: Vec<Edit>,
    /// The time was up, or nobody waited any more: it was not searched through.
    #[serde(skip_serializing_if = "std::ops::Not::not")]
    #[schema(required = false)]
    pub cut: bool,
}

/// A leg that is tried upward.
struct Trial {
    circuit: CircuitKey,
    leg: usize,
    /// Place of the size that is tried.
    at: usize,
    /// What the size before did not hold.
    because: Vec<Binding>,
}

/// The smallest wires that hold, of the circuits named, or of every leg whose wire is not picked
/// where none is named. A leg whose checks cannot all hold, or are open, keeps what it has; so does
/// one that was not searched through.
pub fn smallest_wires(job: &Job, library: &Library, named: &[CircuitKey], work: &Work) -> Wires {
    let sizes = sizes(job.school);
    let mut job = job.clone();
    let mut trials = Vec::new();
    for (key, circuit) in &job.plan.circuits {
        for (leg, own) in circuit.legs.iter().enumerate() {
            let open = named.is_empty() && own.wire.awg.is_none() && own.wire.mm2.is_none();
            if circuit.kind.is_power() && (open || named.contains(key)) {
                trials.push(Trial { circuit: key.clone(), leg, at: 0, because: Vec::new() });
            }
        }
    }
    for trial in &trials {
        put(&mut job, trial, &sizes);
    }
    loop {
        let report = evaluate(&job, library, &[]);
        let up = raised(&job, &report, &trials, sizes.len());
        if up.is_empty() {
            return found(&job, &report, &trials, &sizes);
        }
        if !work.goes_on() {
            return Wires { cut: true, ..found(&job, &report, &trials, &sizes) };
        }
        for at in up {
            let trial = &mut trials[at];
            trial.because = against(&job, &report, trial).map(binding).collect();
            trial.at += 1;
            put(&mut job, trial, &sizes);
        }
    }
}

/// Sizes that may be picked, smallest first.
fn sizes(school: School) -> Vec<String> {
    let choices = choices(school);
    match school {
        School::Na => choices.awg,
        School::Iec => choices.mm2.iter().map(f64::to_string).collect(),
    }
}

fn wire<'j>(job: &'j mut Job, trial: &Trial) -> &'j mut WireChoice {
    let circuit = job.plan.circuits.get_mut(&trial.circuit).expect("it is tried");
    &mut circuit.legs[trial.leg].wire
}

fn put(job: &mut Job, trial: &Trial, sizes: &[String]) {
    let size = sizes[trial.at].clone();
    match job.school {
        School::Na => wire(job, trial).awg = Some(size),
        School::Iec => wire(job, trial).mm2 = size.parse().ok(),
    }
}

/// Checks that speak against a leg's wire: its own, and those of its circuit as a whole.
fn against<'r>(
    job: &Job,
    report: &'r Report,
    trial: &Trial,
) -> impl Iterator<Item = &'r Check> + use<'r> {
    let (circuit, leg) = (trial.circuit.clone(), trial.leg + 1);
    let several = job.plan.circuits[&circuit].legs.len() > 1;
    report.checks.iter().filter(move |c| {
        let own = match &c.subject {
            Subject::Circuit { circuit: of, leg: at } => {
                *of == circuit && (!several || at.is_none_or(|at| at == leg))
            }
            _ => false,
        };
        own && c.verdict != Verdict::Pass && is_of_the_wire(c.id)
    })
}

fn binding(check: &Check) -> Binding {
    Binding { id: check.id, title: check.title }
}

/// The legs that go up a size. What only the circuit as a whole does not hold (its drop) is mended
/// where the most of it is: in the longest leg for its section.
fn raised(job: &Job, report: &Report, trials: &[Trial], sizes: usize) -> Vec<usize> {
    let mut up = Vec::new();
    for (at, trial) in trials.iter().enumerate().filter(|(_, t)| t.at + 1 < sizes) {
        let mut speak = against(job, report, trial).peekable();
        if speak.peek().is_none() {
            continue;
        }
        let several = job.plan.circuits[&trial.circuit].legs.len() > 1;
        let whole = |c: &Check| matches!(c.subject, Subject::Circuit { leg: None, .. });
        if several && speak.all(whole) {
            let others = trials.iter().filter(|t| t.circuit == trial.circuit && t.at + 1 < sizes);
            let most = others.max_by(|a, b| share(job, a).total_cmp(&share(job, b)));
            if most.is_none_or(|most| most.leg != trial.leg) {
                continue;
            }
        }
        up.push(at);
    }
    up
}

/// Metres of a leg by its section: what its share of the drop goes by.
fn share(job: &Job, trial: &Trial) -> f64 {
    let leg = &job.plan.circuits[&trial.circuit].legs[trial.leg];
    let ways = leg.via.iter().filter_map(|key| job.plan.ways.get(key));
    let metres: f64 = ways.flat_map(|w| &w.parts).filter_map(|p| p.length_m).sum();
    let section = match job.school {
        School::Na => leg.wire.awg.as_deref().and_then(tables::wire).map(|w| w.cmil),
        School::Iec => leg.wire.mm2,
    };
    section.map_or(0.0, |section| metres / section)
}

/// The edit that takes a size for a leg, counted from 0.
fn taken(school: School, circuit: &CircuitKey, leg: usize, size: &str) -> Edit {
    let (field, value) = match school {
        School::Na => ("awg", serde_json::Value::from(size)),
        School::Iec => ("mm2", serde_json::json!(size.parse::<f64>().ok())),
    };
    Edit::new(format!("/plan/circuits/{circuit}/legs/{leg}/wire/{field}"), value)
}

fn found(job: &Job, report: &Report, trials: &[Trial], sizes: &[String]) -> Wires {
    let mut wires = Wires::default();
    for trial in trials {
        let left: Vec<&Check> = against(job, report, trial).collect();
        let mut missing: Vec<&'static str> =
            left.iter().flat_map(|c| c.missing.iter().copied()).collect();
        missing.sort_unstable();
        missing.dedup();
        let holds = left.is_empty();
        if holds {
            let size = &sizes[trial.at];
            wires.edits.push(taken(job.school, &trial.circuit, trial.leg, size));
        }
        wires.wires.push(SizedWire {
            circuit: trial.circuit.clone(),
            leg: trial.leg + 1,
            size: holds.then(|| sizes[trial.at].clone()),
            because: if holds {
                trial.because.clone()
            } else {
                left.into_iter().map(binding).collect()
            },
            missing,
        });
    }
    wires
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::job::{JobFile, read};

    fn kestrel() -> JobFile {
        read(include_str!("../../../data/demo/kestrel-lane.json")).expect("a demo job").file
    }

    fn open(job: &mut Job) {
        for leg in job.plan.circuits.values_mut().flat_map(|c| &mut c.legs) {
            (leg.wire.awg, leg.wire.mm2) = (None, None);
        }
    }

    fn of<'w>(wires: &'w Wires, circuit: &str) -> (&'w str, Vec<&'static str>) {
        let own = wires.wires.iter().find(|w| w.circuit.as_str() == circuit).expect("it was asked");
        (own.size.as_deref().unwrap_or("none"), own.because.iter().map(|b| b.id).collect())
    }

    #[test]
    fn heat_number_and_terminals_say_the_size_on_a_short_way() {
        let mut file = kestrel();
        open(&mut file.job);
        let found = smallest_wires(&file.job, &file.library, &[], &Work::default());
        // 13.85 A: 1.25 x 13.85 = 17.31 A, 1.5625 x 13.85 = 21.64 A. Three pairs in an attic of
        // 50 °C: 14 AWG 25 x 0.82 x 0.8 = 16.4 A and 20 A at its terminals, 12 AWG 19.7 and 25 A.
        let heat = vec!["circuit.ampacity_terminal_a", "circuit.ampacity_derated_a"];
        assert_eq!(of(&found, "A"), ("12", heat));
        // 33.3 A x 1.25 = 41.7 A: 10 AWG ends at 35 A, 8 AWG at 50 A.
        assert_eq!(of(&found, "AC1").0, "8");
        assert!(of(&found, "AC1").1.contains(&"circuit.ampacity_terminal_a"));
        assert_eq!(found.edits.len(), 4, "three strings and the output");
    }

    #[test]
    fn the_drop_says_the_size_on_a_long_one() {
        let mut file = kestrel();
        open(&mut file.job);
        let way = file.job.plan.ways.values_mut().find(|w| w.parts.len() == 3).expect("DC1");
        for (part, length_m) in way.parts.iter_mut().zip([60.0, 40.0, 20.0]) {
            part.length_m = Some(length_m);
        }
        let found = smallest_wires(&file.job, &file.library, &["A".into()], &Work::default());
        // 2 x 120 m x 13.05 A of 12 x 33 V: 8 AWG 2.553 ohm/km 2.02 %, 6 AWG 1.611 ohm/km 1.27 %.
        assert_eq!(of(&found, "A"), ("6", vec!["circuit.vdrop_pct"]));
        assert_eq!(found.wires.len(), 1, "the others were not asked for");
    }

    #[test]
    fn what_is_not_known_leaves_the_wire_as_it_is() {
        let mut file = kestrel();
        open(&mut file.job);
        for way in file.job.plan.ways.values_mut().filter(|w| w.parts.len() == 3) {
            way.parts[0].length_m = None;
        }
        let found = smallest_wires(&file.job, &file.library, &[], &Work::default());
        let a = found.wires.iter().find(|w| w.circuit.as_str() == "A").expect("it was asked");
        assert_eq!(a.size, None);
        assert!(!a.missing.is_empty(), "what is missing is named");
        assert_eq!(found.edits.len(), 1, "the output’s way is known");
    }

    #[test]
    fn every_wire_of_the_demo_jobs_holds_and_one_smaller_does_not() {
        for text in [
            include_str!("../../../data/demo/kestrel-lane.json"),
            include_str!("../../../data/demo/quarry-cottage.json"),
            include_str!("../../../data/demo/pinyon-street.json"),
        ] {
            let mut file = read(text).expect("a demo job").file;
            open(&mut file.job);
            let found = smallest_wires(&file.job, &file.library, &[], &Work::default());
            let sized = crate::job::applied(&file.job, &found.edits).expect("they fit");
            let not_held = |job: &Job, w: &SizedWire| {
                let report = evaluate(job, &file.library, &[]);
                let own = |c: &&Check| {
                    matches!(&c.subject, Subject::Circuit { circuit, .. } if *circuit == w.circuit)
                        && is_of_the_wire(c.id)
                        && c.verdict != Verdict::Pass
                };
                report.checks.iter().filter(own).count()
            };
            let all = sizes(file.job.school);
            assert!(found.wires.iter().any(|w| w.size.is_some()));
            for w in found.wires.iter().filter(|w| w.size.is_some()) {
                assert_eq!(not_held(&sized, w), 0, "{} of {}", w.circuit, file.job.name);
                let at = all.iter().position(|s| Some(s) == w.size.as_ref()).expect("a size");
                if at == 0 {
                    continue;
                }
                let mut thinner = sized.clone();
                let trial = Trial {
                    circuit: w.circuit.clone(),
                    leg: w.leg - 1,
                    at: at - 1,
                    because: Vec::new(),
                };
                put(&mut thinner, &trial, &all);
                assert!(not_held(&thinner, w) > 0, "{} of {}", w.circuit, file.job.name);
            }
        }
    }
}
