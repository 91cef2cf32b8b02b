//! The overcurrent device of a circuit: fitted where it stands in a node, the circuit goes through
//! it and its rating is known. What is computed is a proposal.

use super::carried::Carried;
use super::{AcInputs, DEVICE, I_OUT, INSTALLED, IZ, ac, output_device};
use crate::figure::{Bound, Check, Field, Sheet, Subject, Verdict, said};
use crate::figures;
use crate::job::{CircuitKind, Edit};
use crate::plan::{Guard, candidates};
use crate::quantity::{Amps, Unit};

figures! { Runs;
    /// The device that is planned, against the largest the maker allows.
    MAKER: Rule = "circuit.ocpd_maker", "Device against the maker's largest", "data sheet";
    /// Whether the device and what is entered elsewhere of it say the same.
    AGREES: Rule = "circuit.ocpd_agrees", "One rating of the device", "plan";
}

/// Where it is said which device a circuit is on.
const WHICH: Field = "circuit.to.device";
const RATING: Field = "device.amps_a";

/// The device of a circuit.
#[derive(Clone, Debug, Default)]
pub(super) struct Fitted {
    /// Its rating, A: that of the device, or what is entered of one that stands nowhere yet.
    pub(super) amps_a: Option<f64>,
    /// What is missing for it to be there.
    pub(super) lacks: Option<Field>,
    /// The rating that is proposed, A.
    proposed_a: Option<f64>,
}

/// Finds the device of a circuit, and holds it against the maker's largest.
pub(super) fn of_circuit(sheet: &mut Sheet, c: &Carried) -> Fitted {
    let proposed_a = proposal(sheet, c);
    let mut fitted = Fitted { proposed_a, ..Fitted::default() };
    if c.is_dc() {
        fitted.amps_a = c.plan.plan.protected_a(c.circuit);
    } else {
        let entered = c.circuit.ocpd_a.or_else(|| match c.circuit.kind {
            CircuitKind::MicroBranch => c.branches.first().and_then(|(b, _)| b.breaker_a),
            _ => None,
        });
        match c.plan.guard_of(c.at) {
            Guard::Device { own, .. } => {
                fitted.amps_a = own.amps_a;
                fitted.lacks = own.amps_a.is_none().then_some(RATING);
                agrees(sheet, own.amps_a, entered);
            }
            Guard::Nothing(_) | Guard::Open => {
                (fitted.amps_a, fitted.lacks) = (entered, Some(WHICH));
            }
        }
    }
    if let Some(most) = c.maker_max()
        && let Some(planned) = fitted.amps_a
    {
        let handle = sheet.figure(&DEVICE, |w| Some(w.given("device", Amps(planned), "job")));
        let most = Bound::at_most(most, "largest device of the maker");
        sheet
            .hold_as(&MAKER, &handle, most, Verdict::Fail)
            .beyond(|over| format!("{over} above what the maker allows."))
            .cure("A smaller device, or less behind it.", Vec::new());
    }
    fitted
}

/// A number that is entered with the circuit or the branch and is not the device's.
fn agrees(sheet: &mut Sheet, device: Option<f64>, entered: Option<f64>) {
    let (Some(device), Some(entered)) = (device, entered) else { return };
    if device == entered {
        return;
    }
    sheet.judge(&AGREES, Verdict::Fail).reason(format_args!(
        "The device it comes through has {}, the plan says {} of it: one of them is wrong.",
        said(device, Unit::A),
        said(entered, Unit::A)
    ));
}

/// The next standard device for what feeds an AC circuit, A.
fn proposal(sheet: &mut Sheet, c: &Carried) -> Option<f64> {
    match c.circuit.kind {
        CircuitKind::InverterOut => {
            let inverter = c.inverters.first().copied().flatten();
            let inputs = AcInputs {
                rated_a: inverter.and_then(|i| i.ac_a),
                watts_w: inverter.and_then(|i| i.ac_w),
                volts_v: inverter.and_then(|i| i.ac_v),
                three_phase: c.three_phase(),
                maker_max_ocpd_a: inverter.and_then(|i| i.max_ocpd_a),
                of_job: true,
                ..AcInputs::default()
            };
            ac(sheet, &inputs).value()
        }
        CircuitKind::AcFeeder => {
            let out = sheet.figure(&I_OUT, |w| {
                w.need::<Amps>("all that feeds it", c.rated_a(), "inverter.ac_a", "data sheets")
            });
            output_device(sheet, &out).value()
        }
        _ => None,
    }
}

