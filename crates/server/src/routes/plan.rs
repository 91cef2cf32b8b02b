//! Questions about a plan that need not be saved: what it comes to, the ways to wire it, what a
//! newer data sheet does.

use heliant_core::evaluate;
use heliant_core::job::{Command, Job, MAX_PLAN_BYTES, commanded, read_job};
use heliant_core::library::Library;
use heliant_core::search::{Ways, WaysAsk, ask_of, ways as find_ways};
use heliant_core::watch::{Watch, newer, watch as watch_sheet};
use rocket::data::Data;
use rocket::serde::json::Json;
use rocket::serde::uuid::Uuid;
use rocket::{State, get, post};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::jobs::parse_plan;
use super::{body_text, parsed};
use crate::compute::{Asker, Cost};
use crate::guard::Guarded;
use crate::packed::PackedReport;
use crate::problem::{ApiError, ProblemBody};
use crate::store::{Store, jobs as store_jobs, library as store_library};

/// A plan that is tried out.
#[derive(Debug, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Trial {
    /// The job.
    pub job: Job,
    /// Its data sheets.
    pub library: Library,
}

/// What a plan comes to; nothing is kept.
#[utoipa::path(
    operation_id = "try_plan",
    context_path = "/api",
    tag = "plan",
    request_body = Trial,
    responses(
        (status = 200, body = PackedReport),
        (status = 422, body = ProblemBody),
    ),
)]
#[post("/try", data = "<data>")]
pub async fn trial(
    signed: Guarded,
    asker: Asker,
    data: Data<'_>,
) -> Result<Json<PackedReport>, ApiError> {
    signed?;
    let text = body_text(data, MAX_PLAN_BYTES).await?;
    let report = asker.quick(move || {
        let (_, plan) = parse_plan(&text, &[])?;
        Ok::<_, ApiError>(evaluate(&plan.job, &plan.library, &[]).into())
    });
    Ok(Json(report.await??))
}

/// A question for the ways to wire a plan.
#[derive(Debug, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct AskWays {
    /// The job.
    pub job: Job,
    /// Its data sheets.
    pub library: Library,
    /// The question; what the job has now where absent.
    #[serde(default)]
    pub ask: Option<WaysAsk>,
}

/// The ways to wire a plan, ranked.
#[utoipa::path(
    operation_id = "ways",
    context_path = "/api",
    tag = "plan",
    request_body = AskWays,
    responses((status = 200, body = Ways), (status = 422, body = ProblemBody)),
)]
#[post("/ways", data = "<data>")]
pub async fn ways(
    signed: Guarded,
    asker: Asker,
    data: Data<'_>,
    store: &State<Store>,
) -> Result<Json<Ways>, ApiError> {
    signed?;
    let text = body_text(data, MAX_PLAN_BYTES).await?;
    let (mut rest, plan) = asker.quick(move || parse_plan(&text, &["ask"])).await??;
    let ask = match rest.remove("ask").filter(|a| !a.is_null()) {
        Some(ask) => serde_json::from_value::<WaysAsk>(ask)
            .map_err(|e| ApiError::invalid("/ask", e.to_string(), "see /api/openapi.json"))?,
        None => ask_of(&plan.job, &plan.library).ok_or_else(|| {
            ApiError::invalid("/job/strings", "there is no module yet", "add a string first")
        })?,
    };
    let (company, others) = store
        .run(|db| {
            let company = store_library::all(db)?;
            let others = store_library::offered(db, &company)?.inverters;
            Ok((company, others))
        })
        .await?;
    let mut library = plan.library;
    if library.module(&ask.module).is_none() {
        library.modules.extend(company.module(&ask.module).cloned());
    }
    let place = asker.place(Cost::Dear).await?;
    let found = place.run(move |work| find_ways(&plan.job, &library, &ask, &others, work)).await?;
    Ok(Json(found.map_err(ApiError::Invalid)?))
}

/// What newer data sheets do to a job, with the repairs.
#[utoipa::path(
    operation_id = "watch",
    context_path = "/api",
    tag = "plan",
    params(("id" = Uuid, Path)),
    responses(
        (status = 200, body = Vec<Watch>),
        (status = 404, body = ProblemBody),
    ),
)]
#[get("/jobs/<id>/watch")]
pub async fn watch(
    signed: Guarded,
    asker: Asker,
    id: Uuid,
    store: &State<Store>,
) -> Result<Json<Vec<Watch>>, ApiError> {
    signed?;
    let (stored, company, others) = store
        .run(move |db| {
            let stored = store_jobs::get(db, id, None)?;
            let company = store_library::all(db)?;
            let others = store_library::offered(db, &company)?.inverters;
            Ok((stored, company, others))
        })
        .await?;
    let place = asker.place(Cost::Dear).await?;
    let found = place.run(move |work| {
        let (job, held) = (&stored.document.job, &stored.document.library);
        let concerned = newer(job, held, &company);
        let each = concerned.iter().take_while(|_| work.goes_on());
        each.map(|(old, new)| watch_sheet(job, held, old, new, &others, work)).collect()
    });
    Ok(Json(found.await?))
}

/// A plan of an older version of the format, as a browser may have kept it.
#[derive(Debug, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct OldPlan {
    /// Version of the format it is of.
    pub version: u32,
    /// The job.
    #[schema(value_type = Object)]
    pub job: serde_json::Value,
    /// Its data sheets.
    #[schema(value_type = Object)]
    pub library: serde_json::Value,
}

/// A plan brought up to the present version of the format; nothing is kept.
#[utoipa::path(
    operation_id = "migrate_plan",
    context_path = "/api",
    tag = "plan",
    request_body = OldPlan,
    responses((status = 200, body = Trial), (status = 422, body = ProblemBody)),
)]
#[post("/migrate", data = "<data>")]
pub async fn migrate(
    signed: Guarded,
    asker: Asker,
    data: Data<'_>,
) -> Result<Json<Trial>, ApiError> {
    signed?;
    let text = body_text(data, MAX_PLAN_BYTES).await?;
    let (_, plan) = asker.quick(move || parse_plan(&text, &[])).await??;
    Ok(Json(Trial { job: plan.job, library: plan.library }))
}

/// An edit of a plan's graph.
#[derive(Debug, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Commanding {
    /// The job as it is.
    #[schema(value_type = Job)]
    pub job: serde_json::Value,
    /// What is to be done with its plan.
    pub command: Command,
}

/// The job with the edit made.
#[derive(Debug, Serialize, ToSchema)]
pub struct Commanded {
    /// The job.
    pub job: Job,
    /// What the edit changed, in words.
    pub changes: Vec<String>,
}

/// An edit that keeps all references of a plan whole; nothing is kept.
#[utoipa::path(
    operation_id = "command_plan",
    context_path = "/api",
    tag = "plan",
    request_body = Commanding,
    responses((status = 200, body = Commanded), (status = 422, body = ProblemBody)),
)]
#[post("/command", data = "<data>")]
pub async fn command(
    signed: Guarded,
    asker: Asker,
    data: Data<'_>,
) -> Result<Json<Commanded>, ApiError> {
    signed?;
    let text = body_text(data, MAX_PLAN_BYTES).await?;
    let done = asker.quick(move || {
        let asked: Commanding = parsed(&text)?;
        let job = read_job(asked.job).map_err(ApiError::Invalid)?;
        let (job, changes) = commanded(&job, &asked.command).map_err(ApiError::Invalid)?;
        Ok::<_, ApiError>(Json(Commanded { job, changes }))
    });
    done.await?
}
