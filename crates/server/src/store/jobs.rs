//! Jobs: every save is a revision, whole or not at all; readings are only ever added.

use chrono::{DateTime, SecondsFormat, Utc};
use diesel::prelude::*;
use heliant_core::evaluate::Counts;
use heliant_core::job::{Job, JobFile, Reading, ReadingValues};
use heliant_core::library::Library;
use heliant_core::school::School;
use heliant_core::{Report, evaluate};
use serde::{Deserialize, Serialize};
use serde_json::json;
use utoipa::ToSchema;
use uuid::Uuid;

use crate::problem::ApiError;
use crate::schema::{job_revisions, jobs, readings};

/// What a revision holds: the job and the data sheets it was planned with.
#[derive(Clone, Debug, Serialize, Deserialize)]
pub struct Document {
    /// The job.
    pub job: Job,
    /// Its data sheets.
    pub library: Library,
}

/// A job as it stands.
#[derive(Clone, Debug)]
pub struct Stored {
    /// Id.
    pub id: Uuid,
    /// Its newest revision.
    pub revision: i32,
    /// When that was saved.
    pub saved_at: DateTime<Utc>,
    /// By whom.
    pub saved_by: String,
    /// What it holds.
    pub document: Document,
    /// Readings, oldest first.
    pub readings: Vec<Reading>,
}

impl Stored {
    /// The report of the job as it stands.
    pub fn report(&self) -> Report {
        evaluate(&self.document.job, &self.document.library, &self.readings)
    }

    /// The job as a file.
    pub fn file(self) -> JobFile {
        JobFile::new(self.document.job, self.document.library, self.readings)
    }
}

/// A line of the list of jobs.
#[derive(Clone, Debug, Serialize, ToSchema, Queryable)]
pub struct JobLine {
    /// Id.
    pub id: Uuid,
    /// Name.
    pub name: String,
    /// School: `na` or `iec`.
    pub school: String,
    /// Newest revision.
    pub revision: i32,
    /// Worst verdict: `pass`, `warn`, `unknown` or `fail`.
    pub verdict: String,
    /// Checks by verdict.
    #[schema(value_type = Counts)]
    pub counts: serde_json::Value,
    /// When the first revision was saved.
    pub created_at: DateTime<Utc>,
    /// When it was last saved or read.
    pub updated_at: DateTime<Utc>,
    /// By whom.
    pub updated_by: String,
}

/// One saved revision.
#[derive(Clone, Debug, Serialize, ToSchema, Queryable)]
pub struct RevisionLine {
    /// Number.
    pub revision: i32,
    /// When.
    pub saved_at: DateTime<Utc>,
    /// By whom.
    pub saved_by: String,
}

/// All jobs, the one last touched first.
///
/// # Errors
/// Of the database.
pub fn list(db: &mut PgConnection) -> Result<Vec<JobLine>, ApiError> {
    Ok(jobs::table.order((jobs::updated_at.desc(), jobs::id)).load(db)?)
}

fn school_word(school: School) -> &'static str {
    match school {
        School::Na => "na",
        School::Iec => "iec",
    }
}

fn as_json(value: &impl Serialize) -> Result<serde_json::Value, ApiError> {
    serde_json::to_value(value).map_err(|e| ApiError::Internal(e.to_string()))
}

/// Tells every server: `what` is `saved` or `read`.
fn notify(db: &mut PgConnection, job: Uuid, revision: i32, what: &str) -> Result<(), ApiError> {
    let payload = json!({ "job": job, "revision": revision, "what": what }).to_string();
    diesel::select(
        diesel::dsl::sql::<diesel::sql_types::Bool>("pg_notify('heliant', ")
            .bind::<diesel::sql_types::Text, _>(payload)
            .sql(") IS NULL"),
    )
    .execute(db)?;
    Ok(())
}

/// Makes a job of a file; gives its id.
///
/// # Errors
/// Of the database.
pub fn create(
    db: &mut PgConnection,
    file: &JobFile,
    by: &str,
    entered_by: Option<Uuid>,
) -> Result<Uuid, ApiError> {
    let id = Uuid::new_v4();
    let document = Document { job: file.job.clone(), library: file.library.clone() };
    let report = evaluate(&file.job, &file.library, &file.readings);
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
            ))
            .execute(db)?;
        add_revision(db, id, 1, &document, by)?;
        for reading in &file.readings {
            // An id of another installation, or of the job this one was copied from, is not unique
            // here.
            add_reading_row(db, id, Uuid::new_v4(), reading, entered_by)?;
        }
        notify(db, id, 1, "saved")?;
        Ok(id)
    })
}

fn add_revision(
    db: &mut PgConnection,
    id: Uuid,
    revision: i32,
    document: &Document,
    by: &str,
) -> Result<(), ApiError> {
    diesel::insert_into(job_revisions::table)
        .values((
            job_revisions::job_id.eq(id),
            job_revisions::revision.eq(revision),
            job_revisions::document.eq(as_json(document)?),
            job_revisions::saved_by.eq(by),
        ))
        .execute(db)?;
    Ok(())
}

fn add_reading_row(
    db: &mut PgConnection,
    job: Uuid,
    id: Uuid,
    reading: &Reading,
    entered_by: Option<Uuid>,
) -> Result<(), ApiError> {
    let taken_at = DateTime::parse_from_rfc3339(&reading.at)
        .map_or_else(|_| Utc::now(), |t| t.with_timezone(&Utc));
    diesel::insert_into(readings::table)
        .values((
            readings::id.eq(id),
            readings::job_id.eq(job),
            readings::taken_at.eq(taken_at),
            readings::taken_by.eq(&reading.by),
            readings::entered_by.eq(entered_by),
            readings::reading.eq(as_json(reading)?),
        ))
        .execute(db)?;
    Ok(())
}

