//! Quick sums: the calculations without a job, for the counter and the phone. Each stage declares
//! its own; a declared sum appears on the screen and on the command line.

use serde::Serialize;
use serde_json::{Map, Value as Json, json};
use utoipa::ToSchema;

use crate::cases;
use crate::figure::{Check, Figure, Sheet, Subject, Value, Verdict};
use crate::job::{Face, Job, JobFile, JobInverter, JobString, choices, settle};
use crate::library::{Headed, InverterSheet, Library, ModuleSheet};
use crate::problem::Problem;
pub use crate::registry::{Input, InputKind, Sum};
use crate::rules::rules;
use crate::schema::did_you_mean;
use crate::school::School;

/// A sum that was done: inputs, figures with their working, verdicts.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct Slip {
    /// Name of the sum.
    pub name: &'static str,
    /// Its title.
    pub title: &'static str,
    /// School of practice.
    pub school: School,
    /// The inputs as they were taken.
    #[schema(value_type = Object)]
    pub inputs: Map<String, Json>,
    /// The figures that answer it.
    pub answers: Vec<Figure>,
    /// Every figure.
    pub figures: Vec<Figure>,
    /// Every check.
    pub checks: Vec<Check>,
    /// The slip as plain text, to be copied.
    pub text: String,
}

/// Every quick sum.
pub fn all() -> &'static [&'static Sum] {
    rules().all_sums()
}

/// The sum of this name and school.
pub fn find(name: &str, school: School) -> Option<&'static Sum> {
    all().iter().copied().find(|s| s.name == name && s.school == school)
}

/// The inputs a sum begins with.
pub fn sample(sum: &Sum) -> Map<String, Json> {
    let value = |i: &Input| serde_json::from_str::<Json>(i.sample).ok().filter(|v| v != "");
    sum.inputs.iter().filter_map(|i| Some((i.key.to_owned(), value(i)?))).collect()
}

/// Puts a value at a key with dots into a tree of objects and lists.
fn put(tree: &mut Json, key: &str, value: Json) {
    let mut at = tree;
    for part in key.split('.') {
        at = match part.parse::<usize>() {
            Ok(i) => {
                if !at.is_array() {
                    *at = json!([]);
                }
                let list = at.as_array_mut().expect("just made");
                while list.len() <= i {
                    list.push(Json::Null);
                }
                &mut list[i]
            }
            Err(_) => {
                if !at.is_object() {
                    *at = json!({});
                }
                at.as_object_mut().expect("just made").entry(part).or_insert(Json::Null)
            }
        };
    }
    *at = value;
}

/// The sizes an input may name, where it names one.
fn sizes(input: &Input) -> Option<Vec<String>> {
    let known = choices(School::Na);
    match (input.kind, input.unit, input.key) {
        (InputKind::Text, "AWG", _) => Some(known.awg),
        (InputKind::Text, _, "trade") => {
            let mut all: Vec<String> = Vec::new();
            for size in known.raceways.into_iter().flat_map(|r| r.sizes) {
                if !all.contains(&size) {
                    all.push(size);
                }
            }
            Some(all)
        }
        _ => None,
    }
}

