//! The database: one pool, one transaction per use case. The server keeps nothing of its own.

pub mod accounts;
pub mod attempts;
pub mod consequences;
pub mod guests;
pub mod job_list;
pub mod jobs;
pub mod library;
pub mod packs;
pub mod rates;
pub mod readings;
pub mod revisions;
pub mod sessions;
pub mod shown;

use std::time::Duration;

use diesel::migration::{Migration, MigrationSource};
use diesel::pg::Pg;
use diesel::r2d2::{ConnectionManager, Pool};
use diesel::{PgConnection, RunQueryDsl};
use diesel_migrations::{EmbeddedMigrations, MigrationHarness, embed_migrations};
use heliant_core::job::VERSION;
use serde::Serialize;
use serde_json::{Value as Json, json};
use uuid::Uuid;

use crate::problem::ApiError;

/// The version of the format a row is written in.
fn written() -> i32 {
    VERSION as i32
}

/// The version a row was written in; 0, which no reader takes, where it is none.
fn version_of(column: i32) -> u32 {
    u32::try_from(column).unwrap_or(0)
}

fn as_json(value: &impl Serialize) -> Result<Json, ApiError> {
    serde_json::to_value(value).map_err(|e| ApiError::Internal(e.to_string()))
}

/// What every server is told: `what` is `saved`, `read`, `pack` or `gone`.
fn news(job: Uuid, revision: i32, what: &str) -> String {
    json!({ "job": job, "revision": revision, "what": what }).to_string()
}

fn notify(db: &mut PgConnection, payload: &str) -> Result<(), ApiError> {
    diesel::sql_query("SELECT pg_notify('heliant', $1)")
        .bind::<diesel::sql_types::Text, _>(payload)
        .execute(db)?;
    Ok(())
}

const MIGRATIONS: EmbeddedMigrations = embed_migrations!();

/// Brings a database up to the current schema. Of several servers that start at once, one does it
/// and the others wait.
///
/// # Errors
/// Where the database does not answer, a migration fails, or a newer program has been there.
pub fn migrate(url: &str) -> Result<(), String> {
    use diesel::Connection;
    let mut connection = PgConnection::establish(url).map_err(|e| e.to_string())?;
    // Held until the connection ends: migrations are transactions of their own.
    diesel::sql_query(format!("SELECT pg_advisory_lock({START})"))
        .execute(&mut connection)
        .map_err(|e| e.to_string())?;
    let applied = connection.applied_migrations().map_err(|e| e.to_string())?;
    let known = MigrationSource::<Pg>::migrations(&MIGRATIONS).map_err(|e| e.to_string())?;
    let known: Vec<String> = known.iter().map(|m| m.name().version().to_string()).collect();
    let newer: Vec<String> =
        applied.iter().map(ToString::to_string).filter(|v| !known.contains(v)).collect();
    if !newer.is_empty() {
        return Err(format!(
            "the database is of a newer version of the program (it has {}, this one knows up to \
             {}): nothing was changed. Start the newer program, or restore the backup from before \
             the upgrade; docs/operation.md says how.",
            newer.join(", "),
            known.last().map_or("nothing", String::as_str),
        ));
    }
    connection.run_pending_migrations(MIGRATIONS).map_err(|e| e.to_string())?;
    Ok(())
}

/// Lets the role of another address read and write rows of every table, and nothing else: it owns
/// none, so it changes no table, empties none and takes no trigger away. `owner` is the address of
/// the role that migrates; where both are one role there is nothing to do.
///
/// # Errors
/// Where a database does not answer or the owner may not grant.
pub fn let_in(owner: &str, application: &str) -> Result<(), String> {
    use diesel::Connection;
    #[derive(diesel::QueryableByName)]
    struct Who {
        #[diesel(sql_type = diesel::sql_types::Text)]
        role: String,
    }
    let who = |url: &str| -> Result<(PgConnection, String), String> {
        let mut db = PgConnection::establish(url).map_err(|e| e.to_string())?;
        // Quoted by the database: a name is put into a statement below.
        let found = diesel::sql_query("SELECT quote_ident(current_user) AS role");
        let who: Who = found.get_result(&mut db).map_err(|e| e.to_string())?;
        Ok((db, who.role))
    };
    let ((mut db, owner), (_, role)) = (who(owner)?, who(application)?);
    if owner == role {
        return Ok(());
    }
    for statement in [
        format!("GRANT SELECT, INSERT, UPDATE, DELETE ON ALL TABLES IN SCHEMA public TO {role}"),
        format!("GRANT USAGE ON ALL SEQUENCES IN SCHEMA public TO {role}"),
        format!("REVOKE INSERT, UPDATE, DELETE ON __diesel_schema_migrations FROM {role}"),
    ] {
        diesel::sql_query(statement).execute(&mut db).map_err(|e| e.to_string())?;
    }
    Ok(())
}

