//! Repairs: edits that come to a job without new stops, but for the roof map, whose strings are
//! then routed anew.

use serde_json::json;

use super::{Repair, Stop, newly, same_check};
use crate::evaluate::{Report, evaluate};
use crate::figure::{Stage, Subject, Verdict};
use crate::job::{
    Device, DeviceKey, DeviceKind, Edit, End, Job, JobFile, JobString, WayKey, applied, validate,
};
use crate::library::{DataSheet, Headed, InverterSheet, Library};
use crate::search::{ask_of, ways};
use crate::stages::protection::{CLOSES, ISOLATED, WAYS_N};
use crate::stages::runs::FILL;
use crate::stages::strings::POWER_DC;
use crate::work::Work;

/// Edits that give a string an isolator and a surge device like those that stand on its way.
fn like_devices(job: &Job, subject: &Subject) -> Vec<Edit> {
    let Subject::String { string } = subject else { return Vec::new() };
    let own = job.plan.circuits.values().find(|c| c.from.string.as_ref() == Some(string));
    let ways = own.into_iter().flat_map(|c| &c.legs).flat_map(|l| &l.via);
    let ways: Vec<_> = ways.filter_map(|key| job.plan.ways.get(key)).collect();
    let mut edits = Vec::new();
    for (key, node) in &job.plan.nodes {
        if !ways.iter().any(|w| w.from == *key || w.to == *key) {
            continue;
        }
        let of = |what: DeviceKind| node.devices.values().find(|d| d.what == what);
        let Some(isolator) = of(DeviceKind::Isolator) else { continue };
        let name = |prefix: &str| DeviceKey::from(format!("{prefix}-{string}").as_str());
        let mut add = |key_of: DeviceKey, device: Device| {
            let at = format!("/plan/nodes/{key}/devices/{key_of}");
            let device = Device { rail: None, left_ways: None, ..device };
            edits.push(Edit::new(at, json!(device)));
        };
        add(name("ISO"), Device { feeds: None, ..isolator.clone() });
        if let Some(surge) = of(DeviceKind::SurgeDevice) {
            add(name("SPD"), Device { feeds: Some(name("ISO")), ..surge.clone() });
        }
    }
    edits
}

/// Repairs shown at most.
const REPAIRS: usize = 6;

pub(super) struct Mending<'a> {
    pub job: &'a Job,
    pub taken: &'a Job,
    pub known: Library,
    pub before: &'a Report,
    pub accept: &'a [Edit],
    pub work: &'a Work,
}

