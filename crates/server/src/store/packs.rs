//! Packs: asked for, set by one press after another, kept by revision and number of readings.
//! Whoever asks takes turns: next is the pack of whoever's turn was longest ago.

use chrono::{DateTime, Utc};
use diesel::prelude::*;
use diesel::sql_types::{
    BigInt, Binary, Bool, Integer, Nullable, Text, Timestamptz, Uuid as SqlUuid,
};
use serde::Serialize;
use utoipa::ToSchema;
use uuid::Uuid;

use super::{news, notify};
use crate::problem::ApiError;
use crate::schema::{jobs, pack_appendices, packs};
use crate::store::accounts::Account;

/// Packs that one person may have waiting.
pub const MOST_WAITING: i64 = 3;
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
    /// Documents beside it that hold its appendix, where it is a large one.
    pub appendices_n: i64,
    /// The owner put it before all others.
    pub first: bool,
    /// The job's revision.
    pub revision: i32,
    /// Packs before it.
    pub ahead_n: i64,
    /// What is being done: `computing`, `setting` its pages, `writing` the file; of several
    /// documents with the number of this one and of all: `setting 2 5`.
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
    #[diesel(sql_type = BigInt)]
    appendices_n: i64,
    #[diesel(sql_type = Bool)]
    first: bool,
    #[diesel(sql_type = Nullable<Integer>)]
    last_ms: Option<i32>,
}

/// A pack is of a job: as it is now, or as it stood at the revision given.
#[derive(Clone, Copy, Debug)]
pub struct Of {
    /// The job.
    pub job: Uuid,
    /// The revision; the present one where absent.
    pub revision: Option<i32>,
}

/// The order in which packs are taken up: what the owner put first, then by whose turn was longest
/// ago, then by who asked first.
const TURNS: &str = "\
    turns AS (SELECT q.job_id, q.revision, q.readings_n, row_number() OVER (ORDER BY \
            q.state = 'setting' DESC, q.put_first NULLS LAST, \
            (SELECT max(b.begun_at) FROM packs b WHERE b.asked_by_id = q.asked_by_id) \
                NULLS FIRST, q.asked_at) AS turn \
        FROM packs q WHERE q.state = 'queued' OR q.state = 'setting')";

/// How a pack stands.
///
/// # Errors
/// Where there is no such job.
pub fn state(db: &mut PgConnection, of: Of, edition: &str) -> Result<PackState, ApiError> {
    let query = format!(
        "WITH {TURNS} \
        SELECT r.revision, p.state, p.phase, p.asked_by, p.begun_at, p.problem, \
            (SELECT count(*) FROM pack_appendices a WHERE a.job_id = p.job_id \
                AND a.revision = p.revision AND a.readings_n = p.readings_n) AS appendices_n, \
            p.put_first IS NOT NULL AS first, \
            coalesce((SELECT t.turn - 1 FROM turns t WHERE t.job_id = p.job_id \
                AND t.revision = p.revision AND t.readings_n = p.readings_n), 0) AS ahead_n, \
            (SELECT l.took_ms FROM packs l WHERE l.job_id = j.id AND l.took_ms IS NOT NULL \
                ORDER BY l.asked_at DESC LIMIT 1) AS last_ms \
        FROM jobs j CROSS JOIN LATERAL (SELECT coalesce($3, j.revision) AS revision) r \
            LEFT JOIN packs p ON p.job_id = j.id AND p.revision = r.revision \
            AND p.readings_n = j.readings_n \
            AND (p.edition = $2 OR p.state IN ('queued', 'setting')) \
        WHERE j.id = $1"
    );
    let row: Option<StateRow> = diesel::sql_query(query)
        .bind::<SqlUuid, _>(of.job)
        .bind::<Text, _>(edition)
        .bind::<Nullable<Integer>, _>(of.revision)
        .get_result(db)
        .optional()?;
    let row = row.ok_or(ApiError::NotFound("job"))?;
    let state = row.state.as_deref().map_or(PackStage::None, PackStage::of);
    let since = row.begun_at.filter(|_| state == PackStage::Setting);
    Ok(PackState {
        state,
        appendices_n: row.appendices_n,
        first: row.first,
        revision: row.revision,
        ahead_n: row.ahead_n,
        phase: row.phase.unwrap_or_default(),
        since_s: since.map(|t| (Utc::now() - t).as_seconds_f64().max(0.0)),
        last_s: row.last_ms.map(|ms| f64::from(ms) / 1000.0),
        problem: row.problem,
        asked_by: row.asked_by,
    })
}

