//! The company's own prices and times.

use diesel::prelude::*;
use diesel::sql_types::{Jsonb, Text};
use heliant_core::job::Rates;
use serde_json::{Value as Json, json};

use crate::problem::ApiError;
use crate::schema::company;

/// All of them.
///
/// # Errors
/// Of the database.
pub fn all(db: &mut PgConnection) -> Result<Rates, ApiError> {
    let rates: Json = company::table.select(company::rates).first(db)?;
    serde_json::from_value(rates).map_err(|e| ApiError::Internal(format!("rates: {e}")))
}

/// Sets one of them; without a value the table's counts again. Others are left as they are, so two
/// people who set prices at the same time take nothing from one another.
///
/// # Errors
/// Of the database.
pub fn set(db: &mut PgConnection, key: &str, value: Option<f64>) -> Result<(), ApiError> {
    match value {
        Some(value) => diesel::sql_query("UPDATE company SET rates = rates || $1")
            .bind::<Jsonb, _>(json!({ key: value }))
            .execute(db)?,
        None => diesel::sql_query("UPDATE company SET rates = rates - $1")
            .bind::<Text, _>(key)
            .execute(db)?,
    };
    Ok(())
}
