//! Packs: asked for, set by one press after another, kept by revision and number of readings.

use chrono::{DateTime, Utc};
use diesel::prelude::*;
use diesel::sql_types::{BigInt, Binary, Integer, Nullable, Text, Timestamptz, Uuid as SqlUuid};
use serde::Serialize;
use utoipa::ToSchema;
use uuid::Uuid;

use super::{news, notify};
use crate::problem::ApiError;
use crate::schema::{jobs, packs};
use crate::store::accounts::Account;

/// Packs that one person may have waiting.
pub const MOST_WAITING: i64 = 20;
/// Packs of one job that stay, the newest.
const KEPT: i64 = 3;
/// A press that has said nothing for this long is gone, s.
const SILENT_S: i32 = 20;

/// Where a pack stands.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum PackStage {
    /// Nobody asked for it.
    None,
    /// It waits.
    Queued,
    /// It is being set.
    Setting,
    /// It can be had.
    Ready,
    /// It could not be set.
    Failed,
}

impl PackStage {
    fn of(word: &str) -> Self {
        match word {
            "queued" => PackStage::Queued,
            "setting" => PackStage::Setting,
            "ready" => PackStage::Ready,
            "failed" => PackStage::Failed,
            _ => PackStage::None,
        }
    }
}

/// A pack of a job as it stands now.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct PackState {
    /// Where it stands.
    pub state: PackStage,
    /// The job's revision.
    pub revision: i32,
    /// Packs before it.
    pub ahead_n: i64,
    /// What is being done: `computing`, `setting` its pages, `writing` the file.
    pub phase: String,
    /// Since when it is being set, s.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub since_s: Option<f64>,
    /// How long the last pack of this job took, s.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub last_s: Option<f64>,
    /// Why it could not be set.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub problem: Option<String>,
    /// Who asked for it.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub asked_by: Option<String>,
}

#[derive(QueryableByName)]
struct StateRow {
    #[diesel(sql_type = Integer)]
    revision: i32,
    #[diesel(sql_type = Nullable<Text>)]
    state: Option<String>,
    #[diesel(sql_type = Nullable<Text>)]
    phase: Option<String>,
    #[diesel(sql_type = Nullable<Text>)]
    asked_by: Option<String>,
    #[diesel(sql_type = Nullable<Timestamptz>)]
    begun_at: Option<DateTime<Utc>>,
    #[diesel(sql_type = Nullable<Text>)]
    problem: Option<String>,
    #[diesel(sql_type = BigInt)]
    ahead_n: i64,
    #[diesel(sql_type = Nullable<Integer>)]
    last_ms: Option<i32>,
}

/// How the pack of a job as it is now stands.
///
/// # Errors
/// Where there is no such job.
pub fn state(db: &mut PgConnection, job: Uuid, edition: &str) -> Result<PackState, ApiError> {
    const STATE: &str = "\
        SELECT j.revision, p.state, p.phase, p.asked_by, p.begun_at, p.problem, \
            (SELECT count(*) FROM packs o WHERE o.state IN ('queued', 'setting') \
                AND o.asked_at < p.asked_at) AS ahead_n, \
            (SELECT l.took_ms FROM packs l WHERE l.job_id = j.id AND l.took_ms IS NOT NULL \
                ORDER BY l.asked_at DESC LIMIT 1) AS last_ms \
        FROM jobs j LEFT JOIN packs p ON p.job_id = j.id AND p.revision = j.revision \
            AND p.readings_n = j.readings_n \
            AND (p.edition = $2 OR p.state IN ('queued', 'setting')) \
        WHERE j.id = $1";
    let row: Option<StateRow> = diesel::sql_query(STATE)
        .bind::<SqlUuid, _>(job)
        .bind::<Text, _>(edition)
        .get_result(db)
        .optional()?;
    let row = row.ok_or(ApiError::NotFound("job"))?;
    let state = row.state.as_deref().map_or(PackStage::None, PackStage::of);
    let since = row.begun_at.filter(|_| state == PackStage::Setting);
    Ok(PackState {
        state,
        revision: row.revision,
        ahead_n: row.ahead_n,
        phase: row.phase.unwrap_or_default(),
        since_s: since.map(|t| (Utc::now() - t).as_seconds_f64().max(0.0)),
        last_s: row.last_ms.map(|ms| f64::from(ms) / 1000.0),
        problem: row.problem,
        asked_by: row.asked_by,
    })
}

