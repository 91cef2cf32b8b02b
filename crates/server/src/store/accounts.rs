//! Accounts: who may do what.

use diesel::prelude::*;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;
use uuid::Uuid;

use crate::problem::ApiError;
use crate::schema::accounts;
use crate::store::sessions;

/// Shortest password of an account made in the application.
pub const MIN_PASSWORD: usize = 10;
/// Longest password, bytes.
pub const MOST_PASSWORD: usize = 1000;
/// Longest name to sign in with, characters.
pub const MOST_NAME: usize = 120;

/// What an account may do.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Role {
    /// From outside the company: reads the jobs given, and nothing else.
    Inspector,
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
            Role::Inspector => "inspector",
            Role::Viewer => "viewer",
            Role::Field => "field",
            Role::Designer => "designer",
            Role::Owner => "owner",
        }
    }

    fn parse(word: &str) -> Result<Role, ApiError> {
        [Role::Inspector, Role::Viewer, Role::Field, Role::Designer, Role::Owner]
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
pub(super) struct AccountRow {
    id: Uuid,
    name: String,
    sign_in: String,
    role: String,
    disabled: bool,
}

impl AccountRow {
    pub(super) fn account(self) -> Result<Account, ApiError> {
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
    /// The hash of the password.
    pub password_hash: String,
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
        accounts::password_hash.eq(&new.password_hash),
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
    let rows = accounts::table
        .filter(accounts::link_until.is_null())
        .order(accounts::name)
        .select(AccountRow::as_select())
        .load(db)?;
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
        let person = accounts::table.find(id).filter(accounts::link_until.is_null());
        let row = diesel::update(person)
            .set((accounts::role.eq(role.word()), accounts::disabled.eq(disabled)))
            .returning(AccountRow::as_returning())
            .get_result(db)
            .optional()?
            .ok_or(ApiError::NotFound("account"))?;
        if disabled {
            sessions::close_all(db, id, None)?;
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

/// The account of a name to sign in with, and the hash of its password.
///
/// # Errors
/// Of the database.
pub fn by_name(db: &mut PgConnection, name: &str) -> Result<Option<(Account, String)>, ApiError> {
    let found: Option<(AccountRow, String)> = accounts::table
        .filter(accounts::sign_in.eq(name).and(accounts::link_until.is_null()))
        .select((AccountRow::as_select(), accounts::password_hash))
        .first(db)
        .optional()?;
    found.map(|(row, hash)| Ok((row.account()?, hash))).transpose()
}

/// An account by its id.
///
/// # Errors
/// Where there is none.
pub fn get(db: &mut PgConnection, id: Uuid) -> Result<Account, ApiError> {
    let person = accounts::table.find(id).filter(accounts::link_until.is_null());
    let row = person.select(AccountRow::as_select()).first(db).optional()?;
    row.ok_or(ApiError::NotFound("account"))?.account()
}
