//! Load on a running server: clients that each edit a job of their own at a steady pace. Says how
//! long a saved edit takes to be answered. Only for an address on this machine.

use std::collections::BTreeMap;
use std::process::ExitCode;
use std::thread;
use std::time::{Duration, Instant};

use clap::Parser;
use diesel::sql_types::Text;
use diesel::{Connection, PgConnection, RunQueryDsl, sql_query};
use serde_json::{Value, json};
use ureq::Agent;

#[derive(Parser, Clone)]
#[command(name = "heliant-load")]
struct Arguments {
    /// Address of the server, on this machine.
    #[arg(long, default_value = "http://127.0.0.1:8400")]
    url: String,
    /// Clients at once.
    #[arg(long, default_value_t = 20)]
    clients: u32,
    /// Saves a second, all clients together.
    #[arg(long, default_value_t = 200.0)]
    rate: f64,
    /// How long, in seconds.
    #[arg(long, default_value_t = 20)]
    seconds: u64,
    /// Name to sign in with.
    #[arg(long, default_value = "tomas")]
    name: String,
    /// Password.
    #[arg(long, default_value = "sun-on-the-roof")]
    password: String,
    /// The server's database: a bare commit of the same document is measured beside the saves.
    #[arg(long)]
    database: Option<String>,
    /// Name of the job to work on copies of.
    #[arg(long, default_value = "Kestrel Lane workshop")]
    job: String,
}

type Result<T> = std::result::Result<T, Box<dyn std::error::Error + Send + Sync>>;

/// A signed-in client with a copy of the job.
struct Client {
    agent: Agent,
    url: String,
    view: Value,
    bare: Option<Bare>,
    /// What the server says of the parts of each save, ms.
    laps: BTreeMap<String, Vec<f64>>,
    answer_bytes: usize,
}

/// Commits of a document with nothing around them.
struct Bare {
    database: PgConnection,
    document: String,
}

impl Bare {
    fn open(url: &str, view: &Value) -> Result<Bare> {
        let mut database = PgConnection::establish(url)?;
        sql_query("CREATE TABLE IF NOT EXISTS bare_commits (document jsonb)")
            .execute(&mut database)?;
        let document = json!({ "job": view["job"], "library": view["library"] }).to_string();
        Ok(Bare { database, document })
    }

    fn commit(&mut self) -> Result<Duration> {
        let start = Instant::now();
        sql_query("INSERT INTO bare_commits VALUES ($1::jsonb)")
            .bind::<Text, _>(&self.document)
            .execute(&mut self.database)?;
        Ok(start.elapsed())
    }
}

impl Client {
    /// Opens a session and makes the copy; with `bare`, measures bare commits beside its saves.
    fn open(x: &Arguments, bare: Option<&str>) -> Result<Client> {
        let agent = Agent::config_builder()
            .timeout_global(Some(Duration::from_secs(10)))
            .build()
            .new_agent();
        let base = format!("{}/api", x.url);
        agent
            .post(format!("{base}/session"))
            .send_json(json!({ "sign_in": x.name, "password": x.password }))?;
        let jobs: Value = agent.get(format!("{base}/jobs")).call()?.body_mut().read_json()?;
        let job = jobs["jobs"]
            .as_array()
            .into_iter()
            .flatten()
            .find(|j| j["name"] == x.job.as_str())
            .ok_or("no such job")?;
        let id = job["id"].as_str().unwrap_or_default();
        let copy: Value = agent
            .post(format!("{base}/jobs/{id}/duplicate"))
            .send_empty()?
            .body_mut()
            .read_json()?;
        let url = format!("{base}/jobs/{}", copy["id"].as_str().unwrap_or_default());
        let view: Value = agent.get(&url).call()?.body_mut().read_json()?;
        let bare = bare.map(|d| Bare::open(d, &view)).transpose()?;
        Ok(Client { agent, url, view, bare, laps: BTreeMap::new(), answer_bytes: 0 })
    }

    /// Saves an edit; gives the time to the last byte of the answer.
    fn save(&mut self, n: u64) -> Result<Duration> {
        let mut job = self.view["job"].clone();
        job["strings"][1]["n"] = json!(6 + n % 5);
        let body = json!({ "base_revision": self.view["revision"], "job": job,
            "library": self.view["library"] })
        .to_string();
        let start = Instant::now();
        let mut answer = self.agent.put(&self.url).content_type("application/json").send(body)?;
        let text = answer.body_mut().read_to_string()?;
        let took = start.elapsed();
        self.answer_bytes = text.len();
        if let Some(laps) = answer.headers().get("server-timing").and_then(|v| v.to_str().ok()) {
            for (name, ms) in laps.split(", ").filter_map(|l| l.split_once(";dur=")) {
                self.laps.entry(name.to_owned()).or_default().push(ms.parse()?);
            }
        }
        let answer: Value = serde_json::from_str(&text)?;
        let revision = answer["revision"].as_u64().ok_or("an answer without a revision")?;
        self.view["revision"] = revision.into();
        Ok(took)
    }
}

