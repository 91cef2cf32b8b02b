//! What is said of a data sheet while it is entered: what is wrong, what is unusual, what the
//! values mean. Each stage says what it knows of the kinds it uses.

use serde::Serialize;
use serde_json::{Value, json};
use utoipa::ToSchema;

use crate::figure::{Check, Figure, Sheet, Subject};
use crate::library::entry::{read, schema, signs};
use crate::library::{About, SheetKind};
use crate::problem::Problem;
use crate::rules::rules;
use crate::school::School;

/// What is said of a data sheet while it is entered.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct Judged {
    /// What has to be mended before it can be kept.
    pub problems: Vec<Problem>,
    /// What is unusual.
    pub checks: Vec<Check>,
    /// What the values mean.
    pub figures: Vec<Figure>,
}

/// Judges a data sheet as far as it is entered: fields that are wrong are named and left out of the
/// rest.
pub fn judge(kind: SheetKind, document: &Value, about: &About, school: School) -> Judged {
    let mut rest = document.clone();
    // The head may be half written: it says nothing of the values.
    for (field, value) in [
        ("sheet", json!("x")),
        ("revision", json!(1)),
        ("maker", json!("x")),
        ("model", json!("x")),
    ] {
        if rest.get(field).is_none_or(|v| v.is_null() || v == "") {
            rest[field] = value;
        }
    }
    let mut problems = schema(kind).problems(&rest);
    for p in &mut problems {
        signs(p, document);
        if !p.path.is_empty()
            && let Some(field) = rest.pointer_mut(&p.path)
        {
            *field = Value::Null;
        }
    }
    let mut sheet = Sheet::new(school, Subject::Sum);
    match read(kind, rest) {
        Ok(read) => rules().say_meaning(&mut sheet, &read, about),
        Err(more) => {
            let new: Vec<Problem> =
                more.into_iter().filter(|m| problems.iter().all(|p| p.path != m.path)).collect();
            problems.extend(new);
        }
    }
    Judged { problems, checks: sheet.checks, figures: sheet.figures }
}
