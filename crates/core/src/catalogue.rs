//! What the front end has to know of every figure and unit, as one document that ships with it: so
//! that a report need not say it again with every answer.

use std::collections::BTreeMap;

use serde_json::{Value as Json, json};

use crate::figure::field_titles;
use crate::quantity::{FORMATS, SPELLINGS};
use crate::rules::rules;

/// Titles, stages, sources and units by id; decimals and signs by unit. Pretty JSON with a closing
/// newline.
pub fn catalogue_text() -> String {
    let mut cards: BTreeMap<&str, Json> = BTreeMap::new();
    for card in rules().all_cards() {
        let said = json!({
            "title": card.title,
            "stage": card.stage,
            "na": card.na,
            "iec": card.iec,
            "unit": card.unit,
        });
        cards.insert(card.id, said);
    }
    let mut formats: BTreeMap<String, Json> = BTreeMap::new();
    for format in &FORMATS {
        let unit = json!(format.unit);
        let said = json!({ "sign": format.sign, "decimals": format.decimals });
        formats.insert(unit.as_str().unwrap_or_default().to_owned(), said);
    }
    let whole = json!({ "cards": cards, "formats": formats, "spellings": SPELLINGS,
        "fields": field_titles() });
    let mut text = serde_json::to_string_pretty(&whole).expect("words and numbers are JSON");
    text.push('\n');
    text
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn every_figure_of_a_job_and_every_unit_is_in_it() {
        let whole: Json = serde_json::from_str(&catalogue_text()).expect("JSON");
        let text = include_str!("../../../data/demo/kestrel-lane.json");
        let file = crate::job::read(text).expect("a demo job").file;
        let report = crate::evaluate(&file.job, &file.library, &file.readings);
        for f in &report.figures {
            let card = &whole["cards"][f.id];
            assert_eq!((card["title"].as_str(), &card["stage"]), (Some(f.title), &json!(f.stage)));
            assert_eq!((card["na"].as_str(), &card["unit"]), (Some(f.source), &json!(f.unit)));
            assert!(whole["formats"][json!(f.unit).as_str().unwrap_or_default()].is_object());
        }
        for c in &report.checks {
            assert_eq!(whole["cards"][c.id]["title"], c.title, "{}", c.id);
        }
        assert_eq!(whole["formats"]["degC"], json!({ "sign": "°C", "decimals": [1, 1] }));
    }
}
