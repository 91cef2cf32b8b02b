//! The description of the API as it goes out: what every refusal looks like is said once, here.

use utoipa::openapi::{Content, OpenApi, RefOr, Response};

/// The content type of a refusal (RFC 9457).
const PROBLEM: &str = "application/problem+json";

/// Refusals carry their own content type, and every call may refuse in ways it does not name one by
/// one: nobody signed in, a role that is too small, a database that is away.
pub(crate) fn completed(mut api: OpenApi) -> OpenApi {
    for item in api.paths.paths.values_mut() {
        let calls =
            [&mut item.get, &mut item.put, &mut item.post, &mut item.delete, &mut item.patch];
        for call in calls.into_iter().flatten() {
            let all = &mut call.responses.responses;
            for (status, response) in all.iter_mut() {
                if let (RefOr::T(response), true) = (response, status.as_str() >= "400") {
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

fn problem() -> Content {
    Content::new(Some(utoipa::openapi::Ref::from_schema_name("ProblemBody")))
}
