//! String fuses: what the other strings of an input can drive into a fault, against the module and
//! the wire.

use super::pass::sources;
use super::{FUSE_FAULT, FUSE_NEEDED, ParallelInputs, parallel};
use crate::figure::{Assumption, Bound, Sheet, Subject, Value, Verdict};
use crate::figures;
use crate::job::{CircuitKind, JobInverter, JobString};
use crate::library::ModuleSheet;
use crate::plan::PlanFound;
use crate::registry::Bench;
use crate::stages::runs::RunsFound;

figures! { Strings;
    /// Whether a fuse that is needed is planned.
    FITTED: Rule = "string.fuse_fitted", "String fuses planned", na "690.9(A)", iec "IEC 62548";
    /// What the others drive into a fault of a combiner's output.
    OUTPUT_FAULT: Amps = "output.fault_a",
        "Fault current from the other outputs", na "690.9(A)", iec "IEC 62548";
}

/// What the inverter feeds back is not on its data sheet.
static NO_BACKFEED: Assumption = Assumption {
    key: "no_backfeed",
    text: "The inverter feeds nothing back into a faulty string.",
};

/// Nothing rests on the fuses.
pub(super) struct FusesFound;

/// Strings in parallel up to which the wire that carries one carries the fault as well.
const FEW: usize = 2;

pub(super) fn fuses_of_job(bench: &Bench, sheet: &mut Sheet) -> FusesFound {
    let (job, library) = (bench.job, bench.library);
    let runs = bench.found.get::<RunsFound>();
    for inverter in &job.inverters {
        let Some(data) = library.inverter(&inverter.sheet) else { continue };
        for number in 1..=data.mppts.len() as u32 {
            optimizers(bench, sheet, runs, (inverter, number));
            let here = job
                .strings
                .iter()
                .filter(|s| s.inverter == inverter.id && s.mppt == number && s.optimizer.is_none());
            let on: Vec<(&JobString, &ModuleSheet)> =
                here.filter_map(|s| Some((s, library.module(&s.module)?))).collect();
            let [(_, first), _, ..] = on.as_slice() else { continue };
            sheet.subject = Subject::mppt(&inverter.id, number);
            // The thinnest of the strings' wires counts; it is open until each is planned.
            let mut amps = on.iter().map(|(s, _)| runs.string_amps.get(&s.letter));
            let thinnest = amps.try_fold(f64::INFINITY, |least, a| Some(least.min(*a?)));
            let open = thinnest.is_none() && on.len() > FEW;
            let x = ParallelInputs {
                module: first.ratings.clone(),
                p: on.len() as u32,
                wire_ampacity_a: thinnest,
                backfeed_a: data.backfeed_a,
                wire_open: open,
                ..ParallelInputs::default()
            };
            if data.backfeed_a.is_none() {
                sheet.assume(&NO_BACKFEED);
            }
            let from = sheet.figures.len();
            parallel(sheet, &x, &sources(first, data));
            let needed = sheet.figures[from..].iter().find(|f| f.id == FUSE_NEEDED.id);
            if needed.and_then(|f| f.value.as_ref()) == Some(&Value::Flag(true)) {
                fitted(sheet, &on, runs);
            }
        }
    }
    outputs(bench, sheet, runs);
    FusesFound
}

