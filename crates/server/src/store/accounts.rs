//! Accounts, sessions and the count of wrong passwords.

use argon2::Argon2;
use argon2::password_hash::rand_core::OsRng;
use argon2::password_hash::{PasswordHash, PasswordHasher, PasswordVerifier, SaltString};
use chrono::{DateTime, Duration, Utc};
use diesel::prelude::*;
use rand::RngCore;
use serde::{Deserialize, Serialize};
use sha2::{Digest, Sha256};
use utoipa::ToSchema;
use uuid::Uuid;

use crate::problem::ApiError;
use crate::schema::{accounts, sessions, sign_in_failures};

/// How long a session lasts.
pub const SESSION_DAYS: i64 = 14;
/// Wrong passwords for one name before it has to wait.
const MAX_FAILURES_PER_NAME: i64 = 5;
/// Wrong passwords from one address before it has to wait.
const MAX_FAILURES_PER_ADDRESS: i64 = 30;
/// How long wrong passwords count.
const FAILURE_MINUTES: i64 = 15;
/// Shortest password of an account made in the application.
pub const MIN_PASSWORD: usize = 10;

/// What an account may do.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Role {
    /// Reads.
    Viewer,
    /// Reads and adds readings.
    Field,
    /// Also edits jobs.
    Designer,
    /// Also manages accounts.
    Owner,
}

impl Role {
    fn word(self) -> &'static str {
        match self {
            Role::Viewer => "viewer",
            Role::Field => "field",
            Role::Designer => "designer",
            Role::Owner => "owner",
        }
    }

    fn parse(word: &str) -> Result<Role, ApiError> {
        [Role::Viewer, Role::Field, Role::Designer, Role::Owner]
            .into_iter()
            .find(|r| r.word() == word)
            .ok_or_else(|| ApiError::Internal(format!("role `{word}` in the database")))
    }
}

/// A person of the company.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct Account {
    /// Id.
    pub id: Uuid,
    /// Name as it stands on records.
    pub name: String,
    /// Name to sign in with.
    pub sign_in: String,
    /// What they may do.
    pub role: Role,
    /// Whether they may sign in no more.
    pub disabled: bool,
}

#[derive(Queryable, Selectable)]
#[diesel(table_name = accounts)]
struct AccountRow {
    id: Uuid,
    name: String,
    sign_in: String,
    role: String,
    disabled: bool,
}

impl AccountRow {
    fn account(self) -> Result<Account, ApiError> {
        Ok(Account {
            id: self.id,
            name: self.name,
            sign_in: self.sign_in,
            role: Role::parse(&self.role)?,
            disabled: self.disabled,
        })
    }
}

/// An account to be made.
#[derive(Clone, Debug)]
pub struct NewAccount {
    /// Name as it stands on records.
    pub name: String,
    /// Name to sign in with.
    pub sign_in: String,
    /// What they may do.
    pub role: Role,
    /// Password, hashed before it is kept.
    pub password: String,
}

fn hash(password: &str) -> Result<String, ApiError> {
    let salt = SaltString::generate(&mut OsRng);
    let hash = Argon2::default()
        .hash_password(password.as_bytes(), &salt)
        .map_err(|e| ApiError::Internal(e.to_string()))?;
    Ok(hash.to_string())
}

/// Makes an account; none where the name to sign in with is taken.
///
/// # Errors
/// Of the database.
pub fn create(db: &mut PgConnection, new: &NewAccount) -> Result<Option<Account>, ApiError> {
    let row = (
        accounts::id.eq(Uuid::new_v4()),
        accounts::name.eq(new.name.trim()),
        accounts::sign_in.eq(new.sign_in.trim().to_lowercase()),
        accounts::role.eq(new.role.word()),
        accounts::password_hash.eq(hash(&new.password)?),
    );
    let made = diesel::insert_into(accounts::table)
        .values(row)
        .on_conflict(accounts::sign_in)
        .do_nothing()
        .returning(AccountRow::as_returning())
        .get_result(db)
        .optional()?;
    made.map(AccountRow::account).transpose()
}

/// All accounts, by name.
///
/// # Errors
/// Of the database.
pub fn list(db: &mut PgConnection) -> Result<Vec<Account>, ApiError> {
    let rows = accounts::table.order(accounts::name).select(AccountRow::as_select()).load(db)?;
    rows.into_iter().map(AccountRow::account).collect()
}