impl Mending<'_> {
    pub(super) fn repairs(&self, new: &DataSheet, others: &[InverterSheet]) -> Vec<Repair> {
        let mut found: Vec<Repair> = Vec::new();
        self.other_splits(&mut found);
        self.fewer_modules(&mut found);
        self.other_inverters(new, others, &mut found);
        found.sort_by(|a, b| {
            let rank = a.cost.weighed_minutes.total_cmp(&b.cost.weighed_minutes);
            rank.then(a.cautions.len().cmp(&b.cautions.len()))
        });
        found.dedup_by(|a, b| a.text == b.text);
        found.truncate(REPAIRS);
        found
    }

    /// The same modules in other strings, on the same inputs or on others.
    fn other_splits(&self, found: &mut Vec<Repair>) {
        let Some(ask) = ask_of(self.taken, &self.known) else { return };
        if self.taken.strings.iter().any(|s| s.module != ask.module) {
            return;
        }
        let Ok(answer) = ways(self.taken, &self.known, &ask, &[], self.work) else { return };
        for way in answer.ways.iter().filter(|w| w.unused_n == 0) {
            let edits: Vec<Edit> = self.accept.iter().chain(&way.edits).cloned().collect();
            found.extend(self.repair(edits, &self.known, None));
        }
    }

    /// Modules taken out of the strings that stop, one at a time, until they hold.
    fn fewer_modules(&self, found: &mut Vec<Repair>) {
        let mut job = self.taken.clone();
        let total: u32 = job.strings.iter().map(|s| s.n).sum();
        for _ in 0..total {
            if !self.work.goes_on() {
                return;
            }
            let report = evaluate(&job, &self.known, &[]);
            let stops = newly(self.before, &report, Verdict::Fail);
            let in_strings: Vec<&Stop> =
                stops.iter().filter(|s| s.check.stage == Stage::Strings).collect();
            let Some(stop) = in_strings.first() else { break };
            let on = |s: &JobString| match &stop.check.subject {
                Subject::String { string } => s.letter == *string,
                Subject::Mppt { inverter, input } => s.inverter == *inverter && s.mppt == *input,
                Subject::Inverter { inverter } => s.inverter == *inverter,
                _ => false,
            };
            let Some(longest) =
                job.strings.iter_mut().filter(|s| on(s) && s.n > 1).max_by_key(|s| s.n)
            else {
                return;
            };
            let input = (longest.inverter.clone(), longest.mppt);
            let (longest_n, same) = (longest.n, stop.check.id != POWER_DC.id);
            // Strings in parallel stay alike.
            for s in job
                .strings
                .iter_mut()
                .filter(|s| same && (s.inverter.clone(), s.mppt) == input && s.n == longest_n)
            {
                s.n -= 1;
            }
            if !same && let Some(s) = job.strings.iter_mut().find(|s| on(s) && s.n == longest_n) {
                s.n -= 1;
            }
        }
        let counts = job.strings.iter().zip(&self.taken.strings).filter(|(a, b)| a.n != b.n);
        let fewer: Vec<Edit> =
            counts.map(|(a, _)| Edit::new(format!("/strings/{}/n", a.letter), a.n)).collect();
        if !fewer.is_empty() {
            let edits = self.accept.iter().cloned().chain(fewer).collect();
            found.extend(self.repair(edits, &self.known, None));
        }
    }

    /// Another inverter with the strings as they are: of as many phases and about as much output,
    /// so that the AC side stays.
    fn other_inverters(&self, new: &DataSheet, others: &[InverterSheet], found: &mut Vec<Repair>) {
        let DataSheet::Inverter(new) = new else { return };
        let alike = |o: &&InverterSheet| {
            let output = o.ac_a.zip(new.ac_a).map(|(a, b)| a / b);
            o.sheet != new.sheet
                && o.three_phase == new.three_phase
                && o.ac_v == new.ac_v
                && output.is_some_and(|r| (0.7..=1.3).contains(&r))
        };
        for other in others.iter().filter(alike) {
            let mut known = self.known.clone();
            known.inverters.push(other.clone());
            let edits: Vec<Edit> = self
                .accept
                .iter()
                .map(|e| Edit { value: json!(other.reference()), ..e.clone() })
                .collect();
            found.extend(self.repair(edits, &known, Some(other)));
        }
    }

    /// The repair these edits make; none where something still stops that no site work mends.
    fn repair(
        &self,
        edits: Vec<Edit>,
        known: &Library,
        inverter: Option<&InverterSheet>,
    ) -> Option<Repair> {
        if !self.work.goes_on() {
            return None;
        }
        let mut edits = edits;
        let mut also: Vec<Stop> = Vec::new();
        let (job, report, map) = loop {
            let job = applied(self.job, &edits)?;
            if !validate(&JobFile::new(job.clone(), known.clone(), Vec::new())).is_empty() {
                return None;
            }
            let report = evaluate(&job, known, &[]);
            let stops = newly(self.before, &report, Verdict::Fail);
            let (map, stops): (Vec<_>, Vec<_>) =
                stops.into_iter().partition(|s| s.check.stage == Stage::Roof);
            if stops.is_empty() {
                break (job, report, map);
            }
            // A raceway or an enclosure that is too small is exchanged for a larger one, and a new
            // string gets what opens it; anything else that stops is no repair.
            let opening = stops.iter().any(|s| s.check.id == ISOLATED.id);
            for stop in stops {
                // What an isolator too few brings with it is looked at again once it is there.
                if opening && stop.check.stage == Stage::Protection && stop.check.id != ISOLATED.id
                {
                    continue;
                }
                let again = also.iter().any(|a| same_check(&a.check, &stop.check));
                if again {
                    return None;
                }
                if stop.check.id == ISOLATED.id {
                    let like = like_devices(&job, &stop.check.subject);
                    if like.is_empty() {
                        return None;
                    }
                    edits.extend(like);
                } else if [FILL.id, WAYS_N.id, CLOSES.id].contains(&stop.check.id) {
                    let cure = stop.check.cures.iter().find(|c| !c.edits.is_empty());
                    edits.extend(cure?.edits.iter().cloned());
                } else {
                    return None;
                }
                also.push(stop);
            }
        };
        let cautions = newly(self.before, &report, Verdict::Warn);
        let (text, mut opens) = self.words(&job, inverter);
        let raceways = also.iter().filter(|s| s.check.id == FILL.id);
        opens.extend(raceways.map(|s| format!("raceway {}, for a larger one", s.check.subject)));
        let cases = also.iter().filter(|s| s.check.id == WAYS_N.id);
        opens.extend(cases.map(|s| format!("enclosure {}, for a larger one", s.check.subject)));
        if !map.is_empty() {
            opens.push("the roof map: its strings are routed anew".to_owned());
        }
        let cost = self.cost(&job, known, &also, inverter.is_some());
        Some(Repair {
            text,
            opens,
            cost,
            also,
            cautions,
            edits,
            inverter: inverter.map(InverterSheet::reference),
        })
    }

    /// What is done, and what must be opened again.
    fn words(&self, job: &Job, inverter: Option<&InverterSheet>) -> (String, Vec<String>) {
        let (mut parts, mut opens): (Vec<String>, Vec<String>) = (Vec::new(), Vec::new());
        if let Some(i) = inverter {
            parts.push(format!("{} rev {} in place of the inverter", i.model, i.revision));
            opens.push("the inverter: DC and AC both dead and proven dead first".to_owned());
        }
        let mut added = Vec::new();
        for s in &job.strings {
            match self.job.strings.iter().find(|o| o.letter == s.letter) {
                Some(old) if old.n != s.n || old.mppt != s.mppt || old.inverter != s.inverter => {
                    let count = if old.n == s.n {
                        format!("{} modules", s.n)
                    } else {
                        format!("{} to {} modules", old.n, s.n)
                    };
                    let to = if old.mppt == s.mppt && old.inverter == s.inverter {
                        String::new()
                    } else {
                        format!(" to {} input {}", s.inverter, s.mppt)
                    };
                    parts.push(format!("string {}: {count}{to}", s.letter));
                    if old.n != s.n {
                        opens.push(format!(
                            "a joint of string {} under the modules; never under load",
                            s.letter
                        ));
                    }
                }
                Some(_) => {}
                None => added.push(s),
            }
        }
        for s in &added {
            parts.push(format!(
                "new string {} of {} on {} input {}",
                s.letter, s.n, s.inverter, s.mppt
            ));
        }
        for o in
            self.job.strings.iter().filter(|o| !job.strings.iter().any(|s| s.letter == o.letter))
        {
            parts.push(format!("string {} taken out", o.letter));
        }
        if !added.is_empty() {
            let of_added =
                |from: &End| added.iter().any(|s| from.string.as_ref() == Some(&s.letter));
            let own = job.plan.circuits.values().filter(|c| of_added(&c.from));
            let mut ways: Vec<&WayKey> = own.flat_map(|c| &c.legs).flat_map(|l| &l.via).collect();
            ways.sort_unstable();
            ways.dedup();
            opens.extend(ways.into_iter().map(|key| {
                let name = job.plan.ways.get(key).map_or("", |w| &w.name);
                let name = if name.is_empty() { key.as_str() } else { name };
                format!("the way \u{201c}{name}\u{201d} for another pair of cables")
            }));
            opens.push("the enclosure beside the inverter".to_owned());
        }
        (parts.join("; "), opens)
    }
}
