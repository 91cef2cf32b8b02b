//! What many jobs and many packs cost (`./heliant load --many`): the list of 10,000 jobs, the
//! consequences of a data sheet in them, answers while ten packs are set, memory after fifty.
//!
//! `many URL DATABASE SERVER-PID`

use std::process::ExitCode;
use std::thread;
use std::time::{Duration, Instant};

use diesel::{Connection, PgConnection, RunQueryDsl, sql_query};
use serde_json::{Value, json};
use ureq::Agent;

type Result<T> = std::result::Result<T, Box<dyn std::error::Error + Send + Sync>>;

const JOBS: usize = 10_000;

struct Client {
    agent: Agent,
    base: String,
}

impl Client {
    fn open(url: &str, name: &str) -> Result<Client> {
        let timeout = Some(Duration::from_secs(30));
        let agent = Agent::config_builder().timeout_global(timeout).build().new_agent();
        let client = Client { agent, base: format!("{url}/api") };
        client.post("/session", &json!({ "sign_in": name, "password": "sun-on-the-roof" }))?;
        Ok(client)
    }

    fn get(&self, path: &str) -> Result<Value> {
        let url = format!("{}{path}", self.base);
        Ok(self.agent.get(url).call()?.body_mut().with_config().limit(1 << 28).read_json()?)
    }

    fn post(&self, path: &str, body: &Value) -> Result<Value> {
        let url = format!("{}{path}", self.base);
        Ok(self.agent.post(url).send_json(body)?.body_mut().read_json()?)
    }

    /// The median of some askings, ms.
    fn median(&self, path: &str, times: usize) -> Result<f64> {
        let mut all = Vec::new();
        for _ in 0..times {
            let began = Instant::now();
            self.get(path)?;
            all.push(ms(began));
        }
        Ok(at(&mut all, 0.5))
    }

    fn job(&self, name: &str) -> Result<String> {
        let found = self.get(&format!("/jobs?find={}", name.replace(' ', "+")))?;
        Ok(found["jobs"][0]["id"].as_str().ok_or("no such job")?.to_owned())
    }

    fn ready(&self, id: &str) -> Result<bool> {
        let state = self.get(&format!("/jobs/{id}/pack"))?["state"].clone();
        if state == "failed" {
            return Err("a pack failed".into());
        }
        Ok(state == "ready")
    }
}

fn ms(since: Instant) -> f64 {
    since.elapsed().as_secs_f64() * 1000.0
}

fn at(times: &mut [f64], share: f64) -> f64 {
    times.sort_unstable_by(f64::total_cmp);
    times[((times.len() - 1) as f64 * share) as usize]
}

/// Memory of a process that lies in the machine's, MB.
fn resident_mb(pid: &str) -> Result<f64> {
    let status = std::fs::read_to_string(format!("/proc/{pid}/status"))?;
    let line = status.lines().find_map(|l| l.strip_prefix("VmRSS:")).ok_or("no VmRSS")?;
    Ok(line.trim().trim_end_matches("kB").trim().parse::<f64>()? / 1024.0)
}

/// Copies a job so often, in the database: what a company has after years.
fn fill(db: &mut PgConnection, id: &str, copies: usize) -> Result<()> {
    sql_query(format!(
        "WITH made AS (INSERT INTO jobs (id, name, school, revision, verdict, counts, updated_by, \
            updated_at, sheets) SELECT gen_random_uuid(), name || ' ' || n, school, 1, verdict, \
            counts, updated_by, now() - make_interval(mins => n), sheets \
            FROM jobs, generate_series(1, {copies}) n WHERE id = '{id}' RETURNING id) \
         INSERT INTO job_revisions (job_id, revision, document, saved_by, version) \
         SELECT made.id, 1, document, saved_by, version FROM made, job_revisions r \
         WHERE r.job_id = '{id}' AND r.revision = 1"
    ))
    .execute(db)?;
    sql_query("ANALYZE").execute(db)?;
    Ok(())
}

/// People who ask for packs in turn: each may have three waiting.
const PEOPLE: [&str; 3] = ["mira", "tomas", "ines"];
/// Packs that are asked for at once.
const AT_ONCE: usize = 9;

fn packs(client: &Client, url: &str, pid: &str) -> Result<()> {
    let people = PEOPLE.iter().map(|name| Client::open(url, name)).collect::<Result<Vec<_>>>()?;
    let id = client.job("Kestrel Lane workshop")?;
    let copy = || -> Result<String> {
        let made = client.post(&format!("/jobs/{id}/duplicate"), &json!({}))?;
        Ok(made["id"].as_str().ok_or("no id")?.to_owned())
    };
    let before = resident_mb(pid)?;
    let began = Instant::now();
    let mut times = Vec::new();
    for round in 0..5 {
        let ids = (0..AT_ONCE).map(|_| copy()).collect::<Result<Vec<_>>>()?;
        for (id, person) in ids.iter().zip(people.iter().cycle()) {
            person.post(&format!("/jobs/{id}/pack"), &json!({}))?;
        }
        let mut open: Vec<&String> = ids.iter().collect();
        while let Some(id) = open.last() {
            // As a person at work: a job opened ten times a second.
            let asked = Instant::now();
            client.get(&format!("/jobs/{}", ids[0]))?;
            if round == 0 {
                times.push(ms(asked));
            }
            if client.ready(id)? {
                open.pop();
            }
            thread::sleep(Duration::from_millis(100));
        }
    }
    println!(
        "a job opened while {AT_ONCE} packs are set: median {:.1} ms, 95 % {:.1} ms",
        at(&mut times, 0.5),
        at(&mut times, 0.95)
    );
    println!(
        "{} packs in {:.0} s; memory of the server {before:.0} MB before, {:.0} MB after",
        5 * AT_ONCE,
        began.elapsed().as_secs_f64(),
        resident_mb(pid)?
    );
    Ok(())
}

fn run(url: &str, database: &str, pid: &str) -> Result<()> {
    let client = Client::open(url, "mira")?;
    let mut db = PgConnection::establish(database)?;
    fill(&mut db, &client.job("Quarry Cottage")?, JOBS)?;
    println!("the list of {JOBS} jobs, a page: median {:.1} ms", client.median("/jobs", 20)?);
    println!("found by a word: median {:.1} ms", client.median("/jobs?find=cottage+77", 20)?);
    println!("the data sheets beside them: median {:.1} ms", client.median("/sheets", 20)?);
    let path = "/sheets/inverter/marrow-h6/consequences";
    let began = Instant::now();
    let mut asked = Vec::new();
    loop {
        let one = Instant::now();
        let seen = client.get(path)?;
        asked.push(ms(one));
        if seen["done_n"] == seen["of_n"] {
            println!(
                "what a data sheet does in {} jobs: {:.1} s; each asking 95 % {:.0} ms",
                seen["of_n"],
                began.elapsed().as_secs_f64(),
                at(&mut asked, 0.95)
            );
            break;
        }
        thread::sleep(Duration::from_millis(500));
    }
    packs(&client, url, pid)
}

fn main() -> ExitCode {
    let x: Vec<String> = std::env::args().skip(1).collect();
    let [url, database, pid] = x.as_slice() else {
        eprintln!("many URL DATABASE SERVER-PID");
        return ExitCode::from(2);
    };
    match run(url, database, pid) {
        Ok(()) => ExitCode::SUCCESS,
        Err(error) => {
            eprintln!("{error}");
            ExitCode::FAILURE
        }
    }
}
