//! The vocabulary everything speaks: a [`Figure`] with its [`Line`]s of working, a [`Check`] of a
//! figure against a limit, its [`Verdict`], and the [`Cure`]s that would mend it.

use serde::Serialize;
use serde_json::Value as Json;
use utoipa::ToSchema;

use crate::quantity::{self, Quantity, Unit};
use crate::school::School;
use crate::traced::{Traced, given};

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

/// The stage of the job a figure belongs to.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, Serialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Stage {
    /// What must be known before anything is sized.
    Site,
    /// Data sheets.
    Equipment,
    /// Strings against the inverter's window.
    Strings,
    /// Conductors, raceways, the panel they end in.
    Runs,
    /// Readings against what they should be.
    Test,
}

/// What kind of thing a figure is about.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum SubjectKind {
    /// The site as a whole.
    Site,
    /// A module's data sheet.
    Module,
    /// An inverter of the job, by its id.
    Inverter,
    /// One MPPT input, `inverter/number`.
    Mppt,
    /// A string, by its letter.
    String,
    /// A branch of microinverters, by its letter.
    Branch,
    /// A place for the inverter, by its name.
    Place,
    /// A circuit: the run's id, with the string's letter where each string has its own.
    Circuit,
    /// A raceway: `run/segment`, counted from 1.
    Raceway,
    /// The main panel.
    Panel,
    /// A reading, by its id.
    Reading,
}

/// What a figure is about.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, ToSchema)]
pub struct Subject {
    /// The kind of thing.
    pub kind: SubjectKind,
    /// Which of them.
    pub name: String,
}

impl Subject {
    /// A subject by kind and name.
    pub fn new(kind: SubjectKind, name: impl Into<String>) -> Self {
        Subject { kind, name: name.into() }
    }
}

/// The declaration of a figure: written once, beside the code that computes it.
#[derive(Debug)]
pub struct Def {
    /// Stable id, ending in the unit.
    pub id: &'static str,
    /// Plain title.
    pub title: &'static str,
    /// The stage it belongs to.
    pub stage: Stage,
    /// Rule number or data-sheet field it rests on, North American school.
    pub na: &'static str,
    /// The same, IEC school.
    pub iec: &'static str,
}

impl Def {
    /// The source in the given school.
    pub fn source(&self, school: School) -> &'static str {
        match school {
            School::Na => self.na,
            School::Iec => self.iec,
        }
    }
}

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
    /// Line by line, how it came about.
    pub working: Vec<Line>,
    /// Rule number or data-sheet field.
    pub source: &'static str,
    /// Inputs that are missing, by field.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub missing: Vec<String>,
    /// Why there is no value although nothing is missing, or what the value leaves out.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub note: Option<String>,
}

/// The limit a figure is held against.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct Limit {
    /// What sets it.
    pub title: String,
    /// Its value, in the figure's unit.
    pub value: f64,
    /// Whether the figure must stay at or below it (else at or above).
    pub at_most: bool,
}

/// One edit of the job file: a JSON pointer below `/job` and the value to put there.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema)]
pub struct Edit {
    /// JSON pointer, e.g. `/strings/0/n`.
    pub pointer: String,
    /// The new value.
    #[schema(value_type = Object)]
    pub value: Json,
}

/// What would mend a check.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct Cure {
    /// One sentence, with numbers.
    pub text: String,
    /// The edits that do it; empty where a hand is needed.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub edits: Vec<Edit>,
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
    pub missing: Vec<String>,
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
    /// Adds a cure where the verdict calls for one.
    pub fn cure(&mut self, text: impl Into<String>, edits: Vec<Edit>) -> &mut Self {
        if matches!(self.verdict, Verdict::Warn | Verdict::Fail) {
            self.cures.push(Cure { text: text.into(), edits });
        }
        self
    }

    /// Says what the verdict means, where it is not `pass`.
    pub fn reason(&mut self, text: impl Into<String>) -> &mut Self {
        if self.verdict != Verdict::Pass {
            self.reason = Some(text.into());
        }
        self
    }

    /// Marks the check as one of several of which one is enough.
    pub fn alternative(&mut self) -> &mut Self {
        self.alternative = true;
        self
    }
}

