//! Figures and checks of one calculation, gathered as they are computed.

use super::{
    Assumed, Assumption, Bound, Card, Check, Count, Def, Field, Figure, Handle, Limit, Size, Stage,
    Subject, Value, Verdict, Word, Wording, Working,
};
use crate::editions::{cited, cited_on_card};
use crate::quantity::{self, Quantity, Ratio, Unit};
use crate::school::{Edition, School};
use crate::traced::Traced;

/// Of which figures the working is kept. The arithmetic is the same for all of them.
#[derive(Clone, Debug, Default, PartialEq)]
pub enum Recording {
    /// Of none: values, limits, verdicts and cures only.
    #[default]
    Nothing,
    /// Of every figure.
    Everything,
    /// Of a stage's figures.
    Stage(Stage),
    /// Of one subject's figures.
    Subject(Subject),
}

impl Recording {
    /// Whether it asks for the working of a figure of this stage and subject.
    pub fn asks_for(&self, of: Stage, subject: &Subject) -> bool {
        match self {
            Recording::Nothing => false,
            Recording::Everything => true,
            Recording::Stage(stage) => of == *stage,
            Recording::Subject(one) => subject == one,
        }
    }
}

/// Figures and checks so far, and what the next ones are about.
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
    /// What figures were taken by habit, each with what rests on it.
    pub assumed: Vec<Assumed>,
    /// Edition of the code whose rule numbers are cited.
    pub edition: Edition,
    recording: Recording,
}

impl Sheet {
    /// An empty sheet that keeps every working.
    pub fn new(school: School, subject: Subject) -> Self {
        Sheet::with(school, subject, Recording::Everything)
    }

    /// An empty sheet that keeps the workings asked for.
    pub fn with(school: School, subject: Subject, recording: Recording) -> Self {
        let (figures, checks, assumed) = (Vec::new(), Vec::new(), Vec::new());
        let edition = Edition::default();
        Sheet { school, subject, figures, checks, assumed, edition, recording }
    }

    /// A sheet to try something out on: of the same subject, without workings, thrown away after.
    pub fn trial(&self) -> Self {
        let own = Sheet::with(self.school, self.subject.clone(), Recording::Nothing);
        Sheet { edition: self.edition, ..own }
    }

    /// A sheet of the same kind whose figures may be [appended](Sheet::append) later.
    pub fn aside(&self) -> Self {
        let own = Sheet::with(self.school, self.subject.clone(), self.recording.clone());
        Sheet { edition: self.edition, ..own }
    }

