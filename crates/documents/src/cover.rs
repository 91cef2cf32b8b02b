//! The first page: what a licensed person signs, and the clock its times are of.

use chrono::{DateTime, Utc};
use chrono_tz::Tz;
use heliant_core::job::Job;
use heliant_core::school::{Edition, School};
use serde_json::{Value as Json, json};

use crate::Pack;
use crate::found::Found;
use crate::printed::value;

/// Parts of the work that no job is judged on yet, by the group of case files that prove them.
const NOT_COVERED: [(&str, &str); 5] = [
    ("insulation", "insulation resistance"),
    ("ground_fault", "ground-fault protection"),
    ("ct", "readings of current transformers"),
    ("rcd", "trip times of residual-current devices"),
    ("cut", "cutting conductors from reels"),
];

/// The site's clock; UTC where the job does not say its zone.
pub(crate) fn clock(job: &Job) -> Tz {
    job.time_zone.as_deref().and_then(|z| z.parse().ok()).unwrap_or(Tz::UTC)
}

/// A moment by the site's clock.
pub(crate) fn at(job: &Job, moment: DateTime<Utc>) -> String {
    moment.with_timezone(&clock(job)).format("%Y-%m-%d %H:%M %Z").to_string()
}

/// A moment as records have it, by the site's clock.
pub(crate) fn recorded_at(job: &Job, text: &str) -> String {
    let moment = DateTime::parse_from_rfc3339(text);
    moment.map_or_else(|_| text.to_owned(), |m| at(job, m.with_timezone(&Utc)))
}

fn rules(job: &Job) -> String {
    match (job.school, job.settings.edition.unwrap_or_default()) {
        (School::Iec, _) => "IEC practice; each check names its standard".to_owned(),
        (School::Na, edition) => {
            let year = match edition {
                Edition::Y2017 => 2017,
                Edition::Y2020 => 2020,
                Edition::Y2023 => 2023,
            };
            format!("Rule numbers of the {year} edition of the electrical code")
        }
    }
}

/// What the first page says.
pub(crate) fn cover(pack: &Pack, found: &Found) -> Json {
    let (job, report) = (pack.job, pack.report);
    let system = ["system.modules_n", "system.dc_w", "system.ac_w"];
    let figures = system.iter().filter_map(|id| found.figure(id, "site"));
    let mut numbers: Vec<Json> = figures
        .map(|f| {
            let value = value(f.value.as_ref(), f.unit, pack.job.school);
            json!({ "title": f.title, "value": value })
        })
        .collect();
    let counts = [
        ("Inverters", job.inverters.len()),
        ("Strings", job.strings.len()),
        ("Branches", job.branches.len()),
        ("Circuits", job.plan.circuits.len()),
    ];
    let some = counts.iter().filter(|(_, n)| *n > 0);
    numbers.extend(some.map(|(title, n)| json!({ "title": title, "value": n.to_string() })));
    let confirmed = report.assumptions.iter().filter(|a| a.confirmed_by.is_some()).count();
    json!({
        "customer": job.customer,
        "contact": job.contact,
        "address": job.address,
        "rules": rules(job),
        "clock": match &job.time_zone {
            Some(zone) => zone.as_str(),
            None => "UTC: the job does not say the site's time zone",
        },
        "system": numbers,
        "assumed_n": report.assumptions.len(),
        "confirmed_n": confirmed,
        "not_covered": NOT_COVERED.map(|(_, what)| what),
        "signers": ["Planned by", "Checked by, licensed", "Commissioned by", "Received by"],
    })
}

#[cfg(test)]
mod tests {
    use chrono::TimeZone;

    use super::*;

    #[test]
    fn what_is_not_built_is_what_is_said_to_be_missing() {
        let registry = heliant_core::rules::rules();
        let built = |group: &str| registry.find_calculation(group).is_some();
        let said: Vec<&str> =
            NOT_COVERED.iter().map(|(group, _)| *group).filter(|g| built(g)).collect();
        // Trip times can be judged, but a job keeps no such reading.
        assert_eq!(said, ["rcd"]);
    }

    #[test]
    fn times_are_of_the_clock_on_the_site() {
        let mut job = Job::new("x", School::Iec);
        // Twenty past five in the afternoon in Greenwich, in the summer.
        let moment = Utc.with_ymd_and_hms(2026, 7, 4, 17, 20, 0).unwrap();
        assert_eq!(at(&job, moment), "2026-07-04 17:20 UTC");
        // Summer time is an hour ahead of Greenwich in London, six hours behind in Denver.
        job.time_zone = Some("Europe/London".to_owned());
        assert_eq!(at(&job, moment), "2026-07-04 18:20 BST");
        job.time_zone = Some("America/Denver".to_owned());
        assert_eq!(at(&job, moment), "2026-07-04 11:20 MDT");
        // In the winter it is seven.
        assert_eq!(recorded_at(&job, "2026-12-04T17:20:00Z"), "2026-12-04 10:20 MST");
        assert_eq!(recorded_at(&job, "2026-12-04T18:20:00+01:00"), "2026-12-04 10:20 MST");
    }

    #[test]
    fn the_edition_is_that_of_the_job() {
        let mut job = Job::new("x", School::Na);
        assert!(rules(&job).contains("2023"));
        job.settings.edition = Some(Edition::Y2017);
        assert!(rules(&job).contains("2017"));
        assert!(rules(&Job::new("x", School::Iec)).starts_with("IEC"));
    }
}
