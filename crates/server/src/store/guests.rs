//! People from outside the company: seats at jobs, and links that end on a date. A link is an
//! account nobody signs in to, with one seat and one session.

use chrono::{DateTime, Utc};
use diesel::prelude::*;
use serde::Serialize;
use utoipa::ToSchema;
use uuid::Uuid;

use super::notify;
use super::sessions::{new_token, token_hash};
use crate::problem::ApiError;
use crate::schema::{accounts, job_revisions, jobs, seats, sessions};

/// Whether an account has a seat at a job.
///
/// # Errors
/// Of the database.
pub fn has_seat(db: &mut PgConnection, account: Uuid, job: Uuid) -> Result<bool, ApiError> {
    let seat = seats::table.find((account, job)).select(seats::job_id);
    Ok(diesel::select(diesel::dsl::exists(seat)).get_result(db)?)
}

/// The revision a seat at a job shows, none for the present one; nothing where there is no seat.
///
/// # Errors
/// Of the database.
pub fn seat_at(
    db: &mut PgConnection,
    account: Uuid,
    job: Uuid,
) -> Result<Option<Option<i32>>, ApiError> {
    Ok(seats::table.find((account, job)).select(seats::revision).first(db).optional()?)
}

/// An inspector, and whether they see the job.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct Seat {
    /// The account.
    pub account: Uuid,
    /// Their name.
    pub name: String,
    /// They see the job.
    pub given: bool,
    /// The revision they see; absent: the present one.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub revision: Option<i32>,
}

/// A link that shows a job until it ends.
#[derive(Clone, Debug, Serialize, ToSchema, Queryable)]
pub struct JobLink {
    /// Its id.
    pub id: Uuid,
    /// Who made it.
    pub made_by: String,
    /// When.
    pub made_at: DateTime<Utc>,
    /// Until when it holds.
    pub until: DateTime<Utc>,
    /// The revision it shows; absent: the present one.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub revision: Option<i32>,
}

/// Who sees a job besides the company.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct Guests {
    /// Every inspector.
    pub seats: Vec<Seat>,
    /// Links that hold.
    pub links: Vec<JobLink>,
}

fn there(db: &mut PgConnection, job: Uuid) -> Result<(), ApiError> {
    let found: Option<Uuid> = jobs::table.find(job).select(jobs::id).first(db).optional()?;
    found.map(drop).ok_or(ApiError::NotFound("job"))
}

/// Who sees a job besides the company.
///
/// # Errors
/// Where there is no such job.
pub fn of(db: &mut PgConnection, job: Uuid) -> Result<Guests, ApiError> {
    there(db, job)?;
    let at_job = seats::table.filter(seats::job_id.eq(job));
    let own = seats::account_id.eq(accounts::id).and(seats::job_id.eq(job));
    let seats: Vec<(Uuid, String, Option<Uuid>, Option<i32>)> = accounts::table
        .left_join(seats::table.on(own))
        .filter(accounts::role.eq("inspector").and(accounts::link_until.is_null()))
        .filter(accounts::disabled.eq(false))
        .order(accounts::name)
        .select((
            accounts::id,
            accounts::name,
            seats::account_id.nullable(),
            seats::revision.nullable(),
        ))
        .load(db)?;
    let seat = |(account, name, given, revision): (Uuid, String, Option<Uuid>, Option<i32>)| Seat {
        account,
        name,
        given: given.is_some(),
        revision,
    };
    let seats = seats.into_iter().map(seat).collect();
    let links = at_job
        .inner_join(accounts::table)
        .filter(accounts::link_until.gt(Utc::now()))
        .order(accounts::link_until)
        .select((
            accounts::id,
            seats::given_by,
            seats::given_at,
            accounts::link_until.assume_not_null(),
            seats::revision,
        ))
        .load(db)?;
    Ok(Guests { seats, links })
}

/// What is given to somebody from outside.
#[derive(Clone, Copy, Debug)]
pub struct Given<'a> {
    /// The job.
    pub job: Uuid,
    /// The revision of it; the present one where absent.
    pub revision: Option<i32>,
    /// Who gives it.
    pub by: &'a str,
}

/// Refuses a revision the job has not.
fn is_there(db: &mut PgConnection, given: Given) -> Result<(), ApiError> {
    there(db, given.job)?;
    let Some(revision) = given.revision else { return Ok(()) };
    let row = job_revisions::table.find((given.job, revision)).select(job_revisions::revision);
    let found: Option<i32> = row.first(db).optional()?;
    found.map(drop).ok_or_else(|| {
        let message = format!("the job has no revision {revision}");
        ApiError::invalid("/revision", message, "one of its own, or none for the present one")
    })
}