    /// The source of a card in this school and edition.
    fn source(&self, card: &Card) -> &'static str {
        cited_on_card(self.edition, card.source(self.school))
    }

    /// Takes over what another sheet holds.
    pub fn append(&mut self, mut other: Sheet) {
        self.figures.append(&mut other.figures);
        self.checks.append(&mut other.checks);
        for a in other.assumed {
            for subject in a.subjects {
                self.put_assumption(a.key, a.text, subject);
            }
        }
    }

    /// Notes what the figures of this subject take by habit.
    pub fn assume(&mut self, what: &'static Assumption) {
        self.put_assumption(what.key, what.text, self.subject.clone());
    }

    fn put_assumption(&mut self, key: &'static str, text: &'static str, subject: Subject) {
        match self.assumed.iter_mut().find(|a| a.key == key) {
            // The figures of a subject come one after the other.
            Some(own) if own.subjects.last() == Some(&subject) => {}
            Some(own) => own.subjects.push(subject),
            None => {
                let subjects = vec![subject];
                self.assumed.push(Assumed { key, text, subjects, confirmed_by: None });
            }
        }
    }

    /// Of the checks from `from` on that fail: those that hold on a sheet where an input nobody
    /// entered is at its better end are open, and name the input. What fails at the better end too
    /// stays a failure.
    pub fn open_between(&mut self, from: usize, better: &Sheet, field: Field) {
        for check in &mut self.checks[from..] {
            let same = |c: &&Check| c.id == check.id && c.subject == check.subject;
            let mended =
                better.checks.iter().find(same).is_some_and(|c| c.verdict == Verdict::Pass);
            if check.verdict == Verdict::Fail && mended {
                check.verdict = Verdict::Unknown;
                check.cures.clear();
                check.misses([field]);
            }
        }
    }

    /// Whether every check of the sheet passes.
    pub fn holds(&self) -> bool {
        self.checks.iter().all(|c| c.verdict == Verdict::Pass)
    }

    fn open(&self, card: &Card) -> Working {
        Working {
            recording: self.recording.asks_for(card.stage, &self.subject),
            ..Working::default()
        }
    }

    fn push(&mut self, card: &'static Card, value: Option<Value>, unit: Unit, mut w: Working) {
        if value.is_none() && w.missing.is_empty() && w.note.is_none() {
            w.note("A figure it rests on cannot be had.");
        }
        if self.edition != Edition::default() {
            for line in &mut w.lines {
                line.source = cited(self.edition, &line.source).into_owned();
            }
        }
        self.figures.push(Figure {
            id: card.id,
            subject: self.subject.clone(),
            title: card.title,
            stage: card.stage,
            value,
            unit,
            working: w.lines,
            source: self.source(card),
            missing: w.missing,
            note: w.note,
        });
    }

    fn compute<Q: Quantity>(
        &mut self,
        card: &'static Card,
        unit: Unit,
        formula: impl FnOnce(&mut Working) -> Option<Traced<Q>>,
    ) -> Handle<Q> {
        let mut working = self.open(card);
        let quantity = formula(&mut working).map(|result| {
            let value = result.value;
            if working.recording {
                working.close(card.title, result);
            }
            value
        });
        let quantity = quantity.filter(|q| q.value().is_finite());
        let number = quantity.map(Quantity::value);
        let missing = if number.is_none() { working.missing.clone() } else { Vec::new() };
        self.push(card, number.map(Value::Number), unit, working);
        Handle { card, unit, quantity, number, missing }
    }

    /// A number: computes it with its working; `None` from the formula is a figure that cannot be
    /// had.
    ///
    /// ```
    /// use heliant_core::figure::{Sheet, Subject};
    /// use heliant_core::figures;
    /// use heliant_core::quantity::{Ratio, Volts};
    /// use heliant_core::school::School;
    ///
    /// figures! { Strings;
    ///     /// Volts of a string.
    ///     VOC: Volts = "example.voc_v", "Volts of the string", "data sheet";
    /// }
    /// let mut sheet = Sheet::new(School::Na, Subject::Sum);
    /// let volts = sheet.figure(&VOC, |w| {
    ///     let voc = w.need::<Volts>("Voc", Some(39.4), "module.voc_v", "data sheet");
    ///     Some(w.given("n", Ratio(12.0), "in series") * voc?)
    /// });
    /// assert_eq!(volts.value(), Some(12.0 * 39.4));
    /// assert_eq!(sheet.figures[0].working[2].numbers, "12 × 39.4");
    /// ```
    pub fn figure<Q: Quantity>(
        &mut self,
        def: &'static Def<Q>,
        formula: impl FnOnce(&mut Working) -> Option<Traced<Q>>,
    ) -> Handle<Q> {
        self.compute(def.card(), Q::UNIT, formula)
    }

    /// A count.
    pub fn count(
        &mut self,
        def: &'static Def<Count>,
        formula: impl FnOnce(&mut Working) -> Option<Traced<Ratio>>,
    ) -> Handle<Ratio> {
        self.compute(def.card(), Unit::Count, formula)
    }

    /// A name, or yes and no.
    pub fn word(
        &mut self,
        def: &'static Def<Word>,
        choose: impl FnOnce(&mut Working) -> Option<Value>,
    ) -> Wording {
        self.choose(def.card(), Unit::None, choose)
    }

    /// A size: a text where `unit` is none, else a number.
    pub fn size(
        &mut self,
        def: &'static Def<Size>,
        unit: Unit,
        choose: impl FnOnce(&mut Working) -> Option<Value>,
    ) -> Wording {
        self.choose(def.card(), unit, choose)
    }

    fn choose(
        &mut self,
        card: &'static Card,
        unit: Unit,
        choose: impl FnOnce(&mut Working) -> Option<Value>,
    ) -> Wording {
        let mut working = self.open(card);
        let value = choose(&mut working);
        let missing = if value.is_none() { working.missing.clone() } else { Vec::new() };
        self.push(card, value.clone(), unit, working);
        Wording { value, missing }
    }

    /// A check with a verdict found elsewhere.
    pub fn judge<K>(&mut self, def: &'static Def<K>, verdict: Verdict) -> &mut Check {
        self.judge_card(def.card(), verdict)
    }

    /// A check that passes where nothing is missing and is open where something is.
    pub fn known<K>(
        &mut self,
        def: &'static Def<K>,
        missing: impl IntoIterator<Item = Field>,
    ) -> &mut Check {
        let missing: Vec<Field> = missing.into_iter().collect();
        let verdict = if missing.is_empty() { Verdict::Pass } else { Verdict::Unknown };
        self.judge_card(def.card(), verdict).misses(missing)
    }

    fn judge_card(&mut self, card: &'static Card, verdict: Verdict) -> &mut Check {
        self.checks.push(Check {
            id: card.id,
            figure: card.id,
            subject: self.subject.clone(),
            title: card.title,
            stage: card.stage,
            verdict,
            limit: None,
            margin: None,
            margin_pct: None,
            unit: Unit::None,
            source: self.source(card),
            missing: Vec::new(),
            reason: None,
            cures: Vec::new(),
            alternative: false,
        });
        let last = self.checks.len() - 1;
        &mut self.checks[last]
    }

    /// Holds a figure against a limit; `worse` is the verdict beyond it. A value or a limit that is
    /// missing makes the verdict `unknown`.
    ///
    /// ```
    /// use heliant_core::figure::{Bound, Sheet, Subject, Verdict};
    /// use heliant_core::figures;
    /// use heliant_core::quantity::Volts;
    /// use heliant_core::school::School;
    ///
    /// figures! { Strings;
    ///     /// Volts of a string.
    ///     VOC: Volts = "example.voc_v", "Volts of the string", "data sheet";
    /// }
    /// let mut sheet = Sheet::new(School::Na, Subject::Sum);
    /// let volts = sheet.figure(&VOC, |w| w.need("Voc", None, "module.voc_v", "data sheet"));
    /// let check = sheet.hold(&volts, Bound::at_most(600.0, "ceiling"), Verdict::Fail);
    /// assert_eq!(check.verdict, Verdict::Unknown);
    /// assert_eq!(check.missing, ["module.voc_v"]);
    /// ```
    pub fn hold<Q>(&mut self, handle: &Handle<Q>, bound: Bound, worse: Verdict) -> &mut Check {
        let (verdict, margin) = match (handle.value(), bound.against.value) {
            (Some(value), Some(limit)) => {
                let (beyond, margin) = if bound.at_most {
                    (quantity::above(value, limit), limit - value)
                } else {
                    (quantity::below(value, limit), value - limit)
                };
                (if beyond { worse } else { Verdict::Pass }, Some(margin))
            }
            _ => (Verdict::Unknown, None),
        };
        let check = self.judge_card(handle.card, verdict);
        check.unit = handle.unit;
        check.margin = margin;
        let limit = bound.against.value;
        check.margin_pct = margin.zip(limit).filter(|(_, l)| *l != 0.0).map(|(m, l)| m / l * 100.0);
        check.limit =
            limit.map(|value| Limit { title: bound.title, value, at_most: bound.at_most });
        check.misses(handle.missing.iter().copied()).misses(bound.against.missing)
    }

    /// As [`Sheet::hold`], under an id of the check's own.
    pub fn hold_as<Q, K>(
        &mut self,
        def: &'static Def<K>,
        handle: &Handle<Q>,
        bound: Bound,
        worse: Verdict,
    ) -> &mut Check {
        let source = cited_on_card(self.edition, def.source(self.school));
        let check = self.hold(handle, bound, worse);
        (check.id, check.title, check.source) = (def.id, def.title, source);
        check
    }
}
