//! What a schema cannot say: references that lead somewhere, keys used once, values that fit
//! together.

use std::collections::HashSet;
use std::fmt::Display;
use std::hash::Hash;

use super::{Building, ColdMethod, JobFile, RacewayKind, VERSION, plan_problems, roof_problems};
use crate::library::Library;
use crate::problem::{Problem, Problems};
use crate::quantity::below;
use crate::school::School;
use crate::tables;

/// Every problem of a job file whose fields are each in range.
pub fn validate(file: &JobFile) -> Vec<Problem> {
    let mut v = Validation { problems: Problems::default() };
    if file.version != VERSION {
        v.say("/version", format!("version {} is not {VERSION}", file.version), "");
    }
    v.library(&file.library);
    if let Some(zone) = &file.job.time_zone
        && zone.parse::<chrono_tz::Tz>().is_err()
    {
        v.say("/job/time_zone", format!("no time zone `{zone}`"), "as Europe/Berlin");
    }
    v.site(file);
    v.references(file);
    v.unique(file.job.inverters.iter().map(|i| &i.id), "/job/inverters", "id");
    v.strings(file);
    v.branches(file);
    v.problems.extend(plan_problems(&file.job));
    v.problems.extend(super::routes::route_problems(&file.job));
    v.problems.extend(super::stock::stock_problems(&file.job));
    v.problems.extend(roof_problems::roof_problems(&file.job));
    v.unique(file.job.places.iter().map(|p| &p.name), "/job/places", "name");
    v.unique(file.readings.iter().map(|r| &r.id), "/readings", "id");
    for (i, reading) in file.readings.iter().enumerate() {
        if !file.job.strings.iter().any(|s| s.letter == reading.values.string) {
            // A string may have been taken out after it was read: the reading stays, so this is no
            // problem of its own.
            continue;
        }
        if reading.values.voc_v.is_none() && reading.values.isc_a.is_none() {
            v.say(format!("/readings/{i}/values"), "holds no reading", "give voc_v or isc_a");
        }
    }
    v.problems.told()
}

struct Validation {
    problems: Problems,
}

impl Validation {
    fn say(
        &mut self,
        path: impl Into<String>,
        message: impl Into<String>,
        hint: impl Into<String>,
    ) {
        self.problems.push(Problem::new(path, message, hint));
    }

    fn unique<'a, K: Display + Eq + Hash + 'a>(
        &mut self,
        keys: impl Iterator<Item = &'a K>,
        path: &str,
        field: &str,
    ) {
        let mut seen = HashSet::new();
        for (i, key) in keys.enumerate() {
            if !seen.insert(key) {
                self.say(
                    format!("{path}/{i}/{field}"),
                    format!("`{key}` is there twice"),
                    "each needs its own",
                );
            }
        }
    }

    fn library(&mut self, library: &Library) {
        let mut seen = HashSet::new();
        for (kind, i, head) in library.heads() {
            if !seen.insert((kind, head.sheet, head.revision)) {
                let path = format!("/library/{}/{i}", kind.list());
                let message = format!("{} revision {} is there twice", head.sheet, head.revision);
                self.say(path, message, "keep one");
            }
        }
        self.problems.extend(library.problems("/library"));
    }

    /// References to data sheets that are not there.
    fn references(&mut self, file: &JobFile) {
        for r in file.job.references() {
            if !file.library.has(r.kind, r.sheet) {
                self.say(
                    format!("/job{}", r.address),
                    format!("no data sheet {} revision {}", r.sheet.sheet, r.sheet.revision),
                    format!("put it into /library/{}", r.kind.list()),
                );
            }
        }
    }

