//! A report as it goes out: everything of a subject together, and nothing that the front end's own
//! catalogue says already (titles, stages, sources, units).

use std::collections::{BTreeMap, HashSet};

use heliant_core::evaluate::{Counts, Report, StageSummary};
use heliant_core::figure::{Assumed, Check, Cure, Figure, Limit, Subject, Value, Verdict};
use heliant_core::job::ReadingKey;
use heliant_core::quantity::Unit;
use heliant_core::rules::rules;
use heliant_core::school::School;
use heliant_core::stages::branches::BranchDrawing;
use heliant_core::stages::earth::Bonding;
use heliant_core::stages::places::Places;
use heliant_core::stages::protection::{Board, DemandDrawn, EnclosureDrawing};
use heliant_core::stages::roof::RoofFace;
use heliant_core::stages::runs::{RacewayCut, Route};
use heliant_core::stages::strings::{StringWindow, Tape};
use heliant_core::stages::test::JudgedReading;
use serde::Serialize;
use utoipa::ToSchema;

/// Everything computed of a job, without workings.
#[derive(Debug, Serialize, ToSchema)]
pub struct PackedReport {
    /// The school of practice.
    pub school: School,
    /// All checks together.
    pub counts: Counts,
    /// The worst verdict of all.
    pub verdict: Verdict,
    /// Stage by stage.
    pub stages: Vec<StageSummary>,
    /// Figures and checks, subject by subject.
    pub subjects: Vec<PackedSubject>,
    /// Sources that are not the catalogue's, by id: those of an earlier edition of the code.
    #[serde(skip_serializing_if = "BTreeMap::is_empty")]
    #[schema(value_type = Option<BTreeMap<String, String>>)]
    pub sources: BTreeMap<&'static str, &'static str>,
    /// The tape of each string.
    pub tapes: Vec<Tape>,
    /// The voltage window of each inverter with its strings.
    #[serde(serialize_with = "short_numbers")]
    pub string_windows: Vec<StringWindow>,
    /// The volts along each branch of microinverters.
    pub branches: Vec<BranchDrawing>,
    /// The roof map, face by face.
    pub roof: Vec<RoofFace>,
    /// The way of the circuits through the house.
    pub route: Route,
    /// The cut through each raceway.
    pub raceway_cuts: Vec<PackedCut>,
    /// Places for the inverter, compared.
    pub places: Places,
    /// Enclosures with what is in them.
    pub enclosures: Vec<EnclosureDrawing>,
    /// Panels with what feeds them.
    pub boards: Vec<Board>,
    /// What the parties ask for, with what it adds.
    pub demands: Vec<DemandDrawn>,
    /// Every metal part and how it comes to earth.
    pub bonding: Bonding,
    /// Readings, judged: of each string and kind the last, and of all the newest.
    #[serde(serialize_with = "short_numbers")]
    pub readings: Vec<JudgedReading>,
    /// Readings in all; the earlier ones are asked for in pages.
    pub readings_n: usize,
    /// What was taken by habit, and who confirmed it.
    pub assumptions: Vec<Assumed>,
}

/// What is said of one subject, or of several alike: strings of one kind come to the same figures.
#[derive(Debug, Serialize, ToSchema)]
pub struct PackedSubject {
    /// What it is.
    pub subject: Subject,
    /// Further subjects of which the same is said.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub also: Vec<Subject>,
    /// Its figures.
    pub figures: Vec<PackedFigure>,
    /// Its checks.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub checks: Vec<PackedCheck>,
}

/// A figure; title, stage, source and unit are those of its id in the catalogue.
#[derive(Debug, PartialEq, Serialize, ToSchema)]
pub struct PackedFigure {
    /// Stable id.
    pub id: &'static str,
    /// The value; absent when it cannot be had.
    #[serde(skip_serializing_if = "Option::is_none")]
    #[schema(value_type = Option<Value>)]
    pub value: Option<Value>,
    /// The unit, where it is not the catalogue's.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub unit: Option<Unit>,
    /// Inputs that are missing, by field.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    #[schema(value_type = Vec<String>)]
    pub missing: Vec<&'static str>,
    /// Why there is no value, or what it leaves out.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub note: Option<String>,
}

/// A check; title, stage and source are those of its id in the catalogue.
#[derive(Debug, PartialEq, Serialize, ToSchema)]
pub struct PackedCheck {
    /// Stable id.
    pub id: &'static str,
    /// The figure judged, where its id is another.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub figure: Option<&'static str>,
    /// The verdict; absent: it holds.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub verdict: Option<Verdict>,
    /// The limit, where there is one number.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub limit: Option<PackedLimit>,
    /// Room left in the figure's unit; negative when over.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub margin: Option<f64>,
    /// Room left in percent of the limit.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub margin_pct: Option<f64>,
    /// Unit of margin and limit, where it is not the catalogue's for the figure judged.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub unit: Option<Unit>,
    /// Inputs that are missing, by field.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    #[schema(value_type = Vec<String>)]
    pub missing: Vec<&'static str>,
    /// What the verdict means, with numbers.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub reason: Option<String>,
    /// What would mend it.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub cures: Vec<Cure>,
    /// True for one of several rules of which one is enough.
    #[serde(skip_serializing_if = "std::ops::Not::not")]
    pub alternative: bool,
}

