//! The data sheet watch: what a newer revision changes, what a job then no longer holds, and the
//! repairs, ranked by what they cost on site.

use serde::Serialize;
use serde_json::{Value, json};
use utoipa::ToSchema;

use crate::evaluate::{Report, evaluate};
use crate::figure::{Check, Edit, Stage, Verdict};
use crate::job::{CircuitKind, Job, JobBranch, JobString};
use crate::library::entry::{DataSheet, Field, fields};
use crate::library::{InverterSheet, Library, SheetKind, SheetRef};
use crate::school::School;
use crate::strings::{ask_of, ways};
use crate::tables::site_minutes;

/// Repairs shown at most.
const REPAIRS: usize = 6;
/// Allowance for the two ends of a cut, m.
const CUT_ENDS_M: f64 = 2.0 * 0.3;
/// Ways of an enclosure (17.5 mm each) a four-pole isolator takes.
const ISOLATOR_WAYS: i32 = 4;
/// Ways of an enclosure a surge device for one input takes.
const SPD_WAYS: i32 = 3;

/// A field that differs between two revisions.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct Change {
    /// The field as a column is named.
    pub field: String,
    /// Its title; with the MPPT where it is one of several.
    pub title: String,
    /// Its unit.
    pub unit: &'static str,
    /// What it was.
    #[schema(value_type = Option<crate::figure::Value>)]
    pub from: Value,
    /// What it is.
    #[schema(value_type = Option<crate::figure::Value>)]
    pub to: Value,
}

/// The fields in which two revisions of a sheet differ, in the order of the sheet.
pub fn changes(old: &DataSheet, new: &DataSheet) -> Vec<Change> {
    let (a, b) = (old.document(), new.document());
    let inputs =
        [&a, &b].map(|d| d["mppts"].as_array().map_or(0, Vec::len)).into_iter().max().unwrap_or(0);
    let mut found = Vec::new();
    let mut differ = |field: &Field, key: String, title: String, pointer: &str| {
        let [from, to] = [&a, &b].map(|d| d.pointer(pointer).cloned().unwrap_or(Value::Null));
        let same = match (from.as_f64(), to.as_f64()) {
            (Some(x), Some(y)) => x == y,
            _ => from == to,
        };
        if !same {
            found.push(Change { field: key, title, unit: field.unit, from, to });
        }
    };
    for field in fields(new.kind()).iter().filter(|f| f.key != "revision") {
        match field.key.strip_prefix("mppts.*.") {
            None => differ(
                field,
                field.key.to_owned(),
                field.title.to_owned(),
                &format!("/{}", field.key.replace('.', "/")),
            ),
            Some(name) => {
                for k in 0..inputs {
                    let (number, pointer) = (k + 1, format!("/mppts/{k}/{name}"));
                    differ(
                        field,
                        format!("mppts.{number}.{name}"),
                        format!("{}, MPPT {number}", field.title),
                        &pointer,
                    );
                }
            }
        }
    }
    found
}

/// A check that holds no longer.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct Stop {
    /// The check as it comes to now.
    pub check: Check,
    /// How far it is beyond the limit, in the check's unit.
    pub over: Option<f64>,
}

/// What a repair adds or takes away. Negative is taken away.
#[derive(Clone, Copy, Debug, Default, PartialEq, Serialize, ToSchema)]
pub struct SiteCost {
    /// Cable pairs from the roof.
    pub cable_pairs_n: i32,
    /// Metres of cable, both poles.
    pub cable_m: f64,
    /// Isolators.
    pub isolators_n: i32,
    /// Surge devices.
    pub spds_n: i32,
    /// Enclosure ways of 17.5 mm.
    pub ways_n: i32,
    /// Connectors to make up, halves.
    pub connectors_n: i32,
    /// Modules to unclamp and lift.
    pub modules_lifted_n: i32,
    /// Modules more on the roof.
    pub modules_n: i32,
    /// Metres of raceway that must be replaced by a larger one.
    pub raceway_m: f64,
    /// Inverters to exchange.
    pub inverters_n: i32,
    /// Module watts more.
    pub power_w: f64,
    /// The work in minutes, watts given up weighed in.
    pub minutes: f64,
}

/// One way to mend a job.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct Repair {
    /// What is done, in one sentence.
    pub text: String,
    /// What must be opened again.
    pub opens: Vec<String>,
    /// What it costs on site.
    pub cost: SiteCost,
    /// What stops besides: it is mended with it, and is in the cost.
    pub also: Vec<Stop>,
    /// Cautions it leaves.
    pub warns_n: u32,
    /// The edits that do it, the newer revision with them.
    pub edits: Vec<Edit>,
    /// The data sheet it brings in besides the newer revision.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub inverter: Option<SheetRef>,
}

