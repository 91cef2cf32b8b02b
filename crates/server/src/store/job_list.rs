//! The list of jobs: found, sorted, put away and taken back, deleted.

use chrono::{DateTime, Utc};
use diesel::dsl::sql;
use diesel::expression::SqlLiteral;
use diesel::pg::Pg;
use diesel::prelude::*;
use diesel::sql_types::{Bool, Text};
use heliant_core::evaluate::Counts;
use rocket::form::FromFormField;
use serde::{Deserialize, Serialize};
use serde_json::Value as Json;
use utoipa::ToSchema;
use uuid::Uuid;

use super::holding;
use super::{news, notify};
use crate::problem::ApiError;
use crate::schema::{job_revisions, jobs, readings, revision_names, seats, withdrawals};

/// A line of the list of jobs.
#[derive(Clone, Debug, Serialize, ToSchema, Queryable, Selectable)]
#[diesel(table_name = jobs)]
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
    pub counts: Json,
    /// When the first revision was saved.
    pub created_at: DateTime<Utc>,
    /// When it was last saved or read.
    pub updated_at: DateTime<Utc>,
    /// By whom.
    pub updated_by: String,
    /// It is a template: jobs begin as copies of it.
    #[serde(skip_serializing_if = "std::ops::Not::not")]
    pub template: bool,
    /// When it was put away.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub archived_at: Option<DateTime<Utc>>,
    /// It holds an older revision of a data sheet, and nobody has decided about the newer one.
    #[diesel(select_expression = sql::<Bool>(WAITS), select_expression_type = SqlLiteral<Bool>)]
    pub waits: bool,
}

/// What a list of jobs is sorted by.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Deserialize, ToSchema, FromFormField)]
#[serde(rename_all = "snake_case")]
pub enum JobOrder {
    /// The one last touched first.
    #[default]
    Touched,
    /// By name.
    Name,
    /// The worst verdict first.
    Verdict,
}

/// What is looked for in the list of jobs.
#[derive(Clone, Debug, Default)]
pub struct Wanted {
    /// Words, every one of them in name, address, notes or person.
    pub words: Vec<String>,
    /// A verdict.
    pub verdict: Option<String>,
    /// A school.
    pub school: Option<String>,
    /// Who touched it last.
    pub by: Option<String>,
    /// Only those that wait for a decision on a data sheet.
    pub waits: bool,
    /// Those that were put away instead of the others.
    pub archived: bool,
    /// Templates instead of jobs.
    pub templates: bool,
    /// Only those at which this account has a seat.
    pub seat_of: Option<Uuid>,
    /// Order.
    pub order: JobOrder,
}

/// Jobs of one page.
pub const PAGE: i64 = 100;

/// A page of the list of jobs.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct JobPage {
    /// Its jobs.
    pub jobs: Vec<JobLine>,
    /// Jobs that are as wanted.
    pub found_n: i64,
    /// Jobs in all that are not put away, or that are.
    pub all_n: i64,
    /// Who touched any of them last, the first hundred names.
    pub people: Vec<String>,
}

/// A newer revision of a sheet the job holds is in the library, and was not decided against.
const WAITS: &str = "EXISTS (SELECT FROM unnest(jobs.sheets) AS held \
    JOIN (SELECT kind || 's' AS list, sheet, max(revision) AS newest FROM sheets \
        GROUP BY kind, sheet) AS n \
        ON n.list = split_part(held, '@', 1) AND n.sheet = substr(held, strpos(held, '/') + 1) \
    WHERE substring(held from '^[a-z]+@([0-9]+)/')::integer < n.newest \
        AND NOT jobs.kept @> ARRAY[n.list || '@' || n.newest || '/' || n.sheet])";