/// What a figure is held against.
#[derive(Debug, PartialEq, Serialize, ToSchema)]
pub struct PackedLimit {
    /// The limit.
    pub value: f64,
    /// What sets it.
    pub title: std::borrow::Cow<'static, str>,
    /// The figure must stay at or above it; else at or below.
    #[serde(skip_serializing_if = "std::ops::Not::not")]
    pub at_least: bool,
}

impl From<Limit> for PackedLimit {
    fn from(l: Limit) -> Self {
        PackedLimit { value: short(l.value), title: l.title, at_least: !l.at_most }
    }
}

/// The unit, where the catalogue says another.
fn other_unit(id: &str, unit: Unit) -> Option<Unit> {
    let usual = rules().card(id).map(|c| c.unit);
    (usual != Some(unit)).then_some(unit)
}

impl From<Figure> for PackedFigure {
    fn from(f: Figure) -> Self {
        let unit = other_unit(f.id, f.unit);
        let value = f.value.map(|v| match v {
            Value::Number(number) => Value::Number(short(number)),
            other => other,
        });
        PackedFigure { id: f.id, value, unit, missing: f.missing, note: f.note }
    }
}

/// A number with eight significant digits: more than any screen or paper shows, and like things
/// come to like numbers however they were added up.
fn short(number: f64) -> f64 {
    digits(number, 8)
}

/// As [`short`], of every number of a list.
fn short_numbers<T: Serialize, S: serde::Serializer>(list: &T, to: S) -> Result<S::Ok, S::Error> {
    fn shorten(value: &mut serde_json::Value) {
        match value {
            serde_json::Value::Number(n) => {
                // Whole numbers stay what they are.
                if let Some(x) = n.as_f64().filter(|_| n.is_f64()) {
                    *value = short(x).into();
                }
            }
            serde_json::Value::Array(all) => all.iter_mut().for_each(shorten),
            serde_json::Value::Object(all) => all.values_mut().for_each(shorten),
            _ => {}
        }
    }
    let mut value = serde_json::to_value(list).map_err(serde::ser::Error::custom)?;
    shorten(&mut value);
    value.serialize(to)
}

fn digits(number: f64, n: i32) -> f64 {
    if !number.is_normal() {
        return number;
    }
    let places = n - 1 - number.abs().log10().floor() as i32;
    // Powers of ten up to here are exact, so what comes out is the number nearest to these digits.
    if places.abs() > 22 {
        return number;
    }
    let scale = 10_f64.powi(places.abs());
    if places < 0 { (number / scale).round() * scale } else { (number * scale).round() / scale }
}

impl From<Check> for PackedCheck {
    fn from(c: Check) -> Self {
        let measured = c.limit.is_some() || c.margin.is_some();
        PackedCheck {
            id: c.id,
            figure: (c.figure != c.id).then_some(c.figure),
            verdict: Some(c.verdict).filter(|v| *v != Verdict::Pass),
            limit: c.limit.map(PackedLimit::from),
            margin: c.margin.map(short),
            margin_pct: c.margin_pct.map(|pct| digits(pct, 4)),
            unit: if measured { other_unit(c.figure, c.unit) } else { None },
            missing: c.missing,
            reason: c.reason,
            cures: c.cures,
            alternative: c.alternative,
        }
    }
}

/// Subjects in the order they first appear.
#[derive(Default)]
struct Subjects {
    all: Vec<PackedSubject>,
    at: std::collections::HashMap<Subject, usize>,
}

impl Subjects {
    fn of(&mut self, subject: &Subject) -> &mut PackedSubject {
        let next = self.all.len();
        let at = *self.at.entry(subject.clone()).or_insert(next);
        if at == next {
            let (also, figures, checks) = (Vec::new(), Vec::new(), Vec::new());
            self.all.push(PackedSubject { subject: subject.clone(), also, figures, checks });
        }
        &mut self.all[at]
    }

    /// Subjects of which the same is said, together.
    fn folded(self) -> Vec<PackedSubject> {
        let mut folded: Vec<PackedSubject> = Vec::new();
        for own in self.all {
            let same = |p: &&mut PackedSubject| p.figures == own.figures && p.checks == own.checks;
            match folded.iter_mut().find(same) {
                Some(like) => like.also.push(own.subject),
                None => folded.push(own),
            }
        }
        folded
    }
}

/// The cut through a raceway, and through further parts that look the same.
#[derive(Debug, Serialize, ToSchema)]
pub struct PackedCut {
    /// The cut.
    #[serde(flatten)]
    pub cut: RacewayCut,
    /// Further parts with the same in them.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub also: Vec<Subject>,
}

