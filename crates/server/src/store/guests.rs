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
use crate::schema::{accounts, jobs, seats, sessions};

/// Whether an account has a seat at a job.
///
/// # Errors
/// Of the database.
pub fn has_seat(db: &mut PgConnection, account: Uuid, job: Uuid) -> Result<bool, ApiError> {
    let seat = seats::table.find((account, job)).select(seats::job_id);
    Ok(diesel::select(diesel::dsl::exists(seat)).get_result(db)?)
}

/// An inspector, and whether they see the job.
#[derive(Clone, Debug, Serialize, ToSchema, Queryable)]
pub struct Seat {
    /// The account.
    pub account: Uuid,
    /// Their name.
    pub name: String,
    /// They see the job.
    pub given: bool,
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
    let own = at_job.select(seats::account_id);
    let seats = accounts::table
        .filter(accounts::role.eq("inspector").and(accounts::link_until.is_null()))
        .filter(accounts::disabled.eq(false))
        .order(accounts::name)
        .select((accounts::id, accounts::name, accounts::id.eq_any(own)))
        .load(db)?;
    let links = at_job
        .inner_join(accounts::table)
        .filter(accounts::link_until.gt(Utc::now()))
        .order(accounts::link_until)
        .select((
            accounts::id,
            seats::given_by,
            seats::given_at,
            accounts::link_until.assume_not_null(),
        ))
        .load(db)?;
    Ok(Guests { seats, links })
}

/// Gives an inspector a seat at a job, or takes it back.
///
/// # Errors
/// Where there is no such job or inspector.
pub fn seat(
    db: &mut PgConnection,
    job: Uuid,
    account: Uuid,
    given: bool,
    by: &str,
) -> Result<(), ApiError> {
    there(db, job)?;
    let inspector: Option<Uuid> = accounts::table
        .find(account)
        .filter(accounts::role.eq("inspector").and(accounts::link_until.is_null()))
        .select(accounts::id)
        .first(db)
        .optional()?;
    inspector.ok_or(ApiError::NotFound("inspector"))?;
    if given {
        diesel::insert_into(seats::table)
            .values((seats::account_id.eq(account), seats::job_id.eq(job), seats::given_by.eq(by)))
            .on_conflict_do_nothing()
            .execute(db)?;
    } else {
        diesel::delete(seats::table.find((account, job))).execute(db)?;
    }
    Ok(())
}

/// Makes a link to a job that holds until a time: its id and the token of its session.
///
/// # Errors
/// Where there is no such job.
pub fn make_link(
    db: &mut PgConnection,
    job: Uuid,
    until: DateTime<Utc>,
    by: &str,
) -> Result<(Uuid, String), ApiError> {
    let (id, token) = (Uuid::new_v4(), new_token());
    db.transaction(|db| {
        there(db, job)?;
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
        let seat = (seats::account_id.eq(id), seats::job_id.eq(job), seats::given_by.eq(by));
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
