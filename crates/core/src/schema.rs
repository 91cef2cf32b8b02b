//! JSON Schemas made from the types, and what is wrong with a document by one of them, in words.

use jsonschema::error::{TypeKind, ValidationErrorKind};
use jsonschema::{ValidationError, Validator};
use serde_json::{Map, Value, json};
use utoipa::ToSchema;

use crate::problem::Problem;

/// Most problems named in one answer.
const MAX_PROBLEMS: usize = 100;

/// The schema of a type, with its validator.
pub struct Schema {
    root: Value,
    validator: Validator,
}

impl Schema {
    /// The schema (draft 2020-12) of `T`, under a title.
    ///
    /// # Panics
    /// Where the type's schema is none.
    pub fn of<T: ToSchema>(title: &str) -> Schema {
        let mut parts = Vec::new();
        T::schemas(&mut parts);
        let mut defs = Map::new();
        for (name, schema) in parts {
            defs.insert(name, to_value(&schema));
        }
        let mut root = to_value(&T::schema());
        let object = root.as_object_mut().expect("a type with fields is an object");
        object.insert("$schema".to_owned(), json!("https://json-schema.org/draft/2020-12/schema"));
        object.insert("title".to_owned(), json!(title));
        object.insert("$defs".to_owned(), Value::Object(defs));
        let validator = jsonschema::options().should_validate_formats(true).build(&root);
        let validator = validator.expect("what is made from a type is a schema");
        Schema { root, validator }
    }

    /// The schema itself.
    pub fn json(&self) -> &Value {
        &self.root
    }

    /// Everything wrong with a document, each with its place.
    pub fn problems(&self, value: &Value) -> Vec<Problem> {
        let mut problems = Vec::new();
        for error in self.validator.iter_errors(value) {
            self.describe(&error, &mut problems);
            if problems.len() >= MAX_PROBLEMS {
                break;
            }
        }
        problems
    }

    fn describe(&self, error: &ValidationError, problems: &mut Vec<Problem>) {
        let path = error.instance_path().as_str().to_owned();
        match error.kind() {
            ValidationErrorKind::AdditionalProperties { unexpected } => {
                for field in unexpected {
                    problems.push(Problem::new(
                        format!("{path}/{field}"),
                        format!("unknown field `{field}`"),
                        self.nearest(field, &path),
                    ));
                }
            }
            // An optional object is written as "null or the object": what is wrong is what the
            // object says.
            ValidationErrorKind::OneOfNotValid { context }
            | ValidationErrorKind::AnyOf { context } => {
                let says_null = |branch: &&Vec<ValidationError>| {
                    !branch.iter().any(|e| {
                        e.instance_path().as_str() == path
                            && matches!(e.kind(), ValidationErrorKind::Type {
                                kind: TypeKind::Single(t) } if t.to_string() == "null")
                    })
                };
                for inner in context.iter().filter(says_null).flatten() {
                    self.describe(inner, problems);
                }
            }
            ValidationErrorKind::Required { property } => {
                let field = property.as_str().unwrap_or_default();
                problems.push(Problem::new(
                    format!("{path}/{field}"),
                    format!("`{field}` is missing"),
                    "it has to be there",
                ));
            }
            ValidationErrorKind::Type { kind } => {
                let wanted = match kind {
                    TypeKind::Single(t) => t.to_string(),
                    // Null stands for "not known" everywhere: what is wanted is the other.
                    TypeKind::Multiple(set) => set
                        .iter()
                        .map(|t| t.to_string())
                        .filter(|t| t != "null")
                        .collect::<Vec<_>>()
                        .join(" or "),
                };
                problems.push(Problem::new(
                    path,
                    format!("{} is not of the type {wanted}", short(error)),
                    format!("write a {wanted}"),
                ));
            }
            ValidationErrorKind::Minimum { limit } => {
                problems.push(Problem::new(
                    path,
                    format!("{} is too small", short(error)),
                    format!("at least {limit}"),
                ));
            }
            ValidationErrorKind::Maximum { limit } => {
                problems.push(Problem::new(
                    path,
                    format!("{} is too large", short(error)),
                    format!("at most {limit}"),
                ));
            }
            ValidationErrorKind::MinLength { .. } => {
                problems.push(Problem::new(path, "is empty", "write at least one character"))
            }
            ValidationErrorKind::MaxLength { limit } => {
                problems.push(Problem::new(
                    path,
                    "is too long",
                    format!("at most {limit} characters"),
                ));
            }
            ValidationErrorKind::MinItems { limit } => problems.push(Problem::new(
                path,
                "has too few entries",
                format!("at least {limit}"),
            )),
            ValidationErrorKind::MaxItems { limit } => problems.push(Problem::new(
                path,
                "has too many entries",
                format!("at most {limit}"),
            )),
            ValidationErrorKind::Enum { options } => {
                let options: Vec<&str> =
                    options.as_array().into_iter().flatten().filter_map(Value::as_str).collect();
                problems.push(Problem::new(
                    path,
                    format!("{} is not known here", short(error)),
                    format!("one of {}", options.join(", ")),
                ));
            }
            ValidationErrorKind::Format { format } if format == "date-time" => {
                problems.push(Problem::new(
                    path,
                    format!("{} is no date and time", short(error)),
                    "as RFC 3339 writes it, 2026-10-14T17:36:00Z",
                ));
            }
            ValidationErrorKind::Pattern { pattern } => {
                problems.push(Problem::new(
                    path,
                    format!("{} is not of the right form", short(error)),
                    format!("it must match {pattern}"),
                ));
            }
            _ => problems.push(Problem::new(path, error.to_string(), "")),
        }
    }

