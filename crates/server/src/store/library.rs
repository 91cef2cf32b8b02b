//! The company's data sheets, every revision of them: who entered it, from what document, when.

use std::collections::{HashMap, HashSet};

use chrono::{DateTime, Utc};
use diesel::prelude::*;
use diesel::sql_types::{BigInt, Text};
use heliant_core::job::stored_sheet;
use heliant_core::library::{DataSheet, Library, SheetKind};
use serde::Serialize;
use serde_json::Value as Json;
use utoipa::ToSchema;

use super::jobs::revision_entry;
use super::{version_of, written};
use crate::problem::ApiError;
use crate::schema::{sheet_states, sheets};

/// Where a revision comes from.
#[derive(Clone, Copy, Debug)]
pub struct Origin<'a> {
    /// Who entered it.
    pub by: &'a str,
    /// The document it was taken from.
    pub document: &'a str,
}

/// Adds data sheets; a revision that is there stays as it is.
///
/// # Errors
/// Of the database.
pub fn add(db: &mut PgConnection, library: &Library, origin: Origin) -> Result<(), ApiError> {
    db.transaction(|db| {
        for sheet in library.sheets() {
            put(db, &sheet, origin)?;
        }
        Ok(())
    })
}

/// Adds one revision; says whether it was not there before.
///
/// # Errors
/// Of the database.
pub fn put(db: &mut PgConnection, sheet: &DataSheet, origin: Origin) -> Result<bool, ApiError> {
    let reference = sheet.reference();
    let rows = diesel::insert_into(sheets::table)
        .values((
            sheets::kind.eq(sheet.kind().word()),
            sheets::sheet.eq(reference.sheet),
            sheets::revision.eq(i32::try_from(reference.revision).unwrap_or(i32::MAX)),
            sheets::document.eq(sheet.document()),
            sheets::entered_by.eq(origin.by),
            sheets::from_document.eq(origin.document),
            sheets::version.eq(written()),
        ))
        .on_conflict_do_nothing()
        .execute(db)?;
    Ok(rows > 0)
}

fn sheet_of(kind: &str, version: i32, document: Json) -> Result<DataSheet, ApiError> {
    let kind = kind_of(kind)?;
    Ok(stored_sheet(version_of(version), kind, document)?)
}

fn kind_of(word: &str) -> Result<SheetKind, ApiError> {
    SheetKind::of(word).ok_or_else(|| ApiError::Internal(format!("no kind {word}")))
}

/// Every data sheet, by key and revision.
///
/// # Errors
/// Of the database.
pub fn all(db: &mut PgConnection) -> Result<Library, ApiError> {
    let rows: Vec<(String, i32, Json)> = sheets::table
        .order((sheets::sheet, sheets::revision))
        .select((sheets::kind, sheets::version, sheets::document))
        .load(db)?;
    let mut library = Library::default();
    for (kind, version, document) in rows {
        sheet_of(&kind, version, document)?.put_into(&mut library);
    }
    Ok(library)
}

/// The newest revision of every sheet of the company's that is not retired.
///
/// # Errors
/// Of the database.
pub fn offered(db: &mut PgConnection, company: &Library) -> Result<Library, ApiError> {
    let retired = retired(db)?;
    let mut newest = Library::default();
    let all = company.sheets();
    for sheet in &all {
        let (kind, r) = (sheet.kind(), sheet.reference());
        let newer = all.iter().any(|o| {
            o.kind() == kind
                && o.reference().sheet == r.sheet
                && o.reference().revision > r.revision
        });
        if !newer && !retired.contains(&(kind, r.sheet)) {
            sheet.clone().put_into(&mut newest);
        }
    }
    Ok(newest)
}

fn retired(db: &mut PgConnection) -> Result<HashSet<(SheetKind, String)>, ApiError> {
    let rows: Vec<(String, String, bool)> = sheet_states::table
        .distinct_on((sheet_states::kind, sheet_states::sheet))
        .order((sheet_states::kind, sheet_states::sheet, sheet_states::seq.desc()))
        .select((sheet_states::kind, sheet_states::sheet, sheet_states::retired))
        .load(db)?;
    Ok(rows
        .into_iter()
        .filter(|(.., retired)| *retired)
        .filter_map(|(kind, sheet, _)| Some((SheetKind::of(&kind)?, sheet)))
        .collect())
}