/// Asks for a pack. One that is there, or waits, stays as it is; what waits of the job's earlier
/// revisions does so no more, unless it is one that somebody from outside was given.
///
/// # Errors
/// Where there is no such job, or the person has too many waiting.
pub fn ask(db: &mut PgConnection, of: Of, by: &Account, edition: &str) -> Result<(), ApiError> {
    const ASK: &str = "\
        INSERT INTO packs (job_id, revision, readings_n, edition, asked_by, asked_by_id) \
        SELECT id, coalesce($5, revision), readings_n, $2, $3, $4 FROM jobs WHERE id = $1 \
        ON CONFLICT (job_id, revision, readings_n) DO UPDATE SET state = 'queued', phase = '', \
            edition = $2, asked_by = $3, asked_by_id = $4, asked_at = clock_timestamp(), \
            begun_at = NULL, alive_at = NULL, problem = NULL, pdf = NULL, took_ms = NULL, \
            put_first = NULL \
        WHERE packs.state = 'failed' OR packs.state = 'ready' AND packs.edition <> $2";
    const OVERTAKEN: &str = "\
        DELETE FROM packs p USING jobs j WHERE p.job_id = $1 AND j.id = p.job_id \
            AND p.state = 'queued' AND (p.revision, p.readings_n) <> (j.revision, j.readings_n) \
            AND (p.readings_n <> j.readings_n OR NOT EXISTS (SELECT FROM seats s \
                WHERE s.job_id = p.job_id AND s.revision = p.revision))";
    const AS_IT_WAS: &str = "\
        DELETE FROM pack_appendices a USING packs p WHERE a.job_id = $1 AND p.job_id = a.job_id \
            AND (p.revision, p.readings_n) = (a.revision, a.readings_n) \
            AND p.state <> 'ready'";
    db.transaction(|db| {
        super::lock(db, 7, &by.id.to_string())?;
        diesel::sql_query(OVERTAKEN).bind::<SqlUuid, _>(of.job).execute(db)?;
        let waiting: i64 = packs::table
            .filter(packs::asked_by_id.eq(by.id).and(packs::state.eq("queued")))
            .count()
            .get_result(db)?;
        if waiting >= MOST_WAITING {
            return Err(ApiError::TooManyWaiting { most: MOST_WAITING });
        }
        diesel::sql_query(ASK)
            .bind::<SqlUuid, _>(of.job)
            .bind::<Text, _>(edition)
            .bind::<Text, _>(&by.name)
            .bind::<SqlUuid, _>(by.id)
            .bind::<Nullable<Integer>, _>(of.revision)
            .execute(db)?;
        diesel::sql_query(AS_IT_WAS).bind::<SqlUuid, _>(of.job).execute(db)?;
        Ok(())
    })
}

