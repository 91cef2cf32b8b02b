//! The revisions of a job as a list, and the names people gave them.

use chrono::{DateTime, Utc};
use diesel::prelude::*;
use serde::Serialize;
use utoipa::ToSchema;
use uuid::Uuid;

use crate::problem::ApiError;
use crate::schema::{job_revisions, revision_names};

/// One saved revision.
#[derive(Clone, Debug, Serialize, ToSchema, Queryable)]
pub struct RevisionLine {
    /// Number.
    pub revision: i32,
    /// When.
    pub saved_at: DateTime<Utc>,
    /// By whom.
    pub saved_by: String,
    /// What somebody called it.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub name: Option<String>,
    /// Who.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub named_by: Option<String>,
}

/// Revisions of one page.
const PAGE: i64 = 500;

/// The revisions of a job, the newest first; of those before `before`.
///
/// # Errors
/// Of the database.
pub fn list(
    db: &mut PgConnection,
    id: Uuid,
    before: Option<i32>,
) -> Result<Vec<RevisionLine>, ApiError> {
    let names = revision_names::job_id
        .eq(job_revisions::job_id)
        .and(revision_names::revision.eq(job_revisions::revision));
    Ok(job_revisions::table
        .left_join(revision_names::table.on(names))
        .filter(job_revisions::job_id.eq(id))
        .filter(job_revisions::revision.lt(before.unwrap_or(i32::MAX)))
        .order(job_revisions::revision.desc())
        .limit(PAGE)
        .select((
            job_revisions::revision,
            job_revisions::saved_at,
            job_revisions::saved_by,
            revision_names::name.nullable(),
            revision_names::named_by.nullable(),
        ))
        .load(db)?)
}

/// One revision of a job; none where it has none of that number.
///
/// # Errors
/// Of the database.
pub fn one(
    db: &mut PgConnection,
    id: Uuid,
    revision: Option<i32>,
) -> Result<Vec<RevisionLine>, ApiError> {
    let Some(revision) = revision else { return Ok(Vec::new()) };
    let mut found = list(db, id, Some(revision.saturating_add(1)))?;
    found.retain(|line| line.revision == revision);
    Ok(found)
}

/// Names a revision; an empty name takes the one it has away.
///
/// # Errors
/// Where there is no such revision.
pub fn name(
    db: &mut PgConnection,
    id: Uuid,
    revision: i32,
    name: &str,
    by: &str,
) -> Result<(), ApiError> {
    let there: i64 = job_revisions::table
        .filter(job_revisions::job_id.eq(id).and(job_revisions::revision.eq(revision)))
        .count()
        .get_result(db)?;
    if there == 0 {
        return Err(ApiError::NotFound("revision"));
    }
    if name.is_empty() {
        diesel::delete(revision_names::table.find((id, revision))).execute(db)?;
        return Ok(());
    }
    let (named, at) =
        ((revision_names::name.eq(name), revision_names::named_by.eq(by)), Utc::now());
    diesel::insert_into(revision_names::table)
        .values((
            revision_names::job_id.eq(id),
            revision_names::revision.eq(revision),
            named,
            revision_names::named_at.eq(at),
        ))
        .on_conflict((revision_names::job_id, revision_names::revision))
        .do_update()
        .set((named, revision_names::named_at.eq(at)))
        .execute(db)?;
    Ok(())
}
