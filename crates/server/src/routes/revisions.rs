//! Revisions of a job: listed, named, read as they stood, compared, with their workings.

use heliant_core::compare::{Compared, compare};
use heliant_core::cures::{Cures, cures_of};
use heliant_core::figure::{Figure, Recording, Stage, Subject};
use heliant_core::job::Document;
use heliant_core::work::Work;
use rocket::data::Data;
use rocket::serde::json::Json;
use rocket::serde::uuid::Uuid;
use rocket::{State, get, put};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::body_json;
use crate::compute::Cost;
use crate::guard::{Guarded, Seated, Sees};
use crate::kept::{Asked, KeptJson, Question};
use crate::problem::{ApiError, ProblemBody};
use crate::records::{JobView, Stored};
use crate::store::Store;
use crate::store::accounts::Role;
use crate::store::revisions::{self as store_revisions, RevisionLine};

/// The newest five hundred revisions of a job, the newest first; of those before one where it is
/// named.
#[utoipa::path(
    context_path = "/api",
    tag = "jobs",
    params(
        ("id" = Uuid, Path),
        ("before" = Option<i32>, Query, description = "Only those with a lower number"),
    ),
    responses((status = 200, body = Vec<RevisionLine>)),
)]
#[get("/jobs/<id>/revisions?<before>")]
pub async fn revisions(
    seated: Result<Seated, ApiError>,
    id: Uuid,
    before: Option<i32>,
    store: &State<Store>,
) -> Result<Json<Vec<RevisionLine>>, ApiError> {
    let sees = seated?.sees;
    let mut all = store.run(move |db| store_revisions::list(db, id, before)).await?;
    if let (Sees::Outside(given), None) = (sees, before) {
        // Of the history they see the one revision they were given.
        let shown = given.or(all.first().map(|r| r.revision));
        all = store.run(move |db| store_revisions::one(db, id, shown)).await?;
    } else if sees != Sees::All {
        all.clear();
    }
    Ok(Json(all))
}

/// A name for a revision.
#[derive(Debug, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct RevisionName {
    /// The name; an empty one takes it away.
    #[schema(max_length = 80)]
    pub name: String,
}

/// Names a revision.
#[utoipa::path(
    operation_id = "name_revision",
    context_path = "/api",
    tag = "jobs",
    params(("id" = Uuid, Path), ("revision" = i32, Path)),
    request_body = RevisionName,
    responses(
        (status = 200, body = RevisionName),
        (status = 404, body = ProblemBody),
        (status = 422, body = ProblemBody),
    ),
)]
#[put("/jobs/<id>/revisions/<revision>/name", data = "<data>")]
pub async fn name(
    signed: Guarded,
    id: Uuid,
    revision: i32,
    data: Data<'_>,
    store: &State<Store>,
) -> Result<Json<RevisionName>, ApiError> {
    const LONGEST: usize = 80;
    let signed = signed?;
    let by = signed.at_least(Role::Designer)?.name.clone();
    let asked: RevisionName = body_json(data).await?;
    let name = asked.name.trim().to_owned();
    if name.chars().count() > LONGEST {
        return Err(ApiError::invalid(
            "/name",
            "is too long",
            format!("at most {LONGEST} characters"),
        ));
    }
    let kept = name.clone();
    store.run(move |db| store_revisions::name(db, id, revision, &kept, &by)).await?;
    Ok(Json(RevisionName { name }))
}

/// Two revisions side by side: what is otherwise in the plan and which verdicts moved, both with
/// the readings the job has now.
#[utoipa::path(
    operation_id = "compare_revisions",
    context_path = "/api",
    tag = "jobs",
    params(("id" = Uuid, Path), ("revision" = i32, Path), ("other" = i32, Path)),
    responses(
        (status = 200, body = Compared),
        (status = 404, body = ProblemBody),
    ),
)]
#[get("/jobs/<id>/revisions/<revision>/compare/<other>")]
pub async fn compare_with(
    signed: Guarded,
    id: Uuid,
    revision: i32,
    other: i32,
    question: Question,
) -> Result<KeptJson, ApiError> {
    signed?;
    let before = question.stored(id, revision).await?.document;
    let of = Asked { job: id, revision: Some(other), sees: Sees::All };
    let compared =
        move |stored: Stored, _: &Work| Ok(compare(&before, &stored.document, &stored.readings));
    question.json(of, format!("compare {revision}"), Cost::Quick, compared).await
}