/// What a server that starts locks.
const START: i64 = 0x4865_6c69;

/// Waits, in a transaction, until no other server is starting.
///
/// # Errors
/// Of the database.
pub(crate) fn lock_for_start(db: &mut PgConnection) -> Result<(), ApiError> {
    diesel::sql_query(format!("SELECT pg_advisory_xact_lock({START})")).execute(db)?;
    Ok(())
}

/// Waits, in a transaction, until nobody else holds a key of a class: who asks at once is counted
/// one after the other.
fn lock(db: &mut PgConnection, class: i64, key: &str) -> Result<(), ApiError> {
    diesel::sql_query("SELECT pg_advisory_xact_lock(hashtextextended($1, $2))")
        .bind::<diesel::sql_types::Text, _>(key)
        .bind::<diesel::sql_types::BigInt, _>(class)
        .execute(db)?;
    Ok(())
}

/// Holds a key of a class to the end of the transaction, unless somebody else does: false then.
fn try_lock(db: &mut PgConnection, class: i64, key: &str) -> Result<bool, ApiError> {
    use diesel::sql_types::{BigInt, Bool, Text};
    #[derive(diesel::QueryableByName)]
    struct Got {
        #[diesel(sql_type = Bool)]
        got: bool,
    }
    let asked = "SELECT pg_try_advisory_xact_lock(hashtextextended($1, $2)) AS got";
    let got: Got =
        diesel::sql_query(asked).bind::<Text, _>(key).bind::<BigInt, _>(class).get_result(db)?;
    Ok(got.got)
}

/// The pattern of what holds a word, as `ILIKE` takes it.
fn holding(word: &str) -> String {
    let plain = word.replace('\\', "\\\\").replace('%', "\\%").replace('_', "\\_");
    format!("%{plain}%")
}

/// The pool of connections.
#[derive(Clone)]
pub struct Store {
    pool: Pool<ConnectionManager<PgConnection>>,
}

impl Store {
    /// A store over the database at `url`; connects when it is first used.
    pub fn new(url: &str, size: u32) -> Self {
        let pool = Pool::builder()
            .max_size(size)
            .min_idle(Some(1))
            .connection_timeout(Duration::from_secs(3))
            // A connection that died while it lay idle is not handed out: Diesel does not tell on
            // return that it is dead.
            .test_on_check_out(true)
            .build_unchecked(ConnectionManager::new(url));
        Store { pool }
    }

    /// Runs a use case on a connection, off the async threads.
    ///
    /// # Errors
    /// That of the use case, or that the database does not answer.
    pub async fn run<T: Send + 'static>(
        &self,
        work: impl FnOnce(&mut PgConnection) -> Result<T, ApiError> + Send + 'static,
    ) -> Result<T, ApiError> {
        let store = self.clone();
        let result = tokio::task::spawn_blocking(move || store.here(work));
        result.await.map_err(|e| ApiError::Internal(e.to_string()))?
    }

    /// Runs a use case on this thread, which must not be an async one.
    ///
    /// # Errors
    /// That of the use case, or that the database does not answer.
    pub fn here<T>(
        &self,
        work: impl FnOnce(&mut PgConnection) -> Result<T, ApiError>,
    ) -> Result<T, ApiError> {
        work(&mut *self.pool.get().map_err(|_| ApiError::DatabaseAway)?)
    }
}
