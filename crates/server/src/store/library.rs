//! The company's data sheets, every revision of them: who entered it, from what document, when.

use std::cmp::Reverse;
use std::collections::{HashMap, HashSet};

use chrono::{DateTime, Utc};
use diesel::prelude::*;
use diesel::sql_types::{Array, BigInt, Bool, Integer, Jsonb, Nullable, Text, Timestamptz};
use heliant_core::job::stored_sheet;
use heliant_core::library::{DataSheet, Library, SheetKind};
use heliant_documents::SheetOrigin;
use serde::Serialize;
use serde_json::Value as Json;
use utoipa::ToSchema;

use super::jobs::revision_entry;
use super::{holding, version_of, written};
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
    /// A newer revision of the sheet is there.
    pub superseded: bool,
    /// Not offered any more.
    pub retired: bool,
    /// Jobs that hold this revision.
    pub jobs_n: i64,
    /// The document.
    #[schema(value_type = Object)]
    pub document: Json,
}

/// Revisions of one page.
pub const PAGE: i64 = 100;

/// A page of the list of data sheets.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct SheetPage {
    /// Its revisions, by kind, maker and model, the newest first.
    pub sheets: Vec<SheetLine>,
    /// Revisions that hold the words.
    pub found_n: i64,
    /// Revisions in all.
    pub all_n: i64,
}

#[derive(QueryableByName)]
struct LineRow {
    #[diesel(sql_type = Text)]
    kind: String,
    #[diesel(sql_type = Integer)]
    version: i32,
    #[diesel(sql_type = Jsonb)]
    document: Json,
    #[diesel(sql_type = Timestamptz)]
    entered_at: DateTime<Utc>,
    #[diesel(sql_type = Text)]
    entered_by: String,
    #[diesel(sql_type = Text)]
    from_document: String,
    #[diesel(sql_type = Bool)]
    superseded: bool,
}

/// Revisions whose text holds every one of the patterns `$1`; of the sheet `$3` of the kind `$2`
/// where there is one.
const FOUND: &str = "\
    sheets s WHERE concat_ws(' ', replace(kind, 'micro', 'microinverter'), \
        document->>'maker', document->>'model', 'rev', revision, from_document, \
        coalesce(document#>>'{ratings,pmax_w}', document#>>'{ratings,in_w_max_w}', \
            document->>'ac_w'), 'W') ILIKE ALL ($1) \
    AND (kind = $2 AND sheet = $3 OR $3 IS NULL)";

/// A page of the revisions that hold every one of the words in kind, maker, model, revision, watts
/// or document.
///
/// # Errors
/// Of the database.
pub fn page(db: &mut PgConnection, words: &[String], page: u32) -> Result<SheetPage, ApiError> {
    let like: Vec<String> = words.iter().map(|w| holding(w)).collect();
    let all_n = sheets::table.count().get_result(db)?;
    let found: Counted = diesel::sql_query(format!("SELECT count(*) AS n FROM {FOUND}"))
        .bind::<Array<Text>, _>(&like)
        .bind::<Nullable<Text>, _>(None::<&str>)
        .bind::<Nullable<Text>, _>(None::<&str>)
        .get_result(db)?;
    let sheets = lines(db, &like, None, Some(PAGE), i64::from(page) * PAGE)?;
    Ok(SheetPage { sheets, found_n: found.n, all_n })
}

/// Every revision of a sheet with where it comes from, the newest first.
///
/// # Errors
/// Where there is no such sheet.
pub fn history(
    db: &mut PgConnection,
    kind: SheetKind,
    sheet: &str,
) -> Result<Vec<SheetLine>, ApiError> {
    let mut lines = lines(db, &[], Some((kind, sheet)), None, 0)?;
    // The model may have been named otherwise before.
    lines.sort_by_key(|l| Reverse(l.revision));
    if lines.is_empty() { Err(ApiError::NotFound("data sheet")) } else { Ok(lines) }
}

#[derive(QueryableByName)]
struct Counted {
    #[diesel(sql_type = BigInt)]
    n: i64,
}