/// Checks the inputs and puts them together as the calculation reads them.
fn gathered(sum: &Sum, inputs: &Map<String, Json>) -> Result<Map<String, Json>, Vec<Problem>> {
    let mut problems = Vec::new();
    let mut tree = json!({});
    for key in inputs.keys().filter(|k| !sum.inputs.iter().any(|i| i.key == k.as_str())) {
        let hint = did_you_mean(key, sum.inputs.iter().map(|i| i.key), 4).unwrap_or_default();
        problems.push(Problem::new(format!("/{key}"), "is no input of this sum", hint));
    }
    for i in sum.inputs {
        let value = inputs.get(i.key).filter(|v| !v.is_null() && *v != "");
        let Some(value) = value else {
            if !i.optional {
                problems.push(Problem::new(
                    format!("/{}", i.key),
                    format!("{} is missing", i.title),
                    "enter it",
                ));
            }
            continue;
        };
        let number = value.as_f64().filter(|n| n.is_finite());
        let right = match i.kind {
            InputKind::Number => number.is_some(),
            InputKind::Count => {
                number.is_some_and(|n| n.fract() == 0.0 && (0.0..=100_000.0).contains(&n))
            }
            InputKind::Choice => value.as_str().is_some_and(|v| i.options.contains(&v)),
            InputKind::Text => value.is_string(),
            InputKind::Flag => value.is_boolean(),
        };
        if !right {
            let wanted = match i.kind {
                InputKind::Number => "a number".to_owned(),
                InputKind::Count => "a whole number".to_owned(),
                InputKind::Choice => format!("one of {}", i.options.join(", ")),
                InputKind::Text => "a size as it is written, in quotes".to_owned(),
                InputKind::Flag => "true or false".to_owned(),
            };
            problems.push(Problem::new(
                format!("/{}", i.key),
                format!("{}: {value} is not right", i.title),
                wanted,
            ));
            continue;
        }
        if let Some(known) = sizes(i)
            && let Some(size) = value.as_str()
            && !known.iter().any(|k| k == size)
        {
            problems.push(Problem::new(
                format!("/{}", i.key),
                format!("{}: {size} is no size of the tables", i.title),
                format!("one of {}", known.join(", ")),
            ));
            continue;
        }
        let value = match (i.kind, number) {
            (InputKind::Count, Some(n)) => json!(n as u64),
            _ => value.clone(),
        };
        put(&mut tree, i.key, value);
    }
    // A line of wires without a count is none.
    if let Some(wires) = tree.get_mut("wires").and_then(Json::as_array_mut) {
        wires.retain(|w| w.get("n").is_some_and(|n| n.as_f64() > Some(0.0)));
    }
    if problems.is_empty() {
        Ok(tree.as_object().cloned().unwrap_or_default())
    } else {
        Err(problems)
    }
}

fn compute(sum: &Sum, tree: &Map<String, Json>) -> Result<Sheet, Vec<Problem>> {
    let wrong = |e: String| vec![Problem::new("", e, "")];
    let calculation = rules()
        .find_calculation(sum.calculation)
        .ok_or_else(|| wrong(format!("no calculation {}", sum.calculation)))?;
    let mut sheet = Sheet::new(sum.school, Subject::Sum);
    calculation.run(&mut sheet, tree).map_err(wrong)?;
    Ok(sheet)
}

/// Does a sum.
///
/// # Errors
/// What is missing, wrong or none of its inputs, by key.
pub fn run(sum: &'static Sum, inputs: &Map<String, Json>) -> Result<Slip, Vec<Problem>> {
    let tree = gathered(sum, inputs)?;
    let sheet = compute(sum, &tree)?;
    let taken: Map<String, Json> = sum
        .inputs
        .iter()
        .filter_map(|i| Some((i.key.to_owned(), inputs.get(i.key)?.clone())))
        .filter(|(_, v)| !v.is_null())
        .collect();
    let answers: Vec<Figure> = sum
        .answers
        .iter()
        .filter_map(|id| sheet.figures.iter().rev().find(|f| f.id == *id).cloned())
        .collect();
    let text = as_text(sum, &taken, &sheet, &answers);
    Ok(Slip {
        name: sum.name,
        title: sum.title,
        school: sum.school,
        inputs: taken,
        answers,
        figures: sheet.figures,
        checks: sheet.checks,
        text,
    })
}

fn said(figure: &Figure) -> String {
    match &figure.value {
        Some(Value::Number(n)) => {
            format!("{} {}", crate::traced::number(*n), figure.unit.sign()).trim_end().to_owned()
        }
        Some(Value::Text(t)) => t.clone(),
        Some(Value::Flag(f)) => if *f { "yes" } else { "no" }.to_owned(),
        None if figure.missing.is_empty() => {
            figure.note.clone().unwrap_or_else(|| "none".to_owned())
        }
        None => format!("open: {} missing", figure.missing.join(", ")),
    }
}