/// A newer revision of a sheet a job uses, and what it does to the job.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct Watch {
    /// Kind of the sheet.
    pub kind: SheetKind,
    /// Key of the sheet.
    pub sheet: String,
    /// Maker and model.
    pub name: String,
    /// The revision the job holds.
    pub from: u32,
    /// The newer one.
    pub to: u32,
    /// What changed.
    pub changes: Vec<Change>,
    /// What no longer holds.
    pub stops: Vec<Stop>,
    /// What comes to a caution.
    pub cautions: Vec<Stop>,
    /// What holds again.
    pub healed_n: u32,
    /// The reason the older one is kept, where somebody decided so.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub kept: Option<String>,
    /// The edits that take the newer revision and nothing else.
    pub accept: Vec<Edit>,
    /// Repairs, the cheapest on site first.
    pub repairs: Vec<Repair>,
}

/// The sheets of a library that are newer than what a job holds: the older one and the newest of
/// each.
pub fn newer(job: &Job, held: &Library, company: &Library) -> Vec<(DataSheet, DataSheet)> {
    let used = |s: &DataSheet| {
        let r = s.reference();
        match s.kind() {
            SheetKind::Module => {
                job.strings.iter().any(|j| j.module == r)
                    || job.branches.iter().any(|b| b.module == r)
            }
            SheetKind::Inverter => job.inverters.iter().any(|j| j.sheet == r),
            SheetKind::Optimizer => job.strings.iter().any(|j| j.optimizer.as_ref() == Some(&r)),
            SheetKind::Micro => job.branches.iter().any(|b| b.micro == r),
        }
    };
    let all = company.sheets();
    let newest = |s: &DataSheet| {
        let r = s.reference();
        all.iter()
            .filter(|n| {
                n.kind() == s.kind()
                    && n.reference().sheet == r.sheet
                    && n.reference().revision > r.revision
            })
            .max_by_key(|n| n.reference().revision)
            .cloned()
    };
    held.sheets().into_iter().filter(used).filter_map(|s| newest(&s).map(|n| (s, n))).collect()
}

fn applied(job: &Job, edits: &[Edit]) -> Option<Job> {
    let mut value = serde_json::to_value(job).ok()?;
    for e in edits {
        *value.pointer_mut(&e.pointer)? = e.value.clone();
    }
    serde_json::from_value(value).ok()
}

/// The edits that put one revision in place of another.
fn taking(job: &Job, kind: SheetKind, from: &SheetRef, to: &SheetRef) -> Vec<Edit> {
    let edit = |pointer: String| Edit { pointer, value: json!(to) };
    let strings = |field: &'static str, uses: &dyn Fn(&JobString) -> bool| -> Vec<Edit> {
        job.strings
            .iter()
            .enumerate()
            .filter(|(_, s)| uses(s))
            .map(|(i, _)| edit(format!("/strings/{i}/{field}")))
            .collect()
    };
    let branches = |field: &'static str, uses: &dyn Fn(&JobBranch) -> bool| -> Vec<Edit> {
        job.branches
            .iter()
            .enumerate()
            .filter(|(_, b)| uses(b))
            .map(|(i, _)| edit(format!("/branches/{i}/{field}")))
            .collect()
    };
    match kind {
        SheetKind::Module => {
            let mut edits = strings("module", &|s| s.module == *from);
            edits.extend(branches("module", &|b| b.module == *from));
            edits
        }
        SheetKind::Inverter => {
            let uses = job.inverters.iter().enumerate().filter(|(_, s)| s.sheet == *from);
            uses.map(|(i, _)| edit(format!("/inverters/{i}/sheet"))).collect()
        }
        SheetKind::Optimizer => strings("optimizer", &|s| s.optimizer.as_ref() == Some(from)),
        SheetKind::Micro => branches("micro", &|b| b.micro == *from),
    }
}

fn same_check(a: &Check, b: &Check) -> bool {
    a.id == b.id && a.subject == b.subject
}

/// Checks that came to `verdict` and did not before.
fn newly(before: &Report, after: &Report, verdict: Verdict) -> Vec<Stop> {
    let was = |c: &&Check| !before.checks.iter().any(|b| same_check(b, c) && b.verdict >= verdict);
    let now = after.checks.iter().filter(|c| c.verdict == verdict && !c.alternative).filter(was);
    now.map(|c| Stop { check: c.clone(), over: c.margin.map(|m| -m) }).collect()
}

