//! What a figure gives to those that rest on it: its value, or what is missing for one.

use super::{Card, Field, Value};
use crate::quantity::{Quantity, Unit};

/// A computed figure in the hand of the rule that goes on with it.
#[derive(Clone, Debug)]
pub struct Handle<Q> {
    pub(super) card: &'static Card,
    pub(super) unit: Unit,
    pub(super) quantity: Option<Q>,
    pub(super) number: Option<f64>,
    pub(super) missing: Vec<Field>,
}

impl<Q> Handle<Q> {
    /// The number in the figure's unit.
    pub fn value(&self) -> Option<f64> {
        self.number
    }

    /// The figure's id.
    pub fn id(&self) -> &'static str {
        self.card.id
    }

    /// Fields of the inputs that are missing.
    pub fn missing(&self) -> &[Field] {
        &self.missing
    }
}

impl<Q: Quantity> Handle<Q> {
    /// The value with its kind.
    pub fn quantity(&self) -> Option<Q> {
        self.quantity
    }
}

/// A figure that is a size, a name, or yes and no, in the hand of the rule that goes on with it.
#[derive(Clone, Debug, Default)]
pub struct Wording {
    pub(super) value: Option<Value>,
    pub(super) missing: Vec<Field>,
}

impl<Q> From<&Handle<Q>> for Wording {
    fn from(handle: &Handle<Q>) -> Self {
        Wording { value: handle.number.map(Value::Number), missing: handle.missing.clone() }
    }
}

impl Wording {
    /// The size or name.
    pub fn text(&self) -> Option<&str> {
        match &self.value {
            Some(Value::Text(text)) => Some(text),
            _ => None,
        }
    }

    /// The size as a job writes it: the text, or the number.
    pub fn written(&self) -> Option<String> {
        match &self.value {
            Some(Value::Text(text)) => Some(text.clone()),
            Some(Value::Number(number)) => Some(number.to_string()),
            _ => None,
        }
    }

    /// Yes or no.
    pub fn flag(&self) -> Option<bool> {
        match self.value {
            Some(Value::Flag(flag)) => Some(flag),
            _ => None,
        }
    }

    /// Fields of the inputs that are missing.
    pub fn missing(&self) -> &[Field] {
        &self.missing
    }
}