    fn site(&mut self, file: &JobFile) {
        let site = &file.job.site;
        if let (Some(low), Some(high)) = (site.t_min_c, site.t_max_c)
            && !below(low, high)
        {
            self.say(
                "/job/site/t_min_c",
                format!("{low} °C is not below the highest, {high} °C"),
                "the coldest goes first",
            );
        }
        if let Some(building) = site.building
            && !building.is_of(file.job.school)
        {
            let hint = match file.job.school {
                School::Na => "dwelling_1_2, other_roof or ground",
                School::Iec => "building or ground",
            };
            self.say(
                "/job/site/building",
                "this kind of building belongs to the other school",
                hint,
            );
        }
        if let Some(building) = site.dc_enters
            && (!building.is_of(file.job.school) || building == Building::Ground)
        {
            self.say(
                "/job/site/dc_enters",
                "this is no building DC can enter in this school",
                "dwelling_1_2 or other_roof (na), building (iec)",
            );
        }
        if site.cold_method == ColdMethod::Factor && file.job.school == School::Na {
            self.say(
                "/job/site/cold_method",
                "the fixed factor is a habit of the iec school only",
                "coefficient or table",
            );
        }
        self.unique(site.faces.iter().map(|f| &f.id), "/job/site/faces", "id");
    }

    fn strings(&mut self, file: &JobFile) {
        self.unique(file.job.strings.iter().map(|s| &s.letter), "/job/strings", "letter");
        for (i, s) in file.job.strings.iter().enumerate() {
            let path = format!("/job/strings/{i}");
            if file.job.face(&s.face).is_none() {
                let known: Vec<&str> = file.job.site.faces.iter().map(|f| f.id.as_str()).collect();
                self.say(
                    format!("{path}/face"),
                    format!("no face `{}`", s.face),
                    format!("faces of this job: {}", list(&known)),
                );
            }
            match file.job.inverters.iter().find(|inv| inv.id == s.inverter) {
                None => {
                    let known: Vec<&str> =
                        file.job.inverters.iter().map(|inv| inv.id.as_str()).collect();
                    self.say(
                        format!("{path}/inverter"),
                        format!("no inverter `{}`", s.inverter),
                        format!("inverters of this job: {}", list(&known)),
                    );
                }
                Some(inv) => {
                    let inputs = file.library.inverter(&inv.sheet).map(|sheet| sheet.mppts.len());
                    if let Some(n) = inputs
                        && s.mppt as usize > n
                    {
                        self.say(
                            format!("{path}/mppt"),
                            format!("input {} is not there", s.mppt),
                            format!("this inverter has inputs 1 to {n}"),
                        );
                    }
                }
            }
        }
    }

    fn branches(&mut self, file: &JobFile) {
        let letters = file
            .job
            .strings
            .iter()
            .map(|s| &s.letter)
            .chain(file.job.branches.iter().map(|b| &b.letter));
        let mut seen = HashSet::new();
        for (i, letter) in letters.enumerate() {
            if !seen.insert(letter) && i >= file.job.strings.len() {
                let at = i - file.job.strings.len();
                self.say(
                    format!("/job/branches/{at}/letter"),
                    format!("`{letter}` is there twice"),
                    "each string and branch needs its own",
                );
            }
        }
        for (i, b) in file.job.branches.iter().enumerate() {
            let path = format!("/job/branches/{i}");
            if file.job.face(&b.face).is_none() {
                self.say(
                    format!("{path}/face"),
                    format!("no face `{}`", b.face),
                    "a face of the site",
                );
            }
            for (k, n) in b.arms_n.iter().enumerate() {
                if !(1..=100).contains(n) {
                    self.say(
                        format!("{path}/arms_n/{k}"),
                        format!("an arm of {n} units"),
                        "1 to 100",
                    );
                }
            }
        }
    }
}

/// The sizes a kind of raceway comes in, as they are written in a job.
pub(crate) fn raceway_sizes(kind: RacewayKind) -> Vec<String> {
    match kind.school() {
        School::Na => tables::RACEWAYS
            .iter()
            .filter(|r| r.kind == kind.key())
            .map(|r| r.trade.clone())
            .collect(),
        School::Iec => tables::CONDUITS
            .iter()
            .filter(|c| c.class == kind.key())
            .map(|c| c.size_mm.to_string())
            .collect(),
    }
}

fn list(words: &[&str]) -> String {
    if words.is_empty() { "none yet".to_owned() } else { words.join(", ") }
}