    /// The known field of the object at `path` that is most like `field`.
    fn nearest(&self, field: &str, path: &str) -> String {
        let known = self.known_fields(path);
        did_you_mean(field, known.iter().map(String::as_str), 3.max(field.len() / 3))
            .unwrap_or_else(|| match known.as_slice() {
                [] => "take it out".to_owned(),
                _ => format!("known here: {}", known.join(", ")),
            })
    }

    /// The fields the schema knows at a path of the document.
    fn known_fields(&self, path: &str) -> Vec<String> {
        let root = &self.root;
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
}

fn to_value(schema: &impl serde::Serialize) -> Value {
    let text = serde_json::to_string(schema).expect("a schema serialises");
    let text = text.replace("#/components/schemas/", "#/$defs/");
    serde_json::from_str(&text).expect("what was written is JSON")
}

/// The offending value, shortened for a sentence.
fn short(error: &ValidationError) -> String {
    shortened(&error.instance().to_string())
}

/// At most sixty characters of a text, for a sentence.
pub(crate) fn shortened(text: &str) -> String {
    if text.chars().count() > 60 {
        format!("{}…", text.chars().take(60).collect::<String>())
    } else {
        text.to_owned()
    }
}

/// The hint for a word that is not known: the known one most like it, where at most `most` letters
/// differ.
pub(crate) fn did_you_mean<'a>(
    word: &str,
    known: impl Iterator<Item = &'a str>,
    most: usize,
) -> Option<String> {
    let best = known.map(|k| (strsim::damerau_levenshtein(word, k), k)).min();
    best.filter(|(distance, _)| *distance <= most)
        .map(|(_, name)| format!("did you mean `{name}`?"))
}

fn resolve<'a>(root: &'a Value, schema: &'a Value) -> &'a Value {
    let alternative = schema
        .get("oneOf")
        .and_then(Value::as_array)
        .and_then(|a| a.iter().find(|s| s.get("$ref").is_some()));
    let schema = alternative.unwrap_or(schema);
    match schema.get("$ref").and_then(Value::as_str) {
        Some(r) => root.pointer(r.trim_start_matches('#')).unwrap_or(schema),
        None => schema,
    }
}
