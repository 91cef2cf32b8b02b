//! Cures, tried before they are offered: one that makes something else stop, that does not mend
//! what it is for, or that needs a module that is not there, is no cure. What comes to a caution by
//! it is named.

use std::collections::HashMap;

use serde::Serialize;
use utoipa::ToSchema;

use crate::evaluate::{Report, evaluate};
use crate::figure::{Check, Subject, Verdict};
use crate::job::{Command, Edit, FaceKey, Job, JobFile, applied, commanded, validate};
use crate::library::Library;
use crate::watch::{newly, same_check};
use crate::work::Work;

/// A check that comes to a caution by a cure.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct Caution {
    /// Stable id of the check.
    pub id: String,
    /// Its title.
    pub title: String,
    /// What it is about.
    pub subject: Subject,
}

/// A cure that was tried.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct TriedCure {
    /// What would be done.
    pub text: String,
    /// The edits that do it; none where it is no matter of the plan.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub edits: Vec<Edit>,
    /// The command of the plan that does it.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub command: Option<Command>,
    /// What it takes in money by the job's prices.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub cost: Option<f64>,
    /// Cautions that come with it.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub cautions: Vec<Caution>,
}

/// A check that does not hold, with the cures that do.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct Cured {
    /// Stable id of the check.
    pub id: String,
    /// Its cures.
    pub cures: Vec<TriedCure>,
}

/// What mends the checks of a subject.
#[derive(Clone, Debug, Default, PartialEq, Serialize, ToSchema)]
pub struct Cures {
    /// The checks that have cures, with those that hold when they are tried.
    pub checks: Vec<Cured>,
    /// The time was up, or nobody waited any more: it was not searched through.
    #[serde(skip_serializing_if = "std::ops::Not::not")]
    #[schema(required = false)]
    pub cut: bool,
}

/// The checks of a subject that have cures, with those that hold when they are tried.
pub fn cures_of(job: &Job, library: &Library, subject: &Subject, work: &Work) -> Cures {
    let before = evaluate(job, library, &[]);
    let own = before.checks.iter().filter(|c| c.subject == *subject && !c.cures.is_empty());
    let cured = own.map(|c| {
        let each = c.cures.iter().take_while(|_| work.goes_on());
        let cures = each.filter_map(|k| tried(job, library, &before, c, k)).collect();
        Cured { id: c.id.to_owned(), cures }
    });
    Cures { checks: cured.collect(), cut: work.cut() }
}

/// Leaves the cures of a report that hold when they are tried, as long as `go_on` says so before
/// each: what is not tried is not offered. Cautions are added to what a cure says.
pub fn leave_what_holds(
    report: &mut Report,
    job: &Job,
    library: &Library,
    mut go_on: impl FnMut() -> bool,
) {
    let before = evaluate(job, library, &[]);
    for check in &mut report.checks {
        let cures = std::mem::take(&mut check.cures);
        for mut cure in cures {
            if !cure.edits.is_empty() || cure.command.is_some() {
                if !go_on() {
                    continue;
                }
                let Some(held) = tried(job, library, &before, check, &cure) else { continue };
                let named: Vec<String> =
                    held.cautions.iter().map(|c| format!("{} ({})", c.title, c.subject)).collect();
                if !named.is_empty() {
                    cure.text.push_str(" With it come cautions: ");
                    cure.text.push_str(&named.join(", "));
                    cure.text.push('.');
                }
            }
            check.cures.push(cure);
        }
    }
}

/// A cure of a check, where it holds.
fn tried(
    job: &Job,
    library: &Library,
    before: &Report,
    check: &Check,
    cure: &crate::figure::Cure,
) -> Option<TriedCure> {
    let crate::figure::Cure { text, edits, command, cost } = cure.clone();
    let cured = match &command {
        None if edits.is_empty() => {
            return Some(TriedCure { text, edits, command, cost, cautions: Vec::new() });
        }
        None => applied(job, &edits)?,
        Some(command) => commanded(job, command).ok()?.0,
    };
    if needs_more_modules(job, &cured)
        || !validate(&JobFile::new(cured.clone(), library.clone(), Vec::new())).is_empty()
    {
        return None;
    }
    let after = evaluate(&cured, library, &[]);
    let still = after.checks.iter().find(|c| same_check(c, check));
    if still.is_some_and(|c| c.verdict >= check.verdict && c.verdict != Verdict::Pass)
        || !newly(before, &after, Verdict::Fail).is_empty()
    {
        return None;
    }
    let cautions = newly(before, &after, Verdict::Warn).into_iter().map(|stop| Caution {
        id: stop.check.id.to_owned(),
        title: stop.check.title.to_owned(),
        subject: stop.check.subject,
    });
    Some(TriedCure { text, edits, command, cost, cautions: cautions.collect() })
}

/// Whether a face has more modules in strings and branches than there are: on its map, or planned
/// before.
fn needs_more_modules(job: &Job, cured: &Job) -> bool {
    let there = planned(job);
    planned(cured).into_iter().any(|(face, n)| {
        let on_map = job.roof.get(face).map_or(0, |map| map.modules.len());
        n > there.get(face).copied().unwrap_or(0).max(on_map)
    })
}

