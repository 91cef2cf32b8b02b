//! A figure with its working, as it goes out.

use serde::Serialize;
use utoipa::ToSchema;

use super::{Stage, Subject};
use crate::quantity::Unit;

/// The address of an input, e.g. `module.voc_v`: how a figure names what it misses.
pub type Field = &'static str;

/// A figure's value.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
#[serde(untagged)]
pub enum Value {
    /// A number in the figure's unit.
    Number(f64),
    /// A size, a name or a code.
    Text(String),
    /// Yes or no.
    Flag(bool),
}

impl Value {
    /// The number, where it is one.
    pub fn number(&self) -> Option<f64> {
        match self {
            Value::Number(n) => Some(*n),
            _ => None,
        }
    }
}

/// One line of a working.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct Line {
    /// What the line gives.
    pub label: String,
    /// The formula in symbols; empty for an input.
    #[serde(skip_serializing_if = "String::is_empty")]
    pub symbols: String,
    /// The formula with numbers put in; empty for an input.
    #[serde(skip_serializing_if = "String::is_empty")]
    pub numbers: String,
    /// The value the line gives.
    #[schema(value_type = Value)]
    pub value: Value,
    /// Its unit.
    pub unit: Unit,
    /// Where an input comes from: a rule, a data-sheet field, an entry of the job.
    #[serde(skip_serializing_if = "String::is_empty")]
    pub source: String,
}

/// A figure: value, unit, subject, working and source.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct Figure {
    /// Stable id.
    pub id: &'static str,
    /// What it is about.
    pub subject: Subject,
    /// Plain title.
    pub title: &'static str,
    /// The stage it belongs to.
    pub stage: Stage,
    /// The value; absent when it cannot be had.
    #[schema(value_type = Option<Value>)]
    pub value: Option<Value>,
    /// The unit of a number.
    pub unit: Unit,
    /// Line by line, how it came about; empty where the working was not asked for.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub working: Vec<Line>,
    /// Rule number or data-sheet field.
    pub source: &'static str,
    /// Inputs that are missing, by field.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    #[schema(value_type = Vec<String>)]
    pub missing: Vec<Field>,
    /// Why there is no value although nothing is missing, or what the value leaves out.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub note: Option<String>,
}

impl Figure {
    /// Whether it is money: of the company's own prices.
    pub fn is_price(&self) -> bool {
        self.unit == Unit::Cost
    }
}
