//! Jobs: every save is a revision, whole or not at all; readings are only ever added. Nothing is
//! computed here: what a job comes to is handed in, and kept only where it is still the job's.

use chrono::{DateTime, Utc};
use diesel::prelude::*;
use diesel::sql_types::{Array, Integer, Jsonb, Nullable, Text, Timestamptz, Uuid as SqlUuid};
use heliant_core::evaluate::Report;
use heliant_core::job::{Document, Job, JobFile, Reading, stored as read_stored};
use heliant_core::library::{DataSheet, Library, SheetKind};
use heliant_core::school::School;
use serde::Serialize;
use serde_json::{Value as Json, json};
use utoipa::ToSchema;
use uuid::Uuid;

use super::readings::{add_reading_row, readings_of};
use super::{as_json, news, notify, version_of, written};
use crate::problem::ApiError;
use crate::records::{Stored, count};
use crate::schema::{job_revisions, jobs, withdrawals};

fn school_word(school: School) -> &'static str {
    match school {
        School::Na => "na",
        School::Iec => "iec",
    }
}

/// The serial numbers on a job's roof map.
fn serials(job: &Job) -> Vec<String> {
    let modules = job.roof.values().flat_map(|face| face.modules.values());
    modules.filter_map(|m| m.serial.clone()).collect()
}

/// What is looked through for words in the list: name, address, customer, contact and notes.
fn said(job: &Job) -> String {
    [&job.name, &job.address, &job.customer, &job.contact, &job.notes]
        .map(String::as_str)
        .join("\n")
}

/// The newer revisions of data sheets that were decided against, as `jobs.kept` has them.
fn kept(job: &Job) -> Vec<String> {
    job.kept_sheets.iter().map(|k| revision_entry(k.kind, &k.sheet, k.newer)).collect()
}

/// A serial number that is in another job.
#[derive(Clone, Debug, PartialEq, Serialize, ToSchema, QueryableByName)]
pub struct SerialElsewhere {
    /// The serial number.
    #[diesel(sql_type = Text)]
    pub serial: String,
    /// The job it is in.
    #[diesel(sql_type = SqlUuid)]
    pub job: Uuid,
    /// What that is called.
    #[diesel(sql_type = Text)]
    pub name: String,
}

/// The jobs, but one, that have any of these serial numbers on their maps.
///
/// # Errors
/// Of the database.
pub fn serials_elsewhere(
    db: &mut PgConnection,
    but: Uuid,
    serials: &[String],
) -> Result<Vec<SerialElsewhere>, ApiError> {
    const FIND: &str = "\
        SELECT found AS serial, jobs.id AS job, jobs.name FROM jobs, unnest(serials) AS found \
        WHERE serials && $1 AND found = ANY($1) AND jobs.id <> $2 ORDER BY found, jobs.name";
    Ok(diesel::sql_query(FIND).bind::<Array<Text>, _>(serials).bind::<SqlUuid, _>(but).load(db)?)
}

/// The data sheets a job holds, as `jobs.sheets` has them: by key, and by key and revision.
fn sheets(library: &Library) -> Vec<String> {
    let entries = |s: &DataSheet| {
        let own = s.reference();
        [sheet_entry(s.kind(), &own.sheet), revision_entry(s.kind(), &own.sheet, own.revision)]
    };
    library.sheets().iter().flat_map(entries).collect()
}

/// The entry of a data sheet in `jobs.sheets`.
pub fn sheet_entry(kind: SheetKind, sheet: &str) -> String {
    format!("{}/{sheet}", kind.list())
}

/// The entry of a revision of a data sheet.
pub fn revision_entry(kind: SheetKind, sheet: &str, revision: u32) -> String {
    format!("{}@{revision}/{sheet}", kind.list())
}