/// The check of the device is open as long as the device is not there: what fails fails all the
/// same.
pub(super) fn installed(sheet: &mut Sheet, c: &Carried, fitted: &Fitted, from: usize) {
    let Some(lacks) = fitted.lacks else {
        protects(sheet, from);
        return;
    };
    let judged = sheet.checks[from..].iter().any(|k| k.id == INSTALLED.id);
    if !judged {
        sheet.subject = Subject::circuit(&c.plan.circuits[c.at].key);
        sheet.known(&INSTALLED, [lacks]);
    }
    let own = sheet.checks[from..].iter_mut().filter(|k| k.id == INSTALLED.id);
    for check in own.filter(|k| matches!(k.verdict, Verdict::Pass | Verdict::Unknown)) {
        check.verdict = Verdict::Unknown;
        check.cures.clear();
        check.misses([lacks]);
        offer(check, c, fitted);
    }
}

/// A device that is above what the wire carries does not protect it.
fn protects(sheet: &mut Sheet, from: usize) {
    let short = |k: &&Check| k.id == IZ.id && k.verdict == Verdict::Fail;
    if !sheet.checks[from..].iter().any(|k| short(&k)) {
        return;
    }
    let own = sheet.checks[from..].iter_mut().filter(|k| k.id == INSTALLED.id);
    for check in own.filter(|k| k.verdict == Verdict::Pass) {
        check.verdict = Verdict::Fail;
        check.reason("It is above what the wire carries: see there.");
    }
}

/// What would put the device there.
fn offer(check: &mut Check, c: &Carried, fitted: &Fitted) {
    let guard = c.plan.guard_of(c.at);
    let node = match guard {
        Guard::Device { node, key, .. } => {
            if let Some(amps) = fitted.proposed_a {
                let at = format!("/plan/nodes/{node}/devices/{key}/amps_a");
                let text = format!("{} on {key} in {node}.", said(amps, Unit::A));
                check.offer(text, vec![Edit::new(at, amps)]);
            }
            return;
        }
        Guard::Nothing(node) => node,
        Guard::Open => {
            check.reason("It comes to nothing yet that could end an overcurrent on it.");
            return;
        }
    };
    let own = &c.plan.circuits[c.at].key;
    let there = c.circuit.to.as_ref().is_some_and(|e| e.node.as_ref() == Some(node));
    let free = candidates(&c.plan.plan, node);
    let named = c.circuit.to.as_ref().is_some_and(|e| e.device.is_some());
    check.reason(match (free.len(), fitted.amps_a) {
        _ if named => format!("What it comes through in {node} ends no overcurrent."),
        (0, None) => format!("No breaker is planned for it in {node}."),
        (0, Some(a)) => {
            format!("{} is entered, and no breaker in {node} is said to be that.", said(a, Unit::A))
        }
        _ => format!("Which breaker of {node} it is on is not said."),
    });
    if !there || named || c.plan.is_backup(c.at) {
        return;
    }
    for device in free.iter().take(4) {
        let at = format!("/plan/circuits/{own}/to/device");
        check.offer(format!("It is on {device}."), vec![Edit::new(at, device.as_str())]);
    }
    if let (true, Some(amps)) = (free.is_empty(), fitted.amps_a.or(fitted.proposed_a)) {
        check.offer(
            format!("A breaker of {} for it in {node}.", said(amps, Unit::A)),
            new_breaker(c, node, amps),
        );
    }
}

/// The edits that set a breaker into a node and lead the circuit to it.
fn new_breaker(c: &Carried, node: &str, amps: f64) -> Vec<Edit> {
    let own = &c.plan.circuits[c.at].key;
    let devices = c.job.plan.nodes.get(node).map(|n| &n.devices);
    let taken = |key: &str| devices.is_some_and(|d| d.contains_key(key));
    let key = (1..).map(|n| format!("P{n}")).find(|k| !taken(k)).unwrap_or_default();
    let sources = &c.sources;
    let poles = sources.lines_n() as f64;
    let mut breaker = serde_json::json!({ "what": "breaker", "amps_a": amps, "poles_n": poles });
    if let Some(volts) = sources.volts() {
        breaker["volts_v"] = volts.into();
    }
    let pointer = format!("/plan/nodes/{node}/devices");
    let device = match devices.is_some_and(|d| !d.is_empty()) {
        true => Edit::new(format!("{pointer}/{key}"), breaker),
        false => {
            let mut all = serde_json::Map::new();
            all.insert(key.clone(), breaker);
            Edit::new(pointer, all)
        }
    };
    vec![device, Edit::new(format!("/plan/circuits/{own}/to/device"), key)]
}
