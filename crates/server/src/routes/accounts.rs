//! Accounts of the company, for its owner.

use heliant_core::job::Problem;
use rocket::State;
use rocket::data::Data;
use rocket::get;
use rocket::patch;
use rocket::post;
use rocket::serde::json::Json;
use rocket::serde::uuid::Uuid;
use serde::Deserialize;
use utoipa::ToSchema;

use super::body_json;
use crate::guard::Guarded;
use crate::problem::{ApiError, ProblemBody};
use crate::store::Store;
use crate::store::accounts::{self as store_accounts, Account, MIN_PASSWORD, NewAccount, Role};

/// An account to be made.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct AccountEntry {
    /// Name as it stands on records.
    #[schema(min_length = 1, max_length = 120)]
    pub name: String,
    /// Name to sign in with.
    #[schema(min_length = 1, max_length = 120)]
    pub sign_in: String,
    /// Role.
    pub role: Role,
    /// Password, ten characters or more.
    #[schema(min_length = 10, max_length = 1000)]
    pub password: String,
}

/// What may be changed of an account.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct AccountChange {
    /// Role.
    pub role: Role,
    /// May sign in no more.
    pub disabled: bool,
}

/// Accounts by name.
#[utoipa::path(
    operation_id = "list_accounts",
    context_path = "/api",
    tag = "accounts",
    responses(
        (status = 200, body = Vec<Account>),
        (status = 403, body = ProblemBody),
    ),
)]
#[get("/accounts")]
pub async fn list(signed: Guarded, store: &State<Store>) -> Result<Json<Vec<Account>>, ApiError> {
    signed?.at_least(Role::Owner)?;
    Ok(Json(store.run(store_accounts::list).await?))
}

/// Makes an account.
#[utoipa::path(
    operation_id = "add_account",
    context_path = "/api",
    tag = "accounts",
    request_body = AccountEntry,
    responses(
        (status = 200, body = Account),
        (status = 422, body = ProblemBody),
    ),
)]
#[post("/accounts", data = "<data>")]
pub async fn add(
    signed: Guarded,
    data: Data<'_>,
    store: &State<Store>,
) -> Result<Json<Account>, ApiError> {
    signed?.at_least(Role::Owner)?;
    let entry: AccountEntry = body_json(data).await?;
    let mut problems = Vec::new();
    for (path, text) in [("/name", &entry.name), ("/sign_in", &entry.sign_in)] {
        if !(1..=120).contains(&text.trim().chars().count()) {
            problems.push(Problem::new(path, "is empty or too long", "1 to 120 characters"));
        }
    }
    if entry.password.chars().count() < MIN_PASSWORD || entry.password.len() > 1000 {
        problems.push(Problem::new(
            "/password",
            "is too short or too long",
            format!("{MIN_PASSWORD} to 1000 characters"),
        ));
    }
    if !problems.is_empty() {
        return Err(ApiError::Invalid(problems));
    }
    let new = NewAccount {
        name: entry.name,
        sign_in: entry.sign_in,
        role: entry.role,
        password: entry.password,
    };
    let made = store.run(move |db| store_accounts::create(db, &new)).await?;
    made.map(Json).ok_or_else(|| {
        ApiError::invalid("/sign_in", "is taken", "choose another name to sign in with")
    })
}

/// Changes role or access of an account.
#[utoipa::path(
    operation_id = "change_account",
    context_path = "/api",
    tag = "accounts",
    params(("id" = Uuid, Path)),
    request_body = AccountChange,
    responses(
        (status = 200, body = Account),
        (status = 403, body = ProblemBody),
        (status = 404, body = ProblemBody),
    ),
)]
#[patch("/accounts/<id>", data = "<data>")]
pub async fn change(
    signed: Guarded,
    id: Uuid,
    data: Data<'_>,
    store: &State<Store>,
) -> Result<Json<Account>, ApiError> {
    signed?.at_least(Role::Owner)?;
    let change: AccountChange = body_json(data).await?;
    Ok(Json(
        store.run(move |db| store_accounts::change(db, id, change.role, change.disabled)).await?,
    ))
}
