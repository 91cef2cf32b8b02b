//! What somebody from outside the company is told of a job: all of the plan and what it comes to,
//! and nothing of the company's own prices, times and notes.

use crate::evaluate::Report;
use crate::job::Job;
use crate::quantity::Unit;

impl Report {
    /// The report without money and hours of work: figures, cures, panels, parties, places.
    pub fn without_prices(mut self) -> Report {
        self.figures.retain(|f| !f.is_price());
        self.checks.retain(|c| c.unit != Unit::Cost);
        for cure in self.checks.iter_mut().flat_map(|c| &mut c.cures) {
            cure.cost = None;
        }
        for choice in self.boards.iter_mut().flat_map(|b| &mut b.choices) {
            (choice.cost, choice.hours) = (None, None);
        }
        for demand in &mut self.demands {
            (demand.cost, demand.hours) = (None, None);
        }
        for row in &mut self.places.rows {
            (row.cable_cost, row.total_cost, row.best) = (None, None, false);
        }
        self.places.recommendation = None;
        self
    }
}

impl Job {
    /// The job without the company's own prices and times, and without the planner's notes.
    pub fn for_outside(mut self) -> Job {
        self.rates.clear();
        self.notes.clear();
        self
    }
}

#[cfg(test)]
mod tests {
    use crate::evaluate;
    use crate::job::{Job, read};
    use crate::tables;

    #[test]
    fn nothing_that_is_told_outside_goes_by_the_prices() {
        for text in [
            include_str!("../../../data/demo/kestrel-lane.json"),
            include_str!("../../../data/demo/saltmarsh-nursery.json"),
            include_str!("../../../data/demo/quarry-cottage.json"),
            include_str!("../../../data/demo/pinyon-street.json"),
        ] {
            let file = read(text).expect("a demo job").file;
            let mut dearer = file.job.clone();
            dearer.notes = "the customer haggles".to_owned();
            for (i, row) in tables::RATES.iter().enumerate() {
                dearer.rates.insert(row.key.clone(), row.value * 7.0 + i as f64);
            }
            let told = |job: &Job| {
                let report = evaluate(job, &file.library, &file.readings).without_prices();
                serde_json::to_string(&report).expect("JSON")
            };
            assert_eq!(told(&file.job), told(&dearer), "{}", file.job.name);
            let job = serde_json::to_string(&dearer.for_outside()).expect("JSON");
            assert!(!job.contains("haggles") && !job.contains("\"rates\""), "{job}");
        }
    }
}