/// Makes a job of a file with the report of it; gives its id.
///
/// # Errors
/// Of the database.
pub fn create(
    db: &mut PgConnection,
    file: &JobFile,
    report: &Report,
    by: &str,
    entered_by: Option<Uuid>,
) -> Result<Uuid, ApiError> {
    let id = Uuid::new_v4();
    db.transaction(|db| {
        diesel::insert_into(jobs::table)
            .values((
                jobs::id.eq(id),
                jobs::name.eq(&file.job.name),
                jobs::school.eq(school_word(file.job.school)),
                jobs::revision.eq(1),
                jobs::verdict.eq(report.verdict.word()),
                jobs::counts.eq(as_json(&report.counts)?),
                jobs::updated_by.eq(by),
                jobs::readings_n.eq(count(&file.readings)),
                jobs::serials.eq(serials(&file.job)),
                jobs::sheets.eq(sheets(&file.library)),
                jobs::said.eq(said(&file.job)),
                jobs::kept.eq(kept(&file.job)),
            ))
            .execute(db)?;
        let document = json!({ "job": file.job, "library": file.library });
        diesel::insert_into(job_revisions::table)
            .values((
                job_revisions::job_id.eq(id),
                job_revisions::revision.eq(1),
                job_revisions::document.eq(document),
                job_revisions::saved_by.eq(by),
                job_revisions::version.eq(written()),
            ))
            .execute(db)?;
        for reading in &file.readings {
            // An id of another installation, or of the job this one was copied from, is not unique
            // here.
            add_reading_row(db, id, Uuid::new_v4(), reading, entered_by)?;
        }
        notify(db, &news(id, 1, "saved"))?;
        Ok(id)
    })
}

/// A job as it stands, or as it stood at a revision (with all readings since).
///
/// # Errors
/// Where there is no such job or revision, or it was written by a newer program.
pub fn get(db: &mut PgConnection, id: Uuid, revision: Option<i32>) -> Result<Stored, ApiError> {
    type Row = (i32, DateTime<Utc>, String, i32, Json);
    let rows = job_revisions::table
        .filter(job_revisions::job_id.eq(id))
        .order(job_revisions::revision.desc());
    let columns = (
        job_revisions::revision,
        job_revisions::saved_at,
        job_revisions::saved_by,
        job_revisions::version,
        job_revisions::document,
    );
    let row: Option<Row> = match revision {
        Some(n) => {
            rows.filter(job_revisions::revision.eq(n)).select(columns).first(db).optional()?
        }
        None => rows.select(columns).first(db).optional()?,
    };
    let (revision, saved_at, saved_by, version, document) = row.ok_or(ApiError::NotFound("job"))?;
    Ok(Stored {
        id,
        revision,
        saved_at,
        saved_by,
        document: read_stored(version_of(version), document)?,
        readings: readings_of(db, id)?,
        outside: false,
    })
}

/// What a job is called.
///
/// # Errors
/// Where there is no such job.
pub fn name(db: &mut PgConnection, id: Uuid) -> Result<String, ApiError> {
    let row = jobs::table.find(id).select(jobs::name);
    row.first(db).optional()?.ok_or(ApiError::NotFound("job"))
}

/// The newest revision of a job, and how many records of readings it has.
///
/// # Errors
/// Where there is no such job.
pub fn stands(db: &mut PgConnection, id: Uuid) -> Result<(i32, i32), ApiError> {
    let row = jobs::table.find(id).select((jobs::revision, jobs::readings_n));
    row.first(db).optional()?.ok_or(ApiError::NotFound("job"))
}

/// A job as it stood at a revision, with the first `records` records of its readings.
///
/// # Errors
/// As [`get`].
pub fn get_as_of(
    db: &mut PgConnection,
    id: Uuid,
    revision: i32,
    records: i32,
) -> Result<Stored, ApiError> {
    let mut stored = get(db, id, Some(revision))?;
    let later: Vec<String> = withdrawals::table
        .filter(withdrawals::job_id.eq(id).and(withdrawals::record_n.gt(records)))
        .select(withdrawals::reading)
        .load(db)?;
    for reading in &mut stored.readings {
        if later.iter().any(|id| id == reading.id.as_str()) {
            reading.withdrawn = None;
        }
    }
    while count(&stored.readings) > records && stored.readings.pop().is_some() {}
    Ok(stored)
}

