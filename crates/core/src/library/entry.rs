//! Entering a data sheet: what is wrong with what was entered.

use serde_json::Value;

pub use super::DataSheet;
use super::SheetKind;
use crate::problem::Problem;
use crate::schema::Schema;

/// The schema of a kind's document.
pub(crate) fn schema(kind: SheetKind) -> &'static Schema {
    kind.schema()
}

/// Reads a data sheet.
///
/// # Errors
/// Everything wrong with it, each with its place in the document.
pub fn read(kind: SheetKind, document: Value) -> Result<DataSheet, Vec<Problem>> {
    let mut problems = kind.schema().problems(&document);
    for p in &mut problems {
        signs(p, &document);
    }
    if !problems.is_empty() {
        return Err(problems);
    }
    let sheet = kept(kind, document).map_err(|e| vec![Problem::new("", e.to_string(), "")])?;
    let problems = sheet.problems("");
    if problems.is_empty() { Ok(sheet) } else { Err(problems) }
}

/// A data sheet that was checked when it was kept.
///
/// # Errors
/// Where it is no longer of the kind's shape.
pub fn kept(kind: SheetKind, document: Value) -> Result<DataSheet, serde_json::Error> {
    kind.parse(document)
}

/// A coefficient with the wrong sign says so in words.
pub(crate) fn signs(problem: &mut Problem, document: &Value) {
    let falls =
        ["b_voc_pct_c", "c_vmp_pct_c", "g_pmax_pct_c"].iter().any(|f| problem.path.ends_with(f));
    let value = document.pointer(&problem.path).and_then(Value::as_f64);
    match value {
        Some(v) if falls && v > 0.0 => {
            "volts and watts fall when a module gets warmer: this coefficient is negative"
                .clone_into(&mut problem.message);
            problem.hint = format!("−{v}?");
        }
        Some(v) if problem.path.ends_with("a_isc_pct_c") && v < 0.0 => {
            "the current rises a little when a module gets warmer: this coefficient is positive"
                .clone_into(&mut problem.message);
            problem.hint = format!("{}?", -v);
        }
        _ => {}
    }
}
/// How far a revision may be ahead of the newest the library has: further ahead it would leave no
/// numbers for those between.
const MOST_AHEAD: u32 = 100;

/// The highest number the first revision of a sheet may have: a year is one.
const HIGHEST_FIRST: u32 = 3000;

/// Whether a revision's number leaves room for later ones. `newest` is the library's newest of the
/// sheet.
///
/// # Errors
/// Where it does not; the place is left to the caller.
pub fn room(newest: Option<u32>, revision: u32) -> Result<(), Problem> {
    let highest = newest.map_or(HIGHEST_FIRST, |n| n.saturating_add(MOST_AHEAD));
    if revision <= highest {
        return Ok(());
    }
    let text = format!("revision {revision} leaves no numbers for the ones between");
    Err(Problem::new("", text, format!("at most {highest}")))
}