/// Cuts that look the same, together.
fn cuts(all: Vec<RacewayCut>) -> Vec<PackedCut> {
    // A hundredth of a millimetre is more than anybody draws.
    let drawn = |mm: f64| (mm * 100.0).round() / 100.0;
    let mut folded: Vec<PackedCut> = Vec::new();
    for mut own in all {
        own.inner_mm = drawn(own.inner_mm);
        for w in &mut own.wires {
            (w.x_mm, w.y_mm, w.diameter_mm) = (drawn(w.x_mm), drawn(w.y_mm), drawn(w.diameter_mm));
        }
        let same = |p: &&mut PackedCut| {
            (&p.cut.kind, &p.cut.size, &p.cut.wires) == (&own.kind, &own.size, &own.wires)
        };
        // Parts of a way follow one another; further back nothing is looked for.
        match folded.last_mut().filter(|p| same(p)) {
            Some(like) => like.also.push(own.subject),
            None => folded.push(PackedCut { cut: own, also: Vec::new() }),
        }
    }
    folded
}

/// The newest readings that go out with every report.
pub const NEWEST_READINGS: usize = 100;

/// A page of readings, the newest first, with what is said of each.
#[derive(Debug, Serialize, ToSchema)]
pub struct ReadingPage {
    /// Readings in all.
    pub readings_n: usize,
    /// Those of the page.
    pub readings: Vec<JudgedReading>,
    /// Their figures and checks.
    pub subjects: Vec<PackedSubject>,
}

impl ReadingPage {
    /// A page, from 0 on, of as many readings as go out with a report.
    pub fn of(mut report: Report, page: usize) -> Self {
        let readings_n = report.readings.len();
        report.readings.reverse();
        let skip = page.saturating_mul(NEWEST_READINGS);
        let readings: Vec<JudgedReading> =
            report.readings.into_iter().skip(skip).take(NEWEST_READINGS).collect();
        let own: HashSet<&ReadingKey> = readings.iter().map(|r| &r.reading.id).collect();
        let of_page = |subject: &Subject| match subject {
            Subject::Reading { reading } => own.contains(reading),
            _ => false,
        };
        let mut subjects = Subjects::default();
        for figure in report.figures.into_iter().filter(|f| of_page(&f.subject)) {
            subjects.of(&figure.subject).figures.push(figure.into());
        }
        for check in report.checks.into_iter().filter(|c| of_page(&c.subject)) {
            subjects.of(&check.subject).checks.push(check.into());
        }
        ReadingPage { readings_n, readings, subjects: subjects.all }
    }
}

/// Leaves out the earlier readings that others took the place of, and what is said of them.
fn newest(report: &mut Report) -> usize {
    let readings_n = report.readings.len();
    let from = readings_n.saturating_sub(NEWEST_READINGS);
    let earlier = |i: usize, r: &JudgedReading| i < from && r.superseded;
    let out: HashSet<ReadingKey> = report
        .readings
        .iter()
        .enumerate()
        .filter(|(i, r)| earlier(*i, r))
        .map(|(_, r)| r.reading.id.clone())
        .collect();
    if !out.is_empty() {
        let stays =
            |s: &Subject| !matches!(s, Subject::Reading { reading } if out.contains(reading));
        report.figures.retain(|f| stays(&f.subject));
        report.checks.retain(|c| stays(&c.subject));
        report.readings.retain(|r| !out.contains(&r.reading.id));
    }
    readings_n
}

impl From<Report> for PackedReport {
    fn from(mut report: Report) -> Self {
        let readings_n = newest(&mut report);
        let mut subjects = Subjects::default();
        let figures = report.figures.iter().map(|f| (f.id, f.source));
        let cited = figures.chain(report.checks.iter().map(|c| (c.id, c.source)));
        let usual = |id| rules().card(id).map(|c| c.source(report.school));
        let sources = cited.filter(|(id, source)| usual(id) != Some(*source)).collect();
        for figure in report.figures {
            subjects.of(&figure.subject).figures.push(figure.into());
        }
        for check in report.checks {
            subjects.of(&check.subject).checks.push(check.into());
        }
        PackedReport {
            school: report.school,
            counts: report.counts,
            verdict: report.verdict,
            stages: report.stages,
            subjects: subjects.folded(),
            sources,
            tapes: report.tapes,
            string_windows: report.string_windows,
            branches: report.branches,
            roof: report.roof,
            route: report.route,
            raceway_cuts: cuts(report.raceway_cuts),
            places: report.places,
            enclosures: report.enclosures,
            boards: report.boards,
            demands: report.demands,
            bonding: report.bonding,
            readings: report.readings,
            readings_n,
            assumptions: report.assumptions,
        }
    }
}

#[cfg(test)]
mod tests {
    use super::short;

    #[test]
    fn numbers_are_shortened_to_eight_digits_as_they_are_written() {
        for number in [
            0.0,
            1.0,
            -41.123_456_789_123,
            2.0 / 3.0,
            1e-7 / 3.0,
            123_456_789_012.34,
            0.1 + 0.2,
            999_999_999.999_99,
            -1e15 / 7.0,
        ] {
            let written: f64 = format!("{number:.7e}").parse().expect("a number");
            assert_eq!(short(number), written, "{number}");
        }
        // Beyond what is exact a number stays as it is.
        assert_eq!(short(1e-30 / 3.0), 1e-30 / 3.0);
        assert!(short(f64::NAN).is_nan() && short(f64::INFINITY).is_infinite());
    }
}
