//! Tries to sign in. A wrong one makes the next wait, longer each time: from one address for one
//! name, so that nobody can keep somebody else out. A device that somebody signed in on before has
//! a count of its own.

use chrono::{DateTime, Duration, Utc};
use diesel::pg::Pg;
use diesel::prelude::*;
use diesel::sql_types::Bool;

use crate::problem::ApiError;
use crate::schema::sign_in_failures as table;

/// Wrong passwords that are free.
const FREE: i64 = 5;
/// How long the first wait is; each further one is twice as long.
const FIRST_WAIT_S: i64 = 30;
/// Longest wait.
const LONGEST_WAIT_S: i64 = 15 * 60;
/// How long wrong passwords count for one name from one address, or on one device.
const COUNT_MINUTES: i64 = 60;
/// Wrong passwords from one address, for whatever names, in `WINDOW_MINUTES`.
const MOST_PER_ADDRESS: i64 = 30;
/// Wrong passwords for one name, from whatever unknown devices, in `WINDOW_MINUTES`.
const MOST_PER_NAME: i64 = 100;
/// The window of these two.
const WINDOW_MINUTES: i64 = 15;

/// A try to sign in.
#[derive(Clone, Debug)]
pub struct Attempt {
    /// The name, in lower case.
    pub name: String,
    /// The address it comes from.
    pub address: String,
    /// The hash of the token of the known device it comes from.
    pub device: Option<Vec<u8>>,
}

type Condition = Box<dyn BoxableExpression<table::table, Pg, SqlType = Bool>>;

impl Attempt {
    /// Those that are counted together with this one.
    fn alike(&self) -> Condition {
        match &self.device {
            Some(device) => Box::new(table::device.eq(device.clone()).assume_not_null()),
            None => Box::new(
                table::sign_in
                    .eq(self.name.clone())
                    .and(table::address.eq(self.address.clone()))
                    .and(table::device.is_null()),
            ),
        }
    }
}

/// Begins a try: it counts as wrong until `right` takes it back, so that asking at once does not
/// get past the count.
///
/// # Errors
/// Where it has to wait.
pub fn begin(db: &mut PgConnection, attempt: &Attempt) -> Result<i64, ApiError> {
    let now = Utc::now();
    db.transaction(|db| {
        for (class, key) in [(1, &attempt.name), (2, &attempt.address)] {
            super::lock(db, class, key)?;
        }
        let old = now - Duration::minutes(COUNT_MINUTES);
        diesel::delete(table::table.filter(table::at.lt(old))).execute(db)?;
        let wait_s = wait_s(db, attempt, now)?;
        if wait_s > 0 {
            return Err(ApiError::TooManyAttempts { wait_s: wait_s.unsigned_abs() });
        }
        let id = diesel::insert_into(table::table)
            .values((
                table::sign_in.eq(&attempt.name),
                table::address.eq(&attempt.address),
                table::device.eq(&attempt.device),
                table::at.eq(now),
            ))
            .returning(table::id)
            .get_result(db)?;
        Ok(id)
    })
}

/// How long a try has to wait, s.
fn wait_s(db: &mut PgConnection, attempt: &Attempt, now: DateTime<Utc>) -> Result<i64, ApiError> {
    let (n, last): (i64, Option<DateTime<Utc>>) = table::table
        .filter(attempt.alike())
        .select((diesel::dsl::count_star(), diesel::dsl::max(table::at)))
        .first(db)?;
    let mut until = match last {
        Some(last) if n >= FREE => {
            let doubled = FIRST_WAIT_S.saturating_mul(1 << (n - FREE).min(10));
            last + Duration::seconds(doubled.min(LONGEST_WAIT_S))
        }
        _ => now,
    };
    if attempt.device.is_none() {
        let window = Duration::minutes(WINDOW_MINUTES);
        let name: Condition = Box::new(table::sign_in.eq(attempt.name.clone()));
        let address: Condition = Box::new(table::address.eq(attempt.address.clone()));
        for (whose, most) in [(name, MOST_PER_NAME), (address, MOST_PER_ADDRESS)] {
            // The one that has to leave the window before the next may come.
            let oldest: Option<DateTime<Utc>> = table::table
                .filter(whose)
                .filter(table::device.is_null().and(table::at.gt(now - window)))
                .order(table::at.desc())
                .offset(most - 1)
                .select(table::at)
                .first(db)
                .optional()?;
            until = oldest.map_or(until, |t| until.max(t + window));
        }
    }
    Ok((until - now).num_milliseconds().max(0).div_euclid(1000) + i64::from(until > now))
}

/// Takes a try back that was never looked at.
///
/// # Errors
/// Of the database.
pub fn withdraw(db: &mut PgConnection, id: i64) -> Result<(), ApiError> {
    diesel::delete(table::table.find(id)).execute(db)?;
    Ok(())
}

/// The password was right: what was wrong before is forgotten, there.
///
/// # Errors
/// Of the database.
pub fn right(db: &mut PgConnection, attempt: &Attempt, id: i64) -> Result<(), ApiError> {
    diesel::delete(table::table.filter(attempt.alike())).execute(db)?;
    withdraw(db, id)
}

/// Forgets every wrong password for a name.
///
/// # Errors
/// Of the database.
pub fn unlock(db: &mut PgConnection, name: &str) -> Result<(), ApiError> {
    diesel::delete(table::table.filter(table::sign_in.eq(name))).execute(db)?;
    Ok(())
}

/// Wrong passwords of the last hour, by name.
///
/// # Errors
/// Of the database.
pub fn wrong(db: &mut PgConnection) -> Result<Vec<(String, i64)>, ApiError> {
    let since = Utc::now() - Duration::minutes(COUNT_MINUTES);
    Ok(table::table
        .filter(table::at.gt(since))
        .group_by(table::sign_in)
        .select((table::sign_in, diesel::dsl::count_star()))
        .load(db)?)
}