/// Puts what waits of a job before all other packs. Says whether there was something.
///
/// # Errors
/// Of the database.
pub fn put_first(db: &mut PgConnection, job: Uuid) -> Result<bool, ApiError> {
    let waiting = packs::table.filter(packs::job_id.eq(job).and(packs::state.eq("queued")));
    let moved: Vec<i32> = diesel::update(waiting)
        .set(packs::put_first.eq(Utc::now()))
        .returning(packs::revision)
        .get_results(db)?;
    for revision in &moved {
        notify(db, &news(job, *revision, "pack"))?;
    }
    Ok(!moved.is_empty())
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

/// The name of a job, and a document of its pack where that is ready: the papers, or an appendix
/// from 1 on.
///
/// # Errors
/// Where there is no such job, or no such appendix.
pub fn pdf(
    db: &mut PgConnection,
    of: Of,
    appendix: Option<i32>,
    edition: &str,
) -> Result<(String, Option<Vec<u8>>), ApiError> {
    let row = jobs::table.find(of.job).select((jobs::name, jobs::revision, jobs::readings_n));
    let found: Option<(String, i32, i32)> = row.first(db).optional()?;
    let (name, newest, readings_n) = found.ok_or(ApiError::NotFound("job"))?;
    let revision = of.revision.unwrap_or(newest);
    let pack = packs::table
        .find((of.job, revision, readings_n))
        .filter(packs::edition.eq(edition).and(packs::state.eq("ready")))
        .select(packs::pdf);
    let papers: Option<Option<Vec<u8>>> = pack.first(db).optional()?;
    let Some(n) = appendix.filter(|_| papers.is_some()) else {
        return Ok((name, papers.flatten()));
    };
    let own = pack_appendices::table.find((of.job, revision, readings_n, n));
    let pdf: Option<Vec<u8>> = own.select(pack_appendices::pdf).first(db).optional()?;
    Ok((name, Some(pdf.ok_or(ApiError::NotFound("appendix"))?)))
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

/// Takes up the pack whose turn it is, or that a press which died left behind. It becomes
/// one of `edition`: the programs that set it, whatever stood there when it was asked for.
///
/// # Errors
/// Of the database.
pub fn claim(db: &mut PgConnection, edition: &str) -> Result<Option<Claim>, ApiError> {
    let query = format!(
        "WITH {TURNS} \
        UPDATE packs p SET state = 'setting', phase = 'computing', begun_at = clock_timestamp(), \
            alive_at = clock_timestamp(), edition = $2 \
        FROM (SELECT w.job_id, w.revision, w.readings_n FROM packs w \
                JOIN turns t USING (job_id, revision, readings_n) WHERE w.state = 'queued' \
                OR (w.state = 'setting' \
                    AND w.alive_at < clock_timestamp() - make_interval(secs => $1)) \
            ORDER BY t.turn LIMIT 1 FOR UPDATE OF w SKIP LOCKED) next \
        WHERE (p.job_id, p.revision, p.readings_n) = \
            (next.job_id, next.revision, next.readings_n) \
        RETURNING p.job_id, p.revision, p.readings_n, p.asked_by, p.asked_at"
    );
    let claim: Option<Claim> = diesel::sql_query(query)
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
    outcome: Result<&[Vec<u8>], &str>,
    took_ms: i32,
) -> Result<(), ApiError> {
    const DONE: &str = "\
        UPDATE packs SET state = $4, phase = '', pdf = $5, problem = $6, took_ms = $7 \
        WHERE job_id = $1 AND revision = $2 AND readings_n = $3 AND state = 'setting'";
    const OLD: &str = "\
        DELETE FROM packs WHERE job_id = $1 AND state IN ('ready', 'failed') \
            AND (revision, readings_n) NOT IN (SELECT revision, readings_n FROM packs \
                WHERE job_id = $1 ORDER BY revision DESC, readings_n DESC LIMIT $2)";
    let (papers, appendices) = match outcome {
        Ok([papers, appendices @ ..]) => (Some(papers.as_slice()), appendices),
        _ => (None, &[][..]),
    };
    db.transaction(|db| {
        let kept = diesel::sql_query(DONE)
            .bind::<SqlUuid, _>(claim.job_id)
            .bind::<Integer, _>(claim.revision)
            .bind::<Integer, _>(claim.readings_n)
            .bind::<Text, _>(if outcome.is_ok() { "ready" } else { "failed" })
            .bind::<Nullable<Binary>, _>(papers)
            .bind::<Nullable<Text>, _>(outcome.err())
            .bind::<Nullable<Integer>, _>(outcome.is_ok().then_some(took_ms))
            .execute(db)?;
        for (n, pdf) in (1..).zip(appendices.iter().take_while(|_| kept > 0)) {
            diesel::insert_into(pack_appendices::table)
                .values((
                    pack_appendices::job_id.eq(claim.job_id),
                    pack_appendices::revision.eq(claim.revision),
                    pack_appendices::readings_n.eq(claim.readings_n),
                    pack_appendices::n.eq(n),
                    pack_appendices::pdf.eq(pdf),
                ))
                .execute(db)?;
        }
        diesel::sql_query(OLD)
            .bind::<SqlUuid, _>(claim.job_id)
            .bind::<BigInt, _>(KEPT)
            .execute(db)?;
        notify(db, &news(claim.job_id, claim.revision, "pack"))
    })
}