/// Gives an inspector a seat at a job, or changes what it shows.
///
/// # Errors
/// Where there is no such job, revision or inspector.
pub fn seat(db: &mut PgConnection, account: Uuid, given: Given) -> Result<(), ApiError> {
    is_there(db, given)?;
    inspector(db, account)?;
    let shows = seats::revision.eq(given.revision);
    diesel::insert_into(seats::table)
        .values((
            seats::account_id.eq(account),
            seats::job_id.eq(given.job),
            seats::given_by.eq(given.by),
            shows,
        ))
        .on_conflict((seats::account_id, seats::job_id))
        .do_update()
        .set((shows, seats::given_by.eq(given.by)))
        .execute(db)?;
    Ok(())
}

/// Takes a seat at a job back.
///
/// # Errors
/// Where there is no such job or inspector.
pub fn unseat(db: &mut PgConnection, job: Uuid, account: Uuid) -> Result<(), ApiError> {
    there(db, job)?;
    inspector(db, account)?;
    diesel::delete(seats::table.find((account, job))).execute(db)?;
    Ok(())
}

fn inspector(db: &mut PgConnection, account: Uuid) -> Result<(), ApiError> {
    let inspector: Option<Uuid> = accounts::table
        .find(account)
        .filter(accounts::role.eq("inspector").and(accounts::link_until.is_null()))
        .select(accounts::id)
        .first(db)
        .optional()?;
    inspector.map(drop).ok_or(ApiError::NotFound("inspector"))
}

/// Makes a link to a job that holds until a time: its id and the token of its session.
///
/// # Errors
/// Where there is no such job or revision.
pub fn make_link(
    db: &mut PgConnection,
    given: Given,
    until: DateTime<Utc>,
) -> Result<(Uuid, String), ApiError> {
    let (id, token, by) = (Uuid::new_v4(), new_token(), given.by);
    db.transaction(|db| {
        is_there(db, given)?;
        diesel::insert_into(accounts::table)
            .values((
                accounts::id.eq(id),
                accounts::name.eq(format!("By a link of {by}")),
                accounts::sign_in.eq(format!("link {id}")),
                accounts::role.eq("inspector"),
                // No password has this hash.
                accounts::password_hash.eq("!"),
                accounts::link_until.eq(until),
            ))
            .execute(db)?;
        let seat = (
            seats::account_id.eq(id),
            seats::job_id.eq(given.job),
            seats::given_by.eq(by),
            seats::revision.eq(given.revision),
        );
        diesel::insert_into(seats::table).values(seat).execute(db)?;
        diesel::insert_into(sessions::table)
            .values((
                sessions::token_hash.eq(token_hash(&token)),
                sessions::account_id.eq(id),
                sessions::expires_at.eq(until),
            ))
            .execute(db)?;
        Ok((id, token))
    })
}

/// Ends a link.
///
/// # Errors
/// Where the job has no such link.
pub fn end_link(db: &mut PgConnection, job: Uuid, link: Uuid) -> Result<(), ApiError> {
    db.transaction(|db| {
        let links = accounts::table.filter(accounts::link_until.is_not_null());
        let done = diesel::delete(seats::table.find((link, job)))
            .filter(seats::account_id.eq_any(links.select(accounts::id)))
            .execute(db)?;
        if done == 0 {
            return Err(ApiError::NotFound("link"));
        }
        let account = accounts::table.find(link);
        diesel::update(account).set(accounts::disabled.eq(true)).execute(db)?;
        diesel::delete(sessions::table.filter(sessions::account_id.eq(link))).execute(db)?;
        notify(db, r#"{"what":"ended"}"#)
    })
}

/// The job a link's token opens and until when; none where it does not hold.
///
/// # Errors
/// Of the database.
pub fn opened(
    db: &mut PgConnection,
    token: &str,
) -> Result<Option<(Uuid, DateTime<Utc>)>, ApiError> {
    Ok(sessions::table
        .inner_join(accounts::table.inner_join(seats::table))
        .filter(sessions::token_hash.eq(token_hash(token)))
        .filter(sessions::expires_at.gt(Utc::now()).and(accounts::disabled.eq(false)))
        .filter(accounts::link_until.is_not_null())
        .select((seats::job_id, sessions::expires_at))
        .first(db)
        .optional()?)
}