/// One revision in the list of data sheets.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct SheetLine {
    /// Kind.
    pub kind: SheetKind,
    /// Key of the sheet.
    pub sheet: String,
    /// Revision.
    pub revision: i32,
    /// Maker.
    pub maker: String,
    /// Model.
    pub model: String,
    /// Made-up sample data.
    pub demo: bool,
    /// When it was entered.
    pub entered_at: DateTime<Utc>,
    /// By whom.
    pub entered_by: String,
    /// From what document.
    pub from_document: String,
    /// Not offered any more.
    pub retired: bool,
    /// Jobs that hold this revision.
    pub jobs_n: i64,
    /// The document.
    #[schema(value_type = Object)]
    pub document: Json,
}

/// Every revision with where it comes from, by kind, maker and model, the newest first.
///
/// # Errors
/// Of the database.
pub fn lines(db: &mut PgConnection) -> Result<Vec<SheetLine>, ApiError> {
    type Row = (String, i32, Json, DateTime<Utc>, String, String);
    let retired = retired(db)?;
    let used = used(db)?;
    let rows: Vec<Row> = sheets::table
        .select((
            sheets::kind,
            sheets::version,
            sheets::document,
            sheets::entered_at,
            sheets::entered_by,
            sheets::from_document,
        ))
        .load(db)?;
    let mut lines: Vec<SheetLine> = Vec::new();
    for (kind, version, document, entered_at, entered_by, from_document) in rows {
        let sheet = sheet_of(&kind, version, document)?;
        let (kind, head) = (sheet.kind(), sheet.head());
        let key = (kind, head.sheet.to_owned());
        let revision = i32::try_from(head.revision).unwrap_or(i32::MAX);
        let entry = revision_entry(kind, head.sheet, head.revision);
        lines.push(SheetLine {
            kind,
            maker: head.maker.to_owned(),
            model: head.model.to_owned(),
            demo: head.demo,
            retired: retired.contains(&key),
            sheet: key.1,
            revision,
            entered_at,
            entered_by,
            from_document,
            jobs_n: used.get(&entry).copied().unwrap_or(0),
            document: sheet.document(),
        });
    }
    lines.sort_by(|a, b| {
        (a.kind, &a.maker, &a.model, &a.sheet)
            .cmp(&(b.kind, &b.maker, &b.model, &b.sheet))
            .then(b.revision.cmp(&a.revision))
    });
    Ok(lines)
}

#[derive(QueryableByName)]
struct UsedRow {
    #[diesel(sql_type = Text)]
    entry: String,
    #[diesel(sql_type = BigInt)]
    jobs_n: i64,
}

/// How many jobs hold each revision of a sheet, by its entry in `jobs.sheets`.
fn used(db: &mut PgConnection) -> Result<HashMap<String, i64>, ApiError> {
    let rows: Vec<UsedRow> = diesel::sql_query(
        "SELECT entry, count(*) AS jobs_n FROM jobs, unnest(sheets) AS entry GROUP BY entry",
    )
    .load(db)?;
    Ok(rows.into_iter().map(|r| (r.entry, r.jobs_n)).collect())
}

/// The revisions of a sheet, the oldest first.
///
/// # Errors
/// Of the database.
pub fn revisions(
    db: &mut PgConnection,
    kind: SheetKind,
    sheet: &str,
) -> Result<Vec<DataSheet>, ApiError> {
    let rows: Vec<(i32, Json)> = sheets::table
        .filter(sheets::kind.eq(kind.word()).and(sheets::sheet.eq(sheet)))
        .order(sheets::revision)
        .select((sheets::version, sheets::document))
        .load(db)?;
    rows.into_iter().map(|(version, document)| sheet_of(kind.word(), version, document)).collect()
}

/// Retires a sheet or takes it back. Jobs that hold it keep it.
///
/// # Errors
/// Where there is no such sheet.
pub fn set_retired(
    db: &mut PgConnection,
    kind: SheetKind,
    sheet: &str,
    retired: bool,
    by: &str,
) -> Result<(), ApiError> {
    let there: i64 = sheets::table
        .filter(sheets::kind.eq(kind.word()))
        .filter(sheets::sheet.eq(sheet))
        .count()
        .get_result(db)?;
    if there == 0 {
        return Err(ApiError::NotFound("data sheet"));
    }
    diesel::insert_into(sheet_states::table)
        .values((
            sheet_states::kind.eq(kind.word()),
            sheet_states::sheet.eq(sheet),
            sheet_states::retired.eq(retired),
            sheet_states::by.eq(by),
        ))
        .execute(db)?;
    Ok(())
}