/// Asks for the pack of a job as it is now. One that is there, or waits, stays as it is; what waits
/// of the job's earlier revisions does so no more.
///
/// # Errors
/// Where there is no such job, or the person has too many waiting.
pub fn ask(db: &mut PgConnection, job: Uuid, by: &Account, edition: &str) -> Result<(), ApiError> {
    const ASK: &str = "\
        INSERT INTO packs (job_id, revision, readings_n, edition, asked_by, asked_by_id) \
        SELECT id, revision, readings_n, $2, $3, $4 FROM jobs WHERE id = $1 \
        ON CONFLICT (job_id, revision, readings_n) DO UPDATE SET state = 'queued', phase = '', \
            edition = $2, asked_by = $3, asked_by_id = $4, asked_at = clock_timestamp(), \
            begun_at = NULL, alive_at = NULL, problem = NULL, pdf = NULL, took_ms = NULL \
        WHERE packs.state = 'failed' OR packs.state = 'ready' AND packs.edition <> $2";
    const OVERTAKEN: &str = "\
        DELETE FROM packs p USING jobs j WHERE p.job_id = $1 AND j.id = p.job_id \
            AND p.state = 'queued' AND (p.revision, p.readings_n) <> (j.revision, j.readings_n)";
    db.transaction(|db| {
        super::lock(db, 7, &by.id.to_string())?;
        diesel::sql_query(OVERTAKEN).bind::<SqlUuid, _>(job).execute(db)?;
        let waiting: i64 = packs::table
            .filter(packs::asked_by_id.eq(by.id).and(packs::state.eq("queued")))
            .count()
            .get_result(db)?;
        if waiting >= MOST_WAITING {
            return Err(ApiError::TooManyWaiting { most: MOST_WAITING });
        }
        diesel::sql_query(ASK)
            .bind::<SqlUuid, _>(job)
            .bind::<Text, _>(edition)
            .bind::<Text, _>(&by.name)
            .bind::<SqlUuid, _>(by.id)
            .execute(db)?;
        Ok(())
    })
}

/// Takes back a pack that waits or is being set, or that failed. `anyones`: also one that somebody
/// else asked for. Says whether there was one.
///
/// # Errors
/// Of the database.
pub fn cancel(db: &mut PgConnection, job: Uuid, by: Uuid, anyones: bool) -> Result<bool, ApiError> {
    let gone: Vec<i32> = diesel::delete(packs::table)
        .filter(packs::job_id.eq(job).and(packs::state.ne("ready")))
        .filter(packs::asked_by_id.eq(by).or(anyones.into_sql::<diesel::sql_types::Bool>()))
        .returning(packs::revision)
        .get_results(db)?;
    for revision in &gone {
        notify(db, &news(job, *revision, "pack"))?;
    }
    Ok(!gone.is_empty())
}

/// The name of a job, and its pack as it is now where that is ready.
///
/// # Errors
/// Where there is no such job.
pub fn pdf(
    db: &mut PgConnection,
    job: Uuid,
    edition: &str,
) -> Result<(String, Option<Vec<u8>>), ApiError> {
    let now = packs::job_id
        .eq(jobs::id)
        .and(packs::revision.eq(jobs::revision))
        .and(packs::readings_n.eq(jobs::readings_n))
        .and(packs::edition.eq(edition))
        .and(packs::state.eq("ready"));
    jobs::table
        .left_join(packs::table.on(now))
        .filter(jobs::id.eq(job))
        .select((jobs::name, packs::pdf.nullable()))
        .first(db)
        .optional()?
        .ok_or(ApiError::NotFound("job"))
}

/// A pack that a press has taken up.
#[derive(Clone, Debug, QueryableByName)]
pub struct Claim {
    /// The job.
    #[diesel(sql_type = SqlUuid)]
    pub job_id: Uuid,
    /// Its revision.
    #[diesel(sql_type = Integer)]
    pub revision: i32,
    /// How many readings it had when the pack was asked for.
    #[diesel(sql_type = Integer)]
    pub readings_n: i32,
    /// Who asked.
    #[diesel(sql_type = Text)]
    pub asked_by: String,
    /// When.
    #[diesel(sql_type = Timestamptz)]
    pub asked_at: DateTime<Utc>,
}