/// The lines of one figure while it is computed.
#[derive(Debug, Default)]
pub struct Working {
    lines: Vec<Line>,
    missing: Vec<String>,
    note: Option<String>,
}

impl Working {
    /// An input that must be there: its line, or its field on the list of what is missing.
    pub fn need<Q: Quantity>(
        &mut self,
        symbol: &str,
        value: Option<f64>,
        field: &str,
        source: impl Into<String>,
    ) -> Option<Traced<Q>> {
        match value {
            Some(v) => Some(self.given(symbol, Q::of(v), source)),
            None => {
                if !self.missing.iter().any(|m| m == field) {
                    self.missing.push(field.to_owned());
                }
                None
            }
        }
    }

    /// An input, as a line with its source.
    pub fn given<Q: Quantity>(
        &mut self,
        symbol: &str,
        value: Q,
        source: impl Into<String>,
    ) -> Traced<Q> {
        self.lines.push(Line {
            label: symbol.to_owned(),
            symbols: String::new(),
            numbers: String::new(),
            value: Value::Number(value.value()),
            unit: Q::UNIT,
            source: source.into(),
        });
        given(symbol, value)
    }

    /// A step: records the formula and gives the result back under the label.
    pub fn step<Q: Quantity>(&mut self, label: &str, expression: Traced<Q>) -> Traced<Q> {
        let named = expression.named(label);
        self.lines.push(Line {
            label: label.to_owned(),
            symbols: expression.symbols,
            numbers: expression.numbers,
            value: Value::Number(expression.value.value()),
            unit: Q::UNIT,
            source: String::new(),
        });
        named
    }

    /// A line that gives words: a name found in a table, a comparison, a choice.
    pub fn words(&mut self, label: &str, text: impl Into<String>, source: impl Into<String>) {
        self.lines.push(Line {
            label: label.to_owned(),
            symbols: String::new(),
            numbers: String::new(),
            value: Value::Text(text.into()),
            unit: Unit::None,
            source: source.into(),
        });
    }

    /// What the value leaves out, or why there is none.
    pub fn note(&mut self, text: impl Into<String>) {
        self.note = Some(text.into());
    }
}

/// Figures and checks of one calculation, gathered as they are computed.
#[derive(Debug)]
pub struct Sheet {
    /// The school of practice.
    pub school: School,
    /// What the next figures are about.
    pub subject: Subject,
    /// Figures so far.
    pub figures: Vec<Figure>,
    /// Checks so far.
    pub checks: Vec<Check>,
}

impl Sheet {
    /// An empty sheet.
    pub fn new(school: School, subject: Subject) -> Self {
        Sheet { school, subject, figures: Vec::new(), checks: Vec::new() }
    }

    fn push(&mut self, def: &'static Def, value: Option<Value>, unit: Unit, mut working: Working) {
        if value.is_none() && working.missing.is_empty() && working.note.is_none() {
            // It rests on a figure of the same thing that is open: what that one misses, this one
            // misses.
            let open = |f: &&Figure| {
                f.subject == self.subject && f.value.is_none() && !f.missing.is_empty()
            };
            match self.figures.iter().rev().find(open) {
                Some(figure) => working.missing.clone_from(&figure.missing),
                None => working.note("A figure it rests on cannot be had."),
            }
        }
        self.figures.push(Figure {
            id: def.id,
            subject: self.subject.clone(),
            title: def.title,
            stage: def.stage,
            value,
            unit,
            working: working.lines,
            source: def.source(self.school),
            missing: working.missing,
            note: working.note,
        });
    }

    /// A number: computes it with its working; `None` from the closure is a figure that cannot be
    /// had.
    pub fn figure<Q: Quantity>(
        &mut self,
        def: &'static Def,
        compute: impl FnOnce(&mut Working) -> Option<Traced<Q>>,
    ) -> Option<f64> {
        let mut working = Working::default();
        let value = compute(&mut working).map(|expression| {
            let value = expression.value.value();
            // A lone atom is the result of the last step: no line of its own.
            let repeated = working
                .lines
                .last()
                .is_some_and(|l| l.value == Value::Number(value) && expression.symbols == l.label);
            if !repeated {
                working.step(def.title, expression);
            }
            value
        });
        let value = value.filter(|v| v.is_finite());
        self.push(def, value.map(Value::Number), Q::UNIT, working);
        value
    }