/// A job as it stood at a revision.
#[utoipa::path(
    context_path = "/api",
    tag = "jobs",
    params(("id" = Uuid, Path), ("revision" = i32, Path)),
    responses(
        (status = 200, body = JobView),
        (status = 404, body = ProblemBody),
    ),
)]
#[get("/jobs/<id>/revisions/<revision>")]
pub async fn revision(
    seated: Result<Seated, ApiError>,
    id: Uuid,
    revision: i32,
    question: Question,
) -> Result<KeptJson, ApiError> {
    let of = seated?.at(id, revision);
    question.json(of, "view", Cost::Quick, |stored, _| Ok(JobView::from(stored))).await
}

/// The figures whose workings are asked for, with them: of a stage, or of a subject (as JSON), as
/// the job stood at a revision with the readings it has now.
#[utoipa::path(
    context_path = "/api",
    tag = "jobs",
    params(
        ("id" = Uuid, Path),
        ("revision" = i32, Path),
        ("stage" = Option<Stage>, Query),
        ("subject" = Option<String>, Query, description = "A subject as JSON"),
    ),
    responses(
        (status = 200, body = Vec<Figure>),
        (status = 404, body = ProblemBody),
        (status = 422, body = ProblemBody),
    ),
)]
#[get("/jobs/<id>/revisions/<revision>/workings?<stage>&<subject>")]
pub async fn workings(
    seated: Result<Seated, ApiError>,
    id: Uuid,
    revision: i32,
    stage: Option<&str>,
    subject: Option<&str>,
    question: Question,
) -> Result<KeptJson, ApiError> {
    let of = seated?.at(id, revision);
    let recording = asked(stage, subject)?;
    let what = format!("workings {}", serde_json::to_string(&(stage, subject)).unwrap_or_default());
    let worked = move |stored: Stored, _: &Work| Ok(stored.workings(&recording));
    question.json(of, what, Cost::Quick, worked).await
}

/// What would mend the checks of a subject, as the job stood at a revision: each cure was tried,
/// and mends its check without a new stop.
#[utoipa::path(
    operation_id = "cures",
    context_path = "/api",
    tag = "jobs",
    params(
        ("id" = Uuid, Path),
        ("revision" = i32, Path),
        ("subject" = String, Query, description = "A subject as JSON"),
    ),
    responses(
        (status = 200, body = Cures),
        (status = 404, body = ProblemBody),
        (status = 422, body = ProblemBody),
    ),
)]
#[get("/jobs/<id>/revisions/<revision>/cures?<subject>")]
pub async fn cures(
    signed: Guarded,
    id: Uuid,
    revision: i32,
    subject: Option<&str>,
    question: Question,
) -> Result<KeptJson, ApiError> {
    signed?;
    let asked = subject.unwrap_or_default();
    let subject: Subject = serde_json::from_str(asked).map_err(|e| {
        ApiError::invalid("/subject", format!("is no subject: {e}"), "one as the report has it")
    })?;
    let of = Asked { job: id, revision: Some(revision), sees: Sees::All };
    let tried = move |stored: Stored, work: &Work| {
        let Document { job, library } = &stored.document;
        Ok(cures_of(job, library, &subject, work))
    };
    question.json(of, format!("cures {asked}"), Cost::Dear, tried).await
}

/// Which workings are asked for; all of them where nothing is said.
fn asked(stage: Option<&str>, subject: Option<&str>) -> Result<Recording, ApiError> {
    let wrong = |place: &str, hint: &str| ApiError::invalid(place, "is not known here", hint);
    if let Some(subject) = subject {
        let subject: Subject = serde_json::from_str(subject)
            .map_err(|e| wrong("/subject", &format!("a subject as a report has it: {e}")))?;
        return Ok(Recording::Subject(subject));
    }
    let Some(word) = stage else { return Ok(Recording::Everything) };
    let stage: Option<Stage> = serde_json::from_value(word.into()).ok();
    let all = || {
        let words = Stage::ALL.iter().filter_map(|s| serde_json::to_value(s).ok());
        let words: Vec<String> = words.filter_map(|w| Some(w.as_str()?.to_owned())).collect();
        format!("one of {}", words.join(", "))
    };
    let stage = stage.ok_or_else(|| wrong("/stage", &all()))?;
    Ok(Recording::Stage(stage))
}
