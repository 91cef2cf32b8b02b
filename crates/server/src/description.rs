//! The description of the API as it goes out: what every refusal looks like is said once, here.

use heliant_core::schema::most_entries;
use utoipa::openapi::{Content, OpenApi, RefOr, Response};

/// The content type of a refusal (RFC 9457).
const PROBLEM: &str = "application/problem+json";

/// Refusals carry their own content type, and every call may refuse in ways it does not name one by
/// one: nobody signed in, a role that is too small, a database that is away.
pub(crate) fn completed(mut api: OpenApi) -> OpenApi {
    for (name, schema) in api.components.iter_mut().flat_map(|c| &mut c.schemas) {
        most_entries(name, schema);
    }
    for item in api.paths.paths.values_mut() {
        let calls =
            [&mut item.get, &mut item.put, &mut item.post, &mut item.delete, &mut item.patch];
        for call in calls.into_iter().flatten() {
            let all = &mut call.responses.responses;
            for (status, response) in all.iter_mut() {
                let RefOr::T(response) = response else { continue };
                if response.description.is_empty() {
                    said(status).clone_into(&mut response.description);
                }
                if status.as_str() >= "400" {
                    let content = std::mem::take(&mut response.content);
                    let renamed = content.into_iter().map(|(_, c)| (PROBLEM.to_owned(), c));
                    response.content = renamed.collect();
                }
            }
            let mut any = Response::new("Any other refusal");
            any.content.insert(PROBLEM.to_owned(), RefOr::T(problem()));
            all.insert("default".to_owned(), RefOr::T(any));
        }
    }
    api
}

/// What an answer of a status is, where the call itself says no more.
fn said(status: &str) -> &'static str {
    match status {
        "200" => "The answer",
        "204" => "Done, and there is nothing to say",
        "401" => "Nobody is signed in, or the password is wrong",
        "403" => "The role does not allow it",
        "404" => "There is no such thing, or it is not for who asks",
        "409" => "Something else came before",
        "413" => "The body is too large",
        "422" => "Something that was sent is not right; every problem with its place",
        "429" => "Too many at once, or too often",
        _ => "Refused",
    }
}

fn problem() -> Content {
    Content::new(Some(utoipa::openapi::Ref::from_schema_name("ProblemBody")))
}
