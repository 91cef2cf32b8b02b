//! A quick sum: a calculation without a job, declared with its inputs and the figures that answer
//! it.

use serde::Serialize;
use utoipa::ToSchema;

use crate::school::School;

/// What an input is.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum InputKind {
    /// A number in the input's unit.
    Number,
    /// A whole number.
    Count,
    /// One of the options.
    Choice,
    /// A size or a name.
    Text,
    /// Yes or no.
    Flag,
}

/// An input of a sum.
#[derive(Clone, Copy, Debug, Serialize, ToSchema)]
pub struct Input {
    /// Its key; dots for what belongs together, `wires.0.n` for the first of several.
    pub key: &'static str,
    /// Plain title.
    pub title: &'static str,
    /// Unit; empty for none.
    pub unit: &'static str,
    /// What it is.
    pub kind: InputKind,
    /// What may be chosen.
    pub options: &'static [&'static str],
    /// What stands there to begin with, as JSON; made up, to be typed over.
    pub sample: &'static str,
    /// It may be left out.
    pub optional: bool,
}

/// A calculation that stands alone.
#[derive(Clone, Copy, Debug, Serialize, ToSchema)]
pub struct Sum {
    /// Its name on the command line.
    pub name: &'static str,
    /// Plain title.
    pub title: &'static str,
    /// One line on what it answers.
    pub about: &'static str,
    /// The school it is of.
    pub school: School,
    /// Its inputs, in the order they are asked.
    pub inputs: &'static [Input],
    /// The figures that answer it, the foremost first.
    pub answers: &'static [&'static str],
    /// The calculation behind it.
    #[serde(skip)]
    pub calculation: &'static str,
}

/// A number in a unit.
pub const fn number(
    key: &'static str,
    title: &'static str,
    unit: &'static str,
    sample: &'static str,
) -> Input {
    Input { key, title, unit, kind: InputKind::Number, options: &[], sample, optional: false }
}

/// A whole number.
pub const fn count(key: &'static str, title: &'static str, sample: &'static str) -> Input {
    Input { key, title, unit: "", kind: InputKind::Count, options: &[], sample, optional: false }
}

/// One of several words.
pub const fn choice(
    key: &'static str,
    title: &'static str,
    options: &'static [&'static str],
    sample: &'static str,
) -> Input {
    Input { key, title, unit: "", kind: InputKind::Choice, options, sample, optional: false }
}

/// A size or a name.
pub const fn text(
    key: &'static str,
    title: &'static str,
    unit: &'static str,
    sample: &'static str,
) -> Input {
    Input { key, title, unit, kind: InputKind::Text, options: &[], sample, optional: false }
}

/// Yes or no; no where it is left out.
pub const fn flag(key: &'static str, title: &'static str) -> Input {
    Input {
        key,
        title,
        unit: "",
        kind: InputKind::Flag,
        options: &[],
        sample: "false",
        optional: true,
    }
}

/// The same input, which may be left out.
pub const fn optional(input: Input) -> Input {
    Input { optional: true, ..input }
}
