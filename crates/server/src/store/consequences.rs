//! What the newest revision of a data sheet does to the jobs that hold it: kept by job, and looked
//! at again where the job has been saved since.

use std::collections::HashSet;

use diesel::prelude::*;
use diesel::sql_types::{BigInt, Integer, Jsonb, Text, Uuid as SqlUuid};
use diesel::upsert::excluded;
use heliant_core::job::{Document, stored as read_stored};
use heliant_core::library::SheetKind;
use heliant_core::watch::Effect;
use serde_json::Value as Json;
use uuid::Uuid;

use super::jobs::sheet_entry;
use super::version_of;
use crate::problem::ApiError;
use crate::schema::{consequences as table, job_revisions, jobs};

/// A revision of a data sheet, and the programs that look at what it does.
#[derive(Clone, Debug)]
pub struct Looked {
    /// Kind.
    pub kind: SheetKind,
    /// Key.
    pub sheet: String,
    /// Revision.
    pub revision: i32,
    /// The programs.
    pub edition: String,
}

/// Rows of a revision that are of the jobs as they are now: `$1` kind, `$2` sheet, `$3` revision,
/// `$4` edition, `$5` the sheet's entry.
const PRESENT: &str = "\
    c.kind = $1 AND c.sheet = $2 AND c.revision = $3 AND c.edition = $4 \
    AND c.job_id = j.id AND c.job_revision = j.revision";

/// The jobs that have not been looked at as they are now.
///
/// # Errors
/// Of the database.
pub fn due(db: &mut PgConnection, of: &Looked) -> Result<Vec<Uuid>, ApiError> {
    #[derive(QueryableByName)]
    struct Row {
        #[diesel(sql_type = SqlUuid)]
        id: Uuid,
    }
    // What was seen is gathered first: row by row it would be gone through again and again.
    let rows: Vec<Row> = diesel::sql_query(
        "WITH c AS MATERIALIZED (SELECT job_id, job_revision FROM consequences \
            WHERE kind = $1 AND sheet = $2 AND revision = $3 AND edition = $4) \
         SELECT j.id FROM jobs j WHERE j.sheets @> ARRAY[$5] \
             AND (j.id, j.revision) NOT IN (SELECT job_id, job_revision FROM c)",
    )
    .bind::<Text, _>(of.kind.word())
    .bind::<Text, _>(&of.sheet)
    .bind::<Integer, _>(of.revision)
    .bind::<Text, _>(&of.edition)
    .bind::<Text, _>(sheet_entry(of.kind, &of.sheet))
    .load(db)?;
    Ok(rows.into_iter().map(|r| r.id).collect())
}

/// Of some jobs, those that have still not been looked at as they are now.
///
/// # Errors
/// Of the database.
pub fn still_due(db: &mut PgConnection, of: &Looked, ids: &[Uuid]) -> Result<Vec<Uuid>, ApiError> {
    let seen: Vec<Uuid> = table::table
        .inner_join(
            jobs::table.on(jobs::id.eq(table::job_id).and(jobs::revision.eq(table::job_revision))),
        )
        .filter(table::kind.eq(of.kind.word()).and(table::sheet.eq(&of.sheet)))
        .filter(table::revision.eq(of.revision).and(table::edition.eq(&of.edition)))
        .filter(table::job_id.eq_any(ids))
        .select(table::job_id)
        .load(db)?;
    let seen: HashSet<Uuid> = seen.into_iter().collect();
    Ok(ids.iter().copied().filter(|id| !seen.contains(id)).collect())
}

/// Of the locks, those of sheets that are looked at.
const LOOKING: i64 = 0x6c6f_6f6b;

/// Says to the other servers, to the end of the transaction, that this one looks at what a sheet
/// does; false where another one does.
///
/// # Errors
/// Of the database.
pub fn looking(db: &mut PgConnection, of: &Looked) -> Result<bool, ApiError> {
    super::try_lock(db, LOOKING, &format!("{}/{}", of.kind.word(), of.sheet))
}

/// A job as it is now.
pub struct Now {
    /// The job.
    pub job: Uuid,
    /// Its revision.
    pub revision: i32,
    /// What it holds, as it was kept.
    kept: (i32, Json),
}

impl Now {
    /// What it holds; none where it does not read.
    pub fn document(self) -> Option<Document> {
        let (version, document) = self.kept;
        read_stored(version_of(version), document).ok()
    }
}

/// Some jobs as they are now.
///
/// # Errors
/// Of the database.
pub fn now(db: &mut PgConnection, ids: &[Uuid]) -> Result<Vec<Now>, ApiError> {
    let rows: Vec<(Uuid, i32, i32, Json)> =
        jobs::table
            .inner_join(job_revisions::table.on(
                job_revisions::job_id.eq(jobs::id).and(job_revisions::revision.eq(jobs::revision)),
            ))
            .filter(jobs::id.eq_any(ids))
            .select((jobs::id, jobs::revision, job_revisions::version, job_revisions::document))
            .load(db)?;
    let now = |(job, revision, version, document)| Now { job, revision, kept: (version, document) };
    Ok(rows.into_iter().map(now).collect())
}

/// What was seen of a job.
pub struct Seen {
    /// The job.
    pub job: Uuid,
    /// Its revision.
    pub revision: i32,
    /// What the sheet does to it; none where it holds no older revision.
    pub effect: Option<Effect>,
}