fn planned(job: &Job) -> HashMap<&FaceKey, usize> {
    let mut found: HashMap<&FaceKey, usize> = HashMap::new();
    for s in &job.strings {
        *found.entry(&s.face).or_default() += s.n as usize;
    }
    for b in &job.branches {
        *found.entry(&b.face).or_default() += b.units() as usize;
    }
    found
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::job::read;

    fn kestrel() -> JobFile {
        let text = include_str!("../../../data/demo/kestrel-lane.json");
        read(text).expect("a demo job reads").file
    }

    fn offered(job: &Job, library: &Library) -> Vec<(Check, TriedCure)> {
        let report = evaluate(job, library, &[]);
        let mut all = Vec::new();
        for check in report.checks.iter().filter(|c| !c.cures.is_empty()) {
            let found = cures_of(job, library, &check.subject, &Work::default());
            let own = found.checks.into_iter().find(|c| c.id == check.id).expect("the check");
            all.extend(own.cures.into_iter().map(|cure| (check.clone(), cure)));
        }
        all
    }

    /// Every offered edit of a job mends its check and stops nothing.
    fn hold(job: &Job, library: &Library) -> usize {
        let before = evaluate(job, library, &[]);
        let stops = |r: &Report| r.checks.iter().filter(|c| c.verdict == Verdict::Fail).count();
        let offered = offered(job, library);
        let mut n = 0;
        for (check, cure) in offered.iter().filter(|(_, cure)| !cure.edits.is_empty()) {
            let after = evaluate(&applied(job, &cure.edits).expect("a job"), library, &[]);
            assert!(stops(&after) <= stops(&before), "{}: {}", check.id, cure.text);
            let now = after.checks.iter().find(|c| same_check(c, check));
            assert!(now.is_none_or(|c| c.verdict < check.verdict), "{}: {}", check.id, cure.text);
            n += 1;
        }
        n
    }

    #[test]
    fn what_is_offered_holds_in_every_demo_job() {
        let mut edits = 0;
        for text in DEMO {
            let file = read(text).expect("a demo job reads").file;
            edits += hold(&file.job, &file.library);
        }
        assert!(edits > 0, "there is something to offer");
    }

    const DEMO: [&str; 5] = [
        include_str!("../../../data/demo/quarry-cottage.json"),
        include_str!("../../../data/demo/kestrel-lane.json"),
        include_str!("../../../data/demo/pinyon-street.json"),
        include_str!("../../../data/demo/saltmarsh-nursery.json"),
        include_str!("../../../data/demo/tern-bay.json"),
    ];

    #[test]
    fn a_string_is_not_made_longer_with_modules_that_are_not_there() {
        let mut file = kestrel();
        // Two in series come nowhere near the input: what is asked for is more of them.
        file.job.strings[0].n = 2;
        file.job.strings[0].modules.clear();
        file.job.roof.clear();
        let report = evaluate(&file.job, &file.library, &[]);
        let letter = &file.job.strings[0].letter;
        let longer = |edits: &[Edit]| {
            edits
                .iter()
                .any(|e| e.pointer == format!("/strings/{letter}/n") && e.value.as_u64() > Some(2))
        };
        let said = report.checks.iter().flat_map(|c| &c.cures).any(|k| longer(&k.edits));
        assert!(said, "a rule asks for more modules");
        let offered = offered(&file.job, &file.library);
        assert!(!offered.iter().any(|(_, cure)| longer(&cure.edits)), "there are two on the face");
    }

    #[test]
    fn paper_prints_what_holds_and_no_more_than_was_tried() {
        let mut file = kestrel();
        file.job.strings[0].n = 16;
        let mut report = evaluate(&file.job, &file.library, &[]);
        let with_edits = |r: &Report| {
            r.checks.iter().flat_map(|c| &c.cures).filter(|k| !k.edits.is_empty()).count()
        };
        let all = with_edits(&report);
        assert!(all > 0);
        let words = |r: &Report| r.checks.iter().flat_map(|c| &c.cures).count() - with_edits(r);
        let before = words(&report);
        leave_what_holds(&mut report, &file.job, &file.library, || false);
        assert_eq!((with_edits(&report), words(&report)), (0, before));
    }

    #[test]
    fn too_many_strings_are_told_how_many_hold() {
        let mut file = kestrel();
        // S8-2 bears 30 A at an input, and BM-430 gives 13.85 A: 30 / 13.85 = 2.2.
        for s in &mut file.job.strings {
            (s.n, s.mppt) = (7, 1);
        }
        let report = evaluate(&file.job, &file.library, &[]);
        let isc = report.checks.iter().find(|c| c.id == "mppt.isc_a").expect("the check");
        assert_eq!(isc.verdict, Verdict::Fail, "3 x 13.85 = 41.55 A");
        assert_eq!(
            isc.cures[0].text,
            "2 strings on this input at most; the others on other inputs."
        );
    }
}
