//! The lines of one figure while it is computed.

use std::fmt::Display;

use super::{Field, Handle, Line, Value, Wording};
use crate::quantity::{Quantity, Unit};
use crate::traced::{Traced, exact, given, silent};

/// Lines, missing inputs and the note of one figure. Where the working was not asked for, lines are
/// not written and no text is put together; what is missing is gathered all the same.
#[derive(Debug, Default)]
pub struct Working {
    pub(super) recording: bool,
    pub(super) lines: Vec<Line>,
    pub(super) missing: Vec<Field>,
    pub(super) note: Option<String>,
}

impl Working {
    /// An input that must be there: its line, or its field on the list of what is missing.
    pub fn need<Q: Quantity>(
        &mut self,
        symbol: impl Display,
        value: Option<f64>,
        field: Field,
        source: impl Display,
    ) -> Option<Traced<Q>> {
        let Some(value) = value else {
            self.lack(field);
            return None;
        };
        Some(self.given(symbol, Q::of(value), source))
    }

    /// Another figure: its line under its id, or what it misses.
    pub fn take<Q: Quantity>(
        &mut self,
        symbol: impl Display,
        handle: &Handle<Q>,
    ) -> Option<Traced<Q>> {
        let Some(value) = handle.quantity() else {
            self.lack_all(handle.missing());
            return None;
        };
        Some(self.given(symbol, value, handle.id()))
    }

    /// The word of another figure; where there is none, what it misses.
    pub fn take_word<'h>(&mut self, handle: &'h Wording) -> Option<&'h str> {
        if handle.value.is_none() {
            self.lack_all(&handle.missing);
        }
        handle.text()
    }

    /// The inputs that are missing so far.
    pub fn missing(&self) -> &[Field] {
        &self.missing
    }

    /// Names an input that is missing.
    pub fn lack(&mut self, field: Field) {
        self.lack_all(&[field]);
    }

    fn lack_all(&mut self, fields: &[Field]) {
        for field in fields {
            if !self.missing.contains(field) {
                self.missing.push(field);
            }
        }
    }

    /// A constant of the formula; nothing is remembered of it where nothing is recorded.
    pub fn exact<Q: Quantity>(&self, value: f64) -> Traced<Q> {
        if self.recording { exact(value) } else { silent(Q::of(value)) }
    }

    /// An input, as a line with its source.
    pub fn given<Q: Quantity>(
        &mut self,
        symbol: impl Display,
        value: Q,
        source: impl Display,
    ) -> Traced<Q> {
        if !self.recording {
            return silent(value);
        }
        let label = symbol.to_string();
        let traced = given(&label, value);
        self.lines.push(Line {
            label,
            symbols: String::new(),
            numbers: String::new(),
            value: Value::Number(value.value()),
            unit: Q::UNIT,
            source: source.to_string(),
        });
        traced
    }

    /// A step: records the formula and gives the result back under the label.
    pub fn step<Q: Quantity>(&mut self, label: impl Display, expression: Traced<Q>) -> Traced<Q> {
        if !self.recording {
            return silent(expression.value);
        }
        let label = label.to_string();
        let value = expression.value;
        let named = given(&label, value);
        let (symbols, numbers) = expression.into_texts();
        self.lines.push(Line {
            label,
            symbols,
            numbers,
            value: Value::Number(value.value()),
            unit: Q::UNIT,
            source: String::new(),
        });
        named
    }

    /// A line that gives words: a name found in a table, a comparison, a choice.
    pub fn words(&mut self, label: &str, text: impl Display, source: impl Display) {
        if !self.recording {
            return;
        }
        self.lines.push(Line {
            label: label.to_owned(),
            symbols: String::new(),
            numbers: String::new(),
            value: Value::Text(text.to_string()),
            unit: Unit::None,
            source: source.to_string(),
        });
    }

    /// What the value leaves out, or why there is none.
    pub fn note(&mut self, text: impl Into<String>) {
        self.note = Some(text.into());
    }

    /// The result as the last line, unless it only repeats the line before.
    pub(super) fn close<Q: Quantity>(&mut self, title: &str, result: Traced<Q>) {
        let value = Value::Number(result.value.value());
        let repeats = |l: &Line| l.value == value && result.is_called(&l.label);
        if !self.lines.last().is_some_and(repeats) {
            self.step(title, result);
        }
    }
}
