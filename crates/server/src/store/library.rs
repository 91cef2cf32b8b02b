//! The company's data sheets, every revision of them.

use diesel::prelude::*;
use heliant_core::library::Library;
use serde::Serialize;

use crate::problem::ApiError;
use crate::schema::sheets;

/// Adds data sheets; a revision that is there stays as it is.
///
/// # Errors
/// Of the database.
pub fn add(db: &mut PgConnection, library: &Library) -> Result<(), ApiError> {
    db.transaction(|db| {
        for m in &library.modules {
            add_one(db, "module", &m.sheet, m.revision, m)?;
        }
        for i in &library.inverters {
            add_one(db, "inverter", &i.sheet, i.revision, i)?;
        }
        Ok(())
    })
}

fn add_one(db: &mut PgConnection, kind: &str, sheet: &str, revision: u32, document: &impl Serialize) -> Result<(), ApiError> {
    let document = serde_json::to_value(document).map_err(|e| ApiError::Internal(e.to_string()))?;
    diesel::insert_into(sheets::table)
        .values((
            sheets::kind.eq(kind),
            sheets::sheet.eq(sheet),
            sheets::revision.eq(i32::try_from(revision).unwrap_or(i32::MAX)),
            sheets::document.eq(document),
        ))
        .on_conflict_do_nothing()
        .execute(db)?;
    Ok(())
}

/// Every data sheet, by key and revision.
///
/// # Errors
/// Of the database.
pub fn all(db: &mut PgConnection) -> Result<Library, ApiError> {
    let mut load = |kind: &str| -> Result<serde_json::Value, ApiError> {
        let rows: Vec<serde_json::Value> =
            sheets::table.filter(sheets::kind.eq(kind)).order((sheets::sheet, sheets::revision)).select(sheets::document).load(db)?;
        Ok(serde_json::Value::Array(rows))
    };
    let (modules, inverters) = (load("module")?, load("inverter")?);
    let unreadable = |e: serde_json::Error| ApiError::Internal(format!("a data sheet does not read: {e}"));
    Ok(Library {
        modules: serde_json::from_value(modules).map_err(unreadable)?,
        inverters: serde_json::from_value(inverters).map_err(unreadable)?,
    })
}
