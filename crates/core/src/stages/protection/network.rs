//! What a house feeds into the network (iec): the sum of each phase against the threshold, and how
//! far the phases differ.

use crate::figure::{Bound, Sheet, Subject, Verdict};
use crate::figures;
use crate::job::{Demand, DemandKind};
use crate::quantity::{Amps, above};
use crate::registry::Bench;
use crate::stages::runs::{NETWORK, Sources};

figures! { Protection;
    /// The fullest phase.
    PHASE: Amps = "network.phase_a", "All sources on the fullest phase", iec "EN 50549-1";
    /// Largest less smallest.
    UNBALANCE: Amps = "network.unbalance_a", "Difference of the phases", iec "network code";
}

/// Amps of a phase from which the network wants to be asked before, and by which phases may differ.
const THRESHOLD_A: f64 = 16.0;

pub(super) fn of_job(bench: &Bench, sheet: &mut Sheet) {
    let job = bench.job;
    let sources = Sources::all(job, bench.library);
    if sources.is_empty() {
        return;
    }
    sheet.subject = Subject::Site;
    let lines = sources.lines_a();
    let most = lines.as_ref().and_then(|l| l.iter().copied().reduce(f64::max));
    let field = if job.branches.is_empty() { "inverter.ac_a" } else { "unit.ac_a" };
    let phase = sheet.figure(&PHASE, |w| w.need("sum of its sources", most, field, "data sheets"));
    // Consent closes it as far as it goes.
    let met = |d: &&Demand| d.what == DemandKind::Consent && d.met == Some(true);
    let consents: Vec<Option<f64>> = job.demands.values().filter(met).map(|d| d.limit_w).collect();
    let all_w = sources.watts();
    let enough = |limit: &f64| all_w.is_some_and(|w| !above(w, *limit));
    let given = consents.iter().flatten().any(enough);
    let threshold = job.settings.network_a.unwrap_or(THRESHOLD_A);
    let check = sheet.hold_as(
        &NETWORK,
        &phase,
        Bound::at_most(threshold, "threshold of a phase"),
        Verdict::Warn,
    );
    if check.verdict == Verdict::Warn && given {
        check.verdict = Verdict::Pass;
    } else if consents.contains(&None) {
        check
            .reason("The network operator gave consent; up to how many watts is not said.")
            .cure("Enter the watts of the consent with it.", Vec::new());
    } else {
        check
            .beyond(|over| {
                format!(
                    "{over} above the threshold: the network operator is asked before the work."
                )
            })
            .cure("Apply before the work and keep the answer with the job.", Vec::new());
    }
    if sources.three_phase() {
        let least = lines.and_then(|l| l.into_iter().reduce(f64::min));
        let apart = most.zip(least).map(|(a, b)| a - b);
        let apart = sheet.figure(&UNBALANCE, |w| {
            w.need::<Amps>("largest less smallest", apart, field, "data sheets")
        });
        sheet
            .hold(&apart, Bound::at_most(threshold, "allowed by the network"), Verdict::Warn)
            .beyond(|over| format!("{over} too uneven."))
            .cure("Move a source from the fullest phase to the emptiest.", Vec::new());
    }
}
