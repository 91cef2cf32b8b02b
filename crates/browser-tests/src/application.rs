//! The server as a process of its own, with the demo data.

use std::io::{BufRead, BufReader};
use std::path::{Path, PathBuf};
use std::process::{Child, Command, Stdio};

use heliant_testing::TestDatabase;

/// The root of the project.
fn root() -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).join("../..")
}

/// A running server over a database of its own.
pub struct Application {
    /// Its database.
    pub database: TestDatabase,
    /// Where it is.
    pub url: String,
    server: Child,
}

impl Application {
    /// Starts the server with the demo data.
    ///
    /// # Panics
    /// Where it does not start: build the workspace and the front end first (`./heliant test`
    /// does).
    pub fn start() -> Self {
        let database = TestDatabase::new();
        let (server, url) = launch(&database.url());
        Application { database, url, server }
    }

    /// Kills the server without warning.
    pub fn kill(&mut self) {
        let _ = self.server.kill();
        let _ = self.server.wait();
    }

    /// Starts it again where it was.
    ///
    /// # Panics
    /// As [`Application::start`].
    pub fn restart(&mut self) {
        self.kill();
        let port = self.url.rsplit_once(':').map_or("8500", |(_, p)| p).to_owned();
        let (server, url) = launch_at(&self.database.url(), &port);
        assert_eq!(url, self.url, "the server came back at its old address");
        self.server = server;
    }
}

impl Drop for Application {
    fn drop(&mut self) {
        self.kill();
    }
}

/// Every test asks for a range of its own, so that two that start at once do not take the same
/// port.
fn launch(database: &str) -> (Child, String) {
    use std::sync::atomic::{AtomicU16, Ordering};
    static NEXT: AtomicU16 = AtomicU16::new(0);
    // Below the ports the system hands out by itself, so that a server can come back to its own.
    let first =
        20_000 + (std::process::id() % 120) as u16 * 100 + NEXT.fetch_add(3, Ordering::Relaxed);
    launch_at(database, &first.to_string())
}

fn launch_at(database: &str, port: &str) -> (Child, String) {
    let web = root().join("web/dist");
    assert!(
        web.join("index.html").exists(),
        "the front end is not built: ./heliant test builds it"
    );
    let mut program = std::env::current_exe().expect("a test has a path");
    while !program.join("heliant-server").is_file() {
        assert!(program.pop(), "heliant-server is not built: cargo build --workspace");
    }
    let mut server = Command::new(program.join("heliant-server"))
        .args(["serve", "--demo", "--port", port, "--web"])
        .arg(&web)
        .env("DATABASE_URL", database)
        .env("HELIANT_LOG", "heliant_server=warn")
        .stdout(Stdio::piped())
        .spawn()
        .expect("the server starts");
    match address(&mut server) {
        Some(url) => (server, url),
        None => {
            let _ = server.kill();
            let _ = server.wait();
            panic!("the server does not say where it is, or does not answer there");
        }
    }
}

/// Where the server says it is, as soon as it answers there.
fn address(server: &mut Child) -> Option<String> {
    let mut lines = BufReader::new(server.stdout.take()?).lines();
    let url =
        lines.find_map(|line| line.ok()?.strip_prefix("Heliant is at ").map(str::to_owned))?;
    // Its pipe must not fill up.
    std::thread::spawn(move || lines.for_each(drop));
    let answers = || std::net::TcpStream::connect(url.trim_start_matches("http://")).is_ok();
    for _ in 0..200 {
        if answers() {
            return Some(url);
        }
        std::thread::sleep(std::time::Duration::from_millis(50));
    }
    None
}