fn parse<T: serde::de::DeserializeOwned>(value: serde_json::Value) -> Result<T, ApiError> {
    serde_json::from_value(value)
        .map_err(|e| ApiError::Internal(format!("a record does not read: {e}")))
}

fn load_readings(db: &mut PgConnection, id: Uuid) -> Result<Vec<Reading>, ApiError> {
    let rows: Vec<serde_json::Value> = readings::table
        .filter(readings::job_id.eq(id))
        .order(readings::seq)
        .select(readings::reading)
        .load(db)?;
    rows.into_iter().map(parse).collect()
}

/// A job as it stands, or as it stood at a revision (with all readings since).
///
/// # Errors
/// Where there is no such job or revision.
pub fn get(db: &mut PgConnection, id: Uuid, revision: Option<i32>) -> Result<Stored, ApiError> {
    let rows = job_revisions::table
        .filter(job_revisions::job_id.eq(id))
        .order(job_revisions::revision.desc());
    let columns = (
        job_revisions::revision,
        job_revisions::saved_at,
        job_revisions::saved_by,
        job_revisions::document,
    );
    let row: Option<(i32, DateTime<Utc>, String, serde_json::Value)> = match revision {
        Some(n) => {
            rows.filter(job_revisions::revision.eq(n)).select(columns).first(db).optional()?
        }
        None => rows.select(columns).first(db).optional()?,
    };
    let (revision, saved_at, saved_by, document) = row.ok_or(ApiError::NotFound("job"))?;
    Ok(Stored {
        id,
        revision,
        saved_at,
        saved_by,
        document: parse(document)?,
        readings: load_readings(db, id)?,
    })
}

/// Whether a save went through.
pub enum Saved {
    /// It is the newest revision now; with the report that was kept of it.
    Done(Box<(Stored, Report)>),
    /// Somebody saved in between: the job as it stands.
    Late(Box<Stored>),
}

/// Saves a revision over `base`; nothing is written where another one came before.
///
/// # Errors
/// Where there is no such job.
pub fn save(
    db: &mut PgConnection,
    id: Uuid,
    base: i32,
    document: Document,
    by: &str,
) -> Result<Saved, ApiError> {
    db.transaction(|db| {
        let current: i32 = jobs::table
            .find(id)
            .select(jobs::revision)
            .for_update()
            .first(db)
            .optional()?
            .ok_or(ApiError::NotFound("job"))?;
        if current != base {
            return Ok(Saved::Late(Box::new(get(db, id, None)?)));
        }
        let revision = current + 1;
        add_revision(db, id, revision, &document, by)?;
        let readings = load_readings(db, id)?;
        let stored = Stored {
            id,
            revision,
            saved_at: Utc::now(),
            saved_by: by.to_owned(),
            document,
            readings,
        };
        let report = stored.report();
        summarise(db, &stored, &report, by)?;
        notify(db, id, revision, "saved")?;
        Ok(Saved::Done(Box::new((stored, report))))
    })
}

/// Keeps the line of the list in step with the job.
fn summarise(
    db: &mut PgConnection,
    stored: &Stored,
    report: &Report,
    by: &str,
) -> Result<(), ApiError> {
    diesel::update(jobs::table.find(stored.id))
        .set((
            jobs::name.eq(&stored.document.job.name),
            jobs::school.eq(school_word(stored.document.job.school)),
            jobs::revision.eq(stored.revision),
            jobs::verdict.eq(report.verdict.word()),
            jobs::counts.eq(as_json(&report.counts)?),
            jobs::updated_at.eq(Utc::now()),
            jobs::updated_by.eq(by),
        ))
        .execute(db)?;
    Ok(())
}

/// Adds a reading; gives the job as it stands then.
///
/// # Errors
/// Where there is no such job.
pub fn add_reading(
    db: &mut PgConnection,
    id: Uuid,
    values: ReadingValues,
    by: &str,
    entered_by: Uuid,
) -> Result<(Stored, Report), ApiError> {
    db.transaction(|db| {
        jobs::table
            .find(id)
            .select(jobs::revision)
            .for_update()
            .first::<i32>(db)
            .optional()?
            .ok_or(ApiError::NotFound("job"))?;
        let key = Uuid::new_v4();
        let at = Utc::now().to_rfc3339_opts(SecondsFormat::Secs, true);
        let reading = Reading { id: key.to_string(), at, by: by.to_owned(), values };
        add_reading_row(db, id, key, &reading, Some(entered_by))?;
        let stored = get(db, id, None)?;
        let report = stored.report();
        summarise(db, &stored, &report, by)?;
        notify(db, id, stored.revision, "read")?;
        Ok((stored, report))
    })
}

/// The revisions of a job, newest first.
///
/// # Errors
/// Of the database.
pub fn revisions(db: &mut PgConnection, id: Uuid) -> Result<Vec<RevisionLine>, ApiError> {
    Ok(job_revisions::table
        .filter(job_revisions::job_id.eq(id))
        .order(job_revisions::revision.desc())
        .select((job_revisions::revision, job_revisions::saved_at, job_revisions::saved_by))
        .load(db)?)
}