    /// A count: as [`Sheet::figure`], with the unit of a count.
    pub fn count(
        &mut self,
        def: &'static Def,
        compute: impl FnOnce(&mut Working) -> Option<Traced<quantity::Ratio>>,
    ) -> Option<f64> {
        let value = self.figure(def, compute);
        if let Some(figure) = self.figures.last_mut() {
            figure.unit = Unit::Count;
        }
        value
    }

    /// A figure whose value is a word, a size or yes and no.
    pub fn text(&mut self, def: &'static Def, compute: impl FnOnce(&mut Working) -> Option<Value>) {
        let mut working = Working::default();
        let value = compute(&mut working);
        self.push(def, value, Unit::None, working);
    }

    /// A check with a verdict found elsewhere.
    pub fn judge(&mut self, def: &'static Def, verdict: Verdict) -> &mut Check {
        self.checks.push(Check {
            id: def.id,
            figure: def.id,
            subject: self.subject.clone(),
            title: def.title,
            stage: def.stage,
            verdict,
            limit: None,
            margin: None,
            margin_pct: None,
            unit: Unit::None,
            source: def.source(self.school),
            missing: Vec::new(),
            reason: None,
            cures: Vec::new(),
            alternative: false,
        });
        let last = self.checks.len() - 1;
        &mut self.checks[last]
    }

    /// Holds the last figure of this id against a limit; `worse` is the verdict beyond it.
    /// A value or a limit that is missing makes the verdict `unknown`.
    pub fn hold(&mut self, def: &'static Def, bound: Bound, worse: Verdict) -> &mut Check {
        let (value, unit, missing) = match self.figures.iter().rev().find(|f| f.id == def.id) {
            Some(f) => (f.value.as_ref().and_then(Value::number), f.unit, f.missing.clone()),
            None => (None, Unit::None, Vec::new()),
        };
        let mut missing = missing;
        if bound.value.is_none() && !missing.contains(&bound.field) {
            missing.push(bound.field.clone());
        }
        let (verdict, limit, margin) = match (value, bound.value) {
            (Some(v), Some(l)) => {
                let beyond =
                    if bound.at_most { quantity::above(v, l) } else { quantity::below(v, l) };
                let margin = if bound.at_most { l - v } else { v - l };
                (if beyond { worse } else { Verdict::Pass }, Some(l), Some(margin))
            }
            (_, limit) => (Verdict::Unknown, limit, None),
        };
        let check = self.judge(def, verdict);
        check.unit = unit;
        check.limit =
            limit.map(|value| Limit { title: bound.title.clone(), value, at_most: bound.at_most });
        check.margin = margin;
        check.margin_pct = margin.zip(limit).filter(|(_, l)| *l != 0.0).map(|(m, l)| m / l * 100.0);
        if verdict == Verdict::Unknown {
            check.missing = missing;
        }
        check
    }
}

/// A limit that may be missing.
#[derive(Clone, Debug)]
pub struct Bound {
    value: Option<f64>,
    title: String,
    field: String,
    at_most: bool,
}

impl Bound {
    /// The figure must stay at or below it. `field` names the input where it is missing.
    pub fn at_most(value: Option<f64>, title: impl Into<String>, field: &str) -> Self {
        Bound { value, title: title.into(), field: field.to_owned(), at_most: true }
    }

    /// The figure must stay at or above it.
    pub fn at_least(value: Option<f64>, title: impl Into<String>, field: &str) -> Self {
        Bound { value, title: title.into(), field: field.to_owned(), at_most: false }
    }
}

/// A value for a sentence, with its unit.
pub fn said(value: f64, unit: Unit) -> String {
    let decimals = match unit {
        Unit::V | Unit::A | Unit::Percent if value.abs() < 100.0 => 1,
        Unit::V | Unit::A | Unit::Percent => 0,
        _ => unit.decimals(value),
    };
    let text = format!("{:.*}", decimals, value.abs());
    let minus = if value < 0.0 && text.chars().any(|c| c.is_ascii_digit() && c != '0') {
        "−"
    } else {
        ""
    };
    let sign = unit.sign();
    if sign.is_empty() { format!("{minus}{text}") } else { format!("{minus}{text} {sign}") }
}
