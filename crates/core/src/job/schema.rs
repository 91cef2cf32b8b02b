//! The published JSON Schema of the job file, made from the types.

use std::sync::LazyLock;

use serde_json::{Map, Value, json};
use utoipa::{PartialSchema, ToSchema};

use super::JobFile;

/// The JSON Schema (draft 2020-12) of the current version.
pub fn json_schema() -> &'static Value {
    static SCHEMA: LazyLock<Value> = LazyLock::new(build);
    &SCHEMA
}

fn build() -> Value {
    let mut parts = Vec::new();
    JobFile::schemas(&mut parts);
    let mut defs = Map::new();
    for (name, schema) in parts {
        defs.insert(name, to_value(&schema));
    }
    let mut root = to_value(&JobFile::schema());
    let object = root.as_object_mut().expect("a job file is an object");
    object.insert("$schema".to_owned(), json!("https://json-schema.org/draft/2020-12/schema"));
    object.insert("title".to_owned(), json!("Heliant job file"));
    object.insert("$defs".to_owned(), Value::Object(defs));
    root
}

fn to_value(schema: &impl serde::Serialize) -> Value {
    let text = serde_json::to_string(schema).expect("a schema serialises");
    let text = text.replace("#/components/schemas/", "#/$defs/");
    serde_json::from_str(&text).expect("what was written is JSON")
}
