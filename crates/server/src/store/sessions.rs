//! Sessions, devices that are known, and links that set a password once. Of each only the hash of
//! its token is kept.

use chrono::{DateTime, Duration, Utc};
use diesel::prelude::*;
use rand::RngCore;
use sha2::{Digest, Sha256};
use uuid::Uuid;

use super::accounts::{Account, AccountRow};
use super::notify;
use crate::problem::ApiError;
use crate::schema::{accounts, devices, password_links, sessions};

/// How long a session lasts.
pub const SESSION_DAYS: i64 = 14;
/// How long a device is known after it was last signed in on.
pub const DEVICE_DAYS: i64 = 180;
/// How long a link that sets a password holds.
const LINK_HOURS: i64 = 24;

/// What is kept of a token.
pub fn token_hash(token: &str) -> Vec<u8> {
    Sha256::digest(token.as_bytes()).to_vec()
}

/// 256 random bits in hex.
pub(super) fn new_token() -> String {
    let mut bytes = [0_u8; 32];
    rand::rng().fill_bytes(&mut bytes);
    bytes.iter().map(|b| format!("{b:02x}")).collect()
}

/// Opens a session: the token for its cookie.
///
/// # Errors
/// Of the database.
pub fn open(db: &mut PgConnection, account: Uuid) -> Result<String, ApiError> {
    let (now, token) = (Utc::now(), new_token());
    diesel::delete(sessions::table.filter(sessions::expires_at.lt(now))).execute(db)?;
    diesel::insert_into(sessions::table)
        .values((
            sessions::token_hash.eq(token_hash(&token)),
            sessions::account_id.eq(account),
            sessions::expires_at.eq(now + Duration::days(SESSION_DAYS)),
        ))
        .execute(db)?;
    Ok(token)
}

/// The account a session belongs to.
///
/// # Errors
/// Of the database.
pub fn account(db: &mut PgConnection, token: &str) -> Result<Option<Account>, ApiError> {
    let row = sessions::table
        .inner_join(accounts::table)
        .filter(sessions::token_hash.eq(token_hash(token)))
        .filter(sessions::expires_at.gt(Utc::now()))
        .filter(accounts::disabled.eq(false))
        .select(AccountRow::as_select())
        .first(db)
        .optional()?;
    row.map(AccountRow::account).transpose()
}

/// Until when a session holds; none where it does no more.
///
/// # Errors
/// Of the database.
pub fn until(db: &mut PgConnection, token: &str) -> Result<Option<DateTime<Utc>>, ApiError> {
    let row = sessions::table
        .inner_join(accounts::table)
        .filter(sessions::token_hash.eq(token_hash(token)))
        .filter(sessions::expires_at.gt(Utc::now()))
        .filter(accounts::disabled.eq(false))
        .select(sessions::expires_at);
    Ok(row.first(db).optional()?)
}

