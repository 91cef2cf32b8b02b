//! From text to a job file: size, JSON, version, schema, meaning. All problems at once.

use std::sync::LazyLock;

use jsonschema::error::{TypeKind, ValidationErrorKind};
use jsonschema::{ValidationError, Validator};
use serde::Serialize;
use serde_json::Value;
use utoipa::ToSchema;

use super::{JobFile, json_schema, migrate::migrate, validate};

/// Largest job file that is read, in bytes.
pub const MAX_FILE_BYTES: usize = 4 * 1024 * 1024;

/// Most problems named in one answer.
const MAX_PROBLEMS: usize = 100;

/// Something wrong in a job file: where, what, and what would be right.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, ToSchema)]
pub struct Problem {
    /// JSON pointer into the file.
    pub path: String,
    /// What is wrong.
    pub message: String,
    /// What would be right.
    #[serde(skip_serializing_if = "String::is_empty")]
    pub hint: String,
}

impl Problem {
    /// A problem at a place.
    pub fn new(path: impl Into<String>, message: impl Into<String>, hint: impl Into<String>) -> Self {
        Problem { path: path.into(), message: message.into(), hint: hint.into() }
    }
}

/// A job file that was read, and what its migration changed.
#[derive(Debug)]
pub struct Opened {
    /// The file in the current version.
    pub file: JobFile,
    /// Changes an older version needed.
    pub changes: Vec<String>,
}

/// Reads a job file.
///
/// # Errors
/// Every problem found, each with its place: too large, not JSON, an unknown version, fields that are
/// unknown, missing, of the wrong type or out of range, references that lead nowhere.
pub fn read(text: &str) -> Result<Opened, Vec<Problem>> {
    if text.len() > MAX_FILE_BYTES {
        let message = format!("the file has {} bytes; a job file has {MAX_FILE_BYTES} at most", text.len());
        return Err(vec![Problem::new("", message, "is this the right file?")]);
    }
    let text = text.strip_prefix('\u{feff}').unwrap_or(text);
    let value = serde_json::from_str(text)
        .map_err(|e| vec![Problem::new("", format!("not JSON: {e}"), "a job file is one JSON object, as the application exports it")])?;
    read_value(value)
}

/// Reads a job file that is already parsed.
///
/// # Errors
/// As [`read`].
pub fn read_value(mut value: Value) -> Result<Opened, Vec<Problem>> {
    static VALIDATOR: LazyLock<Validator> =
        LazyLock::new(|| jsonschema::validator_for(json_schema()).expect("the published schema is a schema"));
    let changes = migrate(&mut value).map_err(|message| vec![Problem::new("/version", message, "")])?;
    let mut problems = Vec::new();
    for error in VALIDATOR.iter_errors(&value) {
        describe(&error, &mut problems);
        if problems.len() >= MAX_PROBLEMS {
            break;
        }
    }
    if !problems.is_empty() {
        return Err(problems);
    }
    let file: JobFile = serde_json::from_value(value).map_err(|e| vec![Problem::new("", e.to_string(), "")])?;
    let problems = validate(&file);
    if problems.is_empty() { Ok(Opened { file, changes }) } else { Err(problems) }
}