/// What a newer revision does to a job. `others` are inverters that might take its place.
pub fn watch(
    job: &Job,
    library: &Library,
    old: &DataSheet,
    new: &DataSheet,
    others: &[InverterSheet],
) -> Watch {
    let before = evaluate(job, library, &[]);
    let mut known = library.clone();
    new.clone().put_into(&mut known);
    let accept = taking(job, new.kind(), &old.reference(), &new.reference());
    let taken = applied(job, &accept).unwrap_or_else(|| job.clone());
    let after = evaluate(&taken, &known, &[]);
    let stops = newly(&before, &after, Verdict::Fail);
    let healed = |c: &&Check| {
        c.verdict == Verdict::Fail
            && after.checks.iter().any(|a| same_check(a, c) && a.verdict < Verdict::Fail)
    };
    let repairs = if stops.is_empty() {
        Vec::new()
    } else {
        Mending { job, taken: &taken, known, before: &before, accept: &accept }.repairs(new, others)
    };
    let (maker, model) = new.name();
    let (from, to) = (old.reference().revision, new.reference());
    let kept = job.kept_sheets.iter().find(|k| {
        k.kind == new.kind() && k.sheet == to.sheet && k.revision == from && k.newer == to.revision
    });
    Watch {
        kind: new.kind(),
        name: format!("{maker} {model}"),
        from,
        to: to.revision,
        sheet: to.sheet,
        changes: changes(old, new),
        cautions: newly(&before, &after, Verdict::Warn),
        healed_n: before.checks.iter().filter(healed).count() as u32,
        stops,
        kept: kept.map(|k| k.reason.clone()),
        accept,
        repairs,
    }
}

struct Mending<'a> {
    job: &'a Job,
    taken: &'a Job,
    known: Library,
    before: &'a Report,
    accept: &'a [Edit],
}