/// What one client measured.
#[derive(Default)]
struct Measured {
    times: Vec<Duration>,
    bare: Vec<Duration>,
    laps: BTreeMap<String, Vec<f64>>,
    answer_bytes: usize,
    errors: Vec<String>,
}

fn run(mut client: Client, x: &Arguments, offset: Duration) -> Measured {
    let pace = Duration::from_secs_f64(f64::from(x.clients) / x.rate);
    let mut measured = Measured::default();
    let start = Instant::now() + offset;
    for n in 0.. {
        let due = start + pace * n;
        if due.duration_since(start).as_secs() >= x.seconds {
            break;
        }
        thread::sleep(due.saturating_duration_since(Instant::now()));
        match client.save(u64::from(n)) {
            Ok(took) => measured.times.push(took),
            Err(error) => measured.errors.push(error.to_string()),
        }
        if let Some(bare) = &mut client.bare {
            // Half a beat later: beside the saves, not over them.
            let after = due + pace / 2;
            thread::sleep(after.saturating_duration_since(Instant::now()));
            match bare.commit() {
                Ok(took) => measured.bare.push(took),
                Err(error) => measured.errors.push(error.to_string()),
            }
        }
    }
    measured.laps = client.laps;
    measured.answer_bytes = client.answer_bytes;
    measured
}

fn main() -> ExitCode {
    let x = Arguments::parse();
    let host = x.url.trim_start_matches("http://").split(':').next().unwrap_or_default();
    if !matches!(host, "127.0.0.1" | "localhost") {
        eprintln!("load is measured on this machine only: http://127.0.0.1:PORT");
        return ExitCode::from(2);
    }
    // One client's bare commits are measure enough; everyone's would double the load.
    let clients: Result<Vec<Client>> = (0..x.clients)
        .map(|n| Client::open(&x, x.database.as_deref().filter(|_| n == 0)))
        .collect();
    let clients = match clients {
        Ok(clients) => clients,
        Err(error) => {
            eprintln!("{}: {error}", x.url);
            return ExitCode::FAILURE;
        }
    };
    let start = Instant::now();
    let threads: Vec<_> = clients
        .into_iter()
        .enumerate()
        .map(|(i, client)| {
            let x = x.clone();
            let offset = Duration::from_secs_f64(i as f64 / x.rate);
            thread::spawn(move || run(client, &x, offset))
        })
        .collect();
    let mut all = Measured::default();
    for measured in threads.into_iter().filter_map(|t| t.join().ok()) {
        all.times.extend(measured.times);
        all.errors.extend(measured.errors);
        all.bare.extend(measured.bare);
        all.answer_bytes = measured.answer_bytes;
        for (name, times) in measured.laps {
            all.laps.entry(name).or_default().extend(times);
        }
    }
    report(&x, all, start.elapsed())
}

fn report(x: &Arguments, mut all: Measured, took: Duration) -> ExitCode {
    all.times.sort_unstable();
    if all.times.is_empty() {
        eprintln!("no save went through: {:?}", all.errors.first());
        return ExitCode::FAILURE;
    }
    let at = |share: f64| {
        all.times[((all.times.len() - 1) as f64 * share) as usize].as_secs_f64() * 1000.0
    };
    println!(
        "{} saves by {} clients in {:.1} s: {:.0} a second, {} errors",
        all.times.len(),
        x.clients,
        took.as_secs_f64(),
        all.times.len() as f64 / took.as_secs_f64(),
        all.errors.len()
    );
    println!(
        "median {:.1} ms, 95 % {:.1} ms, 99 % {:.1} ms, slowest {:.1} ms",
        at(0.5),
        at(0.95),
        at(0.99),
        at(1.0)
    );
    println!("an answer has {:.1} KB", all.answer_bytes as f64 / 1000.0);
    for (name, times) in &mut all.laps {
        times.sort_unstable_by(f64::total_cmp);
        println!("  {name}: median {:.2} ms", times[times.len() / 2]);
    }
    if !all.bare.is_empty() {
        all.bare.sort_unstable();
        let bare = all.bare[all.bare.len() / 2].as_secs_f64() * 1000.0;
        println!(
            "a bare commit of the document: median {bare:.2} ms; a save is {:.1} x that",
            at(0.5) / bare
        );
    }
    match all.errors.first() {
        None => ExitCode::SUCCESS,
        Some(first) => {
            eprintln!("first error: {first}");
            ExitCode::FAILURE
        }
    }
}