fn describe(error: &ValidationError, problems: &mut Vec<Problem>) {
    let path = error.instance_path().as_str().to_owned();
    match error.kind() {
        ValidationErrorKind::AdditionalProperties { unexpected } => {
            for field in unexpected {
                problems.push(Problem::new(format!("{path}/{field}"), format!("unknown field `{field}`"), nearest(field, &path)));
            }
        }
        // An optional object is written as "null or the object": what is wrong is what the object says.
        ValidationErrorKind::OneOfNotValid { context } | ValidationErrorKind::AnyOf { context } => {
            let says_null = |branch: &&Vec<ValidationError>| {
                !branch.iter().any(|e| {
                    e.instance_path().as_str() == path
                        && matches!(e.kind(), ValidationErrorKind::Type { kind: TypeKind::Single(t) } if t.to_string() == "null")
                })
            };
            for inner in context.iter().filter(says_null).flatten() {
                describe(inner, problems);
            }
        }
        ValidationErrorKind::Required { property } => {
            let field = property.as_str().unwrap_or_default();
            problems.push(Problem::new(format!("{path}/{field}"), format!("`{field}` is missing"), "it has to be there"));
        }
        ValidationErrorKind::Type { kind } => {
            let wanted = match kind {
                TypeKind::Single(t) => t.to_string(),
                // Null stands for "not known" everywhere: what is wanted is the other.
                TypeKind::Multiple(set) => set.iter().map(|t| t.to_string()).filter(|t| t != "null").collect::<Vec<_>>().join(" or "),
            };
            problems.push(Problem::new(path, format!("{} is not of the type {wanted}", short(error)), format!("write a {wanted}")));
        }
        ValidationErrorKind::Minimum { limit } => {
            problems.push(Problem::new(path, format!("{} is too small", short(error)), format!("at least {limit}")));
        }
        ValidationErrorKind::Maximum { limit } => {
            problems.push(Problem::new(path, format!("{} is too large", short(error)), format!("at most {limit}")));
        }
        ValidationErrorKind::MinLength { .. } => problems.push(Problem::new(path, "is empty", "write at least one character")),
        ValidationErrorKind::MaxLength { limit } => {
            problems.push(Problem::new(path, "is too long", format!("at most {limit} characters")));
        }
        ValidationErrorKind::MinItems { limit } => problems.push(Problem::new(path, "has too few entries", format!("at least {limit}"))),
        ValidationErrorKind::MaxItems { limit } => problems.push(Problem::new(path, "has too many entries", format!("at most {limit}"))),
        ValidationErrorKind::Enum { options } => {
            let options: Vec<&str> = options.as_array().into_iter().flatten().filter_map(Value::as_str).collect();
            problems.push(Problem::new(path, format!("{} is not known here", short(error)), format!("one of {}", options.join(", "))));
        }
        ValidationErrorKind::Pattern { pattern } => {
            problems.push(Problem::new(path, format!("{} is not of the right form", short(error)), format!("it must match {pattern}")));
        }
        _ => problems.push(Problem::new(path, error.to_string(), "")),
    }
}

/// The offending value, shortened for a sentence.
fn short(error: &ValidationError) -> String {
    let text = error.instance().to_string();
    if text.chars().count() > 60 { format!("{}…", text.chars().take(60).collect::<String>()) } else { text }
}

/// The known field of the object at `path` that is most like `field`.
fn nearest(field: &str, path: &str) -> String {
    let known = known_fields(path);
    let best = known.iter().map(|k| (strsim::damerau_levenshtein(field, k), k)).min();
    match best {
        Some((distance, name)) if distance <= 3.max(field.len() / 3) => format!("did you mean `{name}`?"),
        _ if known.is_empty() => "take it out".to_owned(),
        _ => format!("known here: {}", known.join(", ")),
    }
}

/// The fields the schema knows at a path of the document.
fn known_fields(path: &str) -> Vec<String> {
    let root = json_schema();
    let mut schema = root;
    for part in path.split('/').skip(1) {
        let object = resolve(root, schema);
        schema = match object.get("items") {
            Some(items) if part.parse::<usize>().is_ok() => items,
            _ => match object.get("properties").and_then(|p| p.get(part)) {
                Some(property) => property,
                None => return Vec::new(),
            },
        };
    }
    let properties = resolve(root, schema).get("properties").and_then(Value::as_object);
    properties.map(|p| p.keys().cloned().collect()).unwrap_or_default()
}

fn resolve<'a>(root: &'a Value, schema: &'a Value) -> &'a Value {
    let alternative = schema.get("oneOf").and_then(Value::as_array).and_then(|a| a.iter().find(|s| s.get("$ref").is_some()));
    let schema = alternative.unwrap_or(schema);
    match schema.get("$ref").and_then(Value::as_str) {
        Some(r) => root.pointer(r.trim_start_matches('#')).unwrap_or(schema),
        None => schema,
    }
}
