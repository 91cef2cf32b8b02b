//! JSON Schemas made from the types, and what is wrong with a document by one of them, in words.

use jsonschema::error::{TypeKind, ValidationErrorKind};
use jsonschema::{ValidationError, Validator};
use serde_json::{Map, Value, json};
use utoipa::ToSchema;
use utoipa::openapi::{RefOr, Schema as TypeSchema};

use crate::limits::{MOST_CIRCUITS, MOST_MODULES, MOST_NODES, MOST_WAYS};

use crate::problem::{LONGEST_WORD, Problem, Problems, shortened};

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
        for (name, mut schema) in parts {
            most_entries(&name, &mut schema);
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

    /// What is wrong with a document, each with its place.
    pub fn problems(&self, value: &Value) -> Vec<Problem> {
        let long = long_keys(value);
        if !long.is_empty() {
            return long;
        }
        let mut problems = Problems::default();
        for error in self.validator.iter_errors(value) {
            self.describe(&error, &mut problems);
            if problems.enough() {
                break;
            }
        }
        problems.told()
    }

    fn describe(&self, error: &ValidationError, problems: &mut Problems) {
        if problems.full() {
            problems.count();
            return;
        }
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
            ValidationErrorKind::MaxProperties { limit } => problems.push(Problem::new(
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

/// Longest key that is looked at; those of the format are much shorter.
const LONGEST_KEY: usize = 200;

/// Keys that are longer than any may be: each place below one would be as long.
fn long_keys(value: &Value) -> Vec<Problem> {
    let mut problems = Problems::default();
    let mut next = vec![value];
    while let Some(value) = next.pop() {
        match value {
            Value::Object(fields) => {
                for key in fields.keys().filter(|k| k.len() > LONGEST_KEY) {
                    let hint = format!("{LONGEST_KEY} letters at most");
                    let message = format!("the key `{}` is too long", shortened(key));
                    problems.push(Problem::new(format!("/{}", shortened(key)), message, hint));
                }
                next.extend(fields.values());
            }
            Value::Array(list) => next.extend(list),
            _ => {}
        }
    }
    problems.told()
}

/// The most entries of maps, by type and field: utoipa has no attribute for them.
const MOST_ENTRIES: [(&str, &str, usize); 4] = [
    ("Plan", "nodes", MOST_NODES),
    ("Plan", "ways", MOST_WAYS),
    ("Plan", "circuits", MOST_CIRCUITS),
    ("FaceMap", "modules", MOST_MODULES),
];

/// Puts the most entries of its maps into the schema of a type.
pub fn most_entries(name: &str, schema: &mut RefOr<TypeSchema>) {
    let RefOr::T(TypeSchema::Object(object)) = schema else { return };
    for (_, field, most) in MOST_ENTRIES.iter().filter(|(own, ..)| *own == name) {
        if let Some(RefOr::T(TypeSchema::Object(map))) = object.properties.get_mut(*field) {
            map.max_properties = Some(*most);
        }
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

/// The hint for a word that is not known: the known one most like it, where at most `most` letters
/// differ.
pub(crate) fn did_you_mean<'a>(
    word: &str,
    known: impl Iterator<Item = &'a str>,
    most: usize,
) -> Option<String> {
    // Words of any length would take time by their length, and nobody meant them.
    if word.chars().nth(LONGEST_WORD).is_some() {
        return None;
    }
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