/// Takes up the pack that has waited longest, or that a press which died left behind. It becomes
/// one of `edition`: the programs that set it, whatever stood there when it was asked for.
///
/// # Errors
/// Of the database.
pub fn claim(db: &mut PgConnection, edition: &str) -> Result<Option<Claim>, ApiError> {
    const CLAIM: &str = "\
        UPDATE packs p SET state = 'setting', phase = 'computing', begun_at = clock_timestamp(), \
            alive_at = clock_timestamp(), edition = $2 \
        FROM (SELECT job_id, revision, readings_n FROM packs WHERE state = 'queued' \
                OR (state = 'setting' \
                    AND alive_at < clock_timestamp() - make_interval(secs => $1)) \
            ORDER BY asked_at LIMIT 1 FOR UPDATE SKIP LOCKED) next \
        WHERE (p.job_id, p.revision, p.readings_n) = \
            (next.job_id, next.revision, next.readings_n) \
        RETURNING p.job_id, p.revision, p.readings_n, p.asked_by, p.asked_at";
    let claim: Option<Claim> = diesel::sql_query(CLAIM)
        .bind::<diesel::sql_types::Double, _>(f64::from(SILENT_S))
        .bind::<Text, _>(edition)
        .get_result(db)
        .optional()?;
    if let Some(claim) = &claim {
        notify(db, &news(claim.job_id, claim.revision, "pack"))?;
    }
    Ok(claim)
}

/// Says how far a pack is; false where nobody wants it any more.
///
/// # Errors
/// Of the database.
pub fn alive(db: &mut PgConnection, claim: &Claim, phase: &str) -> Result<bool, ApiError> {
    const ALIVE: &str = "\
        UPDATE packs p SET alive_at = clock_timestamp(), phase = $4 \
        FROM packs before \
        WHERE p.job_id = $1 AND p.revision = $2 AND p.readings_n = $3 AND p.state = 'setting' \
            AND (before.job_id, before.revision, before.readings_n) = \
                (p.job_id, p.revision, p.readings_n) \
        RETURNING before.phase <> $4 AS moved";
    #[derive(QueryableByName)]
    struct Moved {
        #[diesel(sql_type = diesel::sql_types::Bool)]
        moved: bool,
    }
    let row: Option<Moved> = diesel::sql_query(ALIVE)
        .bind::<SqlUuid, _>(claim.job_id)
        .bind::<Integer, _>(claim.revision)
        .bind::<Integer, _>(claim.readings_n)
        .bind::<Text, _>(phase)
        .get_result(db)
        .optional()?;
    if row.as_ref().is_some_and(|r| r.moved) {
        notify(db, &news(claim.job_id, claim.revision, "pack"))?;
    }
    Ok(row.is_some())
}

/// Keeps what became of a pack, and of the job's packs the newest.
///
/// # Errors
/// Of the database.
pub fn done(
    db: &mut PgConnection,
    claim: &Claim,
    outcome: Result<&[u8], &str>,
    took_ms: i32,
) -> Result<(), ApiError> {
    const DONE: &str = "\
        UPDATE packs SET state = $4, phase = '', pdf = $5, problem = $6, took_ms = $7 \
        WHERE job_id = $1 AND revision = $2 AND readings_n = $3 AND state = 'setting'";
    const OLD: &str = "\
        DELETE FROM packs WHERE job_id = $1 AND state IN ('ready', 'failed') \
            AND (revision, readings_n) NOT IN (SELECT revision, readings_n FROM packs \
                WHERE job_id = $1 ORDER BY revision DESC, readings_n DESC LIMIT $2)";
    db.transaction(|db| {
        diesel::sql_query(DONE)
            .bind::<SqlUuid, _>(claim.job_id)
            .bind::<Integer, _>(claim.revision)
            .bind::<Integer, _>(claim.readings_n)
            .bind::<Text, _>(if outcome.is_ok() { "ready" } else { "failed" })
            .bind::<Nullable<Binary>, _>(outcome.ok())
            .bind::<Nullable<Text>, _>(outcome.err())
            .bind::<Nullable<Integer>, _>(outcome.is_ok().then_some(took_ms))
            .execute(db)?;
        diesel::sql_query(OLD)
            .bind::<SqlUuid, _>(claim.job_id)
            .bind::<BigInt, _>(KEPT)
            .execute(db)?;
        notify(db, &news(claim.job_id, claim.revision, "pack"))
    })
}
