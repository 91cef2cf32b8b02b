//! The launcher's backup and restore: what is written can be taken back, and nothing else is taken.

use std::os::unix::fs::PermissionsExt;
use std::path::{Path, PathBuf};
use std::process::{Command, Output};

use diesel::{Connection, PgConnection, RunQueryDsl, sql_query};
use heliant_server::{demo, store};

fn root() -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).join("../..")
}

/// A folder that the database's user can reach, with a cluster in it while the test runs.
struct Place(PathBuf);

impl Place {
    fn new() -> Place {
        let folder = std::env::temp_dir().join(format!("heliant-restore-{}", std::process::id()));
        std::fs::create_dir_all(&folder).expect("a folder");
        std::fs::set_permissions(&folder, PermissionsExt::from_mode(0o755)).expect("open to all");
        let place = Place(folder);
        let url = place.start();
        store::migrate(&url).expect("the migrations run");
        demo::load(&url).expect("the demo data loads");
        place
    }

    fn shell(&self, what: &str) -> Output {
        let text = format!(
            "set -euo pipefail; PG_INITDB=(--no-sync); PG_FIRST_PORT=54900; \
             source scripts/common.sh; source scripts/postgres.sh; {what}"
        );
        let mut shell = Command::new("bash");
        shell.args(["-c", &text]).current_dir(root()).env("HELIANT_VAR", &self.0);
        shell.output().expect("bash runs")
    }

    /// Starts the cluster; gives the address of its database.
    fn start(&self) -> String {
        let out = self.shell("pg_start \"$VAR/demo\" -c fsync=off; echo \"$DATABASE_URL\"");
        assert!(out.status.success(), "{}", String::from_utf8_lossy(&out.stderr));
        String::from_utf8_lossy(&out.stdout).trim().to_owned()
    }

    fn heliant(&self, what: &str, file: &Path) -> (bool, String) {
        let mut launcher = Command::new(root().join("heliant"));
        launcher.arg(what).arg(file).env("HELIANT_VAR", &self.0).env("PG_FIRST_PORT", "54900");
        let out = launcher.output().expect("the launcher runs");
        (out.status.success(), String::from_utf8_lossy(&out.stderr).into_owned())
    }

    fn jobs(&self) -> i64 {
        #[derive(diesel::QueryableByName)]
        struct Row {
            #[diesel(sql_type = diesel::sql_types::BigInt)]
            n: i64,
        }
        let mut db = PgConnection::establish(&self.start()).expect("it answers");
        let row: Row = sql_query("SELECT count(*) AS n FROM jobs").get_result(&mut db).expect("n");
        row.n
    }

    fn forget_the_jobs(&self) {
        let mut db = PgConnection::establish(&self.start()).expect("it answers");
        sql_query("TRUNCATE jobs CASCADE").execute(&mut db).expect("emptied");
    }
}

impl Drop for Place {
    fn drop(&mut self) {
        self.shell("PG_DIR=\"$VAR/demo\"; PG_OURS=1; pg_stop || true");
        let _ = std::fs::remove_dir_all(&self.0);
    }
}

#[test]
fn what_was_written_is_taken_back_and_nothing_else_is() {
    let place = Place::new();
    let jobs = demo::JOBS.len() as i64;
    let file = place.0.join("kept.backup");
    let (ok, said) = place.heliant("backup", &file);
    assert!(ok, "{said}");
    let mode = file.metadata().expect("there").permissions().mode() & 0o777;
    assert_eq!(mode, 0o600, "it is its owner's");
    place.forget_the_jobs();

    let bytes = std::fs::read(&file).expect("a file");
    let at = |text: &str| {
        let found = bytes.windows(text.len()).position(|w| w == text.as_bytes());
        found.unwrap_or_else(|| panic!("no {text}"))
    };
    let changed = |change: &dyn Fn(&mut Vec<u8>)| {
        let mut other = bytes.clone();
        change(&mut other);
        let path = place.0.join("changed.backup");
        std::fs::write(&path, other).expect("written");
        let (ok, said) = place.heliant("restore", &path);
        assert!(!ok && said.contains("the data is as it was"), "{said}");
        said
    };
    // One bit in the middle of the dump.
    let middle = bytes.len() / 2;
    let said = changed(&|b: &mut Vec<u8>| b[middle] ^= 1);
    assert!(said.contains("checksum"), "{said}");
    let said = changed(&|b: &mut Vec<u8>| b.truncate(middle));
    assert!(said.contains("refused"), "{said}");
    // The digit of the millions, so that the file stays as long as it is.
    let schema = at("schema: ") + "schema: ".len();
    let said = changed(&|b: &mut Vec<u8>| b[schema] = b'9');
    assert!(said.contains("newer version"), "{said}");
    let said = changed(&|b: &mut Vec<u8>| *b = b"-- a dump of something else\n".to_vec());
    assert!(said.contains("no backup of this application"), "{said}");
    assert_eq!(place.jobs(), 0, "nothing was taken from any of them");

    let (ok, said) = place.heliant("restore", &file);
    assert!(ok, "{said}");
    assert_eq!(place.jobs(), jobs);
}