fn as_text(sum: &Sum, inputs: &Map<String, Json>, sheet: &Sheet, answers: &[Figure]) -> String {
    let mut out = vec![sum.title.to_owned(), String::new()];
    for i in sum.inputs {
        if let Some(value) = inputs.get(i.key) {
            let value = value.as_str().map_or_else(|| value.to_string(), str::to_owned);
            out.push(format!("{}: {value} {}", i.title, i.unit).trim_end().to_owned());
        }
    }
    out.push(String::new());
    for f in answers {
        out.push(format!("{} = {}   [{}]", f.title, said(f), f.source));
        out.push(cases::working(f));
    }
    for c in sheet.checks.iter().filter(|c| !c.alternative) {
        let word = match c.verdict {
            Verdict::Pass => "holds",
            Verdict::Warn => "CAUTION",
            Verdict::Fail => "STOP",
            Verdict::Unknown => "open",
        };
        let reason = c.reason.as_ref().map_or_else(String::new, |r| format!(": {r}"));
        out.push(format!("{word}: {}{reason}", c.title));
    }
    out.push("The local code and a licensed person have the last word.".to_owned());
    out.join("\n") + "\n"
}

/// A sum as a job: its site, module, inverter and string where it has them, and its slip as the
/// job's notes.
///
/// # Errors
/// As [`run`].
pub fn into_job(sum: &'static Sum, inputs: &Map<String, Json>) -> Result<JobFile, Vec<Problem>> {
    let slip = run(sum, inputs)?;
    let tree = gathered(sum, inputs)?;
    let mut job = Job::new(format!("Quick sum: {}", sum.title), sum.school);
    job.notes = slip.text.chars().take(4000).collect();
    let mut library = Library::default();
    let number = |pointer: &str| Json::Object(tree.clone()).pointer(pointer).and_then(Json::as_f64);
    job.site.t_min_c = number("/site/t_min_c");
    job.site.t_max_c = number("/site/t_max_c");
    if let Some(mounting) = Json::Object(tree.clone()).pointer("/site/mounting") {
        job.site.mounting = serde_json::from_value(mounting.clone()).ok();
    }
    let head = json!({ "sheet": "quick-sum", "revision": 1, "maker": "typed into a quick sum",
        "model": "typed" });
    if let Some(ratings) = tree.get("module") {
        let mut document = head.clone();
        document["ratings"] = ratings.clone();
        if let Ok(module) = serde_json::from_value::<ModuleSheet>(document) {
            library.modules.push(module);
        }
    }
    if let Some(inverter) = tree.get("inverter") {
        let mut document = head;
        let (mut mppt, mut whole) = (Map::new(), Map::new());
        for (key, value) in inverter.as_object().into_iter().flatten() {
            let own = matches!(key.as_str(), "vdc_max_v" | "start_v" | "dc_w_max_w");
            if own { &mut whole } else { &mut mppt }.insert(key.clone(), value.clone());
        }
        document["mppts"] = json!([mppt]);
        document.as_object_mut().expect("it is one").extend(whole);
        if let Ok(inverter) = serde_json::from_value::<InverterSheet>(document) {
            library.inverters.push(inverter);
        }
    }
    if let (Some(module), Some(inverter), Some(n)) =
        (library.modules.first(), library.inverters.first(), number("/n"))
    {
        job.site.faces.push(Face {
            id: "face1".into(),
            name: "Face 1".to_owned(),
            tilt_deg: 30.0,
            azimuth_deg: 180.0,
        });
        job.inverters.push(JobInverter {
            id: "INV1".into(),
            sheet: inverter.reference(),
            phase: None,
        });
        let strings = number("/p").unwrap_or(1.0).clamp(1.0, 26.0) as u8;
        job.strings = (0..strings)
            .map(|i| JobString {
                letter: char::from(b'A' + i).to_string().into(),
                face: "face1".into(),
                module: module.reference(),
                n: n as u32,
                inverter: "INV1".into(),
                mppt: 1,
                ..JobString::default()
            })
            .collect();
        settle(&mut job, &mut Vec::new());
    } else {
        library = Library::default();
    }
    let problems = crate::job::validate(&JobFile::new(job.clone(), library.clone(), Vec::new()));
    if problems.is_empty() { Ok(JobFile::new(job, library, Vec::new())) } else { Err(problems) }
}