/// Strings with optimizers drive what the devices put out into a fault.
fn optimizers(
    bench: &Bench,
    sheet: &mut Sheet,
    runs: &RunsFound,
    (inverter, number): (&JobInverter, u32),
) {
    let strings = bench.job.strings.iter();
    let on: Vec<&JobString> = strings
        .filter(|s| s.inverter == inverter.id && s.mppt == number && s.optimizer.is_some())
        .collect();
    if on.len() <= FEW {
        return;
    }
    sheet.subject = Subject::mppt(&inverter.id, number);
    let each = on.iter().map(|s| {
        let sheet = s.optimizer.as_ref()?;
        bench.library.optimizer(sheet)?.ratings.out_a_max_a
    });
    let each: Option<Vec<f64>> = each.collect();
    // All but the weakest feed a fault in that one.
    let others = each.map(|e| e.iter().sum::<f64>() - e.into_iter().fold(f64::INFINITY, f64::min));
    let fault = sheet.figure(&FUSE_FAULT, |w| {
        w.need("outputs of the others", others, "optimizer.out_a_max_a", "optimizer data sheet")
    });
    let mut amps = on.iter().map(|s| runs.string_amps.get(&s.letter));
    let thinnest = amps.try_fold(f64::INFINITY, |least, a| Some(least.min(*a?)));
    let fused = on.iter().all(|s| runs.fused.contains(&s.letter));
    let bound = Bound::at_most((thinnest, "circuit.legs"), "what the thinnest wire carries");
    let check = sheet.hold_as(&FITTED, &fault, bound, Verdict::Fail);
    if fused {
        (check.verdict, check.missing) = (Verdict::Pass, Vec::new());
    }
    check
        .beyond(|over| format!("{over} more than its wire carries, and no fuse opens."))
        .cure("A fuse per string, thicker wire, or fewer strings on this input.", Vec::new());
}

/// The output of a combiner bears what all the others of its input feed into a fault, or has a
/// device.
fn outputs(bench: &Bench, sheet: &mut Sheet, runs: &RunsFound) {
    let (job, library) = (bench.job, bench.library);
    let plan = bench.found.get::<PlanFound>();
    for (at, own) in plan.circuits.iter().enumerate() {
        let circuit = plan.circuit(at);
        let Some(first) = own.strings.first().map(|i| &job.strings[*i]) else { continue };
        if circuit.kind != CircuitKind::PvOutput || plan.plan.protected_a(circuit).is_some() {
            continue;
        }
        let shares = |i: &usize| {
            let s = &job.strings[*i];
            s.inverter == first.inverter && s.mppt == first.mppt && !own.strings.contains(i)
        };
        let others: Vec<usize> = (0..job.strings.len()).filter(shares).collect();
        if others.is_empty() {
            continue;
        }
        let one = |i: &usize| match &job.strings[*i].optimizer {
            Some(o) => library.optimizer(o)?.ratings.out_a_max_a,
            None => {
                let isc = library.module(&job.strings[*i].module)?.ratings.isc_gained_a()?;
                Some(sheet.school.fault_factor() * isc)
            }
        };
        let sum: Option<f64> = others.iter().map(one).sum();
        sheet.subject = Subject::circuit(&own.key);
        let fault = sheet.figure(&OUTPUT_FAULT, |w| {
            let n = others.len();
            w.need(format_args!("{n} other strings"), sum, "module.isc_a", "module data sheet")
        });
        let amps = runs.output_amps.get(&own.key).copied();
        let bound = Bound::at_most((amps, "circuit.legs"), "what the wire carries");
        sheet
            .hold(&fault, bound, Verdict::Fail)
            .beyond(|over| format!("{over} more than it carries, and no device opens."))
            .cure("A fuse for it where the outputs come together, or thicker wire.", Vec::new());
    }
}

/// The strings whose circuits have no fuse although each needs one.
fn fitted(sheet: &mut Sheet, on: &[(&JobString, &ModuleSheet)], runs: &RunsFound) {
    let without: Vec<&str> = on
        .iter()
        .map(|(s, _)| &s.letter)
        .filter(|letter| !runs.fused.contains(letter))
        .map(|letter| letter.as_str())
        .collect();
    let verdict = if without.is_empty() { Verdict::Pass } else { Verdict::Fail };
    sheet
        .judge(&FITTED, verdict)
        .reason(format_args!(
            "Without a fuse: {}. A fault in one string draws the current of all the others.",
            without.join(", ")
        ))
        .cure("A fuse per string, or fewer strings on this input.", Vec::new());
}