/// A job to be saved, with what it comes to: put together without a connection.
#[derive(Debug)]
pub struct Save {
    /// The job.
    pub id: Uuid,
    /// The revision the edit started from.
    pub base: i32,
    /// By whom.
    pub by: String,
    name: String,
    school: &'static str,
    document: String,
    verdict: &'static str,
    counts: Json,
    readings_n: i32,
    serials: Vec<String>,
    sheets: Vec<String>,
    said: String,
    kept: Vec<String>,
}

impl Save {
    /// A save of a document over `base`. `report` was made with these readings.
    ///
    /// # Errors
    /// Where the document is no JSON: a fault of ours.
    pub fn new(
        id: Uuid,
        base: i32,
        by: &str,
        document: &Document,
        report: &Report,
        readings: &[Reading],
    ) -> Result<Self, ApiError> {
        Ok(Save {
            id,
            base,
            by: by.to_owned(),
            name: document.job.name.clone(),
            school: school_word(document.job.school),
            document: serde_json::to_string(document)
                .map_err(|e| ApiError::Internal(e.to_string()))?,
            verdict: report.verdict.word(),
            counts: as_json(&report.counts)?,
            readings_n: count(readings),
            serials: serials(&document.job),
            sheets: sheets(&document.library),
            said: said(&document.job),
            kept: kept(&document.job),
        })
    }
}

/// Whether a save went through.
#[derive(Debug)]
pub enum Saved {
    /// It is the newest revision now, saved at this time.
    Done(i32, DateTime<Utc>),
    /// Somebody saved in between.
    Late,
    /// A reading came in between: what was computed lacks it.
    ReadMeanwhile,
}

/// Revision, list and news in one statement: one round trip, one commit, and nothing where another
/// save or a reading came before.
const SAVE: &str = "\
    WITH saved AS ( \
        UPDATE jobs SET name = $1, school = $2, revision = revision + 1, verdict = $3, \
            counts = $4, updated_at = now(), updated_by = $5, serials = $12, sheets = $13, \
            said = $14, kept = $15 \
        WHERE id = $6 AND revision = $7 AND readings_n = $8 \
        RETURNING id, revision, updated_at \
    ), kept AS ( \
        INSERT INTO job_revisions (job_id, revision, document, saved_at, saved_by, version) \
        SELECT id, revision, $9::jsonb, updated_at, $5, $10 FROM saved \
    ) \
    SELECT revision, updated_at, pg_notify('heliant', $11)::text AS told FROM saved";

#[derive(QueryableByName)]
struct SavedRow {
    #[diesel(sql_type = Integer)]
    revision: i32,
    #[diesel(sql_type = Timestamptz)]
    updated_at: DateTime<Utc>,
    #[expect(dead_code, reason = "asked for so that every server is told in the same statement")]
    #[diesel(sql_type = Nullable<Text>)]
    told: Option<String>,
}

/// Saves a revision over its base; nothing is written where another one came before.
///
/// # Errors
/// Where there is no such job.
pub fn save(db: &mut PgConnection, save: &Save) -> Result<Saved, ApiError> {
    let row: Option<SavedRow> = diesel::sql_query(SAVE)
        .bind::<Text, _>(&save.name)
        .bind::<Text, _>(save.school)
        .bind::<Text, _>(save.verdict)
        .bind::<Jsonb, _>(&save.counts)
        .bind::<Text, _>(&save.by)
        .bind::<SqlUuid, _>(save.id)
        .bind::<Integer, _>(save.base)
        .bind::<Integer, _>(save.readings_n)
        .bind::<Text, _>(&save.document)
        .bind::<Integer, _>(written())
        .bind::<Text, _>(news(save.id, save.base + 1, "saved"))
        .bind::<Array<Text>, _>(&save.serials)
        .bind::<Array<Text>, _>(&save.sheets)
        .bind::<Text, _>(&save.said)
        .bind::<Array<Text>, _>(&save.kept)
        .get_result(db)
        .optional()?;
    if let Some(row) = row {
        return Ok(Saved::Done(row.revision, row.updated_at));
    }
    let current: Option<i32> =
        jobs::table.find(save.id).select(jobs::revision).first(db).optional()?;
    match current {
        None => Err(ApiError::NotFound("job")),
        Some(current) if current == save.base => Ok(Saved::ReadMeanwhile),
        Some(_) => Ok(Saved::Late),
    }
}
