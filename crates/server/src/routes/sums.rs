//! Quick sums, and weather files: calculations on what is typed or pasted, nothing kept.

use heliant_core::library::Library;
use heliant_core::school::School;
use heliant_core::stages::site::weather::{MAX_BYTES, Weather, read as read_weather};
use heliant_core::sums::{self, Slip, Sum};
use rocket::data::Data;
use rocket::http::ContentType;
use rocket::serde::json::Json;
use rocket::{State, get, post};
use serde::{Deserialize, Serialize};
use serde_json::{Map, Value};
use utoipa::ToSchema;

use super::jobs::{MadeJob, make};
use super::{body_json, body_text};
use crate::compute::Asker;
use crate::guard::Guarded;
use crate::problem::{ApiError, ProblemBody};
use crate::store::Store;
use crate::store::accounts::Role;

/// The sums there are, with their inputs.
#[utoipa::path(
    operation_id = "list_sums",
    context_path = "/api",
    tag = "sums",
    responses((status = 200, body = Vec<Sum>)),
)]
#[get("/sums")]
pub async fn list(signed: Guarded) -> Result<Json<&'static [&'static Sum]>, ApiError> {
    signed?;
    Ok(Json(sums::all()))
}

/// What a sum is done with.
#[derive(Debug, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct DoSum {
    /// School of practice.
    pub school: School,
    /// Inputs by key.
    #[schema(value_type = Object)]
    pub inputs: Map<String, Value>,
}

fn find(name: &str, school: School) -> Result<&'static Sum, ApiError> {
    sums::find(name, school).ok_or(ApiError::NotFound("sum"))
}

/// Does a sum.
#[utoipa::path(
    operation_id = "do_sum",
    context_path = "/api",
    tag = "sums",
    params(("name" = String, Path)),
    request_body = DoSum,
    responses(
        (status = 200, body = Slip),
        (status = 404, body = ProblemBody),
        (status = 422, body = ProblemBody),
    ),
)]
#[post("/sums/<name>", data = "<data>")]
pub async fn run(
    signed: Guarded,
    asker: Asker,
    name: &str,
    data: Data<'_>,
) -> Result<Json<Slip>, ApiError> {
    signed?;
    let x: DoSum = body_json(data).await?;
    let sum = find(name, x.school)?;
    let slip = asker.quick(move || sums::run(sum, &x.inputs)).await?;
    Ok(Json(slip.map_err(ApiError::Invalid)?))
}

/// Makes a job of a sum.
#[utoipa::path(
    operation_id = "sum_to_job",
    context_path = "/api",
    tag = "sums",
    params(("name" = String, Path)),
    request_body = DoSum,
    responses(
        (status = 200, body = MadeJob),
        (status = 404, body = ProblemBody),
        (status = 422, body = ProblemBody),
    ),
)]
#[post("/sums/<name>/job", data = "<data>")]
pub async fn into_job(
    signed: Guarded,
    asker: Asker,
    name: &str,
    data: Data<'_>,
    store: &State<Store>,
) -> Result<Json<MadeJob>, ApiError> {
    let signed = signed?;
    let account = signed.at_least(Role::Designer)?;
    let x: DoSum = body_json(data).await?;
    let sum = find(name, x.school)?;
    let file =
        asker.quick(move || sums::into_job(sum, &x.inputs)).await?.map_err(ApiError::Invalid)?;
    let id = make(store, &asker, file, account, Library::default(), false).await?;
    Ok(Json(MadeJob { id, changes: Vec::new() }))
}

/// Reads an hourly weather file: design temperatures, histogram, what is wrong with it. Nothing is
/// kept.
#[utoipa::path(
    operation_id = "read_weather",
    context_path = "/api",
    tag = "sums",
    request_body = String,
    responses(
        (status = 200, body = Weather),
        (status = 413, body = ProblemBody),
        (status = 422, body = ProblemBody),
    ),
)]
#[post("/weather", data = "<data>")]
pub async fn weather(
    signed: Guarded,
    asker: Asker,
    data: Data<'_>,
) -> Result<Json<Weather>, ApiError> {
    signed?;
    let text = body_text(data, MAX_BYTES).await?;
    let read = asker.quick(move || read_weather(&text)).await?;
    Ok(Json(read.map_err(ApiError::Invalid)?))
}

/// The made-up weather station of the demo, as a file.
#[utoipa::path(
    operation_id = "demo_weather",
    context_path = "/api",
    tag = "sums",
    responses((status = 200, content_type = "text/csv", body = String)),
)]
#[get("/weather/demo")]
pub async fn demo_weather(signed: Guarded) -> Result<(ContentType, &'static str), ApiError> {
    signed?;
    Ok((ContentType::CSV, include_str!("../../../../data/demo/weather-station.csv")))
}
