//! A database of its own for each test, in the throwaway cluster that `./heliant test` starts.

use std::sync::atomic::{AtomicU32, Ordering};

use diesel::{Connection, PgConnection, RunQueryDsl, sql_query};

/// Names the throwaway cluster's administration address.
pub const CLUSTER: &str = "HELIANT_TEST_DATABASE_URL";

static COUNT: AtomicU32 = AtomicU32::new(0);

/// An empty database, dropped at the end of the test.
pub struct TestDatabase {
    admin: String,
    name: String,
}

impl TestDatabase {
    /// Makes an empty database.
    ///
    /// # Panics
    /// Where the throwaway cluster is not there: run the tests through `./heliant test`.
    pub fn new() -> Self {
        let admin = std::env::var(CLUSTER).unwrap_or_else(|_| {
            panic!("{CLUSTER} is not set: run the tests through ./heliant test")
        });
        let name = format!("test_{}_{}", std::process::id(), COUNT.fetch_add(1, Ordering::Relaxed));
        let mut db = PgConnection::establish(&admin).expect("the throwaway cluster answers");
        sql_query(format!("CREATE DATABASE {name}")).execute(&mut db).expect("a new database");
        TestDatabase { admin, name }
    }

    /// Its address.
    pub fn url(&self) -> String {
        let (server, _) = self.admin.rsplit_once('/').expect("an address ends in a database");
        format!("{server}/{}", self.name)
    }

    /// A connection to it.
    ///
    /// # Panics
    /// Where it does not answer.
    pub fn connect(&self) -> PgConnection {
        PgConnection::establish(&self.url()).expect("the test's database answers")
    }

    /// Shuts the database and ends every connection, as if the database server had gone.
    ///
    /// # Panics
    /// Where the cluster refuses.
    pub fn go_away(&self) {
        self.admin_do(&format!("ALTER DATABASE {} ALLOW_CONNECTIONS false", self.name));
        self.admin_do(&format!(
            "SELECT pg_terminate_backend(pid) FROM pg_stat_activity WHERE datname = '{}'",
            self.name
        ));
    }

    /// Opens it again.
    ///
    /// # Panics
    /// Where the cluster refuses.
    pub fn come_back(&self) {
        self.admin_do(&format!("ALTER DATABASE {} ALLOW_CONNECTIONS true", self.name));
    }

    fn admin_do(&self, statement: &str) {
        let mut db = PgConnection::establish(&self.admin).expect("the throwaway cluster answers");
        sql_query(statement).execute(&mut db).expect("the throwaway cluster obeys");
    }
}

impl Default for TestDatabase {
    fn default() -> Self {
        Self::new()
    }
}

impl Drop for TestDatabase {
    fn drop(&mut self) {
        if let Ok(mut db) = PgConnection::establish(&self.admin) {
            let _ = sql_query(format!("DROP DATABASE IF EXISTS {} WITH (FORCE)", self.name))
                .execute(&mut db);
        }
    }
}