/// A page of the jobs that are as wanted.
///
/// # Errors
/// Of the database.
pub fn list(db: &mut PgConnection, wanted: &Wanted, page: u32) -> Result<JobPage, ApiError> {
    let side =
        || {
            let all = jobs::table.into_boxed::<Pg>();
            let shelf = match (wanted.archived, wanted.templates) {
                (true, _) => all.filter(jobs::archived_at.is_not_null()),
                (_, templates) => {
                    all.filter(jobs::archived_at.is_null()).filter(jobs::template.eq(templates))
                }
            };
            match wanted.seat_of {
                None => shelf,
                Some(account) => shelf.filter(jobs::id.eq_any(
                    seats::table.filter(seats::account_id.eq(account)).select(seats::job_id),
                )),
            }
        };
    let found = || {
        let mut query = side();
        for word in &wanted.words {
            // Notes are not for who is from outside: nor whether a word is in them.
            let said = match wanted.seat_of {
                None => "(jobs.said || ' ' || jobs.updated_by)",
                Some(_) => "jobs.name",
            };
            let said = sql::<Text>(said);
            query = query.filter(said.ilike(holding(word)));
        }
        if let Some(verdict) = &wanted.verdict {
            query = query.filter(jobs::verdict.eq(verdict.clone()));
        }
        if let Some(school) = &wanted.school {
            query = query.filter(jobs::school.eq(school.clone()));
        }
        if let Some(by) = &wanted.by {
            query = query.filter(jobs::updated_by.eq(by.clone()));
        }
        if wanted.waits {
            query = query.filter(sql::<Bool>(WAITS));
        }
        query
    };
    let sorted = match wanted.order {
        JobOrder::Touched => found().order(jobs::updated_at.desc()),
        JobOrder::Name => found().order(sql::<Text>("lower(jobs.name)")),
        JobOrder::Verdict => found().order(sql::<Text>(
            "array_position(ARRAY['fail', 'unknown', 'warn', 'pass'], jobs.verdict), \
             jobs.updated_at DESC",
        )),
    };
    let jobs = sorted
        .then_order_by(jobs::id)
        .offset(i64::from(page) * PAGE)
        .limit(PAGE)
        .select(JobLine::as_select())
        .load(db)?;
    Ok(JobPage {
        jobs,
        found_n: found().count().get_result(db)?,
        all_n: side().count().get_result(db)?,
        people: side()
            .select(jobs::updated_by)
            .distinct()
            .order(jobs::updated_by)
            .limit(100)
            .load(db)?,
    })
}

/// Puts a job away or takes it back; nothing in it changes.
///
/// # Errors
/// Where there is no such job.
pub fn archive(db: &mut PgConnection, id: Uuid, archived: bool) -> Result<(), ApiError> {
    let at = archived.then(Utc::now);
    let done = diesel::update(jobs::table.find(id)).set(jobs::archived_at.eq(at)).execute(db)?;
    if done == 0 { Err(ApiError::NotFound("job")) } else { Ok(()) }
}

/// Makes a template of a job.
///
/// # Errors
/// Of the database.
pub fn mark_template(db: &mut PgConnection, id: Uuid) -> Result<(), ApiError> {
    diesel::update(jobs::table.find(id)).set(jobs::template.eq(true)).execute(db)?;
    Ok(())
}

/// Refuses what is no template.
///
/// # Errors
/// Where there is no such template.
pub fn template(db: &mut PgConnection, id: Uuid) -> Result<(), ApiError> {
    let found: Option<Uuid> = jobs::table
        .find(id)
        .filter(jobs::template.eq(true))
        .select(jobs::id)
        .first(db)
        .optional()?;
    found.map(drop).ok_or(ApiError::NotFound("template"))
}

/// Deletes a job with everything of it, for good: where `name` is what it is called.
///
/// # Errors
/// Where there is no such job, or it is called otherwise.
pub fn delete(db: &mut PgConnection, id: Uuid, name: &str) -> Result<(), ApiError> {
    db.transaction(|db| {
        let found = jobs::table.find(id).select((jobs::name, jobs::revision)).for_update();
        let (called, revision): (String, i32) =
            found.first(db).optional()?.ok_or(ApiError::NotFound("job"))?;
        if called.trim() != name.trim() {
            return Err(ApiError::invalid(
                "/name",
                "is not what the job is called",
                format!("type its name: {called}"),
            ));
        }
        // What is only ever added to lets go of the rows of this job, in this transaction.
        diesel::sql_query("SELECT set_config('heliant.deleting', $1, true)")
            .bind::<Text, _>(id.to_string())
            .execute(db)?;
        diesel::delete(revision_names::table.filter(revision_names::job_id.eq(id))).execute(db)?;
        diesel::delete(withdrawals::table.filter(withdrawals::job_id.eq(id))).execute(db)?;
        diesel::delete(readings::table.filter(readings::job_id.eq(id))).execute(db)?;
        diesel::delete(job_revisions::table.filter(job_revisions::job_id.eq(id))).execute(db)?;
        diesel::delete(jobs::table.find(id)).execute(db)?;
        notify(db, &news(id, revision, "gone"))
    })
}
