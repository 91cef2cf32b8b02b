//! A figure held against a limit, and what would mend it.

use std::borrow::Cow;
use std::fmt::Display;

use serde::Serialize;
use utoipa::ToSchema;

use super::{Field, Handle, Stage, Subject};
use crate::job::{Command, Edit};
use crate::quantity::Unit;

/// What a check came to, in the order best to worst.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Serialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Verdict {
    /// Inside the limit.
    Pass,
    /// Works, with a loss or a risk that is named.
    Warn,
    /// An input is missing: which one stands beside it.
    Unknown,
    /// Must not be built so.
    Fail,
}

impl Verdict {
    /// The word on the wire.
    pub fn word(self) -> &'static str {
        match self {
            Verdict::Pass => "pass",
            Verdict::Warn => "warn",
            Verdict::Unknown => "unknown",
            Verdict::Fail => "fail",
        }
    }
}

/// The limit a figure is held against.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct Limit {
    /// What sets it.
    #[schema(value_type = String)]
    pub title: Cow<'static, str>,
    /// Its value, in the figure's unit.
    pub value: f64,
    /// Whether the figure must stay at or below it (else at or above).
    pub at_most: bool,
}

/// What would mend a check.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct Cure {
    /// One sentence, with numbers.
    pub text: String,
    /// The edits that do it; empty where a hand or a command is needed.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub edits: Vec<Edit>,
    /// The command that does it, where several things of the plan change together.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub command: Option<Command>,
    /// What it takes in money by the job's prices; absent where that is not known, or not told.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub cost: Option<f64>,
}

/// A figure held against a limit.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct Check {
    /// The id of the figure judged, or of the check itself where several figures make it.
    pub id: &'static str,
    /// The id of the figure that was judged; that of the check itself where several make it.
    pub figure: &'static str,
    /// What it is about.
    pub subject: Subject,
    /// Plain title.
    pub title: &'static str,
    /// The stage it belongs to.
    pub stage: Stage,
    /// The verdict.
    pub verdict: Verdict,
    /// The limit, where there is one number.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub limit: Option<Limit>,
    /// Room left in the figure's unit; negative when over.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub margin: Option<f64>,
    /// Room left in percent of the limit.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub margin_pct: Option<f64>,
    /// Unit of margin and limit.
    pub unit: Unit,
    /// Rule number or data-sheet field.
    pub source: &'static str,
    /// Inputs that are missing, by field.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    #[schema(value_type = Vec<String>)]
    pub missing: Vec<Field>,
    /// What the verdict means, with numbers.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub reason: Option<String>,
    /// What would mend it.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub cures: Vec<Cure>,
    /// True for one of several rules of which one is enough: shown, but not counted.
    #[serde(skip_serializing_if = "std::ops::Not::not")]
    pub alternative: bool,
}

impl Check {
    /// Adds a cure where the verdict calls for one; the text is only written out then.
    pub fn cure(&mut self, text: impl Display, edits: Vec<Edit>) -> &mut Self {
        if matches!(self.verdict, Verdict::Warn | Verdict::Fail) {
            self.cures.push(Cure { text: text.to_string(), edits, command: None, cost: None });
        }
        self
    }

    /// As [`Check::cure`], for a check that is open: what would answer it.
    pub fn offer(&mut self, text: impl Display, edits: Vec<Edit>) -> &mut Self {
        if self.verdict == Verdict::Unknown {
            self.cures.push(Cure { text: text.to_string(), edits, command: None, cost: None });
        }
        self
    }

    /// As [`Check::cure`], by a command of the plan.
    pub fn cure_by(&mut self, text: impl Display, command: Command) -> &mut Self {
        if matches!(self.verdict, Verdict::Warn | Verdict::Fail) {
            let (text, edits) = (text.to_string(), Vec::new());
            self.cures.push(Cure { text, edits, command: Some(command), cost: None });
        }
        self
    }

    /// Says what the cure given last takes by the job's prices.
    pub fn costs(&mut self, cost: Option<f64>) -> &mut Self {
        if let Some(cure) = self.cures.last_mut() {
            cure.cost = cost;
        }
        self
    }

    /// Says what the verdict means, where it is not `pass`; the text is only written out then.
    pub fn reason(&mut self, text: impl Display) -> &mut Self {
        if self.verdict != Verdict::Pass {
            self.reason = Some(text.to_string());
        }
        self
    }

    /// As [`Check::reason`], of what was found: nothing where the verdict is open.
    pub fn found(&mut self, text: impl Display) -> &mut Self {
        if matches!(self.verdict, Verdict::Warn | Verdict::Fail) {
            self.reason = Some(text.to_string());
        }
        self
    }

    /// As [`Check::reason`], for a text that takes some work.
    pub fn because(&mut self, text: impl FnOnce() -> String) -> &mut Self {
        if self.verdict != Verdict::Pass {
            self.reason = Some(text());
        }
        self
    }

    /// As [`Check::reason`], with how far the figure is beyond its limit; nothing where no figure
    /// was held against a limit.
    pub fn beyond<T: Display>(&mut self, text: impl FnOnce(super::Said) -> T) -> &mut Self {
        if let Some(margin) = self.margin {
            let over = super::said(-margin, self.unit);
            if self.verdict != Verdict::Pass {
                self.reason(text(over));
            }
        }
        self
    }

    /// Names the inputs an open verdict misses.
    pub fn misses(&mut self, missing: impl IntoIterator<Item = Field>) -> &mut Self {
        if self.verdict == Verdict::Unknown {
            for field in missing {
                if !self.missing.contains(&field) {
                    self.missing.push(field);
                }
            }
        }
        self
    }

    /// Marks the check as one of several of which one is enough.
    pub fn alternative(&mut self) -> &mut Self {
        self.alternative = true;
        self
    }
}

/// What a figure is held against: a value, or the inputs that are missing for one.
#[derive(Clone, Debug, Default)]
pub struct Against {
    pub(super) value: Option<f64>,
    pub(super) missing: Vec<Field>,
}

impl From<f64> for Against {
    fn from(value: f64) -> Self {
        Against { value: Some(value), missing: Vec::new() }
    }
}

impl Against {
    /// The value, where it is there.
    pub fn value(&self) -> Option<f64> {
        self.value
    }
}

/// An input with its field.
impl From<(Option<f64>, Field)> for Against {
    fn from((value, field): (Option<f64>, Field)) -> Self {
        Against { value, missing: if value.is_none() { vec![field] } else { Vec::new() } }
    }
}

impl<Q> From<&Handle<Q>> for Against {
    fn from(handle: &Handle<Q>) -> Self {
        Against { value: handle.value(), missing: handle.missing().to_vec() }
    }
}

/// A limit that may be missing.
#[derive(Clone, Debug)]
pub struct Bound {
    pub(super) against: Against,
    pub(super) title: Cow<'static, str>,
    pub(super) at_most: bool,
}

impl Bound {
    /// The figure must stay at or below it.
    pub fn at_most(against: impl Into<Against>, title: impl Into<Cow<'static, str>>) -> Self {
        Bound { against: against.into(), title: title.into(), at_most: true }
    }

    /// The figure must stay at or above it.
    pub fn at_least(against: impl Into<Against>, title: impl Into<Cow<'static, str>>) -> Self {
        Bound { against: against.into(), title: title.into(), at_most: false }
    }
}