/// 2 stops, 1 caution, 0 neither.
fn worst(effect: Option<&Effect>) -> i16 {
    match effect {
        Some(e) if !e.stops.is_empty() => 2,
        Some(e) if !e.cautions.is_empty() => 1,
        _ => 0,
    }
}

/// Keeps what was seen.
///
/// # Errors
/// Of the database.
pub fn keep(db: &mut PgConnection, of: &Looked, seen: &[Seen]) -> Result<(), ApiError> {
    let row = |s: &Seen| {
        let effect = s.effect.as_ref().map(serde_json::to_value).transpose();
        let effect = effect.map_err(|e| ApiError::Internal(e.to_string()))?;
        Ok::<_, ApiError>((
            table::kind.eq(of.kind.word()),
            table::sheet.eq(&of.sheet),
            table::revision.eq(of.revision),
            table::job_id.eq(s.job),
            table::job_revision.eq(s.revision),
            table::edition.eq(&of.edition),
            table::worst.eq(worst(s.effect.as_ref())),
            table::effect.eq(effect),
        ))
    };
    let rows = seen.iter().map(row).collect::<Result<Vec<_>, _>>()?;
    diesel::insert_into(table::table)
        .values(rows)
        .on_conflict((table::kind, table::sheet, table::revision, table::job_id))
        .do_update()
        .set((
            table::job_revision.eq(excluded(table::job_revision)),
            table::edition.eq(excluded(table::edition)),
            table::worst.eq(excluded(table::worst)),
            table::effect.eq(excluded(table::effect)),
        ))
        .execute(db)?;
    Ok(())
}

/// Throws away what was seen of revisions before this one.
///
/// # Errors
/// Of the database.
pub fn forget_older(db: &mut PgConnection, of: &Looked) -> Result<(), ApiError> {
    diesel::delete(table::table)
        .filter(table::kind.eq(of.kind.word()).and(table::sheet.eq(&of.sheet)))
        .filter(table::revision.lt(of.revision))
        .execute(db)?;
    Ok(())
}

/// How many jobs there are of each sort.
#[derive(Debug, QueryableByName)]
pub struct Tally {
    /// Jobs that hold the sheet, in whatever revision.
    #[diesel(sql_type = BigInt)]
    pub of_n: i64,
    /// Those that have been looked at as they are now.
    #[diesel(sql_type = BigInt)]
    pub done_n: i64,
    /// Of those, the ones that hold an older revision.
    #[diesel(sql_type = BigInt)]
    pub older_n: i64,
    /// Of those, the ones with something that would no longer hold.
    #[diesel(sql_type = BigInt)]
    pub stops_n: i64,
    /// And the ones with no more than cautions.
    #[diesel(sql_type = BigInt)]
    pub cautions_n: i64,
}

/// Counts the jobs of a sheet.
///
/// # Errors
/// Of the database.
pub fn tally(db: &mut PgConnection, of: &Looked) -> Result<Tally, ApiError> {
    Ok(diesel::sql_query(format!(
        "SELECT count(*) AS of_n, count(c.job_id) AS done_n, count(c.effect) AS older_n, \
             count(*) FILTER (WHERE c.worst = 2) AS stops_n, \
             count(*) FILTER (WHERE c.worst = 1) AS cautions_n \
         FROM jobs j LEFT JOIN consequences c ON {PRESENT} WHERE j.sheets @> ARRAY[$5]"
    ))
    .bind::<Text, _>(of.kind.word())
    .bind::<Text, _>(&of.sheet)
    .bind::<Integer, _>(of.revision)
    .bind::<Text, _>(&of.edition)
    .bind::<Text, _>(sheet_entry(of.kind, &of.sheet))
    .get_result(db)?)
}

/// A job that holds an older revision.
#[derive(Debug, QueryableByName)]
pub struct Concerns {
    /// The job.
    #[diesel(sql_type = SqlUuid)]
    pub id: Uuid,
    /// Its name.
    #[diesel(sql_type = Text)]
    pub name: String,
    /// What the newest does to it.
    #[diesel(sql_type = Jsonb)]
    pub effect: Json,
}

/// The jobs that hold an older revision, the worst first; `most` from `skip` on.
///
/// # Errors
/// Of the database.
pub fn concerned(
    db: &mut PgConnection,
    of: &Looked,
    skip: i64,
    most: i64,
) -> Result<Vec<Concerns>, ApiError> {
    Ok(diesel::sql_query(format!(
        "SELECT j.id, j.name, c.effect FROM jobs j JOIN consequences c ON {PRESENT} \
         WHERE j.sheets @> ARRAY[$5] AND c.effect IS NOT NULL \
         ORDER BY c.worst DESC, j.name, j.id LIMIT $6 OFFSET $7"
    ))
    .bind::<Text, _>(of.kind.word())
    .bind::<Text, _>(&of.sheet)
    .bind::<Integer, _>(of.revision)
    .bind::<Text, _>(&of.edition)
    .bind::<Text, _>(sheet_entry(of.kind, &of.sheet))
    .bind::<BigInt, _>(most)
    .bind::<BigInt, _>(skip)
    .load(db)?)
}
