//! One edit of a job, as cures, ways and repairs carry them.

use serde::{Deserialize, Serialize};
use serde_json::Value;
use utoipa::ToSchema;

use super::Job;

/// One edit of the job file: a pointer below `/job` and the value to put there. It is a JSON
/// pointer but for one thing: in a list, the key of a member (`letter` or `id`) names it before a
/// number does, so that an edit never hits a neighbour where the list has changed.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Edit {
    /// The pointer, e.g. `/strings/A/n`.
    pub pointer: String,
    /// The new value.
    #[schema(value_type = Object)]
    pub value: Value,
}

impl Edit {
    /// An edit of one place.
    pub fn new(pointer: impl Into<String>, value: impl Into<Value>) -> Self {
        Edit { pointer: pointer.into(), value: value.into() }
    }
}

/// What a pointer leads to; in a list a member by its place or its key. The last part may be new:
/// what says nothing is not written.
fn at<'v>(mut value: &'v mut Value, pointer: &str) -> Option<&'v mut Value> {
    let mut parts = pointer.split('/').skip(1).peekable();
    while let Some(part) = parts.next() {
        let last = parts.peek().is_none();
        value = match value {
            Value::Object(members) => {
                if last {
                    members.entry(part).or_insert(Value::Null)
                } else {
                    members.get_mut(part)?
                }
            }
            Value::Array(list) => {
                let own = |v: &Value| ["letter", "id"].iter().any(|key| v[key] == part);
                let place = list.iter().position(own).or_else(|| part.parse().ok())?;
                list.get_mut(place)?
            }
            _ => return None,
        };
    }
    Some(value)
}

/// The job with the edits made; none where one of them points nowhere or leaves no job.
pub fn applied(job: &Job, edits: &[Edit]) -> Option<Job> {
    let mut value = serde_json::to_value(job).ok()?;
    for e in edits {
        *at(&mut value, &e.pointer)? = e.value.clone();
    }
    serde_json::from_value(value).ok()
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::school::School;

    #[test]
    fn an_edit_that_points_nowhere_or_breaks_the_job_makes_none() {
        let job = Job::new("Barn", School::Na);
        let edited = |pointer: &str, value: Value| applied(&job, &[Edit::new(pointer, value)]);
        assert_eq!(edited("/name", "Shed".into()).expect("a job").name, "Shed");
        assert!(edited("/strings/0/n", 3.into()).is_none());
        assert!(edited("/school", "both".into()).is_none());
    }

    #[test]
    fn a_member_of_a_list_is_named_by_its_key_wherever_it_stands() {
        let text = include_str!("../../../../data/demo/kestrel-lane.json");
        let mut job = crate::job::read(text).expect("a demo job reads").file.job;
        let cure = [Edit::new("/strings/B/n", 5)];
        let counts = |job: &Job| {
            let list = job.strings.iter().map(|s| (s.letter.to_string(), s.n));
            list.collect::<Vec<_>>()
        };
        // A string taken out before it moves B forward, and the cure still finds it.
        job.strings.remove(0);
        let cured = applied(&job, &cure).expect("B is there");
        assert_eq!(counts(&cured), [("B".to_owned(), 5), ("C".to_owned(), 7)]);
        job.strings.remove(0);
        assert!(applied(&job, &cure).is_none(), "what is gone is not cured");
    }
}