fn lines(
    db: &mut PgConnection,
    like: &[String],
    of: Option<(SheetKind, &str)>,
    most: Option<i64>,
    skip: i64,
) -> Result<Vec<SheetLine>, ApiError> {
    let retired = retired(db)?;
    let used = used(db)?;
    let order: Vec<&str> = SheetKind::ALL.iter().map(|k| k.word()).collect();
    let rows: Vec<LineRow> = diesel::sql_query(format!(
        "SELECT kind, version, document, entered_at, entered_by, from_document, \
             EXISTS (SELECT FROM sheets o WHERE o.kind = s.kind AND o.sheet = s.sheet \
                 AND o.revision > s.revision) AS superseded \
         FROM {FOUND} \
         ORDER BY array_position($4, kind), document->>'maker', document->>'model', sheet, \
             revision DESC \
         LIMIT $5 OFFSET $6"
    ))
    .bind::<Array<Text>, _>(like)
    .bind::<Nullable<Text>, _>(of.map(|(kind, _)| kind.word()))
    .bind::<Nullable<Text>, _>(of.map(|(_, sheet)| sheet))
    .bind::<Array<Text>, _>(order)
    .bind::<Nullable<BigInt>, _>(most)
    .bind::<BigInt, _>(skip)
    .load(db)?;
    let line = |row: LineRow| {
        let sheet = sheet_of(&row.kind, row.version, row.document)?;
        let (kind, head) = (sheet.kind(), sheet.head());
        let entry = revision_entry(kind, head.sheet, head.revision);
        Ok(SheetLine {
            kind,
            sheet: head.sheet.to_owned(),
            revision: i32::try_from(head.revision).unwrap_or(i32::MAX),
            maker: head.maker.to_owned(),
            model: head.model.to_owned(),
            demo: head.demo,
            superseded: row.superseded,
            retired: retired.contains(&(kind, head.sheet.to_owned())),
            entered_at: row.entered_at,
            entered_by: row.entered_by,
            from_document: row.from_document,
            jobs_n: used.get(&entry).copied().unwrap_or(0),
            document: sheet.document(),
        })
    };
    rows.into_iter().map(line).collect()
}

/// Makers and documents of the data sheets, the latest entered first, two hundred of each.
#[derive(Debug, Serialize, ToSchema)]
pub struct KnownWords {
    /// Makers.
    pub makers: Vec<String>,
    /// Documents that sheets were entered from.
    pub documents: Vec<String>,
}

#[derive(QueryableByName)]
struct Word {
    #[diesel(sql_type = Text)]
    word: String,
}

/// Makers and documents of the data sheets.
///
/// # Errors
/// Of the database.
pub fn known_words(db: &mut PgConnection) -> Result<KnownWords, ApiError> {
    let mut of = |column: &str| -> Result<Vec<String>, ApiError> {
        let rows: Vec<Word> = diesel::sql_query(format!(
            "SELECT {column} AS word FROM sheets WHERE {column} <> '' GROUP BY 1 \
             ORDER BY max(entered_at) DESC, 1 LIMIT 200"
        ))
        .load(db)?;
        Ok(rows.into_iter().map(|r| r.word).collect())
    };
    Ok(KnownWords { makers: of("document->>'maker'")?, documents: of("from_document")? })
}

#[derive(QueryableByName)]
struct UsedRow {
    #[diesel(sql_type = Text)]
    entry: String,
    #[diesel(sql_type = BigInt)]
    jobs_n: i64,
}

/// Where the data sheets of a job come from, as far as the company has the same ones.
///
/// # Errors
/// Of the database.
pub fn origins(db: &mut PgConnection, held: &Library) -> Result<Vec<SheetOrigin>, ApiError> {
    let mut found = Vec::new();
    for sheet in held.sheets() {
        let (kind, own) = (sheet.kind(), sheet.reference());
        let revision = i32::try_from(own.revision).unwrap_or(i32::MAX);
        let row: Option<(String, String, DateTime<Utc>, i32, Json)> = sheets::table
            .find((kind.word(), &own.sheet, revision))
            .select((
                sheets::from_document,
                sheets::entered_by,
                sheets::entered_at,
                sheets::version,
                sheets::document,
            ))
            .first(db)
            .optional()?;
        let Some((document, entered_by, entered_at, version, kept)) = row else { continue };
        // One of the same name with other values comes from elsewhere.
        if sheet_of(kind.word(), version, kept)?.document() == sheet.document() {
            found.push(SheetOrigin { kind, sheet: own, document, entered_by, entered_at });
        }
    }
    Ok(found)
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
