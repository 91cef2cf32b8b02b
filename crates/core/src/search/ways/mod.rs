//! Ways to wire a job: the modules of each face over the inputs of its inverters, ranked, with the
//! parts of the score and the checks that do not hold; what fails and by how much; and what would
//! make it fit.
//!
//! Ways that differ only by swapping like inputs, of one inverter or of like inverters, are one.

mod answer;
mod assign;
mod find;
mod question;
mod setup;
mod wiring;

pub use answer::{Remedy, Way, WayUse, Ways};
pub use question::{WayFace, WaysAsk, ask_of};

use setup::Setup;

use super::deal::Budget;
use crate::figure::said;
use crate::job::Job;
use crate::library::{Headed, InverterSheet, Library};
use crate::problem::Problem;
use crate::quantity::Unit;
use crate::work::Work;

/// Ways listed where the question says nothing else.
const KEEP: usize = 24;

/// Failing ways listed.
const KEEP_FAILING: usize = 12;

/// Entries the ranking looks at before it says that it searched a part; about a second.
const BUDGET: u64 = 2_000_000;

/// Every way to wire the modules of the question, ranked. `others` are inverters that might make it
/// fit.
///
/// # Errors
/// What the question lacks, with its place.
pub fn ways(
    job: &Job,
    library: &Library,
    ask: &WaysAsk,
    others: &[InverterSheet],
    work: &Work,
) -> Result<Ways, Vec<Problem>> {
    let setup = Setup::new(job, library, ask, None)?;
    let total = setup.total();
    let (mut budget, keep) = (Budget(BUDGET, work.clone()), KEEP);
    let mut found = setup.feasible(keep, &mut budget);
    let all_placed = found.unused_n == 0 && !found.ways.is_empty();
    if ask.use_all && !all_placed {
        found.ways.clear();
        found.feasible_n = Some(0.0);
    }
    let searched_part = found.part.or_else(|| {
        setup.mixed_out.then(|| {
            "There are too many ways to mix the faces: each input takes one face here.".to_owned()
        })
    });
    // What fails is looked at with less effort: it explains, it is not chosen.
    let failing = setup.failing(&mut Budget(BUDGET / 6, work.clone()));
    let (nearest, remedies) = if all_placed || total == 0 {
        (None, Vec::new())
    } else {
        (
            setup.nearest(&mut Budget(BUDGET / 6, work.clone())),
            remedies(job, library, (ask, others), &setup, &found.ways, work),
        )
    };
    let cut = || "The time was up: these are of what was looked at by then.".to_owned();
    let searched_part = searched_part.or_else(|| work.cut().then(cut));
    Ok(Ways {
        ask: ask.clone(),
        why: why(&found.ways),
        ways: found.ways,
        feasible_n: found.feasible_n,
        feasible_exact: found.exact,
        failing,
        nearest,
        remedies,
        searched_part,
    })
}

/// What would make every module fit: faces that share inputs, another inverter, or fewer modules.
fn remedies(
    job: &Job,
    library: &Library,
    (ask, others): (&WaysAsk, &[InverterSheet]),
    setup: &Setup,
    fewer: &[Way],
    work: &Work,
) -> Vec<Remedy> {
    let mut found: Vec<Remedy> = Vec::new();
    let mut budget = Budget(BUDGET / 2, work.clone());
    let mut fits = |ask: &WaysAsk, other: Option<&InverterSheet>| -> Option<Way> {
        if !work.goes_on() {
            return None;
        }
        let setup = Setup::new(job, library, ask, other).ok()?;
        let best = setup.feasible(1, &mut budget);
        (best.unused_n == 0).then(|| best.ways.into_iter().next()).flatten()
    };
    if !ask.faces_may_mix && ask.faces.iter().filter(|f| f.modules_n > 0).count() > 1 {
        let mixed = WaysAsk { faces_may_mix: true, ..ask.clone() };
        if let Some(way) = fits(&mixed, None) {
            found.push(Remedy {
                text: "Let strings of different faces share an input; some yield is lost."
                    .to_owned(),
                inverter: None,
                way,
            });
        }
    }
    if let Some(most) =
        setup.classes.iter().map(|c| setup.strings_max(c.mppt)).max().filter(|m| *m < 20)
    {
        let more = WaysAsk { strings_per_input: Some(most + 1), ..ask.clone() };
        if let Some(way) = fits(&more, None) {
            let text =
                format!("{} strings on an input by way of a combiner or a Y-pair.", most + 1);
            found.push(Remedy { text, inverter: None, way });
        }
    }
    let mut sheets: Vec<&InverterSheet> = others
        .iter()
        .filter(|o| {
            setup.inverters.iter().any(|(_, s)| s.sheet != o.sheet || s.revision != o.revision)
        })
        .collect();
    let output = setup.inverters.first().and_then(|(_, s)| s.ac_w).unwrap_or(0.0);
    let off = |s: &InverterSheet| (s.ac_w.unwrap_or(0.0) - output).abs();
    sheets.sort_by(|a, b| off(a).total_cmp(&off(b)));
    for other in sheets.into_iter().take(8) {
        if let Some(way) = fits(ask, Some(other)) {
            let count = setup.inverters.len();
            let text = format!(
                "{} {} rev {} in place of what is planned.",
                count, other.model, other.revision
            );
            found.push(Remedy { text, inverter: Some(other.reference()), way });
        }
        if found.iter().filter(|r| r.inverter.is_some()).count() == 3 {
            break;
        }
    }
    if !ask.use_all
        && let Some(way) = fewer.first()
    {
        let text = format!(
            "{} {} fewer.",
            way.unused_n,
            if way.unused_n == 1 { "module" } else { "modules" }
        );
        found.push(Remedy { text, inverter: None, way: way.clone() });
    }
    found
}

/// Why the first of a list goes before the second, by the first part of the score in which they
/// differ.
fn why(ways: &[Way]) -> Option<String> {
    let (first, second) = (ways.first()?, ways.get(1));
    let Some(second) = second else {
        return Some("It is the only way without a failure.".to_owned());
    };
    let watts = |w: f64| said(w, Unit::W);
    let pct = |m: Option<f64>| {
        m.map_or_else(|| "none".to_owned(), |m| said(m, Unit::Percent).to_string())
    };
    let some = |n: u32| if n == 1 { "1 caution".to_owned() } else { format!("{n} cautions") };
    Some(if first.warns_n < second.warns_n {
        format!("The first has {}, the second {}.", some(first.warns_n), some(second.warns_n))
    } else if first.strings_n != second.strings_n {
        format!(
            "The first has {} strings to wire, the second {}.",
            first.strings_n, second.strings_n
        )
    } else if first.margin_pct != second.margin_pct {
        format!(
            "With as many strings the first keeps {} to the nearest limit, the second {}.",
            pct(first.margin_pct),
            pct(second.margin_pct)
        )
    } else if first.unbalance_w != second.unbalance_w {
        format!(
            "As good as the second otherwise, the first is more even: its fullest and emptiest \
             inputs differ by {}, not {}.",
            watts(first.unbalance_w),
            watts(second.unbalance_w)
        )
    } else {
        "The first and the second score alike in every part: take the one that is easier to wire."
            .to_owned()
    })
}
