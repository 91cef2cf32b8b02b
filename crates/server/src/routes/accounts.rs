//! Accounts of the company, for its owner.

use std::collections::HashMap;

use chrono::{DateTime, Utc};
use heliant_core::job::Problem;
use rocket::State;
use rocket::data::Data;
use rocket::get;
use rocket::http::Status;
use rocket::patch;
use rocket::post;
use rocket::serde::json::Json;
use rocket::serde::uuid::Uuid;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::body_json;
use super::session::acceptable;
use crate::guard::Guarded;
use crate::hashing::Hasher;
use crate::problem::{ApiError, ProblemBody};
use crate::store::Store;
use crate::store::accounts::{self as store_accounts, Account, MOST_NAME, NewAccount, Role};
use crate::store::{attempts, sessions};

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

/// An account in the owner's list.
#[derive(Debug, Serialize, ToSchema)]
pub struct AccountLine {
    /// The account.
    #[serde(flatten)]
    pub account: Account,
    /// Wrong passwords for its name in the last hour.
    pub wrong_n: i64,
}

/// Accounts by name.
#[utoipa::path(
    operation_id = "list_accounts",
    context_path = "/api",
    tag = "accounts",
    responses(
        (status = 200, body = Vec<AccountLine>),
        (status = 403, body = ProblemBody),
    ),
)]
#[get("/accounts")]
pub async fn list(
    signed: Guarded,
    store: &State<Store>,
) -> Result<Json<Vec<AccountLine>>, ApiError> {
    signed?.at_least(Role::Owner)?;
    let lines = store.run(|db| {
        let wrong: HashMap<String, i64> = attempts::wrong(db)?.into_iter().collect();
        let line = |account: Account| {
            let wrong_n = wrong.get(&account.sign_in).copied().unwrap_or(0);
            AccountLine { account, wrong_n }
        };
        Ok(store_accounts::list(db)?.into_iter().map(line).collect())
    });
    Ok(Json(lines.await?))
}

/// Forgets the wrong passwords for an account's name: whoever has to wait need not.
#[utoipa::path(
    operation_id = "unlock_account",
    context_path = "/api",
    tag = "accounts",
    params(("id" = Uuid, Path)),
    responses(
        (status = 204),
        (status = 403, body = ProblemBody),
        (status = 404, body = ProblemBody),
    ),
)]
#[post("/accounts/<id>/unlock")]
pub async fn unlock(signed: Guarded, id: Uuid, store: &State<Store>) -> Result<Status, ApiError> {
    signed?.at_least(Role::Owner)?;
    store
        .run(move |db| {
            let account = store_accounts::get(db, id)?;
            attempts::unlock(db, &account.sign_in)
        })
        .await?;
    Ok(Status::NoContent)
}

/// A link that sets a password once.
#[derive(Debug, Serialize, ToSchema)]
pub struct PasswordLink {
    /// Its token; the front end's address for it is `/password#token`.
    pub token: String,
    /// Until when it holds.
    pub until: DateTime<Utc>,
}

/// Makes the link by which somebody sets a new password, once. An earlier one holds no more.
#[utoipa::path(
    operation_id = "password_link",
    context_path = "/api",
    tag = "accounts",
    params(("id" = Uuid, Path)),
    responses(
        (status = 200, body = PasswordLink),
        (status = 403, body = ProblemBody),
        (status = 404, body = ProblemBody),
    ),
)]
#[post("/accounts/<id>/password-link")]
pub async fn password_link(
    signed: Guarded,
    id: Uuid,
    store: &State<Store>,
) -> Result<Json<PasswordLink>, ApiError> {
    let signed = signed?;
    let by = signed.at_least(Role::Owner)?.name.clone();
    let (token, until) = store.run(move |db| sessions::make_link(db, id, &by)).await?;
    Ok(Json(PasswordLink { token, until }))
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
    hasher: &State<Hasher>,
) -> Result<Json<Account>, ApiError> {
    signed?.at_least(Role::Owner)?;
    let entry: AccountEntry = body_json(data).await?;
    let mut problems = Vec::new();
    // Some letters become two in lower case.
    let sign_in = entry.sign_in.trim().to_lowercase();
    for (path, text) in [("/name", entry.name.trim()), ("/sign_in", &sign_in)] {
        if !(1..=MOST_NAME).contains(&text.chars().count()) {
            let hint = format!("1 to {MOST_NAME} characters");
            problems.push(Problem::new(path, "is empty or too long", hint));
        }
    }
    problems.extend(acceptable("/password", &entry.password).err());
    if !problems.is_empty() {
        return Err(ApiError::Invalid(problems));
    }
    let new = NewAccount {
        name: entry.name,
        sign_in,
        role: entry.role,
        password_hash: hasher.hash(entry.password).await?,
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