/// Says that sessions have ended: live updates end with them.
fn ended(db: &mut PgConnection) -> Result<(), ApiError> {
    notify(db, r#"{"what":"ended"}"#)
}

/// Ends a session. That of a link stays: others may have the link too.
///
/// # Errors
/// Of the database.
pub fn close(db: &mut PgConnection, token: &str) -> Result<(), ApiError> {
    let people = accounts::table.filter(accounts::link_until.is_null()).select(accounts::id);
    diesel::delete(sessions::table.find(token_hash(token)))
        .filter(sessions::account_id.eq_any(people))
        .execute(db)?;
    ended(db)
}

/// Ends every session of an account but one, and forgets its devices where none is left out.
///
/// # Errors
/// Of the database.
pub fn close_all(db: &mut PgConnection, account: Uuid, but: Option<&str>) -> Result<(), ApiError> {
    let but_hash = but.map(token_hash).unwrap_or_default();
    diesel::delete(sessions::table)
        .filter(sessions::account_id.eq(account).and(sessions::token_hash.ne(but_hash)))
        .execute(db)?;
    if but.is_none() {
        diesel::delete(devices::table.filter(devices::account_id.eq(account))).execute(db)?;
    }
    ended(db)
}

/// The hash of a token that is known for a name: of a session, or of a device it was signed in on.
///
/// # Errors
/// Of the database.
pub fn known(
    db: &mut PgConnection,
    name: &str,
    session: Option<&str>,
    device: Option<&str>,
) -> Result<Option<Vec<u8>>, ApiError> {
    if let Some(token) = device {
        let since = Utc::now() - Duration::days(DEVICE_DAYS);
        let found = devices::table
            .inner_join(accounts::table)
            .filter(devices::token_hash.eq(token_hash(token)).and(devices::seen_at.gt(since)))
            .filter(accounts::sign_in.eq(name))
            .select(devices::token_hash)
            .first(db)
            .optional()?;
        if found.is_some() {
            return Ok(found);
        }
    }
    let Some(token) = session else { return Ok(None) };
    let own = account(db, token)?.is_some_and(|a| a.sign_in == name);
    Ok(own.then(|| token_hash(token)))
}

/// Knows a device from now on: the token for its cookie; the one it has stays good.
///
/// # Errors
/// Of the database.
pub fn know(
    db: &mut PgConnection,
    account: Uuid,
    device: Option<&str>,
) -> Result<String, ApiError> {
    let now = Utc::now();
    let old = now - Duration::days(DEVICE_DAYS);
    diesel::delete(devices::table.filter(devices::seen_at.lt(old))).execute(db)?;
    if let Some(token) = device {
        let own = devices::table.find(token_hash(token)).filter(devices::account_id.eq(account));
        if diesel::update(own).set(devices::seen_at.eq(now)).execute(db)? > 0 {
            return Ok(token.to_owned());
        }
    }
    let token = new_token();
    diesel::insert_into(devices::table)
        .values((
            devices::token_hash.eq(token_hash(&token)),
            devices::account_id.eq(account),
            devices::seen_at.eq(now),
        ))
        .execute(db)?;
    Ok(token)
}

/// Makes the link that sets an account's password once; an earlier one holds no more. Gives its
/// token and how long it holds.
///
/// # Errors
/// Where there is no such account.
pub fn make_link(
    db: &mut PgConnection,
    account: Uuid,
    by: &str,
) -> Result<(String, DateTime<Utc>), ApiError> {
    super::accounts::get(db, account)?;
    let (token, until) = (new_token(), Utc::now() + Duration::hours(LINK_HOURS));
    let row = (
        password_links::token_hash.eq(token_hash(&token)),
        password_links::account_id.eq(account),
        password_links::made_by.eq(by),
        password_links::expires_at.eq(until),
    );
    db.transaction(|db| {
        let earlier = password_links::table.filter(password_links::account_id.eq(account));
        diesel::delete(earlier).execute(db)?;
        diesel::insert_into(password_links::table).values(row).execute(db)
    })?;
    Ok((token, until))
}

/// Whether a link holds.
///
/// # Errors
/// Of the database.
pub fn link_holds(db: &mut PgConnection, token: &str) -> Result<bool, ApiError> {
    let found: i64 = password_links::table
        .filter(password_links::token_hash.eq(token_hash(token)))
        .filter(password_links::expires_at.gt(Utc::now()))
        .count()
        .get_result(db)?;
    Ok(found > 0)
}

/// Uses a link: sets the password, ends every session, and the link. False where it does not hold.
///
/// # Errors
/// Of the database.
pub fn use_link(db: &mut PgConnection, token: &str, password_hash: &str) -> Result<bool, ApiError> {
    db.transaction(|db| {
        let used: Option<Uuid> = diesel::delete(password_links::table)
            .filter(password_links::token_hash.eq(token_hash(token)))
            .filter(password_links::expires_at.gt(Utc::now()))
            .returning(password_links::account_id)
            .get_result(db)
            .optional()?;
        let Some(account) = used else { return Ok(false) };
        set_password(db, account, password_hash)?;
        close_all(db, account, None)?;
        Ok(true)
    })
}

/// Sets a password.
fn set_password(db: &mut PgConnection, account: Uuid, hash: &str) -> Result<(), ApiError> {
    diesel::update(accounts::table.find(account))
        .set(accounts::password_hash.eq(hash))
        .execute(db)?;
    Ok(())
}

/// Changes the password by oneself: all other sessions end.
///
/// # Errors
/// Of the database.
pub fn change_password(
    db: &mut PgConnection,
    account: Uuid,
    password_hash: &str,
    session: &str,
) -> Result<(), ApiError> {
    db.transaction(|db| {
        set_password(db, account, password_hash)?;
        close_all(db, account, Some(session))
    })
}
