//! The database: one pool, one transaction per use case. The server keeps nothing of its own.

pub mod accounts;
pub mod jobs;
pub mod library;

use std::time::Duration;

use diesel::PgConnection;
use diesel::r2d2::{ConnectionManager, Pool};
use diesel_migrations::{EmbeddedMigrations, MigrationHarness, embed_migrations};
use heliant_core::job::VERSION;

use crate::problem::ApiError;

/// The version of the format a row is written in.
fn written() -> i32 {
    VERSION as i32
}

/// The version a row was written in; 0, which no reader takes, where it is none.
fn version_of(column: i32) -> u32 {
    u32::try_from(column).unwrap_or(0)
}

const MIGRATIONS: EmbeddedMigrations = embed_migrations!();

/// Brings a database up to the current schema.
///
/// # Errors
/// Where the database does not answer or a migration fails.
pub fn migrate(url: &str) -> Result<(), String> {
    use diesel::Connection;
    let mut connection = PgConnection::establish(url).map_err(|e| e.to_string())?;
    connection.run_pending_migrations(MIGRATIONS).map_err(|e| e.to_string())?;
    Ok(())
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
        let pool = self.pool.clone();
        let result = tokio::task::spawn_blocking(move || {
            let mut connection = pool.get().map_err(|_| ApiError::DatabaseAway)?;
            work(&mut connection)
        });
        result.await.map_err(|e| ApiError::Internal(e.to_string()))?
    }
}
