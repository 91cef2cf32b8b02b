//! The company's prices and times, by which routes, places and repairs are compared.

use heliant_core::job::{Rates, rate_problems};
use heliant_core::tables::{RATES, Rate};
use rocket::State;
use rocket::data::Data;
use rocket::serde::json::Json;
use rocket::{get, put};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::body_json;
use crate::guard::Guarded;
use crate::problem::{ApiError, ProblemBody};
use crate::store::accounts::Role;
use crate::store::{Store, rates as store_rates};

/// Prices and times.
#[derive(Debug, Serialize, ToSchema)]
pub struct AllRates {
    /// What there is, with the values that came with the program.
    pub table: Vec<Rate>,
    /// The company's own, by key.
    pub own: Rates,
}

/// A price or a time.
#[derive(Debug, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct OneRate {
    /// The company's own; absent: the table's counts again.
    #[serde(default)]
    pub value: Option<f64>,
}

/// All prices and times.
#[utoipa::path(
    operation_id = "rates",
    context_path = "/api",
    tag = "company",
    responses((status = 200, body = AllRates), (status = 401, body = ProblemBody)),
)]
#[get("/rates")]
pub async fn all(signed: Guarded, store: &State<Store>) -> Result<Json<AllRates>, ApiError> {
    signed?;
    let own = store.run(store_rates::all).await?;
    Ok(Json(AllRates { table: RATES.clone(), own }))
}

/// Sets one of the company's own.
#[utoipa::path(
    operation_id = "set_rate",
    context_path = "/api",
    tag = "company",
    params(("key" = String, Path)),
    request_body = OneRate,
    responses(
        (status = 200, body = AllRates),
        (status = 403, body = ProblemBody),
        (status = 422, body = ProblemBody),
    ),
)]
#[put("/rates/<key>", data = "<data>")]
pub async fn set(
    signed: Guarded,
    key: String,
    data: Data<'_>,
    store: &State<Store>,
) -> Result<Json<AllRates>, ApiError> {
    signed?.at_least(Role::Owner)?;
    let OneRate { value } = body_json(data).await?;
    // A key that is not there is refused whether it is set or taken back.
    let tried = Rates::from([(key.clone(), value.unwrap_or(0.0))]);
    let mut problems = rate_problems(&tried, "");
    problems.iter_mut().for_each(|p| p.path = "/value".to_owned());
    if !problems.is_empty() {
        return Err(ApiError::Invalid(problems));
    }
    let own = store.run(move |db| {
        store_rates::set(db, &key, value)?;
        store_rates::all(db)
    });
    Ok(Json(AllRates { table: RATES.clone(), own: own.await? }))
}
