//! What a newer revision of a data sheet changes.

use serde::Serialize;
use serde_json::Value as Json;
use utoipa::ToSchema;

use crate::job::Job;
use crate::library::{DataSheet, Field, Library};

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
    pub from: Json,
    /// What it is.
    #[schema(value_type = Option<crate::figure::Value>)]
    pub to: Json,
}

/// The fields in which two revisions of a sheet differ, in the order of the sheet.
pub fn changes(old: &DataSheet, new: &DataSheet) -> Vec<Change> {
    let (a, b) = (old.document(), new.document());
    let inputs =
        [&a, &b].map(|d| d["mppts"].as_array().map_or(0, Vec::len)).into_iter().max().unwrap_or(0);
    let mut found = Vec::new();
    let mut differ = |field: &Field, key: String, title: String, pointer: &str| {
        let [from, to] = [&a, &b].map(|d| d.pointer(pointer).cloned().unwrap_or(Json::Null));
        let same = match (from.as_f64(), to.as_f64()) {
            (Some(x), Some(y)) => x == y,
            _ => from == to,
        };
        if !same {
            found.push(Change { field: key, title, unit: field.unit, from, to });
        }
    };
    for field in new.kind().fields().iter().filter(|f| f.key != "revision") {
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

/// The sheets of a library that are newer than what a job holds: the older one and the newest of
/// each.
pub fn newer(job: &Job, held: &Library, company: &Library) -> Vec<(DataSheet, DataSheet)> {
    let references = job.references();
    let used = |s: &DataSheet| {
        let own = s.reference();
        references.iter().any(|r| r.kind == s.kind() && *r.sheet == own)
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
