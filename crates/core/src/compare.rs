//! Two states of a job side by side: what is otherwise in the plan, and which verdicts moved.

use std::collections::HashMap;

use serde::Serialize;
use serde_json::Value as Json;
use utoipa::ToSchema;

use crate::evaluate::{Counts, evaluate};
use crate::figure::{Check, Stage, Subject, Verdict};
use crate::job::{Document, Reading};

/// Places of a plan, and verdicts, that are named one by one.
const MOST: usize = 200;

/// A place of the plan that is otherwise.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct PlanChange {
    /// Where it is, from the job inward: names of fields, and in a list the key of the member
    /// (`strings`, `A`, `n`) or its number from 1 on.
    pub path: Vec<String>,
    /// What was there; none where it was added.
    #[serde(skip_serializing_if = "Option::is_none")]
    #[schema(value_type = Option<Object>)]
    pub from: Option<Json>,
    /// What is there now; none where it was taken out.
    #[serde(skip_serializing_if = "Option::is_none")]
    #[schema(value_type = Option<Object>)]
    pub to: Option<Json>,
}

/// A check that came to something else.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct VerdictChange {
    /// Its id.
    pub id: &'static str,
    /// What it is about.
    pub subject: Subject,
    /// Plain title.
    pub title: &'static str,
    /// The stage it belongs to.
    pub stage: Stage,
    /// What it came to; none where there was no such check.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub from: Option<Verdict>,
    /// What it comes to; none where there is no such check any more.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub to: Option<Verdict>,
}

/// Two states of a job side by side.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct Compared {
    /// What is otherwise in the plan; the first two hundred places.
    pub plan: Vec<PlanChange>,
    /// How many places there are.
    pub plan_n: usize,
    /// Checks that came to something else, the worst first; the first two hundred. A check that
    /// came or went and held is not among them.
    pub verdicts: Vec<VerdictChange>,
    /// How many there are.
    pub verdicts_n: usize,
    /// The checks before.
    pub before: Counts,
    /// The checks after.
    pub after: Counts,
}

/// Compares two states of a job, both with the readings it has now.
pub fn compare(before: &Document, after: &Document, readings: &[Reading]) -> Compared {
    let [old, new] = [before, after].map(|d| serde_json::to_value(&d.job).unwrap_or(Json::Null));
    let mut plan = Vec::new();
    differences(&old, &new, &mut Vec::new(), &mut plan);
    let [was, is] = [before, after].map(|d| evaluate(&d.job, &d.library, readings));
    let mut verdicts = moved(&was.checks, &is.checks);
    let (plan_n, verdicts_n) = (plan.len(), verdicts.len());
    plan.truncate(MOST);
    verdicts.truncate(MOST);
    Compared { plan, plan_n, verdicts, verdicts_n, before: was.counts, after: is.counts }
}

fn moved(before: &[Check], after: &[Check]) -> Vec<VerdictChange> {
    let by_key = |checks: &[Check]| -> HashMap<(&'static str, String), usize> {
        let own = checks.iter().enumerate().filter(|(_, c)| !c.alternative);
        own.map(|(i, c)| ((c.id, c.subject.to_string()), i)).collect()
    };
    let (was, is) = (by_key(before), by_key(after));
    let changed = |c: &Check, from: Option<Verdict>, to: Option<Verdict>| {
        let held = |v: Option<Verdict>| v.is_none_or(|v| v == Verdict::Pass);
        (from != to && !(held(from) && held(to))).then(|| VerdictChange {
            id: c.id,
            subject: c.subject.clone(),
            title: c.title,
            stage: c.stage,
            from,
            to,
        })
    };
    let key = |c: &Check| (c.id, c.subject.to_string());
    let now = after.iter().filter(|c| !c.alternative).filter_map(|c| {
        let from = was.get(&key(c)).map(|i| before[*i].verdict);
        changed(c, from, Some(c.verdict))
    });
    let gone = before.iter().filter(|c| !c.alternative && !is.contains_key(&key(c)));
    let gone = gone.filter_map(|c| changed(c, Some(c.verdict), None));
    let mut all: Vec<VerdictChange> = now.chain(gone).collect();
    // Stable: within a verdict they stay in the order of the report.
    all.sort_by_key(|c| std::cmp::Reverse(c.to));
    all
}