impl Mending<'_> {
    fn repairs(&self, new: &DataSheet, others: &[InverterSheet]) -> Vec<Repair> {
        let mut found: Vec<Repair> = Vec::new();
        self.other_splits(&mut found);
        self.fewer_modules(&mut found);
        self.other_inverters(new, others, &mut found);
        found.sort_by(|a, b| {
            a.cost.minutes.total_cmp(&b.cost.minutes).then(a.warns_n.cmp(&b.warns_n))
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
        let Ok(answer) = ways(self.taken, &self.known, &ask, &[]) else { return };
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
            let report = evaluate(&job, &self.known, &[]);
            let stops = newly(self.before, &report, Verdict::Fail);
            let in_strings: Vec<&Stop> =
                stops.iter().filter(|s| s.check.stage == Stage::Strings).collect();
            let Some(stop) = in_strings.first() else { break };
            let name = &stop.check.subject.name;
            let on = |s: &JobString| {
                s.letter == *name
                    || format!("{}/{}", s.inverter, s.mppt) == *name
                    || s.inverter == *name
            };
            let Some(longest) =
                job.strings.iter_mut().filter(|s| on(s) && s.n > 1).max_by_key(|s| s.n)
            else {
                return;
            };
            let input = (longest.inverter.clone(), longest.mppt);
            let (longest_n, same) = (longest.n, stop.check.id != "inverter.power_dc_w");
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
        let counts = job
            .strings
            .iter()
            .zip(&self.taken.strings)
            .enumerate()
            .filter(|(_, (a, b))| a.n != b.n);
        let fewer: Vec<Edit> = counts
            .map(|(i, (a, _))| Edit { pointer: format!("/strings/{i}/n"), value: json!(a.n) })
            .collect();
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
        let mut edits = edits;
        let mut also: Vec<Stop> = Vec::new();
        let (job, report) = loop {
            let job = applied(self.job, &edits)?;
            if !crate::job::validate(&crate::job::JobFile::new(
                job.clone(),
                known.clone(),
                Vec::new(),
            ))
            .is_empty()
            {
                return None;
            }
            let report = evaluate(&job, known, &[]);
            let stops = newly(self.before, &report, Verdict::Fail);
            if stops.is_empty() {
                break (job, report);
            }
            // A raceway that is too small is exchanged for a larger one; anything else that stops
            // is no repair.
            for stop in stops {
                let cure = stop.check.cures.iter().find(|c| !c.edits.is_empty());
                let again = also.iter().any(|a| same_check(&a.check, &stop.check));
                if stop.check.id != "raceway.fill_pct" || again {
                    return None;
                }
                edits.extend(cure?.edits.iter().cloned());
                also.push(stop);
            }
        };
        let warns_n = newly(self.before, &report, Verdict::Warn).len() as u32;
        let (text, mut opens) = self.words(&job, inverter);
        opens.extend(
            also.iter().map(|s| format!("raceway {}, for a larger one", s.check.subject.name)),
        );
        let cost = self.cost(&job, known, &also, inverter.is_some());
        Some(Repair {
            text,
            opens,
            cost,
            also,
            warns_n,
            edits,
            inverter: inverter.map(InverterSheet::reference),
        })
    }

    /// Joints between modules that are made or opened: one for each string more, one for each whose
    /// count changes.
    fn joints(&self, job: &Job) -> i32 {
        let (before, after) = (self.job.strings.len() as i32, job.strings.len() as i32);
        let changed = job
            .strings
            .iter()
            .filter(|s| self.job.strings.iter().any(|o| o.letter == s.letter && o.n != s.n))
            .count() as i32;
        (after - before).abs().max(changed)
    }

    fn cost(&self, job: &Job, known: &Library, also: &[Stop], swap: bool) -> SiteCost {
        let strings = |j: &Job| j.strings.len() as i32;
        let modules = |j: &Job| j.strings.iter().map(|s| s.n as i32).sum::<i32>();
        let inputs = |j: &Job| {
            let mut used: Vec<(&str, u32)> =
                j.strings.iter().map(|s| (s.inverter.as_str(), s.mppt)).collect();
            used.sort_unstable();
            used.dedup();
            used.len() as i32
        };
        let power = |j: &Job| -> f64 {
            let watts = |s: &JobString| {
                known.module(&s.module).and_then(|m| m.ratings.pmax_w).unwrap_or(0.0)
                    * f64::from(s.n)
            };
            j.strings.iter().map(watts).sum()
        };
        let cable = |j: &Job| -> f64 {
            let runs = j.runs.iter().filter(|r| r.kind == CircuitKind::PvString);
            let metres = |r: &crate::job::Run| {
                r.segments.iter().filter_map(|s| s.length_m).sum::<f64>() + CUT_ENDS_M
            };
            runs.map(|r| 2.0 * metres(r) * r.strings.len() as f64).sum()
        };
        let iec = job.school == School::Iec;
        let pairs = strings(job) - strings(self.job);
        let isolators = if iec { pairs } else { 0 };
        let spds = if iec { inputs(job) - inputs(self.job) } else { 0 };
        let gone = modules(self.job) - modules(job);
        let lifted = 2 * self.joints(job);
        let raceway_m: f64 =
            also.iter().filter_map(|s| raceway_length(job, &s.check.subject.name)).sum();
        let mut cost = SiteCost {
            cable_pairs_n: pairs,
            cable_m: cable(job) - cable(self.job),
            isolators_n: isolators,
            spds_n: spds,
            ways_n: isolators * ISOLATOR_WAYS + spds * SPD_WAYS,
            // A pair ends in two halves at the array and two at the inverter.
            connectors_n: 4 * pairs,
            modules_lifted_n: lifted,
            modules_n: -gone,
            raceway_m,
            inverters_n: i32::from(swap) * self.accept.len() as i32,
            power_w: power(job) - power(self.job),
            minutes: 0.0,
        };
        let more = |n: i32, key: &str| f64::from(n.max(0)) * site_minutes(key);
        cost.minutes = (cost.cable_m / 2.0).max(0.0) * site_minutes("cable_pair_m")
            + more(cost.isolators_n, "isolator")
            + more(cost.spds_n, "spd")
            + more(cost.connectors_n, "connector")
            + more(cost.modules_lifted_n, "module_off_and_on")
            + more(gone, "module_gone")
            + cost.raceway_m * site_minutes("raceway_m")
            + more(cost.inverters_n, "inverter_swap")
            + (-cost.power_w).max(0.0) * site_minutes("watt_given_up");
        cost
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
            let runs =
                job.runs.iter().filter(|r| added.iter().any(|s| r.strings.contains(&s.letter)));
            opens.extend(
                runs.map(|r| {
                    format!("the way \u{201c}{}\u{201d} for another pair of cables", r.name)
                }),
            );
            opens.push("the enclosure beside the inverter".to_owned());
        }
        (parts.join("; "), opens)
    }
}

/// Length of a raceway by the name its checks go by: run, slash, segment from 1.
fn raceway_length(job: &Job, name: &str) -> Option<f64> {
    let (run, segment) = name.split_once('/')?;
    let at: usize = segment.parse().ok()?;
    job.runs.iter().find(|r| r.id == run)?.segments.get(at.checked_sub(1)?)?.length_m
}
