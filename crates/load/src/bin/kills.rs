//! Saves and reads while server and database are killed under it (`./heliant kills`), and looks
//! afterwards whether everything that was acknowledged is there.
//!
//! `kills work URL FILE STOP` works until the file STOP is there, and writes a line to FILE for
//! each answer it got; `kills check DATABASE FILE` holds them against the database.

use std::collections::HashSet;
use std::fs::OpenOptions;
use std::io::Write;
use std::path::Path;
use std::process::ExitCode;
use std::sync::Mutex;
use std::thread;
use std::time::Duration;

use diesel::sql_types::{BigInt, Text};
use diesel::{Connection, PgConnection, QueryableByName, RunQueryDsl, sql_query};
use serde_json::{Value, json};
use ureq::Agent;

type Result<T> = std::result::Result<T, Box<dyn std::error::Error + Send + Sync>>;

/// People at work at once, each on a job of their own.
const CLIENTS: u32 = 6;

struct Client {
    agent: Agent,
    base: String,
    job: String,
}

impl Client {
    fn call(&self, method: &str, path: &str, body: Option<&Value>) -> Result<Value> {
        let url = format!("{}{path}", self.base);
        let mut answer = match (method, body) {
            ("PUT", Some(body)) => self.agent.put(url).send_json(body)?,
            (_, Some(body)) => self.agent.post(url).send_json(body)?,
            ("POST", None) => self.agent.post(url).send_empty()?,
            _ => self.agent.get(url).call()?,
        };
        Ok(answer.body_mut().read_json()?)
    }

    fn open(url: &str) -> Result<Client> {
        let timeout = Some(Duration::from_secs(5));
        let agent = Agent::config_builder().timeout_global(timeout).build().new_agent();
        let mut client = Client { agent, base: format!("{url}/api"), job: String::new() };
        let who = json!({ "sign_in": "tomas", "password": "sun-on-the-roof" });
        client.call("POST", "/session", Some(&who))?;
        let jobs = client.call("GET", "/jobs?find=Kestrel", None)?;
        let id = jobs["jobs"][0]["id"].as_str().ok_or("no job")?.to_owned();
        let copy = client.call("POST", &format!("/jobs/{id}/duplicate"), None)?;
        client.job = copy["id"].as_str().ok_or("no copy")?.to_owned();
        Ok(client)
    }

    /// One save and one reading; a line for each that was acknowledged.
    fn work(&self, token: &str, volts: f64, said: &Mutex<std::fs::File>) -> Result<()> {
        let at = format!("/jobs/{}", self.job);
        let view = self.call("GET", &at, None)?;
        let mut job = view["job"].clone();
        job["notes"] = json!(token);
        let save = json!({ "base_revision": view["revision"], "job": job,
            "library": view["library"] });
        let saved = self.call("PUT", &at, Some(&save))?;
        note(said, &format!("save {} {} {token}", self.job, saved["revision"]))?;
        let reading =
            json!({ "string": "C", "irradiance_w_m2": 600, "back_c": 39, "voc_v": volts });
        self.call("POST", &format!("{at}/readings"), Some(&reading))?;
        note(said, &format!("read {} {volts}", self.job))
    }
}

fn note(said: &Mutex<std::fs::File>, line: &str) -> Result<()> {
    let mut file = said.lock().map_err(|_| "a client fell over")?;
    writeln!(file, "{line}")?;
    Ok(())
}

fn work(url: &str, file: &str, stop: &str) -> Result<()> {
    let said = Mutex::new(OpenOptions::new().create(true).append(true).open(file)?);
    let clients = (0..CLIENTS).map(|_| Client::open(url)).collect::<Result<Vec<_>>>()?;
    thread::scope(|scope| {
        for (i, client) in clients.iter().enumerate() {
            let said = &said;
            scope.spawn(move || {
                let mut n = 0_u32;
                while !Path::new(stop).exists() {
                    n += 1;
                    // Halves, so that text and number agree to the last digit.
                    let volts = 100.0 + f64::from(n % 1600) * 0.5;
                    // What fails here was never acknowledged: server or database are away.
                    if client.work(&format!("{i}-{n}"), volts, said).is_err() {
                        thread::sleep(Duration::from_millis(50));
                    }
                }
            });
        }
    });
    Ok(())
}

#[derive(QueryableByName)]
struct Row {
    #[diesel(sql_type = Text)]
    line: String,
}

#[derive(QueryableByName)]
struct Count {
    #[diesel(sql_type = BigInt)]
    n: i64,
}

fn check(database: &str, file: &str) -> Result<usize> {
    let mut db = PgConnection::establish(database)?;
    let rows: Vec<Row> = sql_query(
        "SELECT 'save ' || job_id || ' ' || revision || ' ' || (document -> 'job' ->> 'notes') \
             AS line FROM job_revisions WHERE document -> 'job' ->> 'notes' IS NOT NULL \
         UNION ALL SELECT 'read ' || job_id || ' ' || \
             trim_scale((reading -> 'values' ->> 'voc_v')::numeric) FROM readings \
             WHERE reading -> 'values' ->> 'voc_v' IS NOT NULL",
    )
    .load(&mut db)?;
    let there: HashSet<String> = rows.into_iter().map(|r| r.line).collect();
    let text = std::fs::read_to_string(file)?;
    let lost: Vec<&str> = text.lines().filter(|l| !there.contains(*l)).collect();
    let uneven: Count = sql_query(
        "SELECT count(*) AS n FROM jobs j WHERE \
             revision <> (SELECT max(revision) FROM job_revisions r WHERE r.job_id = j.id) \
             OR readings_n <> (SELECT count(*) FROM readings r WHERE r.job_id = j.id)",
    )
    .get_result(&mut db)?;
    if uneven.n > 0 {
        let text = format!("{} jobs do not agree with their revisions or readings", uneven.n);
        return Err(text.into());
    }
    match lost.as_slice() {
        [] => Ok(text.lines().count()),
        [first, ..] => {
            Err(format!("{} acknowledged and lost, the first: {first}", lost.len()).into())
        }
    }
}

fn main() -> ExitCode {
    let x: Vec<String> = std::env::args().skip(1).collect();
    let x: Vec<&str> = x.iter().map(String::as_str).collect();
    let done = match x.as_slice() {
        ["work", url, file, stop] => work(url, file, stop).map(|()| None),
        ["check", database, file] => check(database, file).map(Some),
        _ => Err("kills work URL FILE STOP, or kills check DATABASE FILE".into()),
    };
    match done {
        Ok(None) => ExitCode::SUCCESS,
        Ok(Some(n)) => {
            println!("{n} saves and readings were acknowledged; none is lost");
            ExitCode::SUCCESS
        }
        Err(error) => {
            eprintln!("{error}");
            ExitCode::FAILURE
        }
    }
}
