//! Case files: one calculation each, inputs in, figures and verdicts out. Run through the same
//! calculations that serve the application.

use std::fmt::Write as _;

use serde::Deserialize;
use serde_json::{Map, Value as Json};

use crate::figure::{Figure, Sheet, Subject, Value};
use crate::rules::rules;
use crate::school::School;

/// A case.
#[derive(Clone, Debug, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Case {
    /// Unique over the directory.
    pub id: String,
    /// The calculation.
    pub group: String,
    /// The school of practice.
    pub school: School,
    /// For people.
    pub about: String,
    /// Fields of the group.
    pub inputs: Map<String, Json>,
    /// What has to come out.
    pub expected: Expected,
    /// How near numbers have to be.
    pub tolerance: Tolerance,
}

/// What has to come out of a case.
#[derive(Clone, Debug, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Expected {
    /// Values by figure id.
    pub figures: Map<String, Json>,
    /// Words by check id.
    pub verdicts: Map<String, Json>,
}

/// How near numbers have to be.
#[derive(Clone, Copy, Debug, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Tolerance {
    /// Relative; 0.001 where absent.
    pub rel: Option<f64>,
    /// Absolute; 1e-9 where absent.
    pub abs: Option<f64>,
}

/// What became of a case.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Outcome {
    /// Everything asked for agreed.
    Passed,
    /// One entry per difference, with the working of the figure.
    Failed(Vec<String>),
    /// No calculation here is of that group: it belongs to something that is not built yet.
    Skipped,
}

/// Parses the text of a case file.
///
/// # Errors
/// What is not of the schema, with its place.
pub fn parse(text: &str) -> Result<Vec<Case>, String> {
    let cases: Vec<Json> =
        serde_json::from_str(text).map_err(|e| format!("not a JSON array: {e}"))?;
    cases
        .into_iter()
        .enumerate()
        .map(|(i, c)| serde_json::from_value(c).map_err(|e| format!("case {}: {e}", i + 1)))
        .collect()
}

/// Runs one case.
///
/// # Errors
/// Where the inputs are not of the group's schema.
pub fn run(case: &Case) -> Result<Outcome, String> {
    let Some(calculation) = rules().find_calculation(&case.group) else {
        return Ok(Outcome::Skipped);
    };
    let wrong = |e: String| format!("{}: {e}", case.id);
    let mut sheet = Sheet::new(case.school, Subject::Sum);
    let extra = calculation.run(&mut sheet, &case.inputs).map_err(wrong)?;
    let mut differences = Vec::new();
    for (id, wanted) in &case.expected.figures {
        if id == "layout.best" {
            let got = extra.get(id).cloned().unwrap_or(Json::Null);
            if by_class(case, &got) != by_class(case, wanted) {
                differences.push(format!("{} figure {id}: wanted {wanted}, got {got}", case.id));
            }
            continue;
        }
        let figure = sheet.figures.iter().rev().find(|f| f.id == id);
        if !agrees(figure.and_then(|f| f.value.as_ref()), wanted, case.tolerance) {
            differences.push(difference(case, id, wanted, figure));
        }
    }
    for (id, wanted) in &case.expected.verdicts {
        let own = calculation.check_id(id);
        let check = sheet.checks.iter().rev().find(|c| c.id == own);
        let got = check.map_or("no verdict", |c| c.verdict.word());
        if wanted.as_str() != Some(got) {
            let figure = sheet.figures.iter().rev().find(|f| f.id == id);
            let mut text = format!("{} verdict {id}: wanted {wanted}, got {got}", case.id);
            if let Some(f) = figure {
                text.push('\n');
                text.push_str(&working(f));
            }
            differences.push(text);
        }
    }
    Ok(if differences.is_empty() { Outcome::Passed } else { Outcome::Failed(differences) })
}

/// A layout with the entries of like inputs in an order of their own: they may stand in any.
fn by_class(case: &Case, layout: &Json) -> Vec<(String, String)> {
    let inputs = case.inputs.get("mppts").and_then(Json::as_array);
    let entries = layout.as_array().map(Vec::as_slice).unwrap_or_default();
    let class = |i: usize| inputs.and_then(|m| m.get(i)).map(Json::to_string).unwrap_or_default();
    let mut pairs: Vec<_> =
        entries.iter().enumerate().map(|(i, e)| (class(i), e.to_string())).collect();
    pairs.sort();
    pairs
}

fn agrees(got: Option<&Value>, wanted: &Json, tolerance: Tolerance) -> bool {
    match (got, wanted) {
        (None, Json::Null) => true,
        (Some(Value::Number(g)), Json::Number(w)) => {
            let w = w.as_f64().unwrap_or(f64::NAN);
            let within =
                (tolerance.rel.unwrap_or(0.001) * w.abs()).max(tolerance.abs.unwrap_or(1e-9));
            (g - w).abs() <= within
        }
        (Some(Value::Text(g)), Json::String(w)) => g == w,
        (Some(Value::Flag(g)), Json::Bool(w)) => g == w,
        _ => false,
    }
}

fn difference(case: &Case, id: &str, wanted: &Json, figure: Option<&Figure>) -> String {
    let got = match figure {
        None => "no such figure".to_owned(),
        Some(Figure { value: None, .. }) => "no value".to_owned(),
        Some(Figure { value: Some(v), .. }) => serde_json::to_string(v).unwrap_or_default(),
    };
    let mut text = format!("{} figure {id}: wanted {wanted}, got {got}", case.id);
    if let Some(f) = figure {
        text.push('\n');
        text.push_str(&working(f));
    }
    text
}

/// The working of a figure as indented lines.
pub fn working(figure: &Figure) -> String {
    let mut text = String::new();
    for line in &figure.working {
        let value = match &line.value {
            Value::Number(n) => format!("{} {}", crate::traced::number(*n), line.unit.sign()),
            Value::Text(t) => t.clone(),
            Value::Flag(f) => if *f { "yes" } else { "no" }.to_owned(),
        };
        let formula =
            if line.numbers.is_empty() { String::new() } else { format!(" = {}", line.numbers) };
        let source =
            if line.source.is_empty() { String::new() } else { format!("   [{}]", line.source) };
        let _ = writeln!(text, "      {}{formula} = {}{source}", line.label, value.trim_end());
    }
    if !figure.missing.is_empty() {
        let _ = writeln!(text, "      missing: {}", figure.missing.join(", "));
    }
    if let Some(note) = &figure.note {
        let _ = writeln!(text, "      {note}");
    }
    text.truncate(text.trim_end().len());
    text
}