/// Every place where two documents differ. What is added or taken out is one place, whole.
fn differences(old: &Json, new: &Json, path: &mut Vec<String>, found: &mut Vec<PlanChange>) {
    if old == new {
        return;
    }
    match (members(old), members(new)) {
        (Some(old), Some(new)) => {
            let [was, is] = [&old, &new].map(|all| {
                all.iter().map(|(k, v)| (k.as_str(), *v)).collect::<HashMap<&str, &Json>>()
            });
            let added = new.iter().filter(|(k, _)| !was.contains_key(k.as_str()));
            for (key, _) in old.iter().chain(added) {
                path.push(key.clone());
                let [from, to] =
                    [&was, &is].map(|all| all.get(key.as_str()).copied().unwrap_or(&Json::Null));
                differences(from, to, path, found);
                path.pop();
            }
        }
        _ => {
            let there = |v: &Json| (!v.is_null()).then(|| v.clone());
            found.push(PlanChange { path: path.clone(), from: there(old), to: there(new) });
        }
    }
}

/// The members of an object or of a list of objects with their keys, in their order; none of
/// anything else.
fn members(value: &Json) -> Option<Vec<(String, &Json)>> {
    match value {
        Json::Object(fields) => Some(fields.iter().map(|(k, v)| (k.clone(), v)).collect()),
        Json::Array(list) if list.iter().all(Json::is_object) => {
            let named = |(i, member): (usize, &Json)| -> String {
                let key = |k: &&str| member.get(*k)?.as_str().map(str::to_owned);
                let key = ["letter", "id", "assumption"].iter().find_map(key);
                key.unwrap_or_else(|| (i + 1).to_string())
            };
            Some(list.iter().enumerate().map(|(i, m)| (named((i, m)), m)).collect())
        }
        _ => None,
    }
}

#[cfg(test)]
mod tests {
    use serde_json::json;

    use super::*;
    use crate::job::{self, JobFile};

    fn kestrel() -> JobFile {
        let text = include_str!("../../../data/demo/kestrel-lane.json");
        job::read(text).expect("the demo job reads").file
    }

    fn document(file: &JobFile) -> Document {
        Document { job: file.job.clone(), library: file.library.clone() }
    }

    fn compared(change: impl FnOnce(&mut JobFile)) -> Compared {
        let before = kestrel();
        let mut after = kestrel();
        change(&mut after);
        compare(&document(&before), &document(&after), &before.readings)
    }

    #[test]
    fn the_same_twice_differs_nowhere() {
        let same = compared(|_| ());
        assert_eq!((same.plan_n, same.verdicts_n), (0, 0));
        assert_eq!(same.before, same.after);
    }

    #[test]
    fn a_count_is_one_place_and_the_verdicts_it_moves_are_named() {
        // 13 x 39.4 V x 1.1274 = 577.4 V still; 14 come to 621.9 V, above the dwelling's 600 V.
        let moved = compared(|f| f.job.strings[0].n = 14);
        let place = PlanChange {
            path: vec!["strings".into(), "A".into(), "n".into()],
            from: Some(json!(12)),
            to: Some(json!(14)),
        };
        assert!(moved.plan.contains(&place), "{:?}", moved.plan);
        assert_eq!(moved.plan_n, 1);
        let cold = moved
            .verdicts
            .iter()
            .find(|v| v.id == "string.voc_cold_v" && v.subject.to_string() == "A");
        let cold = cold.expect("the volts of the coldest morning stop");
        assert_eq!((cold.from, cold.to), (Some(Verdict::Pass), Some(Verdict::Fail)));
        // The worst first.
        assert_eq!(moved.verdicts[0].to, Some(Verdict::Fail));
        assert!(moved.after.fail > moved.before.fail);
    }

    #[test]
    fn a_member_that_came_or_went_is_one_place_whatever_stood_beside_it() {
        let gone = compared(|f| drop(f.job.strings.remove(0)));
        let strings: Vec<_> = gone.plan.iter().filter(|p| p.path[0] == "strings").collect();
        assert_eq!(strings.len(), 1, "{strings:?}");
        assert_eq!(strings[0].path, ["strings", "A"]);
        assert!(strings[0].from.is_some() && strings[0].to.is_none());
        // Nothing of what went and held is said.
        assert!(gone.verdicts.iter().all(|v| v.from != Some(Verdict::Pass) || v.to.is_some()));
    }

    #[test]
    fn lists_of_values_are_one_place_and_empty_ones_are_as_those_of_members() {
        let mut found = Vec::new();
        let old = json!({ "a": [1, 2], "b": [], "c": [] });
        let new = json!({ "a": [1, 3], "b": [{ "id": "x" }], "c": [7] });
        differences(&old, &new, &mut Vec::new(), &mut found);
        let paths: Vec<String> = found.iter().map(|c| c.path.join("/")).collect();
        assert_eq!(paths, ["a", "b/x", "c"]);
        assert_eq!(found[0].to, Some(json!([1, 3])));
    }
}
