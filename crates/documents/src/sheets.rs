//! The data sheets a job was planned with: every field, and the document they were entered from.

use heliant_core::library::{SheetKind, SheetRef};
use heliant_core::traced::number;
use serde_json::{Value as Json, json};

use crate::Pack;
use crate::cover::at;
use crate::printed::kind;

/// Where a revision of a data sheet comes from.
#[derive(Clone, Debug)]
pub struct SheetOrigin {
    /// Kind.
    pub kind: SheetKind,
    /// The sheet and its revision.
    pub sheet: SheetRef,
    /// The document it was entered from.
    pub document: String,
    /// By whom.
    pub entered_by: String,
    /// When.
    pub entered_at: chrono::DateTime<chrono::Utc>,
}

/// Fields that are the sheet's heading already.
const HEADING: [&str; 5] = ["sheet", "revision", "maker", "model", "demo"];

/// Each data sheet with its fields that say something, in the order of the form.
pub(crate) fn sheets(pack: &Pack) -> Vec<Json> {
    let used = pack.job.used_sheets();
    let held = pack.library.sheets().into_iter().filter_map(|sheet| {
        let (own, kind) = (sheet.reference(), sheet.kind());
        used.iter().any(|u| u.kind == kind && *u.sheet == own).then_some((kind, own, sheet))
    });
    let each = held.map(|(of, own, sheet)| {
        let (head, document) = (sheet.head(), sheet.document());
        let origin = pack.origins.iter().find(|o| o.kind == of && o.sheet == own);
        let fields = of.fields().into_iter().filter(|f| !HEADING.contains(&f.key));
        let fields = fields.flat_map(|f| {
            let each = at_path(&document, f.key);
            each.into_iter().map(move |(at, value)| {
                let at = if at.is_empty() { String::new() } else { format!(", input {at}") };
                json!({
                    "title": format!("{}{at}", f.title),
                    "value": said(value, f.unit),
                })
            })
        });
        json!({
            "what": kind(of),
            "name": format!("{} {}", head.maker, head.model),
            "revision": head.revision,
            "demo": head.demo,
            "document": origin.map_or("not known: it came with a job file", |o| &o.document),
            "entered": origin.map_or_else(String::new, |o| {
                format!("{}, {}", at(pack.job, o.entered_at), o.entered_by)
            }),
            "fields": fields.collect::<Vec<_>>(),
        })
    });
    each.collect()
}

/// The values at a path with dots; `*` goes through a list, whose places are counted from one.
fn at_path<'a>(document: &'a Json, key: &str) -> Vec<(String, &'a Json)> {
    let mut found = vec![(String::new(), document)];
    for step in key.split('.') {
        found = found
            .into_iter()
            .flat_map(|(at, value)| match (step, value) {
                ("*", Json::Array(list)) => {
                    list.iter().enumerate().map(|(i, v)| ((i + 1).to_string(), v)).collect()
                }
                _ => value.get(step).map(|v| (at, v)).into_iter().collect::<Vec<_>>(),
            })
            .collect();
    }
    found.retain(|(_, value)| !value.is_null());
    found
}

fn said(value: &Json, unit: &str) -> String {
    let text = match value {
        Json::Number(n) => n.as_f64().map_or_else(|| n.to_string(), number),
        Json::Bool(yes) => if *yes { "yes" } else { "no" }.to_owned(),
        Json::String(text) => text.clone(),
        other => other.to_string(),
    };
    match unit {
        "" | "n" => text,
        unit => format!("{text} {unit}"),
    }
}

#[cfg(test)]
mod tests {
    use chrono::{TimeZone, Utc};
    use heliant_core::job;

    use super::*;
    use crate::sample::pack_of;

    #[test]
    fn every_field_that_says_something_is_printed_with_its_document() {
        let text = include_str!("../../../data/demo/kestrel-lane.json");
        let file = job::read(text).expect("a demo job reads").file;
        let report = heliant_core::evaluate(&file.job, &file.library, &[]);
        let module = file.job.strings[0].module.clone();
        let origins = [SheetOrigin {
            kind: SheetKind::Module,
            sheet: module,
            document: "BM-430, page 2".to_owned(),
            entered_by: "Tomas Brandt".to_owned(),
            entered_at: Utc.with_ymd_and_hms(2026, 1, 2, 20, 0, 0).unwrap(),
        }];
        let pack = Pack { origins: &origins, ..pack_of(&file, &report) };
        let printed = sheets(&pack);
        let of = |what: &str| printed.iter().find(|s| s["what"] == what).expect("there");
        let module = of("module");
        assert_eq!(module["document"], "BM-430, page 2");
        // Eight in the evening in Greenwich is one in the afternoon in Denver.
        assert_eq!(module["entered"], "2026-01-02 13:00 MST, Tomas Brandt");
        let value = |sheet: &Json, title: &str| {
            let fields = sheet["fields"].as_array().expect("a list");
            let own = fields.iter().find(|f| f["title"] == title);
            own.unwrap_or_else(|| panic!("no {title} in {sheet}"))["value"].clone()
        };
        let voc = SheetKind::Module.fields();
        let voc = voc.iter().find(|f| f.key == "ratings.voc_v").expect("a field");
        assert_eq!(value(module, voc.title), "39.4 V");
        let inverter = of("inverter");
        assert!(inverter["document"].as_str().is_some_and(|d| d.starts_with("not known")));
        let fields = SheetKind::Inverter.fields();
        let connectors = fields.iter().find(|f| f.key == "mppts.*.connectors_n").expect("a field");
        for input in ["1", "2"] {
            assert_eq!(value(inverter, &format!("{}, input {input}", connectors.title)), "2");
        }
    }
}
