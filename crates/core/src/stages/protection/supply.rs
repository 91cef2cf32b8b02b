//! What feeds in against the supply and against itself: volts that cannot be those of one supply,
//! amps that are not those of the watts.

use crate::figure::{Sheet, Subject, Verdict, said};
use crate::figures;
use crate::quantity::{Unit, Volts, Watts, below};
use crate::registry::Bench;
use crate::stages::runs::by_watts;

figures! { Protection;
    /// Volts of a source beside those of the others.
    VOLTS: Rule = "supply.volts_agree", "Volts of one supply", na "705.12", iec "EN 50549-1";
    /// Watts by volts.
    BY_WATTS: Amps = "source.by_watts_a", "Amps by the rated watts", "data sheet";
    /// Rated amps against it.
    AMPS: Rule = "source.amps_agree", "Rated amps and watts agree", "data sheet";
}

/// Share of the amps by watts below which rated amps are a mistake.
const LEAST: f64 = 0.95;

/// A source: what it is called, its volts, whether it has three phases, its watts and amps.
struct Source {
    subject: Subject,
    volts: Option<f64>,
    three: bool,
    watts: Option<f64>,
    amps: Option<f64>,
}

fn sources(bench: &Bench) -> Vec<Source> {
    let (job, library) = (bench.job, bench.library);
    let inverters = job.inverters.iter().filter_map(|i| {
        let s = library.inverter(&i.sheet)?;
        let subject = Subject::inverter(&i.id);
        let (volts, three, watts, amps) = (s.ac_v, s.three_phase, s.ac_w, s.ac_a);
        Some(Source { subject, volts, three, watts, amps })
    });
    let branches = job.branches.iter().filter_map(|b| {
        let s = library.micro(&b.micro)?;
        let subject = Subject::Branch { branch: b.letter.clone() };
        let (volts, three, watts, amps) = (s.ac_v, false, s.ac_w, s.ac_a);
        Some(Source { subject, volts, three, watts, amps })
    });
    inverters.chain(branches).collect()
}

/// Whether two nominal volts are of one supply: alike, line and neutral of it, or half and whole.
fn one_supply(a: f64, b: f64) -> bool {
    let ratio = a.max(b) / a.min(b);
    [1.0, 2.0, 3.0_f64.sqrt()].iter().any(|r| (ratio / r - 1.0).abs() < 0.06)
}

pub(super) fn of_job(bench: &Bench, sheet: &mut Sheet) {
    let all = sources(bench);
    let first = all.iter().find_map(|s| s.volts);
    for s in &all {
        sheet.subject = s.subject.clone();
        if let (Some(own), Some(first)) = (s.volts, first)
            && !one_supply(own, first)
        {
            sheet
                .judge(&VOLTS, Verdict::Fail)
                .reason(format_args!(
                    "It feeds {}, another of the job {}: that is not one supply.",
                    said(own, Unit::V),
                    said(first, Unit::V)
                ))
                .cure("An inverter for the volts of the supply.", Vec::new());
        }
        if s.watts.is_none() || s.volts.is_none() {
            continue;
        }
        let expected = sheet.figure(&BY_WATTS, |w| {
            let watts = w.need::<Watts>("rated watts", s.watts, "inverter.ac_w", "data sheet");
            let volts = w.need::<Volts>("volts", s.volts, "inverter.ac_v", "data sheet");
            Some(by_watts(watts?, volts?, s.three))
        });
        let amps = (s.amps, expected.value());
        let (Some(own), Some(expected)) = amps else { continue };
        let verdict = if below(own, LEAST * expected) { Verdict::Fail } else { Verdict::Pass };
        sheet.judge(&AMPS, verdict).reason(format_args!(
            "{} of rated output, and the watts by the volts are {}: one of them is wrong.",
            said(own, Unit::A),
            said(expected, Unit::A)
        ));
    }
}
