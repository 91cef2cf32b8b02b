//! A field of a data sheet: a column of the table, an entry of the form.

use serde::Serialize;
use utoipa::ToSchema;

/// A field of a data sheet.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, ToSchema)]
pub struct Field {
    /// Path in the document, with dots; `mppts.*.` for a field of each MPPT. It is the column's
    /// name in CSV.
    pub key: &'static str,
    /// Plain title.
    pub title: &'static str,
    /// Unit; empty for words, `n` for counts.
    pub unit: &'static str,
    /// Heading it stands under.
    pub group: &'static str,
    /// What is entered: `number`, `text`, `flag`, `yes_no` (which may be left open), or `choice`.
    pub input: &'static str,
    /// Always below nought: what is typed without a sign is meant so.
    pub negative: bool,
}

pub(super) const fn number(
    group: &'static str,
    key: &'static str,
    title: &'static str,
    unit: &'static str,
) -> Field {
    Field { key, title, unit, group, input: "number", negative: false }
}

pub(super) const fn below_nought(
    group: &'static str,
    key: &'static str,
    title: &'static str,
    unit: &'static str,
) -> Field {
    Field { negative: true, ..number(group, key, title, unit) }
}

pub(super) const fn other(
    group: &'static str,
    key: &'static str,
    title: &'static str,
    input: &'static str,
) -> Field {
    Field { key, title, unit: "", group, input, negative: false }
}

/// Fields every data sheet has.
pub(super) const HEAD: [Field; 5] = [
    other("Sheet", "sheet", "Key", "text"),
    number("Sheet", "revision", "Revision", "n"),
    other("Sheet", "maker", "Maker", "text"),
    other("Sheet", "model", "Model", "text"),
    other("Sheet", "demo", "Sample data", "flag"),
];
