//! String fuses: what the other strings of an input can drive into a fault, against the module and
//! the wire.

use super::pass::sources;
use super::{FUSE_NEEDED, ParallelInputs, parallel};
use crate::figure::{Assumption, Sheet, Subject, Value, Verdict};
use crate::figures;
use crate::job::JobString;
use crate::library::ModuleSheet;
use crate::registry::Bench;
use crate::stages::runs::RunsFound;

figures! { Strings;
    /// Whether a fuse that is needed is planned.
    FITTED: Rule = "string.fuse_fitted", "String fuses planned", na "690.9(A)", iec "IEC 62548";
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
    FusesFound
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