/// Changes role or access of an account; ends its sessions where it may sign in no more. The last
/// owner stays an owner.
///
/// # Errors
/// Where there is no such account, or nobody could manage accounts any more.
pub fn change(
    db: &mut PgConnection,
    id: Uuid,
    role: Role,
    disabled: bool,
) -> Result<Account, ApiError> {
    db.transaction(|db| {
        let owners: Vec<Uuid> = accounts::table
            .filter(accounts::role.eq("owner").and(accounts::disabled.eq(false)))
            .select(accounts::id)
            .for_update()
            .load(db)?;
        if owners == [id] && (disabled || role != Role::Owner) {
            return Err(ApiError::Forbidden { needs: "another owner first: this is the last one" });
        }
        let row = diesel::update(accounts::table.find(id))
            .set((accounts::role.eq(role.word()), accounts::disabled.eq(disabled)))
            .returning(AccountRow::as_returning())
            .get_result(db)
            .optional()?
            .ok_or(ApiError::NotFound("account"))?;
        if disabled {
            diesel::delete(sessions::table.filter(sessions::account_id.eq(id))).execute(db)?;
        }
        row.account()
    })
}

/// Whether there is any account yet.
///
/// # Errors
/// Of the database.
pub fn any(db: &mut PgConnection) -> Result<bool, ApiError> {
    Ok(diesel::select(diesel::dsl::exists(accounts::table.select(accounts::id))).get_result(db)?)
}

fn token_hash(token: &str) -> Vec<u8> {
    Sha256::digest(token.as_bytes()).to_vec()
}

/// A new session: the token for the cookie.
fn open_session(
    db: &mut PgConnection,
    account: Uuid,
    now: DateTime<Utc>,
) -> Result<String, ApiError> {
    let mut bytes = [0_u8; 32];
    rand::rng().fill_bytes(&mut bytes);
    let token: String = bytes.iter().map(|b| format!("{b:02x}")).collect();
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

/// Signs in: the account and the token of its new session.
///
/// # Errors
/// Wrong name or password; too many of them for the name or from the address.
pub fn sign_in(
    db: &mut PgConnection,
    name: &str,
    password: &str,
    address: &str,
) -> Result<(Account, String), ApiError> {
    let name = name.trim().to_lowercase();
    let now = Utc::now();
    let since = now - Duration::minutes(FAILURE_MINUTES);
    diesel::delete(sign_in_failures::table.filter(sign_in_failures::at.lt(since))).execute(db)?;
    let by_name: i64 = sign_in_failures::table
        .filter(sign_in_failures::sign_in.eq(&name))
        .count()
        .get_result(db)?;
    let by_address: i64 = sign_in_failures::table
        .filter(sign_in_failures::address.eq(address))
        .count()
        .get_result(db)?;
    if by_name >= MAX_FAILURES_PER_NAME || by_address >= MAX_FAILURES_PER_ADDRESS {
        return Err(ApiError::TooManyAttempts { wait_s: (FAILURE_MINUTES * 60) as u64 });
    }
    let found: Option<(AccountRow, String)> = accounts::table
        .filter(accounts::sign_in.eq(&name).and(accounts::disabled.eq(false)))
        .select((AccountRow::as_select(), accounts::password_hash))
        .first(db)
        .optional()?;
    // A name that is not there costs as much time as one that is.
    let stored = match &found {
        Some((_, stored)) => stored.clone(),
        None => hash("nobody")?,
    };
    let parsed = PasswordHash::new(&stored).map_err(|e| ApiError::Internal(e.to_string()))?;
    let right = Argon2::default().verify_password(password.as_bytes(), &parsed).is_ok();
    match found {
        Some((row, _)) if right => {
            diesel::delete(sign_in_failures::table.filter(sign_in_failures::sign_in.eq(&name)))
                .execute(db)?;
            let token = open_session(db, row.id, now)?;
            Ok((row.account()?, token))
        }
        _ => {
            diesel::insert_into(sign_in_failures::table)
                .values((
                    sign_in_failures::sign_in.eq(name.chars().take(120).collect::<String>()),
                    sign_in_failures::address.eq(address),
                ))
                .execute(db)?;
            Err(ApiError::WrongPassword)
        }
    }
}

/// The account a session belongs to.
///
/// # Errors
/// Of the database.
pub fn of_session(db: &mut PgConnection, token: &str) -> Result<Option<Account>, ApiError> {
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

/// Ends a session.
///
/// # Errors
/// Of the database.
pub fn sign_out(db: &mut PgConnection, token: &str) -> Result<(), ApiError> {
    diesel::delete(sessions::table.find(token_hash(token))).execute(db)?;
    Ok(())
}
