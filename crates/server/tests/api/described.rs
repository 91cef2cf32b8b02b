//! Every answer the tests get is held against the API's own description: status and content type
//! have to be what it says.

use std::sync::LazyLock;

use rocket::http::Method;
use serde_json::Value;

static DESCRIPTION: LazyLock<Value> =
    LazyLock::new(|| serde_json::from_str(&heliant_server::openapi_text()).expect("JSON"));

/// The operation that a call reaches: of several, the one with the fewest parameters.
fn operation(method: Method, path: &str) -> Option<&'static Value> {
    let path = path.split(['?', '#']).next().unwrap_or_default();
    let parts: Vec<&str> = path.split('/').collect();
    let fits = |template: &str| {
        let of: Vec<&str> = template.split('/').collect();
        let same = |(t, p): (&&str, &&str)| (t.starts_with('{') && !p.is_empty()) || t == p;
        of.len() == parts.len() && of.iter().zip(&parts).all(same)
    };
    let method = method.as_str().to_lowercase();
    DESCRIPTION["paths"]
        .as_object()?
        .iter()
        .filter(|(template, item)| fits(template) && item.get(&method).is_some())
        .min_by_key(|(template, _)| template.matches('{').count())
        .map(|(_, item)| &item[&method])
}

/// Fails where an answer is not described.
pub fn check(method: Method, path: &str, status: u16, content_type: Option<&str>) {
    if path == "/api/openapi.json" || !path.starts_with("/api/") {
        return;
    }
    let Some(operation) = operation(method, path) else {
        // No such address: refused like everything else.
        assert!(status >= 400, "{method} {path} is answered with {status} and not described");
        return;
    };
    let responses = &operation["responses"];
    let described = match responses.get(status.to_string()) {
        Some(own) => own,
        None => {
            assert!(status >= 400, "{method} {path}: {status} is not described");
            &responses["default"]
        }
    };
    let types: Vec<&str> =
        described["content"].as_object().into_iter().flatten().map(|(t, _)| t.as_str()).collect();
    let own = content_type.map(|t| t.split(';').next().unwrap_or_default().trim());
    match own {
        None => {
            assert!(types.is_empty(), "{method} {path}: {status} has no content, not {types:?}")
        }
        Some(own) => assert!(
            types.contains(&own),
            "{method} {path}: {status} comes as {own}, described is {types:?}"
        ),
    }
}
