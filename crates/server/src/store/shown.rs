//! What units figures are shown in: of the company, and what somebody chose otherwise.

use diesel::prelude::*;
use serde::{Deserialize, Serialize};
use serde_json::Value as Json;
use utoipa::ToSchema;
use uuid::Uuid;

use crate::problem::ApiError;
use crate::schema::{accounts, company};

/// What temperatures are shown in.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
pub enum ShownTemperature {
    /// Degrees Celsius.
    #[serde(rename = "c")]
    Celsius,
    /// Degrees Fahrenheit.
    #[serde(rename = "f")]
    Fahrenheit,
}

/// What lengths are shown in.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
pub enum ShownLength {
    /// Metres.
    #[serde(rename = "m")]
    Metres,
    /// Feet.
    #[serde(rename = "ft")]
    Feet,
}

/// What is shown; what is not said goes by the next: the person, the company, the job's school.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Shown {
    /// Temperatures.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(inline)]
    pub temperature: Option<ShownTemperature>,
    /// Lengths.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(inline)]
    pub length: Option<ShownLength>,
}

/// What is shown to somebody.
#[derive(Clone, Copy, Debug, Serialize, ToSchema)]
pub struct ShownTo {
    /// What they chose.
    pub own: Shown,
    /// What the company shows.
    pub company: Shown,
}

fn read(value: Json) -> Result<Shown, ApiError> {
    serde_json::from_value(value).map_err(|e| ApiError::Internal(format!("units shown: {e}")))
}

fn written(shown: Shown) -> Result<Json, ApiError> {
    serde_json::to_value(shown).map_err(|e| ApiError::Internal(e.to_string()))
}

/// What is shown to an account.
///
/// # Errors
/// Of the database.
pub fn to(db: &mut PgConnection, account: Uuid) -> Result<ShownTo, ApiError> {
    let own = accounts::table.find(account).select(accounts::shown).first(db)?;
    let company = company::table.select(company::shown).first(db)?;
    Ok(ShownTo { own: read(own)?, company: read(company)? })
}

/// What an account is shown from now on.
///
/// # Errors
/// Of the database.
pub fn set_own(db: &mut PgConnection, account: Uuid, shown: Shown) -> Result<(), ApiError> {
    let row = accounts::table.find(account);
    diesel::update(row).set(accounts::shown.eq(written(shown)?)).execute(db)?;
    Ok(())
}

/// What the company shows from now on.
///
/// # Errors
/// Of the database.
pub fn set_company(db: &mut PgConnection, shown: Shown) -> Result<(), ApiError> {
    diesel::update(company::table).set(company::shown.eq(written(shown)?)).execute(db)?;
    Ok(())
}
