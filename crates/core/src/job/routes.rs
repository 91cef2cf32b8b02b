//! Routes that are compared: the plan that is drawn, and others that are kept beside it.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::{Job, Plan, plan_problems, settle};
use crate::problem::Problem;
use crate::schema::did_you_mean;
use crate::tables;

/// Most routes kept beside the one that is drawn.
pub const MOST_ROUTES: usize = 5;

/// What the plan that is drawn is called where nobody gave it a name.
pub const FIRST_ROUTE: &str = "First route";

/// A plan that is kept beside the one that is drawn, to be compared with it. What it says of
/// strings, branches and inverters that are gone since counts for nothing: it is brought in line
/// with the job whenever it is looked at.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct KeptRoute {
    /// What it is called.
    #[schema(min_length = 1, max_length = 60)]
    pub name: String,
    /// Its nodes, ways and circuits.
    pub plan: Plan,
}

impl Job {
    /// What the plan that is drawn is called among routes.
    pub fn route_name(&self) -> &str {
        if self.route.is_empty() { FIRST_ROUTE } else { &self.route }
    }

    /// The job as it is with a kept route drawn.
    pub fn with_route(&self, kept: &KeptRoute) -> Job {
        let mut job = Job {
            plan: kept.plan.clone(),
            route: kept.name.clone(),
            routes: Vec::new(),
            ..self.clone()
        };
        settle(&mut job, &mut Vec::new());
        job
    }

    /// A price or a time: the company's own where the job has one, else that of `data/rates.csv`.
    ///
    /// # Panics
    /// For a key that is not in the table.
    pub fn rate(&self, key: &str) -> f64 {
        self.rates.get(key).copied().unwrap_or_else(|| tables::rate(key))
    }

    /// What a metre of a conductor of this section costs by the job's prices.
    pub fn conductor_cost(&self, mm2: f64) -> f64 {
        self.rate("cable_m") + self.rate("cable_mm2_m") * mm2
    }
}

/// Keeps the plan under its name and goes on with a copy.
pub(super) fn keep_route(
    job: &mut Job,
    name: &str,
    changes: &mut Vec<String>,
) -> Result<(), Problem> {
    let name = name.trim();
    let old = job.route_name().to_owned();
    if name.is_empty() || name.chars().count() > 60 {
        return Err(Problem::new("/name", "a route has a name", "1 to 60 characters"));
    }
    if old == name || job.routes.iter().any(|r| r.name == name) {
        let message = format!("a route `{name}` is there already");
        return Err(Problem::new("/name", message, "each needs its own name"));
    }
    if job.routes.len() >= MOST_ROUTES {
        let message = format!("{MOST_ROUTES} routes are kept already");
        return Err(Problem::new("/name", message, "take one out first"));
    }
    job.routes.push(KeptRoute { name: old.clone(), plan: job.plan.clone() });
    job.route = name.to_owned();
    changes.push(format!("{old} is kept; {name} is drawn from here on"));
    Ok(())
}

/// Draws a kept route; what was drawn is kept in its stead.
pub(super) fn draw_route(
    job: &mut Job,
    name: &str,
    changes: &mut Vec<String>,
) -> Result<(), Problem> {
    let at = job.routes.iter().position(|r| r.name == name).ok_or_else(|| {
        Problem::new("/name", format!("no route `{name}` is kept"), "one of /job/routes")
    })?;
    let old = job.route_name().to_owned();
    let kept = &mut job.routes[at];
    std::mem::swap(&mut kept.plan, &mut job.plan);
    (kept.name, job.route) = (old.clone(), name.to_owned());
    changes.push(format!("{name} is drawn; {old} is kept"));
    settle(job, changes);
    Ok(())
}

/// What is wrong with kept routes and rates of a job.
pub(super) fn route_problems(job: &Job) -> Vec<Problem> {
    let mut problems = rate_problems(&job.rates, "/job/rates");
    let mut names = vec![job.route_name()];
    for (i, kept) in job.routes.iter().enumerate() {
        let at = format!("/job/routes/{i}");
        if names.contains(&kept.name.as_str()) {
            let message = format!("`{}` is there twice", kept.name);
            problems.push(Problem::new(format!("{at}/name"), message, "each needs its own name"));
        }
        names.push(&kept.name);
        let own = plan_problems(&job.with_route(kept));
        problems.extend(own.into_iter().map(|p| {
            let inside = p.path.strip_prefix("/job").unwrap_or(&p.path);
            Problem::new(format!("{at}{inside}"), p.message, p.hint)
        }));
    }
    problems
}

/// What is wrong with prices and times.
pub fn rate_problems(rates: &super::Rates, at: &str) -> Vec<Problem> {
    let mut problems = Vec::new();
    for (key, value) in rates {
        let path = format!("{at}/{key}");
        let Some(row) = tables::RATES.iter().find(|r| r.key == *key) else {
            let known = tables::RATES.iter().map(|r| r.key.as_str());
            let near = did_you_mean(key, known, 3.max(key.len() / 2));
            let hint = format!("one of data/rates.csv; {}", near.unwrap_or_default());
            let hint = hint.trim_end_matches("; ");
            problems.push(Problem::new(path, format!("no price or time `{key}`"), hint));
            continue;
        };
        if !(0.0..=MOST_RATE).contains(value) {
            let message = format!("{value} is not {} of {}", row.unit, row.title.to_lowercase());
            problems.push(Problem::new(path, message, format!("0 to {MOST_RATE}")));
        }
    }
    problems
}

/// Largest price or time.
const MOST_RATE: f64 = 1_000_000.0;
