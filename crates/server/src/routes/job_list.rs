//! The list of jobs: found, sorted, put away and taken back, deleted.

use heliant_core::figure::Verdict;
use heliant_core::school::School;
use rocket::data::Data;
use rocket::http::Status;
use rocket::serde::json::Json;
use rocket::serde::uuid::Uuid;
use rocket::{FromForm, State, delete, get, put};
use serde::{Deserialize, Serialize};
use utoipa::{IntoParams, ToSchema};

use super::{body_json, words};
use crate::guard::{Anybody, Guarded, Sees};
use crate::kept::{Asked, Question};
use crate::problem::{ApiError, ProblemBody};
use crate::store::Store;
use crate::store::accounts::Role;
use crate::store::guests;
use crate::store::job_list::{self as store_list, JobLine, JobOrder, JobPage, Wanted};

/// What is looked for, and in what order.
#[derive(Debug, FromForm, IntoParams)]
#[into_params(parameter_in = Query)]
pub struct Ask<'r> {
    /// Words, the first eight of them: every one in name, address, notes or person.
    find: Option<&'r str>,
    /// From 0 on, a hundred jobs each.
    page: Option<u32>,
    /// Worst verdict.
    #[param(value_type = Option<Verdict>)]
    verdict: Option<&'r str>,
    /// School of practice.
    #[param(value_type = Option<School>)]
    school: Option<&'r str>,
    /// Who touched it last.
    by: Option<&'r str>,
    /// Only those that wait for a decision on a data sheet.
    waits: Option<bool>,
    /// Those that were put away instead of the others.
    archived: Option<bool>,
    /// Templates instead of jobs.
    templates: Option<bool>,
    /// Order.
    #[param(inline)]
    order: Option<JobOrder>,
}

/// A page of the jobs that are looked for.
#[utoipa::path(
    operation_id = "list_jobs",
    context_path = "/api",
    tag = "jobs",
    params(Ask),
    responses((status = 200, body = JobPage), (status = 401, body = ProblemBody)),
)]
#[get("/jobs?<ask..>")]
pub async fn list(
    anybody: Result<Anybody, ApiError>,
    ask: Ask<'_>,
    question: Question,
    store: &State<Store>,
) -> Result<Json<JobPage>, ApiError> {
    let account = anybody?.0;
    let seat_of = (account.role == Role::Inspector).then_some(account.id);
    let own = |text: Option<&str>| text.filter(|t| !t.is_empty()).map(str::to_owned);
    let wanted = Wanted {
        words: words(ask.find),
        verdict: own(ask.verdict),
        school: own(ask.school),
        by: own(ask.by),
        waits: ask.waits.unwrap_or_default(),
        archived: ask.archived.unwrap_or_default(),
        templates: ask.templates.unwrap_or_default(),
        seat_of,
        order: ask.order.unwrap_or_default(),
    };
    let page = ask.page.unwrap_or(0);
    let mut found = store.run(move |db| store_list::list(db, &wanted, page)).await?;
    if let Some(guest) = seat_of {
        for line in &mut found.jobs {
            let job = line.id;
            let given = store.run(move |db| guests::seat_at(db, guest, job)).await?.flatten();
            if let Some(revision) = given.filter(|given| *given != line.revision) {
                stands_as_given(line, revision, &question).await?;
            }
        }
    }
    Ok(Json(found))
}

/// A line of the list for somebody who sees another revision than the present one.
async fn stands_as_given(
    line: &mut JobLine,
    revision: i32,
    question: &Question,
) -> Result<(), ApiError> {
    let of = Asked { job: line.id, revision: Some(revision), sees: Sees::All };
    let then = question.asked(of, |stored| {
        let report = stored.report();
        let counts = serde_json::to_value(report.counts);
        let counts = counts.map_err(|e| ApiError::Internal(e.to_string()))?;
        Ok((report.verdict.word(), counts, stored.saved_at, stored.saved_by))
    });
    let (verdict, counts, saved_at, saved_by) = then.await?;
    (line.revision, line.counts, line.updated_at) = (revision, counts, saved_at);
    verdict.clone_into(&mut line.verdict);
    line.updated_by = saved_by;
    Ok(())
}

/// Whether a job is put away.
#[derive(Debug, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Archive {
    /// It is not in the list.
    pub archived: bool,
}

/// Puts a job away or takes it back; nothing in it changes.
#[utoipa::path(
    operation_id = "archive_job",
    context_path = "/api",
    tag = "jobs",
    params(("id" = Uuid, Path)),
    request_body = Archive,
    responses(
        (status = 200, body = Archive),
        (status = 404, body = ProblemBody),
    ),
)]
#[put("/jobs/<id>/archived", data = "<data>")]
pub async fn archive(
    signed: Guarded,
    id: Uuid,
    data: Data<'_>,
    store: &State<Store>,
) -> Result<Json<Archive>, ApiError> {
    let signed = signed?;
    signed.at_least(Role::Designer)?;
    let asked: Archive = body_json(data).await?;
    let archived = asked.archived;
    store.run(move |db| store_list::archive(db, id, archived)).await?;
    Ok(Json(asked))
}

/// Deletes a job with its revisions and readings, for good. The owner types what it is called.
#[utoipa::path(
    operation_id = "delete_job",
    context_path = "/api",
    tag = "jobs",
    params(
        ("id" = Uuid, Path),
        ("name" = String, Query, description = "What the job is called"),
    ),
    responses(
        (status = 204),
        (status = 403, body = ProblemBody),
        (status = 404, body = ProblemBody),
        (status = 422, body = ProblemBody),
    ),
)]
#[delete("/jobs/<id>?<name>")]
pub async fn delete(
    signed: Guarded,
    id: Uuid,
    name: Option<&str>,
    store: &State<Store>,
) -> Result<Status, ApiError> {
    let signed = signed?;
    let by = signed.at_least(Role::Owner)?.sign_in.clone();
    let name = name.unwrap_or_default().to_owned();
    store.run(move |db| store_list::delete(db, id, &name)).await?;
    tracing::info!(job = %id, by, "a job was deleted");
    Ok(Status::NoContent)
}
