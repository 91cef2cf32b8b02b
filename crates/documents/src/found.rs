//! What printing looks up again and again, found once: a job may have ten thousand readings.

use std::collections::{HashMap, HashSet};

use heliant_core::Report;
use heliant_core::figure::{Check, Figure, Subject, Verdict};
use heliant_core::school::School;

use crate::printed::value;

/// Readings that stand whose workings are printed whatever they came to; of more than these only of
/// those that do not hold.
pub(crate) const ALL_WORKED: usize = 200;
/// Readings that are listed beside those that stand, the newest.
pub(crate) const ALSO_LISTED: usize = 500;

/// A report with its figures and readings by name.
pub(crate) struct Found<'a> {
    figures: HashMap<(&'a str, String), &'a Figure>,
    readings: HashMap<&'a str, (usize, &'a str)>,
    worst: HashMap<&'a str, Verdict>,
    worked: HashSet<&'a str>,
    /// The school whose people read it.
    pub(crate) school: School,
}

impl<'a> Found<'a> {
    /// Finds what there is in a report.
    pub(crate) fn of(report: &'a Report) -> Self {
        let figures =
            report.figures.iter().map(|f| ((f.id, f.subject.to_string()), f)).rev().collect();
        let readings = report
            .readings
            .iter()
            .enumerate()
            .map(|(i, r)| (r.reading.id.as_str(), (i, r.reading.values.string.as_str())));
        // Volts and amps read together: the worse of the two.
        let mut worst: HashMap<&str, Verdict> = HashMap::new();
        for check in &report.checks {
            if let Subject::Reading { reading } = &check.subject {
                let known = worst.entry(reading.as_str()).or_insert(check.verdict);
                *known = (*known).max(check.verdict);
            }
        }
        let stands = || report.readings.iter().filter(|r| !r.superseded);
        let few = stands().count() <= ALL_WORKED;
        let holds = |id: &str| worst.get(id) == Some(&Verdict::Pass);
        let worked =
            stands().map(|r| r.reading.id.as_str()).filter(|id| few || !holds(id)).collect();
        Found { figures, readings: readings.collect(), worst, worked, school: report.school }
    }

    /// The figure of this id and subject, by the subject's short name.
    pub(crate) fn figure(&self, id: &str, subject: &str) -> Option<&'a Figure> {
        self.figures.get(&(id, subject.to_owned())).copied()
    }

    /// A figure's value, a dash where there is no such figure.
    pub(crate) fn value_of(&self, id: &str, subject: &str) -> String {
        let figure = self.figure(id, subject);
        figure.map_or_else(|| "–".to_owned(), |f| value(f.value.as_ref(), f.unit, self.school))
    }

    /// The figure a check judges; none where it has none of its own.
    pub(crate) fn judged(&self, check: &Check) -> Option<&'a Figure> {
        self.figure(check.figure, &check.subject.to_string())
    }

    /// Where a reading stands in the list, and its string.
    pub(crate) fn reading(&self, id: &str) -> Option<(usize, &'a str)> {
        self.readings.get(id).copied()
    }

    /// What a reading came to.
    pub(crate) fn verdict(&self, reading: &str) -> Option<Verdict> {
        self.worst.get(reading).copied()
    }

    /// Whether checks and workings of a subject are printed.
    pub(crate) fn worked(&self, subject: &Subject) -> bool {
        match subject {
            Subject::Reading { reading } => self.worked.contains(reading.as_str()),
            _ => true,
        }
    }

    /// How many readings are printed with their workings.
    pub(crate) fn worked_n(&self) -> usize {
        self.worked.len()
    }
}
